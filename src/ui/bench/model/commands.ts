/** What a key of the bench does: its key, its words, and what it does. The keyboard, the list of keys and the finder read this table. */
import { PASS_NAMES } from "#core/film/passes";
import type { Bench } from "./context";
import type { ViewState } from "./view";
import { ZOOM_STEP } from "./zoom";

export interface Command {
  /** As the keyboard library reads it; null where only the finder has it. */
  key: string | null;
  /** As it is shown. */
  shown: string;
  words: string;
  /** Other words that it is found by. */
  also: string;
  run(bench: Bench): void;
}

const tool =
  (name: ViewState["tool"]) =>
  ({ view }: Bench): void =>
    view.setState({ tool: view.getState().tool === name ? "none" : name });

const expose =
  (by: number) =>
  ({ store }: Bench): void =>
    store
      .getState()
      .set((d) => ({ ...d, film: { ...d.film, exposure: Math.max(-20, Math.min(30, Number((d.film.exposure + by).toFixed(6)))) } }));

const space =
  (wanted: "around" | "plan") =>
  ({ view }: Bench): void => {
    const { below, spaceView } = view.getState();
    if (below !== "space" || spaceView === wanted) view.toggleBelow("space");
    view.setState({ spaceView: wanted, through: "free" });
  };

const pass =
  (by: 1 | -1) =>
  ({ view }: Bench): void => {
    const at = PASS_NAMES.indexOf(view.getState().pass);
    view.setState({ pass: PASS_NAMES[(at + by + PASS_NAMES.length) % PASS_NAMES.length]!, clear: false });
  };

const part =
  (open: string) =>
  ({ view }: Bench): void =>
    view.setState({ open });

const command = (key: string | null, shown: string, words: string, also: string, run: Command["run"]): Command => ({
  key,
  shown,
  words,
  also,
  run,
});

