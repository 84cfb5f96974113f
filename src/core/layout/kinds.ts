/**
 * Codes of every kind that the kernel tells apart, in the subset that TypeScript and AssemblyScript share: writers, kernel and
 * shader read the same names. codes.ts says which words of a document they stand for.
 */

// lights
export const LIGHT_POINT: i32 = 0;
export const LIGHT_SPOT: i32 = 1;
export const LIGHT_RECTANGLE: i32 = 2;
export const LIGHT_DISK: i32 = 3;
export const LIGHT_SPHERE: i32 = 4;
export const LIGHT_TUBE: i32 = 5;
export const LIGHT_PROFILE: i32 = 6;
/** A disk at infinity: the moon. */
export const LIGHT_DISTANT: i32 = 7;

// regions of media
export const REGION_EVERYWHERE: i32 = 0;
export const REGION_BOX: i32 = 1;
export const REGION_SPHERE: i32 = 2;
export const REGION_CYLINDER: i32 = 3;
export const REGION_CONE: i32 = 4;
/** Everything below a level. */
export const REGION_LAYER: i32 = 5;
export const REGION_MESH: i32 = 6;

// phase functions
export const PHASE_HENYEY_GREENSTEIN: i32 = 0;
export const PHASE_TWO_LOBE: i32 = 1;
export const PHASE_RAYLEIGH: i32 = 2;
/** Water droplets: the fit of Jendersie and d'Eon 2023. */
export const PHASE_DROPLETS: i32 = 3;

// height falloff
export const HEIGHT_NONE: i32 = 0;
export const HEIGHT_EXPONENTIAL: i32 = 1;
export const HEIGHT_LINEAR: i32 = 2;
export const HEIGHT_QUADRATIC: i32 = 3;
export const HEIGHT_INVERSE_QUADRATIC: i32 = 4;

// characters of noise
export const NOISE_NONE: i32 = 0;
export const NOISE_SOFT: i32 = 1;
export const NOISE_BILLOW: i32 = 2;
export const NOISE_RIDGE: i32 = 3;
export const NOISE_CELLS: i32 = 4;
export const NOISE_WISPS: i32 = 5;
export const NOISE_LAYERS: i32 = 6;

// levels of light transport
/** Single scattering. */
export const LEVEL_SHAFTS: i32 = 0;
/** Multiple scattering. */
export const LEVEL_FULL: i32 = 1;
/** Analytic air without shadows in it. */
export const LEVEL_VEIL: i32 = 2;

// estimators of heterogeneous media
export const ESTIMATOR_TRACKING: i32 = 0;
export const ESTIMATOR_STEPPING: i32 = 1;

export const CAMERA_PERSPECTIVE: i32 = 0;
export const CAMERA_ORTHOGRAPHIC: i32 = 1;

// pixel filters
export const FILTER_BOX: i32 = 0;
export const FILTER_TENT: i32 = 1;

// what a material's alpha does
export const ALPHA_OPAQUE: i32 = 0;
export const ALPHA_MASK: i32 = 1;
export const ALPHA_BLEND: i32 = 2;

// what lies past the edges of a texture
export const WRAP_REPEAT: i32 = 0;
export const WRAP_MIRROR: i32 = 1;
export const WRAP_CLAMP: i32 = 2;

// kinds of rays, by which media are seen
export const RAY_CAMERA: i32 = 0;
/** A camera ray that meets nothing. */
export const RAY_SKY: i32 = 1;
export const RAY_REFLECTION: i32 = 2;
export const RAY_REFRACTION: i32 = 3;
export const RAY_INDIRECT: i32 = 4;
export const RAY_SHADOW: i32 = 5;
