/**
 * The buffer layout, stated once. Compiled by TypeScript (writers, readers) and by
 * AssemblyScript (kernel). All positions are bytes unless a name says otherwise.
 *
 * Memory map of one kernel memory:
 *   0                  static data of the kernel itself
 *   PARAMS             f64[PARAM_COUNT]   everything an edit changes without rebuilding geometry
 *   LIGHTS             f64[MAX_LIGHTS * LIGHT_STRIDE]
 *   CONTROL            i32[CONTROL_COUNT] atomics shared by all workers
 *   SCRATCH            one block of SCRATCH_STRIDE per worker (traversal stack)
 *   SCENE              BVH nodes, leaves, triangle attributes, materials, then the film
 */
export const PARAMS: i32 = 65536;
export const PARAM_COUNT: i32 = 512;
export const LIGHTS: i32 = 69632;
export const MAX_LIGHTS: i32 = 64;
export const LIGHT_STRIDE: i32 = 16;
export const CONTROL: i32 = 81920;
export const CONTROL_COUNT: i32 = 64;
export const SCRATCH: i32 = 131072;
export const SCRATCH_STRIDE: i32 = 16384;
export const MAX_WORKERS: i32 = 64;
export const SCENE: i32 = 2097152;

// --- control words (i32 index)
/** Number of the run now allowed to work; a kernel whose run differs stops within a row. */
export const CTL_RUN: i32 = 0;
/** Next task of the current run. */
export const CTL_NEXT: i32 = 1;
/** 1 while workers shall take no further task. */
export const CTL_PAUSE: i32 = 2;

// --- parameters (f64 index)
export const P_NODES: i32 = 0;
export const P_LEAVES: i32 = 1;
export const P_TRIANGLES: i32 = 2;
export const P_MATERIALS: i32 = 3;
export const P_FILM: i32 = 4;
export const P_WIDTH: i32 = 5;
export const P_HEIGHT: i32 = 6;
/** Child code of the BVH root (see NODE_SIZE). */
export const P_ROOT: i32 = 7;
/** Absolute part of the ray offset, metres. */
export const P_EPSILON: i32 = 8;
export const P_SEED: i32 = 9;
/** 0 = shafts, 1 = full. */
export const P_LEVEL: i32 = 10;
export const P_AIR_BOUNCES: i32 = 11;
export const P_SURFACE_BOUNCES: i32 = 12;
/** Points of each camera ray asked for scattered light, per sample. */
export const P_AIR_SAMPLES: i32 = 18;
/** Sum of PASS_* bits that the kernel must fill. */
export const P_PASSES: i32 = 13;
/** Crop in pixels: first column, first row, end column, end row. */
export const P_CROP: i32 = 14;

// camera: origin, right, up, forward (unit vectors), kind (0 perspective, 1 orthographic), half extents
export const P_CAM_ORIGIN: i32 = 20;
export const P_CAM_RIGHT: i32 = 23;
export const P_CAM_UP: i32 = 26;
export const P_CAM_FORWARD: i32 = 29;
export const P_CAM_KIND: i32 = 32;
/** Tangent of the half angle (perspective) or half size in metres (orthographic). */
export const P_CAM_HALF_X: i32 = 33;
export const P_CAM_HALF_Y: i32 = 34;

