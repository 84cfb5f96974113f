/** The air: how much, which colour, where to, how high, how broken, and how truly it is computed. */
import { formatNumber } from "#core/document/quantities";
import { breakUpSchema, heightSchema, phaseSchema } from "#core/document/air";
import { LIMITS, mediumSchema, type Medium } from "#core/document/schema";
import {
  automaticStep,
  colourLeft,
  densityForExtinction,
  extinctionForSurviving,
  extinctionForVisibility,
  glowOf,
  meanExtinction,
  meanFreePath,
  phaseFunction,
  surviving,
  visibility,
} from "#core/optics/medium";
import { useState } from "react";
import { ColourField, cssColour } from "../shared/ColourField";
import { NumberField } from "../shared/NumberField";
import { useBench, useDocument, useSession, useView } from "./context";
import { FollowField } from "./FollowField";
import { PhaseLobe } from "./PhaseLobe";
import { Choice, Heading, Said, Select, Switch } from "./Sheet";
import { withMedium, withoutMedium } from "./store";

/** Longest distance that matters in this set, m. */
export function useReach(): number {
  const bounds = useSession((s) => s.bounds);
  if (!bounds) return 50;
  const d = Math.hypot(bounds[3] - bounds[0], bounds[4] - bounds[1], bounds[5] - bounds[2]);
  return Math.max(0.1, Math.min(d, 500));
}

export function AirPart() {
  const { store, view } = useBench();
  const doc = useDocument();
  const chosen = useView((s) => s.medium);
  const index = Math.min(chosen, doc.air.length - 1);
  const medium = doc.air[index];
  const reach = useReach();
  const fill = (): void => {
    const name = doc.air.length ? `air ${doc.air.length + 1}` : "haze";
    store.getState().set((d) => ({ ...d, air: [...d.air, mediumSchema.parse({ name, density: Number((0.7 / reach).toPrecision(2)) })] }));
    view.setState({ medium: doc.air.length });
  };
  if (!medium)
    return (
      <>
        <p className="text-sm quiet">The air is clear: light travels unchanged.</p>
        <button className="btn btn-sm btn-primary btn-outline" onClick={fill}>
          Fill the scene with haze
        </button>
      </>
    );
  return (
    <>
      <div className="space-y-0.5" role="radiogroup" aria-label="Media">
        {doc.air.length > 1 &&
          doc.air.map((m, i) => (
            <button
              key={i}
              role="radio"
              aria-checked={i === index}
              className={`flex w-full items-center gap-2 py-0.5 text-left text-sm ${i === index ? "text-primary" : "quiet"}`}
              onClick={() => view.setState({ medium: i })}
            >
              <span className="inline-block h-3 w-5" style={{ background: cssColour(glowOf(m)) }} />
              <span className="grow truncate">{m.name}</span>
              {!m.on && <span className="text-xs">muted</span>}
            </button>
          ))}
      </div>
      <div className="flex gap-2">
        <button className="btn btn-xs btn-outline hair flex-1" disabled={doc.air.length >= LIMITS.media} onClick={fill}>
          Add another medium
        </button>
        <button
          className="btn btn-xs btn-ghost quiet"
          title="Undo brings it back."
          onClick={() => store.getState().set((d) => withoutMedium(d, index))}
        >
          Remove {medium.name}
        </button>
      </div>
      <AirFields key={index} medium={medium} index={index} reach={reach} />
    </>
  );
}

