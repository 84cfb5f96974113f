/** What went wrong with a page's request, and the way to try again. */
export function Problem({ words, again }: { words: string; again(): void }) {
  return (
    <div role="alert" className="mt-4 flex items-baseline gap-3 border-l-2 border-error pl-3 text-sm">
      <span>{words}</span>
      <button className="link" onClick={again}>
        Try again
      </button>
    </div>
  );
}
