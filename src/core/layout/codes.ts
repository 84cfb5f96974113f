/**
 * Which code stands for which word of a document. One table per kind, the only place where both meet: what reads a kind takes
 * its members from here, and the schema's enums are checked against these tables by the compiler (document/kinds.ts).
 */
import * as K from "./kinds";

export const LIGHT_CODES = {
  point: K.LIGHT_POINT,
  spot: K.LIGHT_SPOT,
  rectangle: K.LIGHT_RECTANGLE,
  disk: K.LIGHT_DISK,
  sphere: K.LIGHT_SPHERE,
  tube: K.LIGHT_TUBE,
  profile: K.LIGHT_PROFILE,
} as const;

export const REGION_CODES = {
  everywhere: K.REGION_EVERYWHERE,
  box: K.REGION_BOX,
  sphere: K.REGION_SPHERE,
  cylinder: K.REGION_CYLINDER,
  cone: K.REGION_CONE,
  layer: K.REGION_LAYER,
  mesh: K.REGION_MESH,
} as const;

export const PHASE_CODES = {
  "henyey-greenstein": K.PHASE_HENYEY_GREENSTEIN,
  "two-lobe": K.PHASE_TWO_LOBE,
  rayleigh: K.PHASE_RAYLEIGH,
  droplets: K.PHASE_DROPLETS,
} as const;

export const HEIGHT_CODES = {
  exponential: K.HEIGHT_EXPONENTIAL,
  linear: K.HEIGHT_LINEAR,
  quadratic: K.HEIGHT_QUADRATIC,
  "inverse-quadratic": K.HEIGHT_INVERSE_QUADRATIC,
} as const;

export const NOISE_CODES = {
  soft: K.NOISE_SOFT,
  billow: K.NOISE_BILLOW,
  ridge: K.NOISE_RIDGE,
  cells: K.NOISE_CELLS,
  wisps: K.NOISE_WISPS,
  layers: K.NOISE_LAYERS,
} as const;

export const LEVEL_CODES = { veil: K.LEVEL_VEIL, shafts: K.LEVEL_SHAFTS, full: K.LEVEL_FULL } as const;
export const ESTIMATOR_CODES = { tracking: K.ESTIMATOR_TRACKING, stepping: K.ESTIMATOR_STEPPING } as const;
export const CAMERA_CODES = { perspective: K.CAMERA_PERSPECTIVE, orthographic: K.CAMERA_ORTHOGRAPHIC } as const;
export const FILTER_CODES = { box: K.FILTER_BOX, tent: K.FILTER_TENT } as const;
export const ALPHA_CODES = { opaque: K.ALPHA_OPAQUE, mask: K.ALPHA_MASK, blend: K.ALPHA_BLEND } as const;

/** Ends a chain over a kind: a member that is not handled does not compile, and one that comes all the same is named. */
export function unreachable(kind: never, what = "kind"): never {
  throw new Error(`${what}: no case for ${JSON.stringify(kind)}`);
}