function AirFields({ medium, index, reach }: { medium: Medium; index: number; reach: number }) {
  const { store } = useBench();
  const doc = useDocument();
  const [distance, setDistance] = useState(10);
  const set = (change: Partial<Medium>): void => store.getState().set((d) => withMedium(d, index, change));
  const gesture = (a: boolean): void => store.gesture(a);
  const sigma = meanExtinction(medium);
  const toSigma = (v: number): void => set({ density: Number(densityForExtinction(medium, v).toPrecision(6)) });
  const usual = 0.7 / reach;
  const [low, high] = [usual / 50, usual * 50];
  const common = { onGesture: gesture, logarithmic: true } as const;
  const glow = glowOf(medium),
    left = colourLeft(medium, distance);
  const flat = sigma <= 0;
  return (
    <>
      <Switch
        label={`Fill with ${medium.name}`}
        on={medium.on}
        teach="Mutes the air without losing its settings."
        onChange={(on) => set({ on })}
      />
      <Heading>How much</Heading>
      <NumberField
        {...common}
        label="Extinction"
        unit="1/m"
        quantity="coefficient"
        value={sigma}
        min={0}
        max={1000}
        useful={[low, high]}
        reset={usual}
        teach="Share of light lost per metre, by scattering and absorption together. All four numbers of this group say the same thing."
        onChange={toSigma}
      />
      <NumberField
        {...common}
        label="Mean free path"
        unit="m"
        quantity="length"
        value={flat ? Infinity : meanFreePath(sigma)}
        min={1e-3}
        max={1e6}
        useful={[1 / high, 1 / low]}
        reset={1 / usual}
        teach="How far light travels on average before it meets a particle."
        onChange={(v) => toSigma(1 / v)}
      />
      <NumberField
        {...common}
        label="Visibility"
        unit="m"
        quantity="length"
        value={flat ? Infinity : visibility(sigma)}
        min={1e-3}
        max={1e6}
        useful={[3 / high, 3 / low]}
        reset={3 / usual}
        teach="Where contrast has fallen to 5 percent, the meteorologists' visual range."
        onChange={(v) => toSigma(extinctionForVisibility(v))}
      />
      <div className="grid grid-cols-[1fr_3.6rem] gap-x-2">
        <NumberField
          label={`Survives ${formatNumber(distance, 3)} m`}
          quantity="share"
          value={surviving(sigma, distance)}
          min={1e-6}
          max={1}
          useful={[0, 1]}
          step={0.005}
          reset={0.5}
          onGesture={gesture}
          teach="Share of light that is left after this distance."
          onChange={(v) => toSigma(extinctionForSurviving(Math.max(v, 1e-6), distance))}
        />
        <div className="[&_.unit]:w-4 [&_input]:pr-5 [&_label]:sr-only [&>div]:block">
          <NumberField
            {...common}
            label="Distance asked about"
            unit="m"
            quantity="length"
            value={distance}
            min={0.01}
            max={1e5}
            useful={[reach / 100, reach]}
            reset={10}
            teach="The distance that the share and the colour left speak of. It is a question, not a setting of the air."
            onChange={setDistance}
            onGesture={() => undefined}
          />
        </div>
      </div>

      <Heading>Colour</Heading>
      <ColourField
        label="Scattering"
        value={medium.scattering}
        reset={[1, 1, 1]}
        onGesture={gesture}
        teach="What the air throws back of each colour: it glows with this colour, and that colour is missing from light that passes."
        onChange={(scattering) => set({ scattering })}
      />
      <Said label="Glows">
        <Swatch colour={glow} words="against dark, in white light" />
      </Said>
      <ColourField
        label="Absorption"
        max={100}
        value={medium.absorption}
        reset={[0, 0, 0]}
        onGesture={gesture}
        teach="What the air swallows of each colour: it turns light into warmth and darkens both what passes and what glows."
        onChange={(absorption) => set({ absorption })}
      />
      <Said label={`After ${formatNumber(distance, 3)} m`}>
        <Swatch colour={left} words="is left of white light" />
      </Said>

      <Heading>Direction</Heading>
      <Select
        label="Particles"
        value={medium.phase.model}
        options={[
          ["one-lobe", "one lobe"],
          ["two-lobe", "two lobes"],
          ["molecular", "molecules"],
          ["droplets", "water droplets"],
        ]}
        teach="How light that meets a particle goes on: by one or two adjustable lobes, as air's molecules turn it, or as droplets of fog and cloud do."
        onChange={(model) => set({ phase: phaseSchema.parse({ model }) })}
      />
      {medium.phase.model === "one-lobe" && (
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
          teach="Mean cosine of the turn light makes: above 0 it goes on forward (haze, fog), 0 is even, below 0 it is thrown back."
          onChange={(anisotropy) => set({ anisotropy })}
        />
      )}
      <PhaseFields phase={medium.phase} set={(phase) => set({ phase })} />
      <PhaseLobe phase={phaseFunction(medium)} />

      <Heading>Height</Heading>
      <Switch
        label="Thins out upwards"
        on={medium.height !== null}
        teach="Density falls exponentially above a level and is held below it."
        onChange={(on) => set({ height: on ? heightSchema.parse({ scale: Number((reach / 8).toPrecision(2)) }) : null })}
      />
      {medium.height && (
        <>
          <Select
            label="Falls off"
            value={medium.height.shape}
            options={[
              ["exponential", "exponentially"],
              ["linear", "linearly, to a top"],
              ["quadratic", "quadratically, to a top"],
              ["inverse-quadratic", "with a long tail"],
            ]}
            teach="Shape of the density above the level: as air under gravity, in a straight line to a top, softly to a top, or with a long tail."
            onChange={(shape) => set({ height: { ...medium.height!, shape } })}
          />
          <NumberField
            label="Level"
            unit="m"
            quantity="length"
            value={medium.height.level}
            min={-1e5}
            max={1e5}
            useful={[-reach / 4, reach / 4]}
            step={reach / 400}
            reset={0}
            onGesture={gesture}
            teach="Height below which the density is held, in metres above the origin."
            onChange={(level) => set({ height: { ...medium.height!, level } })}
          />
          <NumberField
            {...common}
            label="Scale height"
            unit="m"
            quantity="length"
            value={medium.height.scale}
            min={1e-3}
            max={1e6}
            useful={[reach / 200, reach * 4]}
            reset={reach / 8}
            teach="Climb over which the density falls to 37 percent."
            onChange={(scale) => set({ height: { ...medium.height!, scale } })}
          />
        </>
      )}

      <Heading>Break-up</Heading>
      <Switch
        label="Broken by solid noise"
        on={medium.breakUp !== null}
        teach="A solid noise multiplies the density, so that the air comes in drifts and gaps."
        onChange={(on) =>
          set({
            breakUp: on ? breakUpSchema.parse({ size: Number((reach / 12).toPrecision(2)), low: 0.35, high: 0.65 }) : null,
          })
        }
      />
      {medium.breakUp && <BreakUpFields medium={medium} reach={reach} set={set} />}

      <Heading>Where</Heading>
      <RegionFields medium={medium} reach={reach} set={set} />

      <Heading>How true</Heading>
      <Choice
        label="Level"
        value={doc.render.level}
        options={[
          ["veil", "veil"],
          ["shafts", "shafts"],
          ["full", "full"],
        ]}
        teach="Shafts: light scatters once in the air. Full: it scatters again and again, between air and surfaces, which brightens thick air."
        onChange={(level) => store.getState().set((d) => ({ ...d, render: { ...d.render, level } }))}
      />
      {doc.render.level === "full" && (
        <NumberField
          label="Air bounces"
          value={doc.render.airBounces}
          min={1}
          max={1024}
          useful={[1, 32]}
          step={1}
          whole
          quantity="count"
          reset={8}
          onGesture={gesture}
          teach="Most scatterings in the air along one path. Thick bright air needs many."
          onChange={(airBounces) => store.getState().set((d) => ({ ...d, render: { ...d.render, airBounces } }))}
        />
      )}
      <NumberField
        label="Surface bounces"
        value={doc.render.surfaceBounces}
        min={0}
        max={1024}
        useful={[0, 8]}
        step={1}
        whole
        quantity="count"
        reset={1}
        onGesture={gesture}
        teach="Times light goes on from surface to surface after the first."
        onChange={(surfaceBounces) => store.getState().set((d) => ({ ...d, render: { ...d.render, surfaceBounces } }))}
      />
      <NumberField
        label="Air samples"
        value={doc.render.airSamples}
        min={1}
        max={64}
        useful={[1, 16]}
        step={1}
        whole
        quantity="count"
        reset={4}
        onGesture={gesture}
        teach="Points of each camera ray asked for scattered light in one sample. More quiets the air without refining surfaces."
        onChange={(airSamples) => store.getState().set((d) => ({ ...d, render: { ...d.render, airSamples } }))}
      />
    </>
  );
}

