/**
 * One sample of every member of every kind, with an answer of its own. The tables are as wide as the kinds: a new member does not
 * compile until it stands here, and what the answer is must be worked out without the code under test.
 */
import type {
  GoboPattern,
  HeightShape,
  LightKind,
  NoiseCharacter,
  ObjectKind,
  PhaseModel,
  RegionKind,
  SkyModel,
} from "#core/document/kinds";

export type V3 = [number, number, number];
type Point = readonly number[];

const centre: V3 = [0.4, 1.2, -0.3];
const from = (p: Point): V3 => p.map((v, k) => v - centre[k]!) as V3;

/** Regions about (0.4, 1.2, −0.3), and whether a point is inside. */
export const REGION_SAMPLES: Record<RegionKind, { region: object; inside(p: Point): boolean }> = {
  everywhere: { region: { kind: "everywhere" }, inside: () => true },
  box: {
    region: { kind: "box", centre, size: [2, 3, 4] },
    inside: (p) => from(p).every((v, k) => Math.abs(v) < [1, 1.5, 2][k]!),
  },
  sphere: { region: { kind: "sphere", centre, radius: 1.4 }, inside: (p) => Math.hypot(...from(p)) < 1.4 },
  cylinder: {
    region: { kind: "cylinder", centre, radius: 1.1, height: 3 },
    inside: (p) => Math.hypot(from(p)[0], from(p)[2]) < 1.1 && Math.abs(from(p)[1]) < 1.5,
  },
  cone: {
    region: { kind: "cone", centre, radius: 1.6, height: 3 },
    inside: (p) => Math.abs(from(p)[1]) < 1.5 && Math.hypot(from(p)[0], from(p)[2]) < (1.6 * (1.5 - from(p)[1])) / 3,
  },
  layer: { region: { kind: "layer", level: 1.1 }, inside: (p) => p[1]! < 1.1 },
  mesh: {
    region: { kind: "mesh", object: "hull" },
    inside: (p) => from(p).every((v, k) => Math.abs(v) < [1, 1.5, 2][k]!),
  },
};
/** The object that the mesh region is inside of. */
export const HULL = { kind: "box" as const, name: "hull", material: "m", position: centre, size: [2, 3, 4] as V3, hidden: true };

const hg = (g: number) => (c: number) => (1 - g * g) / (4 * Math.PI * (1 + g * g - 2 * g * c) ** 1.5);
/** Phase functions, in closed forms written out here. The droplets' fit has no other: its integral and mean cosine are held elsewhere. */
export const PHASE_SAMPLES: Record<PhaseModel, { medium: object; value: ((cos: number) => number) | null }> = {
  "henyey-greenstein": { medium: { anisotropy: 0.55 }, value: hg(0.55) },
  "two-lobe": {
    medium: { phase: { model: "two-lobe", forward: 0.7, backward: -0.3, mix: 0.35 } },
    value: (c) => 0.65 * hg(0.7)(c) + 0.35 * hg(-0.3)(c),
  },
  rayleigh: { medium: { phase: { model: "rayleigh" } }, value: (c) => (3 / (16 * Math.PI)) * (1 + c * c) },
  droplets: { medium: { phase: { model: "droplets", diameter: 12 } }, value: null },
};

/** Relative density at a share y / H above the level. */
export const HEIGHT_SAMPLES: Record<HeightShape, (q: number) => number> = {
  exponential: (q) => Math.exp(-q),
  linear: (q) => Math.max(0, 1 - q),
  quadratic: (q) => Math.max(0, 1 - q) ** 2,
  "inverse-quadratic": (q) => 1 / (1 + q) ** 2,
};

/** Bounds on the mean of each character over a large region, before thresholds: cells and lumps are not even about the middle. */
export const NOISE_SAMPLES: Record<NoiseCharacter, readonly [number, number]> = {
  soft: [0.45, 0.55],
  billow: [0.2, 0.55],
  ridge: [0.45, 0.85],
  cells: [0.3, 0.7],
  wisps: [0.4, 0.6],
  layers: [0.35, 0.65],
};

/**
 * Lights at the origin whose illuminance at `distance` metres on their axis, at normal incidence, is `lux`. Far enough for an emitter's
 * size to make less than a thousandth, or exact.
 */
export const LIGHT_SAMPLES: Record<LightKind, { light: object; distance: number; lux: number } | null> = {
  point: { light: { kind: "point", intensity: 900, unit: "cd" }, distance: 3, lux: 100 },
  spot: { light: { kind: "spot", intensity: 900, unit: "cd", target: [0, 0, -1], cone: 40 }, distance: 3, lux: 100 },
  rectangle: { light: { kind: "rectangle", intensity: 1000, unit: "cd/m2", target: [0, 0, -1], size: [0.1, 0.2] }, distance: 10, lux: 0.2 },
  disk: { light: { kind: "disk", intensity: 1000, unit: "cd/m2", target: [0, 0, -1], radius: 0.1 }, distance: 10, lux: 0.1 * Math.PI },
  // E = π L (r / d)²
  sphere: { light: { kind: "sphere", intensity: 1000, unit: "cd/m2", radius: 0.5 }, distance: 4, lux: 1000 * Math.PI * (0.5 / 4) ** 2 },
  // candela across the middle: luminance times the projected area, 2 r l
  tube: { light: { kind: "tube", intensity: 1000, unit: "cd/m2", direction: [1, 0, 0], length: 0.2, radius: 0.01 }, distance: 20, lux: (1000 * 2 * 0.01 * 0.2) / 400 }, // prettier-ignore
  // by its file alone: validation/lights.test.ts
  profile: null,
};

/** Gobos, skies and objects that a document can hold without files; null for what needs one. */
export const GOBO_SAMPLES: Record<GoboPattern, object | null> = {
  leaves: { pattern: "leaves" },
  blinds: { pattern: "blinds" },
  bars: { pattern: "bars" },
  ripples: { pattern: "ripples" },
  image: null,
  sequence: null,
};
export const SKY_SAMPLES: Record<SkyModel, object | null> = {
  gradient: { model: "gradient" },
  clear: { model: "clear" },
  overcast: { model: "overcast" },
  image: null,
};
/** Objects and their volume (m³) or area (m²) of a flat one, by which scaling is told. */
export const OBJECT_SAMPLES: Record<ObjectKind, object | null> = {
  box: { kind: "box", material: "m", size: [1, 2, 3] },
  sphere: { kind: "sphere", material: "m", radius: 1.5 },
  cylinder: { kind: "cylinder", material: "m", radius: 0.5, height: 2 },
  rectangle: { kind: "rectangle", material: "m", size: [2, 3] },
  disk: { kind: "disk", material: "m", radius: 1.5 },
  model: null,
  plate: null,
};
