/** What a folded group says of its inside: a few words, a colour where it is about one, and whether it differs from a new medium. */
import { mediumSchema } from "#core/document/air";
import { meanExtinction, scatteringAlbedo, visibility } from "#core/document/medium";
import { formatNumber } from "#core/document/quantities";
import { lengthWords, type LengthWords } from "#core/document/units";
import { documentSchema, type Medium, type SceneDocument } from "#core/document/schema";
import { LEVEL_OPTIONS, NOISE_OPTIONS, PHASE_OPTIONS, REGION_OPTIONS } from "./kind-options";
import type { GroupId } from "./groups";

export interface GroupWords {
  words: string;
  /** Linear colour. */
  swatch?: readonly number[];
  /** Whether anything in it differs from what it is at first. */
  changed: boolean;
}

const NEW_MEDIUM = mediumSchema.parse({ name: "new" });
const NEW_DOCUMENT = documentSchema.parse({ fumarium: 2 });

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
const percent = (v: number): string => `${formatNumber(100 * v, 2)} %`;

/** Whether a medium differs from a new one in any of these. */
const differs = (m: Medium, ...keys: (keyof Medium)[]): boolean => keys.some((k) => !same(m[k], NEW_MEDIUM[k]));

const NOISE_DETAIL = ["knee", "evenness", "lacunarity", "invert", "stretch", "space", "drift", "change"] as const;
const NEW_NOISE = mediumSchema.parse({ name: "new", noise: {} }).noise!;

function noiseDetail(noise: NonNullable<Medium["noise"]>): string {
  const words = NOISE_DETAIL.filter((k) => !same(noise[k], NEW_NOISE[k])).map((k) =>
    k === "invert" ? "inverted" : k === "space" ? "fixed to its region" : k,
  );
  return words.length === 0 ? "plain" : words.join(", ");
}

type OfMedium = (m: Medium, lengths: LengthWords) => GroupWords;

/** Groups about one medium. */
export const MEDIUM_WORDS = {
  density: (m, lengths) => {
    const sigma = meanExtinction(m);
    const words = sigma > 0 ? `${lengths.coefficient(sigma, 3)}, sight ${lengths.rough(visibility(sigma))}` : "none";
    return { words, changed: differs(m, "density") };
  },
  colour: (m) => {
    const albedo = scatteringAlbedo(m);
    const mean = albedo.reduce((a, v) => a + v, 0) / 3;
    return { words: `scatters ${percent(mean)}`, swatch: albedo, changed: differs(m, "scattering", "absorption") };
  },
  height: ({ height: h }, lengths) => ({ words: h ? `${lengths.rough(h.level)}, ${lengths.rough(h.scale)}` : "none", changed: h !== null }),
  noise: ({ noise: n }, lengths) => ({
    words: n ? `${NOISE_OPTIONS[n.character].label}, ${lengths.rough(n.size)}` : "none",
    changed: n !== null,
  }),
  noiseDetail: ({ noise: n }) => {
    const words = n ? noiseDetail(n) : "none";
    return { words, changed: n !== null && words !== "plain" };
  },
  phase: (m) => ({
    words: m.phase.model === "henyey-greenstein" ? `g ${formatNumber(m.anisotropy, 2)}` : PHASE_OPTIONS[m.phase.model].label,
    changed: differs(m, "phase", "anisotropy"),
  }),
  placement: (m, lengths) => {
    const where = m.region.kind === "mesh" ? `inside ${m.region.object}` : REGION_OPTIONS[m.region.kind].label;
    return { words: m.edge > 0 ? `${where}, soft ${lengths.rough(m.edge)}` : where, changed: differs(m, "region", "edge", "follows") };
  },
  grid: ({ grid: g }) => ({
    words: g ? (g.sequence ? `${g.sequence.frames.length} frames` : g.asset) : "none",
    changed: g !== null,
  }),
  start: ({ start: s }, lengths) => ({
    words: s ? `from ${lengths.rough(s.distance)}, over ${lengths.rough(s.fade)}` : "none",
    changed: s !== null,
  }),
  proximity: ({ proximity: p }) => ({ words: p ? p.object : "none", changed: p !== null }),
  emission: ({ emission: e, grid }, lengths) =>
    e
      ? { words: `${formatNumber(e.strength * lengths.size, 2)} cd/m² per ${lengths.unit}`, swatch: e.colour, changed: true }
      : { words: grid?.temperature ? "by temperature" : "none", changed: false },
  seen: (m) => {
    const rays = Object.entries(m.seen).flatMap(([ray, share]) => (share === 1 ? [] : [`${ray} ${percent(share)}`]));
    return { words: rays.length === 0 ? "all rays" : rays.join(", "), changed: rays.length > 0 };
  },
} as const satisfies Partial<Record<GroupId, OfMedium>>;

