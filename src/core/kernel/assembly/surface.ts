/** The surface under a hit: what its material and its textures are there. */
import {
  P_EMISSIVE_COUNT,
  E_TRIANGLE,
  E_AREA,
  MT_BASE,
  MT_METALLIC,
  MT_EMISSION,
  MT_ROUGHNESS,
  MT_ABSORPTION,
  MT_HOLDOUT,
  SLOT_BASE,
  SLOT_METALLIC_ROUGHNESS,
  SLOT_EMISSION,
} from "../../layout/layout";
import { paramInt, word, wordInt } from "./state";
import { hitTriangle } from "./bvh";
import { emissiveRecord } from "./lights";
import { cornerR, cornerG, cornerB, material, materialOf, sample, textureUse, texR, texG, texB } from "./any-hit-filter";
import { back, readFrame } from "./hit-frame";
import { setSurface, isSolidGlass } from "./bsdf";

/** Emission (cd/m²) of the surface. */
export let emR: f64 = 0.0;
export let emG: f64 = 0.0;
export let emB: f64 = 0.0;
/** Absorption (1/m) of the solid that the ray came through, 0 where it came from outside. */
export let insideR: f64 = 0.0;
export let insideG: f64 = 0.0;
export let insideB: f64 = 0.0;

/** True where the lens sees black: a holdout. */
export let holdout: bool = false;

/** Index of an emissive triangle among those sampled as lights; -1 where it is not one. */
export function emissiveIndex(triangle: i32): i32 {
  let low = 0,
    high = paramInt(P_EMISSIVE_COUNT) - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const t = wordInt(emissiveRecord(middle), E_TRIANGLE);
    if (t == triangle) return middle;
    if (t < triangle) low = middle + 1;
    else high = middle - 1;
  }
  return -1;
}
/** Area (m²) of an emissive triangle. */
export function emissiveArea(i: i32): f64 {
  return word(emissiveRecord(i), E_AREA);
}

/** Reads the surface last hit by a ray travelling along d. */
export function readSurface(dx: f64, dy: f64, dz: f64): void {
  readFrame(dx, dy, dz);
  const m = materialOf(hitTriangle);
  let r = cornerR * material(m, MT_BASE),
    g = cornerG * material(m, MT_BASE + 1),
    b = cornerB * material(m, MT_BASE + 2);
  holdout = material(m, MT_HOLDOUT) != 0.0;
  let metal = material(m, MT_METALLIC);
  let rough = material(m, MT_ROUGHNESS);
  emR = material(m, MT_EMISSION);
  emG = material(m, MT_EMISSION + 1);
  emB = material(m, MT_EMISSION + 2);
  let use = textureUse(m, SLOT_BASE);
  if (use != 0) {
    sample(use);
    r *= texR;
    g *= texG;
    b *= texB;
  }
  use = textureUse(m, SLOT_METALLIC_ROUGHNESS);
  if (use != 0) {
    sample(use);
    rough *= texG;
    metal *= texB;
  }
  use = textureUse(m, SLOT_EMISSION);
  if (use != 0 && emR + emG + emB > 0.0) {
    sample(use);
    emR *= texR;
    emG *= texG;
    emB *= texB;
  }
  setSurface(m, r, g, b, metal, rough);
  const inside = back && isSolidGlass();
  insideR = inside ? material(m, MT_ABSORPTION) : 0.0;
  insideG = inside ? material(m, MT_ABSORPTION + 1) : 0.0;
  insideB = inside ? material(m, MT_ABSORPTION + 2) : 0.0;
}
