/** Where a frame's noise comes from, by light, side and material, and what is gained by a remedy: small renders in pairs of other samples. */
import { OTHER_LIGHTS } from "#core/scene/light-groups";
import type { SceneDocument } from "#core/document/schema";
import { lightValues, matteValues, passValues, type Film } from "#core/film/film";
import { MAX_OWN_LIGHTS } from "#core/layout/layout";
import { luminance } from "#core/optics/colour";
import { whiteAt } from "#core/optics/exposure";
import type { RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

export interface NoiseSource {
  /** Name of a light group: a light's, or that of several. */
  light: string;
  side: "air" | "surfaces";
  /** Share of the frame's noise (squared), as an eye weighs it: against each pixel's brightness. */
  share: number;
  /** For surfaces, the material on which most of it lies. */
  material: string | null;
}

export interface NoiseRemedy {
  words: string;
  /** Times by which error² × time is lower with it, measured. */
  gain: number;
  apply(doc: SceneDocument): SceneDocument;
}

export interface NoiseReport {
  /** The largest first. */
  sources: NoiseSource[];
  /** Those that were measured to be worth it, the best first. */
  remedies: NoiseRemedy[];
}

/** Pixels along the longer side, and samples of each of a pair. */
const SIDE = 128;
const SAMPLES = 12;
/** First samples of the other of a pair. */
const OTHER = 1 << 20;
/** Share of white below which brightness makes no difference to how noise is seen. */
const DARK = 0.05;
/** Gains below this are as good as none: trials are noisy themselves. */
const WORTH = 1.15;
/** Sources told, and shares below which they are not worth a line. */
const TOLD = 4;
const TELLING = 0.02;

interface Pair {
  films: [Film, Film];
  seconds: number;
}

async function pair(engine: Pick<RenderEngine, "start">, doc: SceneDocument, apart: boolean): Promise<Pair> {
  const [w, h] = doc.film.size;
  const k = Math.min(1, SIDE / Math.max(w, h));
  const [width, height] = [Math.max(1, Math.round(k * w)), Math.max(1, Math.round(k * h))];
  const document = {
    ...doc,
    film: { ...doc.film, lightGroups: apart, balance: {}, mattes: apart, region: null },
    render: { ...doc.render, noiseThreshold: null },
  };
  const films: Film[] = [];
  let seconds = 0;
  for (const first of [0, OTHER]) {
    const result = await engine.start({ document, width, height, stages: finalSchedule(first, first + SAMPLES, MEDIUM_PASSES) });
    if (result.outcome !== "done") throw new Error("the trial was cancelled");
    films.push({ ...result.film, data: result.film.data.slice() });
    seconds += result.seconds;
  }
  return { films: films as [Film, Film], seconds };
}

/** Squared difference of two pictures (three numbers a pixel), a pixel at a time, against the pixel's brightness. */
function apart(a: Float32Array, b: Float32Array, weights: Float32Array): Float32Array {
  return weights.map((w, i) => {
    const of = (v: Float32Array): number => luminance(v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!);
    return w * (of(a) - of(b)) ** 2;
  });
}
const sum = (v: Float32Array): number => v.reduce((s, x) => s + x, 0);

function weightsOf({ films: [a, b] }: Pair, doc: SceneDocument): Float32Array {
  const [p, q] = [passValues(a, "beauty"), passValues(b, "beauty")];
  const dark = DARK * whiteAt(doc.film.exposure);
  return Float32Array.from({ length: a.width * a.height }, (_, i) => {
    const mean = luminance(p[3 * i]! + q[3 * i]!, p[3 * i + 1]! + q[3 * i + 1]!, p[3 * i + 2]! + q[3 * i + 2]!) / 2;
    return 1 / (Math.max(0, mean) + dark) ** 2;
  });
}

function sourcesOf(pairOf: Pair, doc: SceneDocument): NoiseSource[] {
  const [a, b] = pairOf.films;
  const weights = weightsOf(pairOf, doc);
  const mattes = matteValues(a, "material");
  const found = a.lights.flatMap((light) =>
    (["air", "surfaces"] as const).map((side) => {
      const noise = apart(lightValues(a, light, side), lightValues(b, light, side), weights);
      let material: string | null = null,
        most = 0;
      if (side === "surfaces")
        for (const [name, cover] of mattes) {
          const on = noise.reduce((s, v, i) => s + v * cover[i]!, 0);
          if (on > most) [material, most] = [name, on];
        }
      return { light, side, material, share: sum(noise) };
    }),
  );
  const all = found.reduce((s, f) => s + f.share, 0);
  if (!(all > 0)) return [];
  return found
    .map((f) => ({ ...f, share: f.share / all }))
    .filter((f) => f.share >= TELLING)
    .sort((x, y) => y.share - x.share)
    .slice(0, TOLD);
}

const withRender = (d: SceneDocument, change: Partial<SceneDocument["render"]>): SceneDocument => ({
  ...d,
  render: { ...d.render, ...change },
});

/** What may help against the noise of these sources; each is tried. */
function candidates(doc: SceneDocument, sources: readonly NoiseSource[]): Omit<NoiseRemedy, "gain">[] {
  const out: Omit<NoiseRemedy, "gain">[] = [];
  const air = sources.filter((s) => s.side === "air");
  const share = air.reduce((s, f) => s + f.share, 0);
  const { airSamples } = doc.render;
  if (share > 0.25 && airSamples <= 32)
    out.push({ words: `${2 * airSamples} air samples`, apply: (d) => withRender(d, { airSamples: 2 * airSamples }) });
  if (share < 0.25 && airSamples > 1)
    out.push({
      words: `${Math.ceil(airSamples / 2)} air samples`,
      apply: (d) => withRender(d, { airSamples: Math.ceil(airSamples / 2) }),
    });
  const worst = air[0];
  if (worst && worst.share > 0.1 && worst.light !== OTHER_LIGHTS) {
    if (worst.light === (doc.sun.group ?? "sun") && doc.sun.airSamples === null)
      out.push({ words: "4 air samples for the sun", apply: (d) => ({ ...d, sun: { ...d.sun, airSamples: 4 } }) });
    const of = doc.lights.filter((l) => l.on && (l.group ?? l.name) === worst.light && l.airSamples === null);
    const own = doc.lights.filter((l) => l.airSamples !== null).length;
    if (of.length > 0 && own + of.length <= Math.min(8, MAX_OWN_LIGHTS))
      out.push({
        words: `2 air samples for ${worst.light}`,
        apply: (d) => ({ ...d, lights: d.lights.map((l) => ((l.group ?? l.name) === worst.light ? { ...l, airSamples: 2 } : l)) }),
      });
  }
  if (sources[0]?.side === "surfaces" && doc.render.indirectRoughness < 0.3 && doc.render.surfaceBounces > 0)
    out.push({ words: "indirect roughness 0.3", apply: (d) => withRender(d, { indirectRoughness: 0.3 }) });
  return out;
}

/**
 * Measures where the frame's noise comes from, then what each remedy gains. The engine's present film is overwritten.
 * @param onTrial called after each pair of trials with how many are done and how many there will be
 * @throws Error where another run took over
 */
export async function findNoise(
  engine: Pick<RenderEngine, "start">,
  doc: SceneDocument,
  onTrial: (done: number, all: number) => void = () => undefined,
): Promise<NoiseReport> {
  const told = await pair(engine, doc, true);
  const sources = sourcesOf(told, doc);
  const tried = candidates(doc, sources);
  const all = tried.length + 2;
  onTrial(1, all);
  /** error² × time; weights are those of the first trial, so that all are judged alike. */
  const weights = weightsOf(told, doc);
  const cost = ({ films: [a, b], seconds }: Pair): number =>
    sum(apart(passValues(a, "beauty"), passValues(b, "beauty"), weights)) * seconds;
  const before = cost(await pair(engine, doc, false));
  onTrial(2, all);
  const remedies: NoiseRemedy[] = [];
  for (const [i, c] of tried.entries()) {
    const gain = before / cost(await pair(engine, c.apply(doc), false));
    if (gain >= WORTH && gain < Infinity) remedies.push({ ...c, gain });
    onTrial(i + 3, all);
  }
  remedies.sort((x, y) => y.gain - x.gain);
  return { sources, remedies };
}
