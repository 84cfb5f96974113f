/** Where light goes on to when it meets a particle. */
import { optionsOf, PHASE_OPTIONS } from "../../model/kind-options";
import { phaseSchema } from "#core/document/air";
import type { Medium, SceneDocument } from "#core/document/schema";
import { formatNumber } from "#core/document/quantities";
import { phaseFunction } from "#core/document/medium";
import { sunDirection } from "#core/math/vectors";
import { rayOf } from "#core/scene/pick";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument } from "../../model/context";
import { MediumGroup } from "../Group";
import { Readout, Select } from "../../../shared/controls";
import { PhasePlot } from "./PhasePlot";
import type { MediumFields } from "../../model/medium-fields";

export function PhaseFields({ medium, set }: MediumFields) {
  const { store } = useBench();
  const doc = useDocument();
  const gesture = (a: boolean): void => store.gesture(a);
  const times = sunTimes(doc, phaseFunction(medium));
  return (
    <MediumGroup id="phase" medium={medium}>
      <Select
        label="Phase function"
        value={medium.phase.model}
        options={optionsOf(PHASE_OPTIONS)}
        tooltip="In which directions particles scatter light: one or two adjustable lobes, molecules of air (Rayleigh), or droplets of fog and cloud (Mie)."
        onChange={(model) => set({ phase: phaseSchema.parse({ model }) })}
      />
      {medium.phase.model === "henyey-greenstein" && (
        <NumberField
          label="Anisotropy"
          unit="g"
          value={medium.anisotropy}
          min={-0.99}
          max={0.99}
          useful={[-0.99, 0.99]}
          step={0.01}
          reset={0.6}
          onGesture={gesture}
          tooltip="Mean cosine of the scattering angle: above 0 scatters forward (haze, fog), 0 in all directions alike, below 0 backward."
          onChange={(anisotropy) => set({ anisotropy })}
        />
      )}
      <LobeFields phase={medium.phase} set={(phase) => set({ phase })} />
      <PhasePlot phase={phaseFunction(medium)} />
      {doc.sun.on && (
        <Readout label="In this frame">
          <span
            className="figures text-xs quiet"
            title="How much of the sun's light this air sends to the lens against air that scatters evenly: in the middle of the frame, and at most and least within it."
          >
            sun ×{formatNumber(times.middle, 2)}, ×{formatNumber(times.min, 2)} to ×{formatNumber(times.max, 2)}
          </span>
        </Readout>
      )}
    </MediumGroup>
  );
}

type Phase = Medium["phase"];
const LOBE_FIELDS = {
  forward: {
    word: "First lobe",
    unit: "g",
    min: -0.99,
    max: 0.99,
    reset: 0.8,
    tooltip: "g of the first lobe; above 0 scatters forward.",
  },
  backward: {
    word: "Second lobe",
    unit: "g",
    min: -0.99,
    max: 0.99,
    reset: -0.3,
    tooltip: "g of the second lobe; below 0 scatters backward.",
  },
  mix: { word: "Lobe mix", unit: "", min: 0, max: 1, reset: 0.2, tooltip: "Share of the scattered light that the second lobe takes." },
  diameter: {
    word: "Droplet diameter",
    unit: "µm",
    min: 5,
    max: 50,
    reset: 12,
    tooltip: "Fog has droplets of 5 to 20 µm. Larger ones scatter more sharply forward.",
  },
} as const;

function LobeFields({ phase, set }: { phase: Phase; set(phase: Phase): void }) {
  const { store } = useBench();
  const values = phase as Record<string, unknown>;
  return (
    <>
      {Object.entries(LOBE_FIELDS).map(([what, f]) =>
        what in values ? (
          <NumberField
            key={what}
            label={f.word}
            unit={f.unit}
            value={values[what] as number}
            min={f.min}
            max={f.max}
            useful={[f.min, f.max]}
            step={what === "diameter" ? 0.25 : 0.01}
            reset={f.reset}
            onGesture={(a) => store.gesture(a)}
            tooltip={f.tooltip}
            onChange={(v) => set({ ...phase, [what]: v })}
          />
        ) : null,
      )}
    </>
  );
}

/** Sunlight sent to the lens against even scattering, over a grid of the frame's rays. */
function sunTimes(doc: SceneDocument, phase: (cos: number) => number): { middle: number; min: number; max: number } {
  const d = sunDirection(doc.sun.azimuth, doc.sun.elevation);
  const at = (x: number, y: number): number => {
    const { direction } = rayOf(doc, x, y);
    // light goes on forward when the lens looks towards the sun
    return 4 * Math.PI * phase(direction.reduce((a, v, k) => a + v * d[k]!, 0));
  };
  const all = Array.from({ length: 35 }, (_, i) => at((i % 7) / 6, Math.floor(i / 7) / 4));
  return { middle: at(0.5, 0.5), min: Math.min(...all), max: Math.max(...all) };
}