// medium
export const P_MEDIUM: i32 = 40; // 0 none, 1 everywhere, 2 box
export const P_SIGMA_S: i32 = 41;
export const P_SIGMA_A: i32 = 44;
export const P_G: i32 = 47;
/** Box: centre, then the three rows of the world-to-box rotation, then half sizes. */
export const P_BOX_CENTRE: i32 = 48;
export const P_BOX_ROWS: i32 = 51;
export const P_BOX_HALF: i32 = 60;
/** Height falloff: 1 when on, level (m), scale height (m). */
export const P_HEIGHT_ON: i32 = 63;
export const P_HEIGHT_LEVEL: i32 = 64;
export const P_HEIGHT_SCALE: i32 = 65;
/** Noise: 1 when on, reciprocal size per axis (1/m), octaves, roughness, low, high, seed. */
export const P_NOISE_ON: i32 = 66;
export const P_NOISE_FREQ: i32 = 67;
export const P_NOISE_OCTAVES: i32 = 70;
export const P_NOISE_ROUGHNESS: i32 = 71;
export const P_NOISE_LOW: i32 = 72;
export const P_NOISE_HIGH: i32 = 73;
export const P_NOISE_SEED: i32 = 74;
/** 0 unbiased tracking, 1 stepping. */
export const P_ESTIMATOR: i32 = 75;
export const P_STEP: i32 = 76;
export const P_MAX_STEPS: i32 = 77;

// sun: irradiance per band on a plane facing it (0 = off), unit direction towards it,
// cosine of the angular radius, 1 when the disk shows to the camera
export const P_SUN_E: i32 = 90;
export const P_SUN_DIR: i32 = 93;
export const P_SUN_COS: i32 = 96;
export const P_SUN_DISK: i32 = 97;
// sky: radiance at the zenith and at (and below) the horizon
export const P_SKY_ZENITH: i32 = 100;
export const P_SKY_HORIZON: i32 = 103;
export const P_LIGHT_COUNT: i32 = 110;

// --- one local light (f64 index): kind, position, axis, intensity per band, cone cosines, radius²
export const L_KIND: i32 = 0; // 0 point, 1 spot
export const L_POSITION: i32 = 1;
export const L_AXIS: i32 = 4;
export const L_INTENSITY: i32 = 7;
export const L_COS_INNER: i32 = 10;
export const L_COS_OUTER: i32 = 11;

// --- passes (bits)
export const PASS_AIR: i32 = 1;
export const PASS_SURFACES: i32 = 2;
export const PASS_CLEAR: i32 = 4;

/**
 * BVH node, 128 bytes: minx[4] miny[4] minz[4] maxx[4] maxy[4] maxz[4] (f32), child[4] (i32), 16 spare.
 * Child code: >= 0 interior node; < 0 leaf, ~code = firstBlock * 8 + blockCount; an unused slot has
 * an inverted box (never hit).
 */
export const NODE_SIZE: i32 = 128;
export const NODE_CHILDREN: i32 = 96;
/** Leaf block, 160 bytes: v0x[4] v0y[4] v0z[4] e1x.. e2x.. (f32), triangle index[4] (i32, -1 unused). */
export const BLOCK_SIZE: i32 = 160;
export const BLOCK_INDEX: i32 = 144;
/** Triangle attributes, 48 bytes: three unit normals (f32 x9), material (i32), object (i32), spare. */
export const TRIANGLE_SIZE: i32 = 48;
export const TRIANGLE_MATERIAL: i32 = 36;
export const TRIANGLE_OBJECT: i32 = 40;
/**
 * Material, 64 bytes of f32: base colour rgb, metalness, emission rgb (cd/m²), roughness,
 * specular weight, diffuse transmission, spare.
 */
export const MATERIAL_SIZE: i32 = 64;

/**
 * Film pixel, 80 bytes of f32 sums over samples: air rgb, surfaces rgb, transmittance rgb,
 * depth of hits (m along the axis), hits, luminance², samples, clear rgb, clear samples, rays, spare.
 */
export const PIXEL_SIZE: i32 = 80;
export const F_AIR: i32 = 0;
export const F_SURFACES: i32 = 3;
export const F_TRANSMITTANCE: i32 = 6;
export const F_DEPTH: i32 = 9;
export const F_HITS: i32 = 10;
export const F_LUMINANCE2: i32 = 11;
export const F_COUNT: i32 = 12;
export const F_CLEAR: i32 = 13;
export const F_CLEAR_COUNT: i32 = 16;
export const PIXEL_FLOATS: i32 = 20;
