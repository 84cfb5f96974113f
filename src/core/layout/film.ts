/** Film pixels: places of their f32 sums over samples, and what a run is asked to fill. */

// bits of a run's work
export const PASS_AIR: i32 = 1;
export const PASS_SURFACES: i32 = 2;
export const PASS_CLEAR: i32 = 4;
/**
 * From this bit on: every how many pixels each way the air is sampled, a power of two, where others than all of them are (0: all). In
 * between it is joined to the surfaces (kernel/assembly/join.ts), which PASS_JOIN alone asks for.
 */
export const AIR_EVERY_SHIFT: i32 = 4;
export const PASS_JOIN: i32 = 8;

/** Sides of the blocks that adaptive sampling judges, as a power of two, and the bit that says that others judged those of a tile of 4 × 4. */
export const SETTLED_SHIFT: i32 = 3;
export const SETTLED_GIVEN: i32 = 1 << 16;

export const F_AIR: i32 = 0;
export const F_SURFACES: i32 = F_AIR + 3;
export const F_TRANSMITTANCE: i32 = F_SURFACES + 3;
export const F_DEPTH: i32 = F_TRANSMITTANCE + 3;
export const F_HITS: i32 = F_DEPTH + 1;
export const F_LUMINANCE2: i32 = F_HITS + 1;
export const F_COUNT: i32 = F_LUMINANCE2 + 1;
export const F_CLEAR: i32 = F_COUNT + 1;
export const F_CLEAR_COUNT: i32 = F_CLEAR + 3;
/** Of samples that hit: distance along the ray (m), the place (m), normal, base colour. */
export const F_DISTANCE: i32 = F_CLEAR_COUNT + 1;
export const F_POSITION: i32 = F_DISTANCE + 1;
export const F_NORMAL: i32 = F_POSITION + 3;
export const F_ALBEDO: i32 = F_NORMAL + 3;
/** The part of air that the media emit themselves. */
export const F_EMISSION: i32 = F_ALBEDO + 3;
/** Luminance² of the air alone. */
export const F_AIR_LUMINANCE2: i32 = F_EMISSION + 3;
/** Rays traced. */
export const F_RAYS: i32 = F_AIR_LUMINANCE2 + 1;
/**
 * Every second sample of a pixel once more, without what is seen directly: with what is left of the whole sums these are two
 * independent halves, from whose difference a clean-up knows the noise.
 */
export const F_AIR_ODD: i32 = F_RAYS + 1;
export const F_SURFACES_ODD: i32 = F_AIR_ODD + 3;
/** The part of surfaces that the lens sees directly: stars, disks of sun and moon, surfaces that emit. */
export const F_SEEN: i32 = F_SURFACES_ODD + 3;
export const F_CLEAR_ODD: i32 = F_SEEN + 3;
export const F_CLEAR_SEEN: i32 = F_CLEAR_ODD + 3;
/** Luminance² of surfaces alone, where the air is joined to them. */
export const F_SURFACES_LUMINANCE2: i32 = F_CLEAR_SEEN + 3;
/** Behind these lie mattes, then light groups, where a document asks for them. A multiple of four. */
export const PIXEL_FLOATS: i32 = (F_SURFACES_LUMINANCE2 + 1 + 3) & ~3;

/**
 * Mattes: slots of objects, then of materials, then of media; each a number + 1 and how many samples met it, of media the share of
 * light that they keep from the lens.
 */
export const MATTE_SLOTS: i32 = 6;
export const MATTE_FLOATS: i32 = 3 * 2 * MATTE_SLOTS;
/** One light group: air, surfaces, the part of surfaces that the lens sees directly, rays sent towards its lights. */
export const G_AIR: i32 = 0;
export const G_SURFACES: i32 = G_AIR + 3;
export const G_SEEN: i32 = G_SURFACES + 3;
export const G_RAYS: i32 = G_SEEN + 3;
export const GROUP_FLOATS: i32 = G_RAYS + 1;
/**
 * Behind the light groups of a film whose air is joined: the air as it is sampled, sums as those of a pixel, then that of each light group.
 * The pixel's own sums are what it shows.
 */
export const R_AIR: i32 = 0;
export const R_EMISSION: i32 = R_AIR + 3;
export const R_AIR_ODD: i32 = R_EMISSION + 3;
export const R_AIR_LUMINANCE2: i32 = R_AIR_ODD + 3;
export const R_GROUPS: i32 = R_AIR_LUMINANCE2 + 1;
export const SAMPLED_GROUP_FLOATS: i32 = 3;
