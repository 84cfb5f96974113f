/** What might save time on a frame: changes of its document that are worth a trial. Whether they save any is measured (engine/advise.ts). */
import type { Bounds } from "../document/framing";
import { lightSchema, LIMITS, type Medium, type SceneDocument } from "../document/schema";
import type { LightBalance } from "../film/light-balance";
import { activeMedia, emits, steppedMedia } from "../scene/media";
import { shareOfLights } from "./lights-of-groups";

/** A change of a document. */
export interface Candidate {
  /** The same for the same change of the same document. */
  id: string;
  /** Changes of one group exclude each other. */
  group: string;
  /** What it is, in a line, and what it does. */
  words: string;
  tooltip: string;
  apply(doc: SceneDocument): SceneDocument;
  /** Of even air in place of broken one: the same with its density by so much, found by trial so that as much light passes. */
  tuned?: (doc: SceneDocument, factor: number) => SceneDocument;
}

/** What is known of a frame. */
export interface FrameFacts {
  /** Bounds of its set, m; null where it is empty. */
  bounds: Bounds | null;
  /** The step size that stepped air takes by itself, m; null where none is stepped. */
  step: number | null;
  /** What each light group gives and costs, by a trial. */
  lights: readonly LightBalance[];
}

/** Media of which so many changes are tried. */
const MEDIA = 8;
/** A light that gives less of the light than this, and more of the cost than that, is worth a trial; and most lights that are. */
const GIVES = 0.03,
  COSTS = 0.02,
  LIGHTS = 6;
/** How much larger than the set a box about it is. */
const ABOUT = 1.25;

type Render = SceneDocument["render"];
const rendered =
  (change: Partial<Render>) =>
  (doc: SceneDocument): SceneDocument => ({ ...doc, render: { ...doc.render, ...change } });
/** A document whose media of a name are others. */
const aired =
  (name: string, change: (m: Medium) => Medium) =>
  (doc: SceneDocument): SceneDocument => ({ ...doc, air: doc.air.map((m) => (m.name === name ? change(m) : m)) });

/** All that is worth a trial, what saves most as a rule first. */
export function candidatesOf(doc: SceneDocument, facts: FrameFacts): Candidate[] {
  const all = [
    ...ofSampling(doc),
    ...ofLevels(doc),
    ...ofLights(doc, facts.lights),
    ...ofMedia(doc, facts.bounds),
    ...ofSteps(doc, facts.step),
  ];
  // a light may rest in the air already
  const now = JSON.stringify(doc);
  return all.filter((c) => JSON.stringify(c.apply(doc)) !== now);
}

function ofSampling({ render, lights }: SceneDocument): Candidate[] {
  const out: Candidate[] = [];
  const sizes = ["half", "quarter"] as const;
  for (const airSize of sizes.slice(render.airSize === "full" ? 0 : render.airSize === "half" ? 1 : 2))
    out.push({
      id: `air size ${airSize}`,
      group: "air size",
      words: `Air at ${airSize} size`,
      tooltip:
        "The air is sampled at fewer pixels and joined to the surfaces along their distances. Rods and leaves before bright shafts may show it.",
      apply: rendered({ airSize }),
    });
  for (const airSamples of [render.airSamples / 4, render.airSamples / 2, render.airSamples * 2])
    if (Number.isInteger(airSamples) && airSamples >= 1 && airSamples <= 64)
      out.push({
        id: `air samples ${airSamples}`,
        group: "air samples",
        words: `${airSamples} air ${airSamples === 1 ? "sample" : "samples"} per sample`,
        tooltip: "Points of each camera ray that are asked for scattered light. More of them make each sample dearer and less noisy.",
        apply: rendered({ airSamples }),
      });
  for (const name of [...new Set(lights.flatMap((l) => (l.on && l.airSamples !== null ? [l.name] : [])))].slice(0, LIGHTS))
    out.push({
      id: `own samples ${name}`,
      group: `own samples ${name}`,
      words: `${name}: no air samples of its own`,
      tooltip: "It shares the air samples of the frame with the other lights.",
      apply: (d) => ({ ...d, lights: d.lights.map((l) => (l.name === name ? { ...l, airSamples: null } : l)) }),
    });
  if (render.fireflyClamp === null)
    out.push({
      id: "clamp fireflies",
      group: "clamp",
      words: "Clamp fireflies at 20 × white",
      tooltip: "Limits single samples far above white: less noise, and a little light is lost.",
      apply: rendered({ fireflyClamp: 20 }),
    });
  if (render.indirectRoughness < 0.3)
    out.push({
      id: "indirect roughness",
      group: "indirect roughness",
      words: "Indirect roughness 0.3",
      tooltip: "Surfaces are no shinier than this for light that is scattered again, which keeps rare glints of glints out.",
      apply: rendered({ indirectRoughness: 0.3 }),
    });
  return out;
}