function Swatch({ colour, words }: { colour: readonly number[]; words: string }) {
  return (
    <span className="flex items-center gap-2 text-xs quiet">
      <span className="inline-block h-4 w-8 shrink-0 border hair" style={{ background: cssColour(colour) }} />
      {words}
    </span>
  );
}

type Phase = Medium["phase"];
const PHASE_FIELDS = {
  forward: { word: "First lobe", unit: "g", min: -0.99, max: 0.99, reset: 0.8, teach: "g of the first lobe; above 0 throws light onward." },
  backward: {
    word: "Second lobe",
    unit: "g",
    min: -0.99,
    max: 0.99,
    reset: -0.3,
    teach: "g of the second lobe; below 0 throws light back.",
  },
  mix: { word: "Share of second", unit: "", min: 0, max: 1, reset: 0.2, teach: "How much of the scattered light the second lobe takes." },
  diameter: {
    word: "Droplets across",
    unit: "µm",
    min: 5,
    max: 50,
    reset: 12,
    teach: "Diameter of the droplets: fog has 5 to 20 µm. Larger ones throw light more sharply onward.",
  },
} as const;

function PhaseFields({ phase, set }: { phase: Phase; set(phase: Phase): void }) {
  const { store } = useBench();
  const values = phase as Record<string, unknown>;
  return (
    <>
      {Object.entries(PHASE_FIELDS).map(([what, f]) =>
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
            teach={f.teach}
            onChange={(v) => set({ ...phase, [what]: v } as Phase)}
          />
        ) : null,
      )}
    </>
  );
}

