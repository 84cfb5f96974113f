/** One field that finds every control, command, light, medium and object by name, and goes there or does it. */
import { useEffect, useId, useMemo, useRef, useState } from "react";
import { useBench, useDocument, useView } from "./model/context";
import { find, type FoundLine } from "./model/finder";
import { goTo } from "./model/goto";
import { reveal } from "./sheet/reveal";

export function Finder() {
  const open = useView((s) => s.finding);
  return open ? <Field /> : null;
}

function Field() {
  const bench = useBench();
  const { view } = bench;
  const doc = useDocument();
  const id = useId();
  const dialog = useRef<HTMLDialogElement>(null);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const lines = useMemo(() => find(text, doc), [text, doc]);
  const current = Math.min(at, lines.length - 1);
  useEffect(() => dialog.current?.showModal(), []);
  const close = (): void => view.setState({ finding: false });
  const take = (line: FoundLine | undefined): void => {
    if (!line) return;
    // the dialog gives the focus back as it closes: only then can it go where it is wanted
    dialog.current?.close();
    const sought = goTo(bench, line.found);
    // once more after the parts that were folded have been drawn
    if (sought) requestAnimationFrame(() => requestAnimationFrame(() => reveal(sought)));
  };
  return (
    <dialog
      ref={dialog}
      aria-label="Find"
      className="mx-auto mt-[12vh] w-[34rem] max-w-[calc(100vw-2rem)] border hair bg-base-100 p-0 text-base-content backdrop:bg-black/30"
      onClose={close}
      onClick={(e) => e.target === dialog.current && dialog.current.close()}
    >
      <div className="p-2">
        <input
          autoFocus
          role="combobox"
          aria-label="Find a control, a command, a light, a medium or an object"
          aria-expanded={lines.length > 0}
          aria-controls={`${id}-lines`}
          aria-activedescendant={lines.length > 0 ? `${id}-${current}` : undefined}
          aria-autocomplete="list"
          placeholder="Find: a control, a command, a light, a medium, an object"
          className="w-full border-b hair bg-transparent px-1 py-1.5 outline-none"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
            if (by && lines.length > 0) setAt((current + by + lines.length) % lines.length);
            else if (e.key === "Enter") take(lines[current]);
            else return;
            e.preventDefault();
          }}
        />
        <ul id={`${id}-lines`} role="listbox" aria-label="Found" className="pt-1 text-sm">
          {lines.map((line, i) => (
            <li
              key={i}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === current}
              className={`flex cursor-pointer items-baseline gap-3 px-1 py-1 ${i === current ? "bg-base-300/70" : ""}`}
              title={line.name}
              onPointerMove={() => setAt(i)}
              onClick={() => take(line)}
            >
              <span className="min-w-0 grow truncate">{line.name}</span>
              <span className="figures shrink-0 text-xs quiet">{line.where}</span>
            </li>
          ))}
        </ul>
        {text.trim() !== "" && lines.length === 0 && (
          <p role="status" className="px-1 py-1 text-sm quiet">
            Nothing here goes by that name.
          </p>
        )}
      </div>
    </dialog>
  );
}