const changedIn = <K extends "render" | "film" | "camera">(doc: SceneDocument, part: K, ...keys: (keyof SceneDocument[K])[]): boolean =>
  keys.some((k) => !same(doc[part][k], NEW_DOCUMENT[part][k]));

type OfDocument = (doc: SceneDocument) => GroupWords;

/** Groups about the whole document. */
export const DOCUMENT_WORDS = {
  plate: ({ plate, assets }) => ({ words: plate ? (assets[plate.picture]?.uri ?? "") : "none", changed: false }),
  lens: (doc) => {
    const { kind, fieldOfView, height, aperture } = doc.camera;
    const what = kind === "perspective" ? `${formatNumber(fieldOfView, 3)}°` : `orthographic, ${lengthWords(doc.units).rough(height)}`;
    return {
      words: aperture > 0 ? `${what}, ${formatNumber(1000 * aperture, 2)} mm open` : what,
      changed: changedIn(doc, "camera", "kind", "fieldOfView", "aperture", "roll"),
    };
  },
  frame: (doc) => ({ words: `${doc.film.size[0]} × ${doc.film.size[1]}`, changed: changedIn(doc, "film", "size") }),
  transport: (doc) => {
    const { level, airBounces, surfaceBounces, airSize } = doc.render;
    const words = LEVEL_OPTIONS[level].label + (airSize === "full" ? "" : `, air ${airSize} size`);
    return {
      words: level === "full" ? `${words}, ${airBounces} + ${surfaceBounces} bounces` : words,
      changed: changedIn(
        doc,
        "render",
        "level",
        "airBounces",
        "surfaceBounces",
        "airSamples",
        "airSize",
        "estimator",
        "stepSize",
        "maxSteps",
      ),
    };
  },
  sampling: (doc) => {
    const { samples, noiseThreshold } = doc.render;
    return {
      words: noiseThreshold === null ? `${samples} samples` : `to ${percent(noiseThreshold)} noise, ${samples} at most`,
      changed: changedIn(doc, "render", "samples", "noiseThreshold", "thresholdOf", "minSamples", "indirectRoughness", "fireflyClamp"),
    };
  },
  tone: (doc) => {
    const { on, contrast, saturation, rollOff, curves } = doc.film.finish;
    const bent = Object.values(curves).filter(Boolean).length;
    const words = [
      `contrast ${formatNumber(contrast)}`,
      saturation === 1 ? "" : `saturation ${formatNumber(saturation)}`,
      `roll-off ${percent(rollOff)}`,
      bent === 0 ? "" : bent === 1 ? "1 curve" : `${bent} curves`,
    ];
    const { glare: _, lut: __, ...tone } = doc.film.finish;
    const { glare: ___, lut: ____, ...first } = NEW_DOCUMENT.film.finish;
    return { words: on ? words.filter(Boolean).join(", ") : "off", changed: !same(tone, first) };
  },
  glare: (doc) => {
    const { on, glare } = doc.film.finish;
    const parts = [glare.halo > 0 ? `halo ${percent(glare.halo)}` : "", glare.starburst > 0 ? `rays ${percent(glare.starburst)}` : ""];
    const words = parts.filter(Boolean).join(", ") || "none";
    return { words: on ? words : "off", changed: !same(glare, NEW_DOCUMENT.film.finish.glare) };
  },
  looks: (doc) => {
    const { lut } = doc.film.finish;
    return { words: lut ? `${lut.asset}, ${percent(lut.strength)}` : "", changed: lut !== null };
  },
  cleanUp: (doc) => {
    const { fireflies, air, surfaces } = doc.film.cleanUp;
    const words = fireflies === air && air === surfaces ? percent(air) : [fireflies, air, surfaces].map(percent).join(", ");
    return { words, changed: changedIn(doc, "film", "cleanUp") };
  },
} as const satisfies Partial<Record<GroupId, OfDocument>>;
