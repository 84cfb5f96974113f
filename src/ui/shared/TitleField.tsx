/** The title of what is under work, in the line above it. */
import { useState } from "react";

export function TitleField({ label, title, onTitle }: { label: string; title: string; onTitle(title: string): void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      aria-label={label}
      className="w-80 bg-transparent px-1 text-sm font-semibold outline-none focus:bg-base-200"
      maxLength={200}
      value={text ?? title}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(null);
      }}
      onBlur={() => {
        const next = text?.trim();
        setText(null);
        if (next && next !== title) onTitle(next);
      }}
    />
  );
}
