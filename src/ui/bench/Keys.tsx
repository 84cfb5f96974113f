/** Keyboard of the bench, and the sheet that lists it. */
import { useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useBench, useView } from "./model/context";
import type { ViewState } from "./model/view";

const LIST: [string, string][] = [
  ["C", "clear air, and back"],
  ["N", "clean the picture, or show it as rendered; Q held: as rendered for as long"],
  ["K", "keep a proof"],
  ["F", "flip between front and back proof"],
  ["W", "wipe between front and back proof"],
  ["L", "live picture to the front"],
  ["S", "drag the sun in the picture"],
  ["V", "move the camera in the picture: drag, Shift, Alt, wheel, arrows, Page Up and Down; Home levels, Enter frames what is chosen"],
  ["B", "shine from here to there: click an opening, then where the light of the chosen lamp, or of the sun, should land"],
  ["A", "section below the picture, on and off"],
  ["X", "3D view of the set below the picture; Shift X for the plan"],
  ["G", "handles in the 3D view rotate, or move"],
  ["T", "light table, on and off"],
  ["M", "measure between two points of the picture"],
  ["D", "pin points of the picture, to solve density from their transmittance"],
  ["E", "meter a point of the picture"],
  ["in the picture", "Tab to focus: arrows move the point (Shift coarse, Alt fine), Enter uses it for the active tool"],
  ["Z", "the picture alone, and back; Esc too"],
  ["H", "outlines and handles over the picture, on and off"],
  ["R", "draw a render region; again to cancel"],
  ["P", "pause and resume rendering"],
  ["[  ]", "a third of a stop brighter, darker"],
  ["1 2 3 4", "open Set, Lights, Air, Finish"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["?", "this list of keys"],
  ["in a number", "↑ ↓ step, Shift ×10, Alt ×0.1, wheel; type 0.2*2 or 3 ft; Enter accepts, Esc cancels; double click resets"],
];

/** A choice that has the focus takes arrows and the space bar; letters are still keys of the bench. */
const onChoices = { enableOnFormTags: ["radio"] } as const;
function useKey(keys: string, act: (event: KeyboardEvent, key: { keys?: readonly string[] }) => void): void {
  useHotkeys(keys, act, onChoices);
}

export function Keys() {
  const { store, view, session, proofs } = useBench();
  const open = useView((s) => s.keys);
  const dialog = useRef<HTMLDialogElement>(null);
  const expose = (by: number): void =>
    store
      .getState()
      .set((d) => ({ ...d, film: { ...d.film, exposure: Math.max(-20, Math.min(30, Number((d.film.exposure + by).toFixed(6)))) } }));
  const tool = (name: ViewState["tool"]): void => view.setState({ tool: view.getState().tool === name ? "none" : name });

  useKey("c", () => view.setState({ clear: !view.getState().clear }));
  useKey("n", () => view.setState({ clean: !view.getState().clean }));
  useHotkeys("q", (e) => view.setState({ raw: e.type === "keydown" }), { ...onChoices, keydown: true, keyup: true });
  useKey("k", () => void proofs.keep());
  useKey("f", () => view.flip());
  useKey("w", () => view.getState().back !== null && view.setState({ wipe: !view.getState().wipe }));
  useKey("l", () => view.show("live"));
  useKey("s", () => store.getState().document.camera.kind === "perspective" && tool("sun"));
  useKey("b", () => tool("shine"));
  useKey("v", () => tool("lens"));
  useKey("r", () => tool("region"));
  useKey("t", () => view.toggleBelow("lights"));
  useKey("a", () => view.toggleBelow("section"));
  const space = (wanted: "around" | "plan"): void => {
    const { below, spaceView } = view.getState();
    if (below !== "space" || spaceView === wanted) view.toggleBelow("space");
    view.setState({ spaceView: wanted, through: "free" });
  };
  useKey("x", () => space("around"));
  useKey("shift+x", () => space("plan"));
  useKey("g", () => view.setState({ turn: !view.getState().turn }));
  useKey("m", () => tool("measure"));
  useKey("d", () => {
    tool("pin");
    view.setState({ open: "air" });
  });
  useKey("e", () => tool("expose"));
  useKey("p", () => (session.state.getState().phase === "paused" ? session.resume() : session.pause()));
  // one step back at a time: out of the list of keys, out of the tool, back from the picture alone
  useKey("escape", () => {
    const { tool, keys } = view.getState();
    view.setState(keys ? { keys: false } : tool !== "none" ? { tool: "none" } : { alone: false });
  });
  useKey("z", () => view.setState({ alone: !view.getState().alone }));
  useKey("h", () => view.setState({ helpers: !view.getState().helpers }));
  useKey("bracketleft", () => expose(-1 / 3));
  useKey("bracketright", () => expose(1 / 3));
  useKey("1,2,3,4", (_, k) => view.setState({ open: ["set", "lights", "air", "finish"][Number(k.keys?.[0] ?? 1) - 1]! }));
  useHotkeys("mod+z", (e) => (e.preventDefault(), store.undo()), { enableOnFormTags: true });
  useHotkeys("mod+shift+z,mod+y", (e) => (e.preventDefault(), store.redo()), { enableOnFormTags: true });
  // by the character it makes: on many keyboards ? lies elsewhere
  useHotkeys("?", () => view.setState({ keys: true }), { ...onChoices, useKey: true });

  useEffect(() => {
    if (open) dialog.current?.showModal();
    else dialog.current?.close();
  }, [open]);
  return (
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
  );
}