function BreakUpFields({ medium, reach, set }: { medium: Medium; reach: number; set(change: Partial<Medium>): void }) {
  const { store } = useBench();
  const doc = useDocument();
  const b = medium.breakUp!;
  const gesture = (a: boolean): void => store.gesture(a);
  const change = (c: Partial<NonNullable<Medium["breakUp"]>>): void => set({ breakUp: { ...b, ...c } });
  const stepping = doc.render.estimator === "stepping";
  const automatic = doc.render.stepSize === "auto";
  const step = doc.render.stepSize === "auto" ? automaticStep(medium) : doc.render.stepSize;
  const render = (c: Partial<typeof doc.render>): void => store.getState().set((d) => ({ ...d, render: { ...d.render, ...c } }));
  return (
    <>
      <Select
        label="Character"
        value={b.character}
        options={[
          ["soft", "soft swells"],
          ["billow", "rounded lumps"],
          ["ridge", "sharp crests"],
          ["cells", "round cells"],
          ["wisps", "drawn-out wisps"],
        ]}
        teach="What the drifts look like."
        onChange={(character) => change({ character })}
      />
      <NumberField
        logarithmic
        label="Size"
        unit="m"
        quantity="length"
        value={b.size}
        min={1e-3}
        max={1e5}
        useful={[reach / 200, reach]}
        reset={reach / 12}
        onGesture={gesture}
        teach="Size of the largest drifts."
        onChange={(size) => change({ size })}
      />
      <NumberField
        label="Octaves"
        value={b.octaves}
        min={1}
        max={8}
        useful={[1, 8]}
        step={1}
        whole
        quantity="count"
        reset={3}
        onGesture={gesture}
        teach="Layers of ever finer detail."
        onChange={(octaves) => change({ octaves })}
      />
      <NumberField
        label="Roughness"
        value={b.roughness}
        min={0}
        max={1}
        step={0.01}
        reset={0.5}
        onGesture={gesture}
        teach="How strong each finer layer is against the one before."
        onChange={(roughness) => change({ roughness })}
      />
      <NumberField
        label="Gap below"
        value={b.low}
        min={0}
        max={0.99}
        step={0.005}
        reset={0.35}
        onGesture={gesture}
        teach="Noise below this is empty air."
        onChange={(low) => change({ low: Math.min(low, b.high - 0.001) })}
      />
      <NumberField
        label="Full above"
        value={b.high}
        min={0.01}
        max={1}
        step={0.005}
        reset={0.65}
        onGesture={gesture}
        teach="Noise above this is air of full density."
        onChange={(high) => change({ high: Math.max(high, b.low + 0.001) })}
      />
      <NumberField
        label="Pattern"
        value={b.seed}
        min={0}
        max={1_000_000}
        useful={[0, 100]}
        step={1}
        whole
        quantity="count"
        reset={1}
        onGesture={gesture}
        teach="Another number, another arrangement of drifts."
        onChange={(seed) => change({ seed })}
      />
      <Choice
        label="Estimator"
        value={doc.render.estimator}
        options={[
          ["tracking", "tracking"],
          ["stepping", "stepping"],
        ]}
        teach="Tracking is right on average whatever the noise. Stepping marches at a step size: smooth, but biased where the step is coarse."
        onChange={(estimator) => render({ estimator })}
      />
      {stepping && (
        <>
          <Switch
            label="Step size by itself"
            on={automatic}
            teach="Half the finest feature, at most a third of the mean free path."
            onChange={(on) => render({ stepSize: on ? "auto" : Number(step.toPrecision(3)) })}
          />
          <NumberField
            logarithmic
            label="Step size"
            unit="m"
            quantity="length"
            value={step}
            min={1e-4}
            max={1e4}
            useful={[automaticStep(medium) / 10, automaticStep(medium) * 30]}
            reset={automaticStep(medium)}
            disabled={automatic}
            onGesture={gesture}
            teach="Distance between two looks at the density along a ray. Halving it quarters the error and doubles the time."
            onChange={(stepSize) => render({ stepSize })}
          />
        </>
      )}
    </>
  );
}

type Region = Medium["region"];
const REGION_NAMES: [Region["kind"], string][] = [
  ["everywhere", "everywhere"],
  ["box", "box"],
  ["sphere", "sphere"],
  ["cylinder", "cylinder"],
  ["cone", "cone"],
  ["layer", "layer"],
];

