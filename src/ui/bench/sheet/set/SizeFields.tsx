/** How large the scene really is, and what to do where it is not. */
import { sizeOf } from "#core/math/box";
import { sub } from "#core/math/vectors";
import { useState } from "react";
import { scaleDocument } from "#core/document/scale";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { PERSON, SizeDrawing } from "../../drawings/SizeDrawing";
import { Group } from "../Group";
import { Readout } from "../../../shared/controls";
import { useLengths } from "../../../shared/units";

const STEPS: [string, number][] = [
  ["÷ 100", 0.01],
  ["÷ 10", 0.1],
  ["m → inch", 0.0254],
  ["m → ft", 0.3048],
  ["× 10", 10],
  ["× 100", 100],
];

export function SizeFields() {
  const { store, view } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const bounds = useSession((s) => s.bounds);
  const triangles = useSession((s) => s.triangles);
  const { measured, person, tool } = useView((s) => s);
  const [problem, setProblem] = useState<string | null>(null);
  const [from, to] = measured;
  const length = from && to ? Math.hypot(...sub(from, to)) : null;
  const scaleBy = (k: number): void => {
    try {
      const next = scaleDocument(doc, k);
      store.getState().set(() => next);
      view.setState((s) => ({
        measured: s.measured.map((p) => p.map((v) => v * k) as [number, number, number]),
        person: s.person && (s.person.map((v) => v * k) as [number, number, number]),
      }));
      setProblem(null);
    } catch (error) {
      setProblem(`${(error as Error).message}. The scene stays as it was.`);
    }
  };
  if (!bounds || triangles === 0) return null;
  const size = sizeOf(bounds);
  const toggle = (name: "measure" | "person", words: string, tooltip: string) => (
    <button
      className={`btn btn-xs flex-1 ${tool === name ? "btn-primary" : "btn-outline hair"}`}
      aria-pressed={tool === name}
      title={tooltip}
      onClick={() => view.setState({ tool: tool === name ? "none" : name })}
    >
      {words}
    </button>
  );
  return (
    <Group id="size" about={{ words: lengths.box(size), changed: false }}>
      <Readout label="Extent">
        <span className="figures">{lengths.box(size)}</span>
      </Readout>
      <SizeDrawing size={size} />
      <div className="flex gap-2">
        {toggle("measure", "Measure", "Click two points in the picture. M")}
        {toggle("person", "Show a person for scale", `Click where a person of ${lengths.exact(PERSON, 3)} should stand.`)}
        {(person || measured.length > 0) && (
          <button className="btn btn-xs btn-ghost quiet" onClick={() => view.setState({ person: null, measured: [] })}>
            Clear
          </button>
        )}
      </div>
      {length !== null && length > 0 && (
        <NumberField
          logarithmic
          label="Actual length"
          unit="m"
          quantity="length"
          value={Number(length.toPrecision(5))}
          min={1e-6}
          max={1e7}
          useful={[0.01, 1000]}
          reset={Number(length.toPrecision(5))}
          tooltip="True length of the measured distance. The whole scene is scaled to it, light and air with it."
          onGesture={(a) => store.gesture(a)}
          onChange={(real) => scaleBy(real / length)}
        />
      )}
      <div role="group" aria-label="Scale the whole scene" className="text-sm">
        <span className="quiet">Scale the whole scene</span>
        <div className="flex flex-wrap gap-1.5 pt-1">
          {STEPS.map(([words, k]) => (
            <button
              key={words}
              className="btn btn-xs btn-outline hair figures"
              title="Set, lens, lights and air follow: the picture stays, distances change. Undo takes it back."
              onClick={() => scaleBy(k)}
            >
              {words}
            </button>
          ))}
        </div>
      </div>
      {problem && (
        <p role="alert" className="text-xs text-error">
          {problem}
        </p>
      )}
    </Group>
  );
}
