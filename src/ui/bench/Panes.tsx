/** The parts of the bench as stops: links to them at the top of the page, and one key that goes on from part to part. */
import { useHotkeys } from "react-hotkeys-hook";

/** In the order of the key; an element of the id takes the focus. */
const PANES = [
  ["sheet", "To the sheet"],
  ["picture", "To the picture"],
  ["drawing", "To the drawing"],
  ["proofs", "To the proofs"],
] as const;

const present = (): HTMLElement[] => PANES.flatMap(([id]) => document.getElementById(id) ?? []);

/** Gives the focus to the part after the one that has it, or before. */
function step(by: number): void {
  const panes = present();
  const at = panes.findIndex((p) => p.contains(document.activeElement));
  const next = at < 0 ? (by > 0 ? 0 : panes.length - 1) : (at + by + panes.length) % panes.length;
  panes[next]?.focus();
}

export function Panes() {
  useHotkeys("f6,shift+f6", (e) => (e.preventDefault(), step(e.shiftKey ? -1 : 1)), { enableOnFormTags: true });
  return (
    <div className="absolute z-20">
      {PANES.map(([id, words]) => (
        <a
          key={id}
          href={`#${id}`}
          className="sr-only bg-base-100 p-2 text-sm focus:not-sr-only focus:absolute focus:whitespace-nowrap"
          onClick={(e) => {
            e.preventDefault();
            document.getElementById(id)?.focus();
          }}
        >
          {words}
        </a>
      ))}
    </div>
  );
}
