/** The lens: which one, where it stands, what it sees, how it draws. */
import { CAMERA_OPTIONS, optionsOf } from "../../model/kind-options";
import { useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { movedTo } from "#core/document/motion";
import { freeName } from "#core/document/place";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { useStore } from "zustand";
import { frameOfShape } from "#core/document/framing";
import { NumberField } from "../../../shared/NumberField";
import { framed } from "../../model/edits/lens";
import { useReach } from "../../model/medium-fields";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { DocumentGroup } from "../Group";
import { AngleFields, focalOf } from "./AngleFields";
import { MotionField } from "../MotionField";
import { Choice, Readout } from "../../../shared/controls";
import { useLengths } from "../../../shared/units";

const FRAMES: [string, [number, number]][] = [
  ["16 : 9", [16, 9]],
  ["2.39 : 1", [2.39, 1]],
  ["1.85 : 1", [1.85, 1]],
  ["3 : 2", [3, 2]],
  ["4 : 3", [4, 3]],
  ["1 : 1", [1, 1]],
  ["9 : 16", [9, 16]],
];

export function LensFields() {
  const { store, view, session } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const reach = useReach();
  const { subject, farthest } = useSession((s) => s.reach);
  const tool = useView((s) => s.tool);
  const gesture = (a: boolean): void => store.gesture(a);
  const { camera: c } = doc;
  const camera = (change: Partial<SceneDocument["camera"]>): void =>
    store.getState().set((d) => ({ ...d, camera: { ...d.camera, ...change } }));
  const [w, h] = doc.film.size;
  const size = (next: [number, number]): void => store.getState().set((d) => ({ ...d, film: { ...d.film, size: next } }));
  const reshape = ([a, b]: [number, number]): void => {
    // the longer side stays
    const long = Math.max(w, h);
    size(a >= b ? [long, Math.max(1, Math.round((long * b) / a))] : [Math.max(1, Math.round((long * a) / b)), long]);
  };
  const named = FRAMES.find(([, [a, b]]) => Math.abs(w / h - a / b) < 0.5 / Math.min(w, h) + 0.002);
  const shape = named?.[0] ?? "other";
  // of a shape with a name exactly: sides of whole pixels are only about it
  const held = useStore(store.held, (s) => s.from?.film.size);
  const ratio = named ? named[1][0] / named[1][1] : held ? held[0] / held[1] : w / h;
  return (
    <>
      <DocumentGroup id="lens">
        <KeptLenses />
        <MotionField motion={c.motion} onHold={() => camera({ motion: null })} />
        <Readout label="Distances">
          <span className="figures" title="Distance to what is in the middle of the frame, and to the farthest thing in sight.">
            {subject === null ? "nothing in the middle" : lengths.exact(subject, 3)}
            {farthest === null ? "" : `, farthest ${lengths.exact(farthest, 3)}`}
          </span>
        </Readout>
        <Choice
          label="Projection"
          value={c.kind}
          options={optionsOf(CAMERA_OPTIONS)}
          tooltip="Distances through the air are measured along the real ray in both."
          onChange={(kind) => camera({ kind })}
        />
        {c.kind === "perspective" ? (
          <AngleFields
            names={["Field of view", "Focal length"]}
            value={c.fieldOfView}
            onGesture={gesture}
            tooltip="Angle from the lower to the upper edge of the frame."
            onChange={(fieldOfView) => camera({ fieldOfView })}
          />
        ) : (
          <NumberField
            logarithmic
            label="Frame height"
            unit="m"
            quantity="length"
            value={c.height}
            min={1e-6}
            max={1e6}
            useful={[reach / 50, reach]}
            reset={10}
            onGesture={gesture}
            tooltip="Height of what the frame shows."
            onChange={(height) => camera({ height })}
          />
        )}
        <NumberField
          label="Aperture"
          unit="mm"
          value={Number((c.aperture * 1000).toPrecision(5))}
          min={0}
          max={10000}
          useful={[0, 50]}
          step={0.25}
          reset={0}
          onGesture={gesture}
          tooltip={
            c.aperture > 0 && c.kind === "perspective"
              ? `Diameter of the lens opening; 0 keeps everything sharp. Now about f/${formatNumber(focalOf(c.fieldOfView) / (c.aperture * 1000), 2)}.`
              : "Diameter of the aperture; 0 keeps everything sharp."
          }
          onChange={(mm) => camera({ aperture: mm / 1000 })}
        />
        {c.aperture > 0 && (
          <>
            <NumberField
              logarithmic
              label="Focus distance"
              unit="m"
              quantity="length"
              value={c.focus}
              min={1e-6}
              max={1e7}
              useful={[reach / 500, reach]}
              reset={5}
              onGesture={gesture}
              tooltip="Distance along the lens axis that is in focus."
              onChange={(focus) => camera({ focus })}
            />
            <button
              className={`btn btn-xs w-full ${tool === "focus" ? "btn-primary" : "btn-outline hair"}`}
              aria-pressed={tool === "focus"}
              title="Click what should be in focus."
              onClick={() => view.setState({ tool: tool === "focus" ? "none" : "focus" })}
            >
              Focus on a point
            </button>
          </>
        )}
        <div className="flex gap-2">
          <button
            className={`btn btn-xs flex-1 ${tool === "lens" ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={tool === "lens"}
            title="Drag in the picture: the camera goes round what you press. V"
            onClick={() => view.setState({ tool: tool === "lens" ? "none" : "lens" })}
          >
            Move in the picture
          </button>
          <button
            className="btn btn-xs btn-outline hair flex-1"
            title="Moves the camera along its line of sight until what is chosen fills the frame; the whole set where nothing is."
            onClick={() => store.getState().set((d) => framed(d, view.getState(), session.state.getState()))}
          >
            Frame what is chosen
          </button>
        </div>
        <button
          className={`btn btn-xs w-full ${tool === "look" ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={tool === "look"}
          title="Click what the camera should look at, in the picture or in space."
          onClick={() => view.setState({ tool: tool === "look" ? "none" : "look" })}
        >
          Aim at a point
        </button>
        {(["position", "target"] as const).map((what) =>
          c[what].map((v, k) => (
            <NumberField
              key={what + k}
              label={`${what === "position" ? "Position" : "Target"} ${"xyz"[k]}`}
              unit="m"
              quantity="length"
              value={v}
              min={-1e5}
              max={1e5}
              useful={[-reach / 2, reach / 2]}
              step={reach / 1000}
              reset={0}
              onGesture={gesture}
              tooltip={what === "position" ? "Where the lens is." : "The point in the middle of the frame."}
              onChange={(x) => camera({ [what]: c[what].map((o, i) => (i === k ? x : o)) })}
            />
          )),
        )}
        <NumberField
          label="Roll"
          unit="°"
          quantity="angle"
          value={c.roll}
          min={-360}
          max={360}
          useful={[-45, 45]}
          step={0.25}
          reset={0}
          onGesture={gesture}
          tooltip="Rotation of the frame about the line of sight."
          onChange={(roll) => camera({ roll })}
        />
      </DocumentGroup>
      <DocumentGroup id="frame">
        <label
          className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm"
          title="Shape of the picture; the longer side keeps its pixels."
        >
          <span className="quiet">Shape</span>
          <select
            aria-label="Shape of the frame"
            className="select select-xs w-full"
            value={shape}
            onChange={(e) => {
              const found = FRAMES.find(([name]) => name === e.target.value);
              if (found) reshape(found[1]);
            }}
          >
            {FRAMES.map(([name]) => (
              <option key={name}>{name}</option>
            ))}
            {shape === "other" && <option value="other">its own</option>}
          </select>
        </label>
        {(["Width", "Height"] as const).map((label, k) => (
          <NumberField
            key={label}
            logarithmic
            whole
            label={label}
            unit="px"
            quantity="count"
            value={doc.film.size[k]!}
            min={1}
            max={LIMITS.side}
            useful={[320, 4096]}
            reset={k === 0 ? 960 : 540}
            onGesture={gesture}
            tooltip="Pixels of the final picture; its shape stays. The live one has as many as fit the window."
            onChange={(v) => size(frameOfShape(ratio, k === 0 ? "width" : "height", v))}
          />
        ))}
      </DocumentGroup>
    </>
  );
}

/** Lenses kept by name: a click looks through one. */
function KeptLenses() {
  const { store } = useBench();
  const doc = useDocument();
  const [naming, setNaming] = useState<{ index: number; text: string } | null>(null);
  // of a motion only that there is one: it may have thousands of keys
  const told = (camera: SceneDocument["camera"]): string =>
    JSON.stringify({ ...movedTo(camera, doc.time), motion: camera.motion !== null });
  const now = told(doc.camera);
  const commit = (): void => {
    if (naming?.text.trim()) {
      const { index, text } = naming;
      store.getState().set((d) => ({
        ...d,
        lenses: d.lenses.map((l, i) =>
          i === index
            ? {
                ...l,
                name: freeName(
                  text.trim(),
                  d.lenses.flatMap((o, k) => (k === index ? [] : [o.name])),
                ),
              }
            : l,
        ),
      }));
    }
    setNaming(null);
  };
  return (
    <>
      {doc.lenses.length > 0 && (
        <ul aria-label="Kept lenses" className="text-sm">
          {doc.lenses.map((lens, i) => {
            const here = told(lens.camera) === now;
            return (
              <li key={lens.name} className={`group flex items-center gap-2 px-1 ${here ? "bg-base-300/60" : "hover:bg-base-300/30"}`}>
                {naming?.index === i ? (
                  <input
                    autoFocus
                    aria-label={`New name of ${lens.name}`}
                    className="input input-xs min-w-0 flex-1"
                    maxLength={100}
                    value={naming.text}
                    onChange={(e) => setNaming({ index: i, text: e.target.value })}
                    onBlur={commit}
                    onKeyDown={(e) => (e.key === "Enter" ? commit() : e.key === "Escape" ? setNaming(null) : undefined)}
                  />
                ) : (
                  <button
                    className="min-w-0 flex-1 truncate text-left"
                    aria-pressed={here}
                    title={`Look through ${lens.name}. Double click renames it.`}
                    onClick={() => store.getState().set((d) => ({ ...d, camera: lens.camera }))}
                    onDoubleClick={() => setNaming({ index: i, text: lens.name })}
                  >
                    {lens.name}
                  </button>
                )}
                {!here && (
                  <button
                    className="text-xs quiet opacity-0 group-hover:opacity-100 focus:opacity-100"
                    title="Puts the present lens in its place."
                    onClick={() =>
                      store.getState().set((d) => ({ ...d, lenses: d.lenses.map((l, k) => (k === i ? { ...l, camera: d.camera } : l)) }))
                    }
                  >
                    set to this
                  </button>
                )}
                <button
                  className="text-xs quiet opacity-0 group-hover:opacity-100 focus:opacity-100"
                  aria-label={`Forget ${lens.name}`}
                  onClick={() => store.getState().set((d) => ({ ...d, lenses: d.lenses.filter((_, k) => k !== i) }))}
                >
                  forget
                </button>
              </li>
            );
          })}
        </ul>
      )}
      <button
        className="btn btn-xs btn-outline hair w-full"
        disabled={doc.lenses.length >= LIMITS.lenses}
        title="Saves this lens by name."
        onClick={() =>
          store.getState().set((d) => ({
            ...d,
            lenses: [
              ...d.lenses,
              {
                name: freeName(
                  `lens ${d.lenses.length + 1}`,
                  d.lenses.map((l) => l.name),
                ),
                camera: d.camera,
              },
            ],
          }))
        }
      >
        Keep this lens
      </button>
    </>
  );
}