function ofLevels({ render }: SceneDocument): Candidate[] {
  const out: Candidate[] = [];
  const lower = render.level === "full" ? (["shafts", "veil"] as const) : render.level === "shafts" ? (["veil"] as const) : [];
  for (const level of lower)
    out.push({
      id: `level ${level}`,
      group: "level",
      words: level === "shafts" ? "Level shafts: single scattering" : "Level veil: analytic",
      tooltip: level === "shafts" ? "Light scatters once in the air." : "Analytic air without shadows in it.",
      apply: rendered({ level }),
    });
  if (render.level === "full")
    for (const airBounces of fewer(render.airBounces, 1))
      out.push({
        id: `air bounces ${airBounces}`,
        group: "level",
        words: `${airBounces} air ${airBounces === 1 ? "bounce" : "bounces"}`,
        tooltip: "Scatterings in the air along a path. Fewer leave thick air darker.",
        apply: rendered({ airBounces }),
      });
  if (render.level !== "veil")
    for (const surfaceBounces of fewer(render.surfaceBounces, 0))
      out.push({
        id: `surface bounces ${surfaceBounces}`,
        group: "surface bounces",
        words:
          surfaceBounces === 0
            ? "No indirect bounces off surfaces"
            : `${surfaceBounces} indirect ${surfaceBounces === 1 ? "bounce" : "bounces"} off surfaces`,
        tooltip: "Indirect bounces off surfaces. Fewer leave corners and undersides darker.",
        apply: rendered({ surfaceBounces }),
      });
  return out;
}

/** Half of a number, and the least. */
const fewer = (n: number, least: number): number[] => [...new Set([Math.max(least, n >> 1), least])].filter((v) => v < n);

function ofSteps({ render, ...doc }: SceneDocument, step: number | null): Candidate[] {
  if (steppedMedia({ render, ...doc }) === 0) return [];
  if (render.estimator === "tracking")
    return [
      {
        id: "stepping",
        group: "steps",
        words: "Step through broken air, step size by itself",
        tooltip: "Steps are quick and a little biased: how much is measured here, and again at each render.",
        apply: rendered({ estimator: "stepping", stepSize: "auto" }),
      },
    ];
  const present = render.stepSize === "auto" ? step : render.stepSize;
  const out: Candidate[] = [
    {
      id: "tracking",
      group: "steps",
      words: "Track through broken air",
      tooltip: "Unbiased, without steps; quicker than fine steps where air is thin.",
      apply: rendered({ estimator: "tracking" }),
    },
  ];
  if (render.stepSize !== "auto")
    out.push({
      id: "step auto",
      group: "steps",
      words: "Step size by itself",
      tooltip: "Half the smallest feature of the noise, and no more than a third of the mean free path.",
      apply: rendered({ stepSize: "auto" }),
    });
  for (const times of [2, 4, 8])
    if (present !== null)
      out.push({
        id: `step × ${times}`,
        group: "steps",
        words: `Step size × ${times}`,
        tooltip: "Coarser steps are quicker; features finer than a step are missed.",
        apply: rendered({ stepSize: Number((times * present).toPrecision(3)) }),
      });
  if (render.maxSteps > 64)
    out.push({
      id: "max steps",
      group: "max steps",
      words: `Max steps ${render.maxSteps >> 2}`,
      tooltip: "Steps that one ray may take through a medium; longer ways take longer steps.",
      apply: rendered({ maxSteps: render.maxSteps >> 2 }),
    });
  return out;
}

function ofLights(doc: SceneDocument, lights: readonly LightBalance[]): Candidate[] {
  const out: Candidate[] = [];
  const cheap = lights.filter((l) => l.rays >= COSTS && Math.min(l.air, l.light) <= GIVES).sort((a, b) => b.rays - a.rays);
  for (const l of cheap.slice(0, LIGHTS)) {
    const change = shareOfLights(doc, l.name);
    if (!change) continue;
    const gives = `${(100 * l.air).toPrecision(2)} % of the light of the air, ${(100 * l.light).toPrecision(2)} % of all, for ${(100 * l.rays).toPrecision(2)} % of the rays to lights.`;
    if (l.air <= GIVES)
      out.push({
        id: `air of ${l.name}`,
        group: `light ${l.name}`,
        words: `${l.name}: none in the air`,
        tooltip: `It gives ${gives} It goes on lighting surfaces.`,
        apply: (d) => change(d, { air: 0 }),
      });
    if (l.light <= GIVES)
      out.push({
        id: `off ${l.name}`,
        group: `light ${l.name}`,
        words: `${l.name}: off`,
        tooltip: `It gives ${gives}`,
        apply: (d) => change(d, { on: false }),
      });
  }
  return out;
}

