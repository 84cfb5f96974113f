/**
 * Thresholds that depend on how exact the arithmetic is: geometry in single precision, transport in double. A back end in single
 * precision throughout has a file of its own with the same names.
 */

// --- geometry, whose rays and triangles are single precision
/** Distance of what is met nowhere. */
export const FAR: f64 = 1e30;
/** Distance that counts as endless where its square or a sum is taken. */
export const ENDLESS: f64 = 1e15;
/** Components of a direction are moved this far from zero before they are divided by. */
export const MIN_COMPONENT: f32 = 1e-18;
/** Factor on the far side of a slab, so that a ray through a shared face is never lost. */
export const SLAB_MARGIN: f32 = 1.0000003;
/** Position error as a share of a place's largest coordinate. */
export const POSITION_ERROR: f64 = 1e-6;
/** Position error of a hit as a share of its distance, and of the edges of its triangle. */
export const HIT_ERROR: f64 = 5e-7;
export const EDGE_ERROR: f64 = 1.5e-7;
/** Share of the way to a light that a shadow ray goes: it stops short of the emitter. */
export const SHADOW_REACH: f64 = 0.99999;
/** Crossings of a closed mesh nearer to each other than this (m and share) are one. */
export const SAME_CROSSING: f64 = 1e-5;
/** Lengths of normals and determinants below which a triangle has none. */
export const MIN_NORMAL: f64 = 1e-9;
export const MIN_DETERMINANT: f64 = 1e-20;
/** Cosine from which a shading normal faces away. */
export const MIN_FACING: f64 = 1e-3;

// --- directions and lengths in double precision
/** A component of a direction below this is none: the ray runs along. */
export const PARALLEL: f64 = 1e-12;
/** Coefficients of a quadratic along a ray, below which it has no such term. */
export const MIN_QUADRATIC: f64 = 1e-18;
export const MIN_LINEAR: f64 = 1e-15;
/** A double cone is nearly a cylinder or a plane along the ray. */
export const MIN_CONE: f64 = 1e-6;
/** Squared lengths, lengths, cosines and areas that may be divided by. */
export const MIN_LENGTH2: f64 = 1e-18;
export const MIN_LENGTH: f64 = 1e-9;
export const MIN_COSINE: f64 = 1e-6;
export const MIN_SINE2: f64 = 1e-12;
export const MIN_AREA: f64 = 1e-30;
/** Differences of cosines, thresholds and the like that may be divided by. */
export const MIN_SPAN: f64 = 1e-9;
/** Gap between a ray and a light, m and m². */
export const MIN_GAP: f64 = 1e-5;
export const MIN_GAP2: f64 = 1e-10;

// --- transport
/** Sum of squares from which a film can hold no more: single precision ends soon after. */
export const FULL_SUM: f64 = 3e38;
/** Optical depth below which exponentials are taken as straight. */
export const THIN: f64 = 1e-9;
/** Optical depth and metres of full density past which nothing is added. */
export const MAX_DEPTH: f64 = 1e9;
export const MAX_COLUMN: f64 = 1e12;
/** Coefficients, 1/m, and mean free paths that may be divided by. */
export const MIN_EXTINCTION: f64 = 1e-12;
/** Light that is left, below which a ray is not followed. */
export const MIN_LEFT: f64 = 1e-12;
/** Logarithm of a change below which a mean is taken by its series. */
export const SERIES: f64 = 1e-3;
/** Smallest and largest share of a uniform number that tables are looked up with. */
export const MIN_UNIT: f64 = 1e-7;
export const MAX_UNIT: f64 = 0.9999999;
