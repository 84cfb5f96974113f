/** A group of fields of the stack's sheet that folds. */
import { useId, useState, type ReactNode } from "react";

export function Fold(p: { title: string; says?: string; open?: boolean; children: ReactNode }) {
  const [open, setOpen] = useState(p.open ?? false);
  const id = useId();
  return (
    <section className="border-b hair">
      <h2>
        <button
          className="flex w-full items-baseline justify-between gap-3 px-3 py-2 text-left hover:bg-base-300/40"
          aria-expanded={open}
          aria-controls={id}
          onClick={() => setOpen(!open)}
        >
          <span className="font-semibold">{p.title}</span>
          <span className="figures truncate text-xs quiet">{p.says}</span>
        </button>
      </h2>
      {open && (
        <div id={id} className="space-y-1 px-3 pb-3">
          {p.children}
        </div>
      )}
    </section>
  );
}