function ofMedia(doc: SceneDocument, bounds: Bounds | null): Candidate[] {
  const out: Candidate[] = [];
  const media = activeMedia(doc).slice(0, MEDIA);
  const seen = (m: Medium, words: string, tooltip: string, shares: Partial<Medium["seen"]>): void => {
    if (Object.entries(shares).every(([k, v]) => m.seen[k as keyof Medium["seen"]] === v)) return;
    out.push({
      id: `${Object.keys(shares).join(" ")} ${m.name}`,
      group: `${Object.keys(shares).join(" ")} ${m.name}`,
      words: `${m.name}: ${words}`,
      tooltip,
      apply: aired(m.name, (now) => ({ ...now, seen: { ...now.seen, ...shares } })),
    });
  };
  for (const m of media) {
    out.push({
      id: `without ${m.name}`,
      group: `medium ${m.name}`,
      words: `${m.name}: left out`,
      tooltip: "The medium is off. Worth it where it lies out of sight.",
      apply: aired(m.name, (now) => ({ ...now, on: false })),
    });
    if (m.noise)
      out.push({
        id: `even ${m.name}`,
        group: `medium ${m.name}`,
        words: `${m.name}: even in place of noise`,
        tooltip: "Without its noise, as dense as lets the same light pass. Worth it where the noise is not told from even air.",
        apply: aired(m.name, (now) => ({ ...now, noise: null })),
        tuned: (d, factor) => aired(m.name, (now) => ({ ...now, noise: null, density: Number((now.density * factor).toPrecision(6)) }))(d),
      });
    if (m.region.kind === "everywhere" && !m.grid && bounds)
      out.push({
        id: `bound ${m.name}`,
        group: `region ${m.name}`,
        words: `${m.name}: bounded to the set`,
        tooltip: "A box about the set in place of everywhere. Rays that leave it have no air to go through; the far distance stays clear.",
        apply: aired(m.name, (now) => ({ ...now, region: boxAbout(bounds) })),
      });
    seen(m, "unseen by indirect light", "Light that is scattered again passes it as if it were not there.", { indirect: 0 });
    seen(m, "unseen in reflections and refractions", "Mirrors and glass do not show it.", { reflection: 0, refraction: 0 });
    seen(m, "throws no shadows", "Light comes through it undimmed on its way from lights.", { shadow: 0 });
    const proxy = proxyOf(m);
    if (proxy && doc.lights.length < LIMITS.lights)
      out.push({
        id: `proxy ${m.name}`,
        group: `emission ${m.name}`,
        words: `${m.name}: a lamp lights in place of its glow`,
        tooltip: "The lens still sees it glow; what it lights is lit by a sphere of equal output in its middle.",
        apply: (d) => ({
          ...aired(m.name, (now) => ({ ...now, seen: { ...now.seen, indirect: 0 } }))(d),
          lights: [...d.lights, lightSchema.parse({ ...proxy, name: `glow of ${m.name}` })],
        }),
      });
  }
  return out;
}

function boxAbout(b: Bounds): Medium["region"] {
  const middle = [0, 1, 2].map((k) => Number(((b[k]! + b[k + 3]!) / 2).toPrecision(6)));
  const size = [0, 1, 2].map((k) => Number(Math.max(0.01, ABOUT * (b[k + 3]! - b[k]!)).toPrecision(6)));
  return { kind: "box", centre: middle as [number, number, number], rotation: [0, 0, 0], size: size as [number, number, number] };
}

/** A sphere that gives the light that a thin medium of a bounded region emits; null where that is not known. */
function proxyOf(m: Medium): object | null {
  if (!emits(m) || !m.emission || m.grid || m.height) return null;
  const { region } = m;
  const volume =
    region.kind === "box"
      ? region.size[0] * region.size[1] * region.size[2]
      : region.kind === "sphere"
        ? (4 / 3) * Math.PI * region.radius ** 3
        : region.kind === "cylinder"
          ? Math.PI * region.radius ** 2 * region.height
          : region.kind === "cone"
            ? (Math.PI * region.radius ** 2 * region.height) / 3
            : null;
  if (volume === null || !("centre" in region)) return null;
  // about half of it where noise breaks it
  const share = m.noise ? 0.5 + 0.5 * m.noise.evenness : 1;
  return {
    kind: "sphere",
    position: region.centre,
    radius: Number(Math.max(0.01, 0.5 * Math.cbrt((3 * volume) / (4 * Math.PI))).toPrecision(4)),
    intensity: Number((m.emission.strength * volume * share).toPrecision(6)),
    unit: "cd",
    temperature: 6500,
    tint: m.emission.colour,
  };
}
