/** Air of the finished picture made thicker or thinner, and the way to render it truly. */
import { useState } from "react";
import { useStore } from "zustand";
import { API, call } from "#api/contract";
import { documentOf } from "#core/formats/layers";
import { allLayers, type Stack } from "#core/compose/stack";
import { formatNumber } from "#core/document/quantities";
import { request } from "../shared/api";
import { Num } from "../shared/Num";
import { Fold } from "./Fold";
import { useComposition, useFrames, useStack } from "./model/context";
import { factsOf } from "./model/facts";

/** Most places that a factor is said for. */
const MOST = 8;

export function AirFields() {
  const { store } = useComposition();
  const stack = useStack();
  const frames = useFrames();
  const { air } = stack;
  const roles = allLayers(stack.layers).some((l) => l.content.kind === "pass" && l.content.role !== null);
  const left = [...frames.values()].some((f) => f.layers.get("transmittance")?.bands.length === 3);
  const set = (change: Partial<Stack["air"]>): void => store.getState().set((s) => ({ ...s, air: { ...s.air, ...change } }));
  const changed = air.density !== 1 || air.by.length > 0;
  const add = (): void => {
    const { near, far } = factsOf(frames);
    const last = air.by.at(-1);
    set({ by: last ? [...air.by, [Number((2 * last[0] + 1).toPrecision(3)), last[1]]] : [[near, 1], [far, 1]] }); // prettier-ignore
  };
  return (
    <Fold title="Air" says={changed ? `×${formatNumber(air.density, 3)}${air.by.length > 0 ? " by distance" : ""}` : "as rendered"}>
      {!left ? (
        <p className="text-xs quiet">
          Air is made thicker or thinner by its transmittance, and no source has that pass. Order a final with the pass transmittance.
        </p>
      ) : !roles ? (
        <p className="text-xs quiet">No layer goes along with the air: see “Goes with the air” of a pass.</p>
      ) : (
        <>
          <Num
            label="Optical depth"
            unit="×"
            value={air.density}
            min={0}
            max={16}
            useful={[0.1, 4]}
            step={0.01}
            reset={1}
            tooltip="How many times as thick the air is as it was rendered. Surfaces behind it are carried exactly; its light as that of evenly lit air."
            onChange={(density) => set({ density })}
          />
          {air.by.map(([distance, factor], i) => (
            <div key={i} className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
              <Num
                label={`Distance ${i + 1}`}
                quantity="length"
                unit="m"
                value={distance}
                min={i > 0 ? air.by[i - 1]![0] * 1.0001 + 1e-3 : 0}
                max={i + 1 < air.by.length ? air.by[i + 1]![0] * 0.9999 - 1e-3 : 1e7}
                useful={[0.1, 1000]}
                logarithmic={distance > 0}
                reset={distance}
                tooltip="From the lens."
                onChange={(v) => set({ by: air.by.map((p, k) => (k === i ? [v, p[1]] : p)) })}
              />
              <Num
                label={`Factor ${i + 1}`}
                unit="×"
                value={factor}
                min={0}
                max={16}
                useful={[0, 4]}
                step={0.01}
                reset={1}
                tooltip="Further factor of the optical depth of what lies there."
                onChange={(v) => set({ by: air.by.map((p, k) => (k === i ? [p[0], v] : p)) })}
              />
              <button
                className="link link-hover pb-1 text-xs quiet"
                aria-label={`Remove distance ${i + 1}`}
                onClick={() => set({ by: air.by.length > 2 ? air.by.filter((_, k) => k !== i) : [] })}
              >
                Remove
              </button>
            </div>
          ))}
          <button className="btn btn-xs btn-outline hair w-full" disabled={air.by.length >= MOST} onClick={add}>
            {air.by.length === 0 ? "By distance" : "Another distance"}
          </button>
          <p className="text-xs quiet">
            An approximation: shadows in the air and light scattered often stay as they were. Rendered truly, they change.
          </p>
          <Truly factor={air.density} disabled={air.density === 1} />
        </>
      )}
    </Fold>
  );
}

/** Opens a bench with the document of the picture, its air as thick as it is made here. */
function Truly({ factor, disabled }: { factor: number; disabled: boolean }) {
  const { shown } = useComposition();
  const frames = useStore(shown, (s) => s.frames);
  const [problem, setProblem] = useState<string | null>(null);
  const doc = [...frames.values()].map((f) => documentOf(f)).find((d) => d !== null);
  if (!doc) return null;
  const render = async (): Promise<void> => {
    setProblem(null);
    try {
      const document = {
        ...doc,
        title: `${doc.title}, air ×${formatNumber(factor, 3)}`.slice(0, 200),
        air: doc.air.map((m) => ({ ...m, density: m.density * factor })),
      };
      const { id } = await call(request, API.createProject, {}, { document });
      location.assign(`/bench/${id}`);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <>
      <button
        className="btn btn-xs btn-outline hair w-full"
        disabled={disabled}
        title="A bench with the scene of this picture, the density of its media multiplied by the factor: a project of its own."
        onClick={() => void render()}
      >
        Render it truly
      </button>
      {problem && (
        <p role="alert" className="border-l-2 border-error pl-2 text-xs whitespace-pre-wrap">
          {problem}
        </p>
      )}
    </>
  );
}
