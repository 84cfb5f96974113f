/** Drawings of space under the picture: all around, from above, or through the lens or a light. */
import { Canvas } from "@react-three/fiber";
import { useState } from "react";
import * as THREE from "three";
import { alongRadios } from "../../../shared/controls";
import { useBench, useScene, useView } from "../../model/context";
import { turnOf } from "../../model/space-handles";
import { usePieces } from "./SetMeshes";
import { Stage } from "./Stage";

/** Makes a renderer on the one context that the canvas gets. @param without is called where this browser draws no WebGL 2 */
function rendererOr(without: () => void) {
  return async ({ canvas: given }: { canvas: unknown }): Promise<THREE.WebGLRenderer> => {
    const canvas = given as HTMLCanvasElement;
    const wanted = { antialias: true, alpha: true, preserveDrawingBuffer: true, powerPreference: "high-performance" } as const;
    const context = canvas.getContext("webgl2", wanted) as WebGL2RenderingContext | null;
    if (context) return new THREE.WebGLRenderer({ ...wanted, canvas, context });
    without();
    // what says so takes the place of the canvas
    return new Promise(() => undefined);
  };
}

const thousands = (n: number): string => (1000 * Math.round(n / 1000)).toLocaleString("en");

export default function SpaceView() {
  const { view } = useBench();
  const doc = useScene();
  const { spaceView, through, turn, snap, tool, grip } = useView((s) => s);
  const { pieces, triangles } = usePieces();
  const [drawn, setDrawn] = useState(Infinity);
  const [frame, setFrame] = useState(0);
  const [lost, setLost] = useState(false);
  const [renderer] = useState(() => rendererOr(() => setLost(true)));
  const toggle = (words: string, on: boolean, tooltip: string, act: () => void, can = true) => (
    <button className={`btn btn-xs ${on ? "btn-primary" : "btn-ghost"}`} aria-pressed={on} title={tooltip} disabled={!can} onClick={act}>
      {words}
    </button>
  );
  const plan = spaceView === "plan";
  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Space"
      className="outline-none flex h-[46%] min-h-52 shrink-0 flex-col border-t hair bg-base-100"
    >
      <div className="flex flex-wrap items-center gap-1 border-b hair px-3 py-1 text-sm">
        <span role="radiogroup" aria-label="Drawing" className="mr-2 flex gap-3" onKeyDown={alongRadios}>
          {(
            [
              ["around", "Perspective"],
              ["plan", "Plan"],
            ] as const
          ).map(([name, words]) => (
            <button
              key={name}
              role="radio"
              aria-checked={spaceView === name}
              tabIndex={spaceView === name ? 0 : -1}
              className={`border-b-2 ${spaceView === name ? "border-primary" : "border-transparent quiet"}`}
              onClick={() => view.setState({ spaceView: name, through: "free" })}
            >
              {words}
            </button>
          ))}
        </span>
        {!plan && (
          <select
            aria-label="Look through"
            className="select select-xs w-40"
            title="View through the camera or a light; navigating then moves it."
            value={typeof through === "number" ? `l${through}` : through}
            onChange={(e) => {
              const v = e.target.value;
              view.setState(
                v === "free" || v === "lens"
                  ? { through: v }
                  : { through: Number(v.slice(1)), lights: [Number(v.slice(1))], grip: { kind: "target", index: Number(v.slice(1)) } },
              );
            }}
          >
            <option value="free">free view</option>
            <option value="lens">through the lens</option>
            {doc.lights.flatMap((l, i) => ("target" in l ? [<option key={i} value={`l${i}`}>{`through ${l.name}`}</option>] : []))}
          </select>
        )}
        {toggle(
          "Rotate",
          turn,
          "Handles rotate objects and regions instead of moving them. G",
          () => view.setState({ turn: !turn }),
          grip !== null && turnOf(doc, grip) !== null,
        )}
        {toggle("Snap", snap, "Moves in whole steps, rotates by 15°.", () => view.setState({ snap: !snap }))}
        {toggle("Measure", tool === "measure", "Click two points. M", () =>
          view.setState({ tool: tool === "measure" ? "none" : "measure" }),
        )}
        {toggle("Frame", false, "Brings what is chosen, or all, into the middle.", () => setFrame(frame + 1))}
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("space")}>
          Close
        </button>
      </div>
      {lost ? (
        <p role="alert" className="m-auto max-w-md p-6 text-center text-sm">
          This browser cannot draw space here: it has no WebGL. Everything can be placed by numbers in the sheet.
        </p>
      ) : (
        <div className="relative min-h-0 flex-1" data-testid="space">
          <Canvas key={plan ? "plan" : "around"} frameloop="demand" orthographic={plan} dpr={1} gl={renderer}>
            <Stage plan={plan} frame={frame} pieces={pieces} shown={setDrawn} />
          </Canvas>
          {drawn < triangles && (
            <p
              className="quiet pointer-events-none absolute bottom-1 left-3 text-xs"
              title="The largest triangles and a part of the rest, as many as this machine draws in time. The picture has all of them."
            >
              drawn in part: {thousands(drawn)} of {thousands(triangles)} triangles
            </p>
          )}
        </div>
      )}
    </section>
  );
}
