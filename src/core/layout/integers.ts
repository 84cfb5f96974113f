/**
 * Which words of records are integers: counts, codes, flags, seeds, bit masks and byte offsets. They lie as 32 bits in the lower half of
 * their 8 bytes, so that a back end in single precision reads them exactly. Writers fill records with plain numbers and seal them last.
 */
import * as L from "./layout";

/** Places of integer words in each kind of record. */
export const INTEGER_WORDS = {
  parameters: [
    L.P_NODES, L.P_LEAVES, L.P_TRIANGLES, L.P_MATERIALS, L.P_FILM, L.P_WIDTH, L.P_FRAME_WIDTH, L.P_FRAME_HEIGHT, L.P_FRAME_X, L.P_FRAME_Y, L.P_ROOT, L.P_STRIDE, L.P_GROUP_COUNT,
    L.P_MATTES, L.P_UVS, L.P_UVS_SECOND, L.P_COLOURS, L.P_TEXTURES, L.P_INSTANCES, L.P_FACET_ALBEDO, L.P_GLASS_ALBEDO, L.P_SEED, L.P_LEVEL, L.P_AIR_BOUNCES, L.P_SURFACE_BOUNCES, L.P_AIR_SAMPLES,
    L.P_ESTIMATOR, L.P_MAX_STEPS, L.P_MIN_SAMPLES, L.P_CAM_KIND, L.P_FILTER, L.P_MEDIA, L.P_EMITTING_MEDIA, L.P_LIGHTS, L.P_LIGHT_COUNT,
    L.P_DISTANT_COUNT, L.P_LISTED_COUNT, L.P_OWN_COUNT, L.P_SUN_AIR_SAMPLES, L.P_EMISSIVE_COUNT, L.P_EMISSIVE, L.P_LIGHT_TREE, L.P_LIGHT_CELLS,
    L.P_LIGHT_CELLS_COUNT, L.P_LIGHT_CELLS_COUNT + 1, L.P_LIGHT_CELLS_COUNT + 2,
    L.P_SUN_GROUP, L.P_SKY_GROUP, L.P_MEDIUM_EMISSION_GROUP, L.P_SURFACE_EMISSION_GROUP, L.P_SUN_DISK, L.P_SUN_MASK, L.P_SUN_GOBO,
    L.P_SUN_GOBO_WIDTH, L.P_SUN_GOBO_HEIGHT, L.P_SUN_MAP, L.P_ENV, L.P_ENV_WIDTH, L.P_ENV_HEIGHT, L.P_ENV_CDF, L.P_STARS, L.P_STARS_SEED,
    L.P_PLATE, L.P_PLATE_WIDTH, L.P_PLATE_HEIGHT, L.P_PLATE_GROUP, L.P_PLATE_OBJECT, L.P_PLATE_ALONE, L.P_PLATE_MATERIAL, L.P_PLATE_MATTES, L.P_PLATE_HELD,
  ],
  medium: [
    L.M_REGION, L.M_FACTOR, L.M_PHASE, L.M_ROOT, L.M_HEIGHT, L.M_NOISE, L.M_NOISE_OCTAVES, L.M_NOISE_INVERT, L.M_NOISE_SEED,
    L.M_NOISE_LOCAL, L.M_START, L.M_BIT, L.M_VOLUME, L.M_VOLUME_CURVE, L.M_TINT, L.M_TEMPERATURE, L.M_BLACKBODY_TABLE, L.M_MAJORANT,
    L.M_MAJORANT_CELLS, L.M_MAJORANT_CELLS + 1, L.M_MAJORANT_CELLS + 2, L.M_MAJORANT_LOCAL, L.M_PROXIMITY, L.M_EDGE_DISTANCE,
  ],
  light: [
    L.L_KIND, L.L_BOTH_SIDES, L.L_MASK, L.L_FADE, L.L_GOBO, L.L_GOBO_WIDTH, L.L_GOBO_HEIGHT, L.L_PROFILE, L.L_IMAGE, L.L_IMAGE_WIDTH,
    L.L_IMAGE_HEIGHT, L.L_GROUP, L.L_AIR_SAMPLES, L.L_VISIBLE,
  ],
  emissive: [L.E_TRIANGLE, L.E_LEAF, L.E_VARIES],
  lightTree: [L.LT_FIRST, L.LT_SECOND, L.LT_PARENT],
  tint: [L.TINT_CHANNELS, L.TINT_GRIDS, L.TINT_GRIDS + 1, L.TINT_GRIDS + 2, L.TINT_POINTS],
  distance: [L.D_VOLUME, L.D_POINTS],
} as const; // prettier-ignore

export type RecordKind = keyof typeof INTEGER_WORDS;

/** Words of a record of each kind; of the parameters and of distance grids there is one. */
const WORDS: Record<RecordKind, number> = {
  parameters: L.PARAM_COUNT,
  medium: L.MEDIUM_WORDS,
  light: L.LIGHT_WORDS,
  emissive: L.EMISSIVE_WORDS,
  lightTree: L.LIGHT_TREE_WORDS,
  tint: L.TINT_WORDS,
  distance: L.D_WORDS,
};

/** Turns the integer words of records into 32 bits, in place. @returns the same records */
export function sealIntegers(records: Float64Array, kind: RecordKind): Float64Array {
  const bits = new Int32Array(records.buffer, records.byteOffset, 2 * records.length);
  for (let first = 0; first < records.length; first += WORDS[kind])
    for (const word of INTEGER_WORDS[kind]) {
      const at = first + word;
      if (at >= records.length) continue;
      // modulo 2³², so that offsets and masks of all 32 bits pass
      bits[2 * at] = records[at]! | 0;
      bits[2 * at + 1] = 0;
    }
  return records;
}

/** An integer parameter of a kernel memory, as an unsigned number. */
export const integerParameter = (memory: ArrayBufferLike, index: number): number => new Uint32Array(memory, L.PARAMS + 8 * index, 1)[0]!;

/** One integer word of sealed records, as an unsigned number. */
export function integerAt(records: Float64Array, at: number): number {
  return new Uint32Array(records.buffer, records.byteOffset + 8 * at, 1)[0]!;
}
