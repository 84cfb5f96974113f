/** What the veil's fragment shader reads, taken from a kernel memory: the same records the kernel reads. */
import type { SceneDocument } from "../document/schema";
import * as L from "../scene/layout";
import { activeMedia } from "../scene/media";

/** Tables in single precision, one row a record: to be uploaded as textures of one red float a texel. */
export interface VeilTables {
  /** PARAM_COUNT × 1. */
  parameters: Float32Array;
  /** MEDIUM_WORDS × media (at least one row). */
  media: Float32Array;
  mediaCount: number;
  /** LIGHT_WORDS × lights (at least one row). */
  lights: Float32Array;
  lightCount: number;
}

/** Media and lights that the shader takes; what lies beyond is left out. */
export const VEIL_MEDIA = 16;
export const VEIL_LIGHTS = 64;

/** Copies the tables out of a kernel memory that holds a document's parameters and tables. */
export function veilTables(memory: ArrayBufferLike): VeilTables {
  const parameters = new Float64Array(memory, L.PARAMS, L.PARAM_COUNT);
  const rows = (at: number, words: number, count: number): Float32Array => {
    const out = new Float32Array(words * Math.max(1, count));
    if (count > 0) out.set(new Float64Array(memory, at, words * count));
    return out;
  };
  const mediaCount = Math.min(VEIL_MEDIA, parameters[L.P_MEDIA]!);
  const lightCount = Math.min(VEIL_LIGHTS, parameters[L.P_LIGHT_COUNT]!);
  const lights = rows(parameters[L.P_LIGHTS]!, L.LIGHT_WORDS, lightCount);
  const out = Float32Array.from(parameters);
  // masks of more bits than a single-precision number holds
  const masked = (mask: number): number => mask % 2 ** VEIL_MEDIA;
  out[L.P_SUN_MASK] = masked(parameters[L.P_SUN_MASK]!);
  const masks = new Float64Array(memory, parameters[L.P_LIGHTS]!, L.LIGHT_WORDS * lightCount);
  for (let at = L.L_MASK; at < masks.length; at += L.LIGHT_WORDS) lights[at] = masked(masks[at]!);
  return { parameters: out, media: rows(L.MEDIA, L.MEDIUM_WORDS, mediaCount), mediaCount, lights, lightCount };
}

/** What of a document the shader leaves out that the kernel's veil has, one sentence each; none where they are equal. */
export function veilOmissions(doc: SceneDocument): string[] {
  const out: string[] = [];
  const media = activeMedia(doc);
  for (const m of media) if (m.region.kind === "mesh") out.push(`${m.name} is taken as the box about its mesh`);
  if (media.length > VEIL_MEDIA) out.push(`of ${media.length} media the first ${VEIL_MEDIA} are shown`);
  const lights = doc.lights.filter((l) => l.on && l.intensity > 0);
  for (const l of lights) {
    if ("gobo" in l && l.gobo) out.push(`${l.name} shines without its gobo`);
    if (l.kind === "rectangle" && l.image) out.push(`${l.name} shines without its image`);
    if (l.kind === "profile") out.push(`${l.name} is left out: it shines by a photometric profile`);
  }
  if (lights.length > VEIL_LIGHTS - 1) out.push(`of ${lights.length} lights the first ${VEIL_LIGHTS - 1} are shown`);
  return out;
}