export const COMMANDS: readonly Command[] = [
  command(null, "/", "find a control, a command, a light, a medium or an object by its name", "search, go to", ({ view }) =>
    view.setState({ finding: true }),
  ),
  command("c", "C", "clear air, and back", "without fog, compare, before and after", ({ view }) =>
    view.setState({ clear: !view.getState().clear }),
  ),
  command("n", "N", "clean the picture, or show it as rendered", "denoise, noise, raw", ({ view }) =>
    view.setState({ clean: !view.getState().clean }),
  ),
  command("k", "K", "keep a proof", "snapshot, save the picture, compare, version", ({ proofs }) => void proofs.keep()),
  command("f", "F", "flip between front and back proof", "compare, A and B", ({ view }) => view.flip()),
  command(
    "w",
    "W",
    "wipe between front and back proof",
    "compare, split",
    ({ view }) => view.getState().back !== null && view.setState({ wipe: !view.getState().wipe }),
  ),
  command(
    "i",
    "I",
    "what front and back proof differ in, in words, and what of it to take over",
    "changes, compare settings, diff",
    ({ view }) => view.getState().back !== null && view.setState({ differences: !view.getState().differences }),
  ),
  command("j", "J", "difference between front and back proof, pixel by pixel", "compare, subtract, diff", ({ view }) => {
    const { back, difference } = view.getState();
    if (back !== null) view.setState({ difference: difference ? null : { kind: "stops", scale: 1 } });
  }),
  command(
    "y",
    "Y",
    "front and back beside each other; again: up to four pictures; again: one",
    "side by side, grid, split, compare",
    ({ view }) => view.standBeside(),
  ),
  command("equal", "+", "zoom in, about the place that is looked at", "magnify, enlarge, wheel", ({ view }) =>
    view.zoomBy(ZOOM_STEP, view.getState().at),
  ),
  command("minus", "−", "zoom out", "smaller, wheel", ({ view }) => view.zoomBy(1 / ZOOM_STEP, view.getState().at)),
  command("0", "0", "fit the whole picture", "zoom, reset, home", ({ view }) => view.zoomOut()),
  command(
    "9",
    "9",
    "1:1, rendered at what is seen: a pixel of the finished frame on each of the screen; again: fit",
    "zoom, 100 %, actual pixels",
    ({ view, store }) => view.zoomToPixels(store.getState().document.film.size),
  ),
  command("shift+u", "Shift U", "loupe: the pixels under the pointer enlarged", "magnifier, zoom, pixels", ({ view }) =>
    view.setState({ loupe: !view.getState().loupe }),
  ),
  command(
    "shift+w",
    "Shift W",
    "wedge: small pictures of one or two settings over a range",
    "sweep, ring around, variations, compare values, bracket",
    ({ view }) => view.toggleBelow("wedges"),
  ),
  command(
    "shift+p",
    "Shift P",
    "passes below the picture, the air of each light too",
    "AOV, layers, light groups, strip, channels",
    ({ view }) => view.toggleBelow("passes"),
  ),
  command(
    "shift+r",
    "Shift R",
    "order a final: size, frames, files",
    "render, export, batch, sequence, queue, print, animation",
    ({ view }) => view.toggleBelow("final"),
  ),
  command(
    "shift+b",
    "Shift B",
    "budget of the final: price, time, advice, levels",
    "cost, render time, forecast, optimise, faster, save time, deadline",
    ({ view }) => view.toggleBelow("budget"),
  ),
  command("comma", ",", "the pass before", "AOV, layer, previous pass", pass(-1)),
  command("period", ".", "the next pass", "AOV, layer, depth, air alone", pass(1)),
  command("backspace", "⌫", "back to the beauty", "AOV, layer, pass", ({ view }) => view.setState({ pass: "beauty", light: null })),
  command("l", "L", "live picture to the front", "rendering", ({ view }) => view.show("live")),
  command("s", "S", "drag the sun in the picture", "move the sun, sun direction", (bench) => {
    if (bench.store.getState().document.camera.kind === "perspective") tool("sun")(bench);
  }),
  command(
    "v",
    "V",
    "move the camera in the picture: drag, Shift, Alt, wheel, arrows, Page Up and Down; Home levels, Enter frames what is chosen",
    "orbit, pan, dolly, walk, navigate",
    tool("lens"),
  ),
  command(
    "b",
    "B",
    "shine from here to there: click an opening, then where the light of the chosen lamp, or of the sun, should land",
    "aim the light, light shaft, god rays, window",
    tool("shine"),
  ),
  command("a", "A", "section below the picture, on and off", "cut, density plot", ({ view }) => view.toggleBelow("section")),
  command(
    "u",
    "U",
    "probes: values of all passes under the pointer and where you click",
    "pixel values, picker, inspect, readout",
    (bench) => {
      const { below } = bench.view.getState();
      bench.view.toggleBelow("probes");
      bench.view.setState({ tool: below === "probes" ? "none" : "probe" });
    },
  ),
  command("x", "X", "3D view of the set below the picture", "space, viewport, top, handles, gizmo", space("around")),
  command("shift+x", "Shift X", "plan of the set below the picture", "top view, space, map", space("plan")),
  command("g", "G", "handles in the 3D view rotate, or move", "gizmo, transform", ({ view }) =>
    view.setState({ turn: !view.getState().turn }),
  ),
  command("t", "T", "light table, on and off", "list of lights", ({ view }) => view.toggleBelow("lights")),
  command("shift+t", "Shift T", "balance of the light groups after the render", "light mix, relight, light groups, mixer", ({ view }) => {
    const { below, lightTable } = view.getState();
    if (below !== "lights" || lightTable === "balance") view.toggleBelow("lights");
    view.setState({ lightTable: "balance" });
  }),
  command("m", "M", "measure between two points of the picture", "ruler, distance", tool("measure")),
  command("d", "D", "pin points of the picture, to solve density from their transmittance", "how much is left", (bench) => {
    tool("pin")(bench);
    bench.view.unfold("pins");
  }),
  command("e", "E", "meter a point of the picture", "exposure, light meter, middle grey", tool("expose")),
  command("z", "Z", "the picture alone, and back", "full screen, maximise, hide panels", ({ view }) =>
    view.setState({ alone: !view.getState().alone }),
  ),
  command("h", "H", "outlines and handles over the picture, on and off", "helpers, overlay, gizmos", ({ view }) =>
    view.setState({ helpers: !view.getState().helpers }),
  ),
  command("r", "R", "draw a render region; again to cancel", "crop, border", tool("region")),
  command("p", "P", "pause and resume rendering", "stop, start, hold", ({ session }) =>
    session.state.getState().phase === "paused" ? session.resume() : session.pause(),
  ),
  command("o", "O", "finish of the picture, off and on", "grade, tone, before and after", ({ store }) =>
    store.getState().set((d) => ({ ...d, film: { ...d.film, finish: { ...d.film.finish, on: !d.film.finish.on } } })),
  ),
  command(
    "shift+o",
    "Shift O",
    "the finished picture in a wipe against itself without the finish",
    "before and after, compare grade",
    ({ view }) => view.setState({ unfinished: !view.getState().unfinished }),
  ),
  command("bracketleft", "[", "a third of a stop brighter", "exposure", expose(-1 / 3)),
  command("bracketright", "]", "a third of a stop darker", "exposure", expose(1 / 3)),
  command("1", "1", "open Set", "objects, lens, camera, import", part("set")),
  command("2", "2", "open Lights", "sun, sky, lamps", part("lights")),
  command("3", "3", "open Air", "fog, haze, media", part("air")),
  command("4", "4", "open Finish", "exposure, export", part("finish")),
  command(null, "Ctrl Z", "undo", "back, step back", ({ store }) => store.undo()),
  command(null, "Ctrl Shift Z", "redo", "again, forward", ({ store }) => store.redo()),
  command(null, "?", "this list of keys", "shortcuts, hotkeys, help", ({ view }) => view.setState({ keys: true })),
];