/** A region of another kind in the place and about the size of the scene. */
function regionOf(kind: Region["kind"], bounds: readonly number[]): Region {
  const tidy = (v: number): number => Number(v.toFixed(3));
  const centre = [0, 1, 2].map((k) => tidy((bounds[k]! + bounds[k + 3]!) / 2)) as [number, number, number];
  const size = [0, 1, 2].map((k) => tidy(Math.max(0.1, bounds[k + 3]! - bounds[k]!))) as [number, number, number];
  const radius = tidy(Math.max(size[0], size[2]) / 2);
  const rotation: [number, number, number] = [0, 0, 0];
  switch (kind) {
    case "box":
      return { kind, centre, size, rotation };
    case "sphere":
      return { kind, centre, radius };
    case "cylinder":
    case "cone":
      return { kind, centre, radius, height: size[1], rotation };
    case "layer":
      return { kind, level: centre[1], up: [0, 1, 0] };
    default:
      return { kind: "everywhere" };
  }
}

const VECTORS = {
  centre: { word: "Centre", teach: "Middle of the region." },
  size: { word: "Size", teach: "Length of the box along its own axis." },
  rotation: { word: "Turn", teach: "Turn of the region about this axis." },
} as const;
const NUMBERS = {
  radius: { word: "Radius", teach: "From the axis or the middle to the border; of a cone, at its base." },
  height: { word: "Tall", teach: "Length along the region's own upright axis." },
  level: { word: "Up to", teach: "The air lies below this height." },
} as const;

function RegionFields({ medium, reach, set }: { medium: Medium; reach: number; set(change: Partial<Medium>): void }) {
  const { store } = useBench();
  const bounds = useSession((s) => s.bounds);
  const region = medium.region;
  const gesture = (a: boolean): void => store.gesture(a);
  const values = region as Record<string, unknown>;
  const put = (what: string, value: unknown): void => set({ region: { ...region, [what]: value } as Region });
  return (
    <>
      <Select
        label="Region"
        value={region.kind}
        options={region.kind === "mesh" ? [...REGION_NAMES, ["mesh", `inside ${region.object}`]] : REGION_NAMES}
        teach="Where this medium lies. The lens may be inside, outside or on its border."
        onChange={(kind) =>
          kind !== region.kind &&
          set({ region: regionOf(kind, bounds ?? [-5, 0, -5, 5, 5, 5]), ...(kind === "everywhere" ? { edge: 0 } : {}) })
        }
      />
      {Object.entries(VECTORS).map(([what, { word, teach }]) =>
        what in values
          ? (["x", "y", "z"] as const).map((axis, k) => (
              <NumberField
                key={what + axis}
                label={`${word} ${axis}`}
                unit={what === "rotation" ? "°" : "m"}
                quantity={what === "rotation" ? "angle" : "length"}
                value={(values[what] as number[])[k]!}
                min={what === "size" ? 1e-3 : what === "rotation" ? -360 : -1e5}
                max={what === "rotation" ? 360 : 1e5}
                useful={what === "size" ? [reach / 100, reach] : what === "rotation" ? [-180, 180] : [-reach / 2, reach / 2]}
                step={what === "rotation" ? 1 : reach / 400}
                reset={what === "size" ? reach / 2 : 0}
                onGesture={gesture}
                teach={teach}
                onChange={(v) =>
                  put(
                    what,
                    (values[what] as number[]).map((old, i) => (i === k ? v : old)),
                  )
                }
              />
            ))
          : null,
      )}
      {Object.entries(NUMBERS).map(([what, { word, teach }]) =>
        what in values ? (
          <NumberField
            key={what}
            label={word}
            unit="m"
            quantity="length"
            value={values[what] as number}
            min={what === "level" ? -1e5 : 1e-3}
            max={1e5}
            useful={what === "level" ? [-reach / 2, reach / 2] : [reach / 100, reach]}
            step={reach / 400}
            reset={what === "level" ? 0 : reach / 4}
            onGesture={gesture}
            teach={teach}
            onChange={(v) => put(what, v)}
          />
        ) : null,
      )}
      {("centre" in region || medium.grid) && <FollowField lights value={medium.follows} onChange={(follows) => set({ follows })} />}
      {region.kind !== "everywhere" && (
        <NumberField
          label="Soft edge"
          unit="m"
          quantity="length"
          value={medium.edge}
          min={0}
          max={1e5}
          useful={[0, reach / 4]}
          step={reach / 800}
          reset={0}
          onGesture={gesture}
          teach="Density rises from nothing at the border to its whole over this distance inwards."
          onChange={(edge) => set({ edge })}
        />
      )}
    </>
  );
}
