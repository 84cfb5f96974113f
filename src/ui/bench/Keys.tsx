/** Keyboard of the bench, and the sheet that lists it. */
import { useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { COMMANDS, type Command } from "./model/commands";
import { useBench, useView } from "./model/context";

/** Keys that are no command of their own, by the line that they stand before. */
const MORE: readonly (readonly [key: string, words: string])[] = [
  ["Q, held", "the picture as rendered, for as long"],
  ["in the picture", "Tab to focus: arrows move the point (Shift coarse, Alt fine), Enter uses it for the active tool"],
  ["F6", "from the sheet to the picture, the drawing and the proofs; Shift F6 back"],
  ["Esc", "one step back: out of the tool in hand, out of the picture alone"],
  ["in a number", "↑ ↓ step, Shift ×10, Alt ×0.1, wheel; type 0.2*2 or 3 ft; Enter accepts, Esc cancels; double click resets"],
];
const LIST = [...COMMANDS.map((c) => [c.shown, c.words] as const), ...MORE];

/** Inputs that letters are not typed into. */
const NOT_TYPED: readonly string[] = ["checkbox", "range", "color", "radio", "button", "file"];
const isTyped = (target: EventTarget | null): boolean =>
  target instanceof HTMLInputElement ? !NOT_TYPED.includes(target.type) : target instanceof HTMLTextAreaElement;

/** A choice, a switch or a slider that has the focus takes arrows and the space bar; letters are still keys of the bench. */
const onChoices = {
  enableOnFormTags: true,
  ignoreEventWhen: ({ target }: KeyboardEvent) => isTyped(target) || target instanceof HTMLSelectElement,
};

/** A list keeps its letters, which choose from it; what no list begins with is a key of the bench there too. */
const onLists = { enableOnFormTags: true, ignoreEventWhen: ({ target }: KeyboardEvent) => isTyped(target) };

/** Listens for the key of one command. */
function Key({ command: { key, run } }: { command: Command }) {
  const bench = useBench();
  useHotkeys(
    key!,
    (e) => {
      // what opens a field must not be typed into it
      e.preventDefault();
      run(bench);
    },
    onChoices,
  );
  return null;
}

export function Keys() {
  const { store, view } = useBench();
  const open = useView((s) => s.keys);
  const dialog = useRef<HTMLDialogElement>(null);
  useHotkeys("q", (e) => view.setState({ raw: e.type === "keydown" }), { ...onChoices, keydown: true, keyup: true });
  // one step back at a time: out of the list of keys, out of the tool, back from the picture alone
  useHotkeys(
    "escape",
    () => {
      const { tool, keys, differences } = view.getState();
      view.setState(keys ? { keys: false } : tool !== "none" ? { tool: "none" } : differences ? { differences: false } : { alone: false });
    },
    onChoices,
  );
  useHotkeys("mod+z", (e) => (e.preventDefault(), store.undo()), { enableOnFormTags: true });
  useHotkeys("mod+shift+z,mod+y", (e) => (e.preventDefault(), store.redo()), { enableOnFormTags: true });
  // by the characters that they make: on many keyboards they lie elsewhere
  useHotkeys("?", () => view.setState({ keys: true }), { ...onLists, useKey: true });
  useHotkeys("/", (e) => (e.preventDefault(), view.setState({ finding: true })), { ...onLists, useKey: true });

  useEffect(() => {
    if (open) dialog.current?.showModal();
    else dialog.current?.close();
  }, [open]);
  return (
    <>
      {COMMANDS.map((c) => c.key !== null && <Key key={c.key} command={c} />)}
      <dialog ref={dialog} className="modal" aria-label="Keys" onClose={() => view.setState({ keys: false })}>
        <div className="modal-box max-w-lg bg-base-100">
          <h2 className="mb-3 text-lg font-semibold">Keys</h2>
          <dl className="grid grid-cols-[7rem_1fr] gap-y-1.5 text-sm">
            {LIST.map(([key, words]) => (
              <div key={key} className="contents">
                <dt className="figures text-primary">{key}</dt>
                <dd>{words}</dd>
              </div>
            ))}
          </dl>
          <form method="dialog" className="mt-4 text-right">
            <button className="btn btn-sm">Close</button>
          </form>
        </div>
        <form method="dialog" className="modal-backdrop">
          <button>close</button>
        </form>
      </dialog>
    </>
  );
}
