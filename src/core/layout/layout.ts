/**
 * The buffer layout, stated once. Compiled by TypeScript (writers, readers) and by
 * AssemblyScript (kernel). All positions are bytes unless a name says otherwise.
 *
 * Memory map of one kernel memory:
 *   0                  static data of the kernel itself
 *   PARAMS             f64[PARAM_COUNT]   everything an edit changes without rebuilding geometry
 *   MEDIA              f64[MAX_MEDIA * MEDIUM_WORDS]
 *   CONTROL            i32[CONTROL_COUNT] atomics shared by all workers
 *   SCRATCH            one block of SCRATCH_STRIDE per worker (traversal stack)
 *   SCENE              BVH nodes, leaves, triangle attributes, materials, then tables that change with an edit
 *                      (lights, coarse grids of media), then the film
 */
export const PARAMS: i32 = 65536;
export const PARAM_COUNT: i32 = 512;
export const MEDIA: i32 = 69632;
export const MAX_MEDIA: i32 = 32;
export const MEDIUM_WORDS: i32 = 128;
export const CONTROL: i32 = 106496;
export const CONTROL_COUNT: i32 = 64;
export const SCRATCH: i32 = 131072;
export const SCRATCH_STRIDE: i32 = 131072;
export const MAX_WORKERS: i32 = 64;
export const SCENE: i32 = 8519680;

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
/** Bytes of a film pixel (see PIXEL_FLOATS), light groups kept apart (0: none), 1 where mattes are kept. */
export const P_STRIDE: i32 = 14;
export const P_GROUPS: i32 = 17;
export const P_MATTES: i32 = 19;
/** Addresses of texture coordinates and texture records (0 without textures). */
export const P_UVS: i32 = 15;
export const P_TEXTURES: i32 = 16;
/** Child code of the BVH root (see NODE_SIZE). */
export const P_ROOT: i32 = 7;
/** Places of shared triangles: address of their records (PLACE_SIZE). */
export const P_PLACES: i32 = 168;
export const P_SEED: i32 = 9;
/** 0 = shafts, 1 = full, 2 = veil. */
export const P_LEVEL: i32 = 10;
export const P_AIR_BOUNCES: i32 = 11;
export const P_SURFACE_BOUNCES: i32 = 12;
/** Points of each camera ray asked for scattered light, per sample. */
export const P_AIR_SAMPLES: i32 = 18;
/** Sum of PASS_* bits that the kernel must fill. */
export const P_PASSES: i32 = 13;

// camera: origin, right, up, forward (unit vectors), kind (0 perspective, 1 orthographic), half extents
export const P_CAM_ORIGIN: i32 = 20;
export const P_CAM_RIGHT: i32 = 23;
export const P_CAM_UP: i32 = 26;
export const P_CAM_FORWARD: i32 = 29;
export const P_CAM_KIND: i32 = 32;
/** Tangent of the half angle (perspective) or half size in metres (orthographic). */
export const P_CAM_HALF_X: i32 = 33;
export const P_CAM_HALF_Y: i32 = 34;

/** Lens opening: radius (m, 0 for a pinhole), focus distance; 1 for the tent filter. */
export const P_CAM_RADIUS: i32 = 35;
export const P_CAM_FOCUS: i32 = 36;
export const P_FILTER: i32 = 37;
/** Adaptive sampling: threshold (0 off), least samples, luminance that counts as dark; most luminance of a sample (0 no limit). */
export const P_NOISE_THRESHOLD: i32 = 142;
export const P_LEAST_SAMPLES: i32 = 143;
export const P_DARK: i32 = 144;
export const P_OUTLIER: i32 = 145;

/** Level veil: height of the ground below the air, m; mean luminance of the sky above, per band. */
export const P_GROUND: i32 = 146;
export const P_SKY_MEAN: i32 = 147;

/** Light groups of sun, sky, glowing media, emissive surfaces. */
export const P_SUN_GROUP: i32 = 150;
export const P_SKY_GROUP: i32 = 151;
export const P_GLOW_GROUP: i32 = 152;
export const P_SHINE_GROUP: i32 = 153;

/** Map of how far down sunlight comes, and the tint of panes above (4 f32 a texel): its address (0 none), unit vectors across, low corner, texels a metre, where rays begin. */
export const P_SUN_MAP: i32 = 154;
export const P_SUN_MAP_U: i32 = 155;
export const P_SUN_MAP_V: i32 = 158;
export const P_SUN_MAP_LOW: i32 = 161;
export const P_SUN_MAP_SCALE: i32 = 163;
export const P_SUN_MAP_TOP: i32 = 164;
export const SUN_MAP_SIDE: i32 = 384;

// media in all
export const P_MEDIA: i32 = 40;
/** Address of the local lights. */
export const P_LIGHTS: i32 = 41;
/** 0 unbiased tracking, 1 stepping. */
export const P_ESTIMATOR: i32 = 75;
export const P_MAX_STEPS: i32 = 77;

// --- one medium (f64 index)
/** 0 everywhere, 1 box, 2 sphere, 3 cylinder, 4 cone, 5 layer, 6 mesh */
export const M_REGION: i32 = 0;
/** 1 where a factor without closed form (break-up, soft edge, start) multiplies the height profile. */
export const M_FACTOR: i32 = 1;
export const M_SIGMA_S: i32 = 2;
/** Extinction, not absorption. */
export const M_SIGMA_T: i32 = 5;
/** Luminance gained per metre at full density, cd/m²/m. */
export const M_EMISSION: i32 = 8;
/** 0 one lobe, 1 two lobes, 2 molecular, 3 droplets; then up to four numbers of the model. */
export const M_PHASE: i32 = 11;
export const M_PHASE_1: i32 = 12;
export const M_PHASE_2: i32 = 13;
export const M_PHASE_3: i32 = 14;
export const M_PHASE_4: i32 = 15;
/** Region: centre, the three rows of the world-to-region rotation, half sizes (radius in x and z of round ones). */
export const M_CENTRE: i32 = 16;
export const M_ROWS: i32 = 19;
export const M_HALF: i32 = 28;
/** Layer: unit up; its level is in M_HALF. */
export const M_LAYER_UP: i32 = 31;
export const M_EDGE: i32 = 34;
/** Mesh: child code of its own tree's root. */
export const M_ROOT: i32 = 35;
/** Height: profile (optics/profile), level, scale, unit up. */
export const M_PROFILE: i32 = 36;
export const M_LEVEL: i32 = 37;
export const M_SCALE: i32 = 38;
export const M_UP: i32 = 39;
/** Break-up: character (0 none, 1 soft, 2 billow, 3 ridge, 4 cells, 5 wisps), 1/m per axis, … */
export const M_NOISE: i32 = 42;
export const M_NOISE_FREQ: i32 = 43;
export const M_NOISE_OCTAVES: i32 = 46;
export const M_NOISE_ROUGHNESS: i32 = 47;
export const M_NOISE_LACUNARITY: i32 = 48;
export const M_NOISE_LOW: i32 = 49;
export const M_NOISE_HIGH: i32 = 50;
export const M_NOISE_KNEE: i32 = 51;
export const M_NOISE_EVEN: i32 = 52;
export const M_NOISE_INVERT: i32 = 53;
/** Drift so far, m. */
export const M_NOISE_OFFSET: i32 = 54;
export const M_NOISE_CHANGE: i32 = 57;
export const M_NOISE_SEED: i32 = 58;
/** 1 when fixed to the region. */
export const M_NOISE_LOCAL: i32 = 59;
/** Start: 1 when on, distance from the lens, fade-in length, least share, lens position. */
export const M_START: i32 = 60;
export const M_START_DISTANCE: i32 = 61;
export const M_START_FADE: i32 = 62;
export const M_START_LEAST: i32 = 63;
export const M_START_LENS: i32 = 64;
/** Shares by kind of ray (RAY_*). */
export const M_SEEN: i32 = 67;
/** Step of the stepping estimator, m. */
export const M_STEP: i32 = 74;
/** Grid of densities under a curve: address of a record (0 none), of which N_POINTS and N_CURVE are read. */
export const M_VOLUME_CURVE: i32 = 75;
/** Share of scattering that a channel leaves: address of a record (0 none), see T_…. */
export const M_TINT: i32 = 76;
/** Coarse grid of upper bounds: address (0 none), cells per axis, low corner and 1 / cell size in its frame; 1 when that is the region's. */
export const M_GRID: i32 = 80;
export const M_GRID_CELLS: i32 = 81;
export const M_GRID_LOW: i32 = 84;
export const M_GRID_SCALE: i32 = 87;
export const M_GRID_LOCAL: i32 = 90;
/** Bit of this medium in the masks of lights. */
export const M_BIT: i32 = 91;
/** Grid of densities: metres to its index coordinates (3×4), its address (0 none), value that counts as empty, 1 / what is full above it. */
export const M_VOLUME_ROWS: i32 = 92;
export const M_VOLUME: i32 = 104;
export const M_VOLUME_LOW: i32 = 105;
export const M_VOLUME_SCALE: i32 = 106;
/** Grid of temperatures: its address (0 none), kelvin a unit, kelvin at 0, the kelvin that M_EMISSION is for, table of black bodies, rows. */
export const M_HEAT: i32 = 107;
export const M_HEAT_SCALE: i32 = 108;
export const M_HEAT_OFFSET: i32 = 109;
export const M_HEAT_TOP: i32 = 110;
export const M_HEAT_TABLE: i32 = 111;
export const M_HEAT_ROWS: i32 = 112;
/** Nearness: address of a record (0 none), see N_…; the same of the region's own mesh, for its edge. */
export const M_NEAR: i32 = 124;
export const M_FIELD: i32 = 125;
/** Record of a tint (f64 index): channels (1: a ramp, 3: the colour itself), address of each, their rows, value at the ramp's beginning, 1 / its length, points, then place and colour of each. */
export const T_CHANNELS: i32 = 0;
export const T_GRIDS: i32 = 1;
export const T_LOW: i32 = 4;
export const T_SCALE: i32 = 5;
export const T_POINTS: i32 = 6;
export const T_ROWS: i32 = 8;
export const T_COLOURS: i32 = 44;
export const TINT_WORDS: i32 = 76;
/** Record of a distance grid (f64 index): its address, low corner, 1 / cell size, points of the curve, then pairs of metres and share. */
export const N_VOLUME: i32 = 0;
export const N_LOW: i32 = 1;
export const N_SCALE: i32 = 4;
export const N_POINTS: i32 = 5;
export const N_CURVE: i32 = 6;
/** Table of black bodies: kelvin from one entry to the next, and how many; each three f64, luminance per band. */
export const HEAT_STEP: i32 = 25;
export const HEAT_ENTRIES: i32 = 480;

// --- kinds of rays, for the shares of media
export const RAY_CAMERA: i32 = 0;
/** A camera ray that meets nothing. */
export const RAY_SKY: i32 = 1;
export const RAY_REFLECTION: i32 = 2;
export const RAY_REFRACTION: i32 = 3;
export const RAY_INDIRECT: i32 = 4;
export const RAY_SHADOW: i32 = 5;

// sun: irradiance per band on a plane facing it (0 = off), unit direction towards it,
// cosine of the angular radius, 1 when the disk shows to the camera
export const P_SUN_E: i32 = 90;
export const P_SUN_DIR: i32 = 93;
export const P_SUN_COS: i32 = 96;
export const P_SUN_DISK: i32 = 97;
// shares of the sun to air and surfaces, and the bits of the media it lights
export const P_SUN_AIR: i32 = 98;
export const P_SUN_SURFACES: i32 = 99;
// sky: radiance at the zenith and at (and below) the horizon
export const P_SKY_ZENITH: i32 = 100;
export const P_SKY_HORIZON: i32 = 103;
export const P_SUN_MASK: i32 = 106;
export const P_SKY_AIR: i32 = 107;
export const P_SKY_SURFACES: i32 = 108;
/** Local and distant lights (records), those of them that are at infinity (they come first). */
export const P_LIGHT_COUNT: i32 = 110;
export const P_DISTANT_COUNT: i32 = 111;
/** Lights that are weighed one by one: distant ones, then those with air samples of their own; the tree holds the others. */
export const P_LISTED_COUNT: i32 = 165;
/** Lights from the first that may have air samples of their own (0: none has), and the sun's. */
export const P_OWN_COUNT: i32 = 166;
export const P_SUN_OWN: i32 = 167;
/** Emissive triangles: how many, address of their records. */
export const P_GLOW_COUNT: i32 = 112;
export const P_GLOW: i32 = 113;
/** Tree over local lights and emissive triangles: its address (0: lights are few, each is weighed). */
export const P_TREE: i32 = 114;
/**
 * Sky from a table: address of RGB f32 rows (0: the gradient), columns, rows, turn (radians), mean luminance;
 * address of the cumulative distribution (f32: rows + 1 of the rows, then columns + 1 of each row), density scale.
 */
export const P_ENV: i32 = 116;
export const P_ENV_WIDTH: i32 = 117;
export const P_ENV_HEIGHT: i32 = 118;
export const P_ENV_TURN: i32 = 119;
export const P_ENV_POWER: i32 = 120;
export const P_ENV_CDF: i32 = 121;
/** Stars: count over the sphere (0 none), angular radius, luminance of a bright one, hue variation, seed. */
export const P_STARS: i32 = 124;
export const P_STARS_SIZE: i32 = 125;
export const P_STARS_LUMINANCE: i32 = 126;
export const P_STARS_HUE: i32 = 127;
export const P_STARS_SEED: i32 = 128;
/** Gobo before the sun: as L_GOBO … of a light, with two unit vectors across. */
export const P_SUN_GOBO: i32 = 130;
export const P_SUN_GOBO_WIDTH: i32 = 131;
export const P_SUN_GOBO_HEIGHT: i32 = 132;
export const P_SUN_GOBO_SCALE: i32 = 133;
export const P_SUN_GOBO_U: i32 = 134;
export const P_SUN_GOBO_V: i32 = 137;
/** Media that glow and are sampled as lights: how many. */
export const P_GLOWING_MEDIA: i32 = 140;

// --- one light (f64 index)
/** 0 point, 1 spot, 2 rectangle, 3 disk, 4 sphere, 5 tube, 6 profile, 7 distant disk (moon) */
export const L_KIND: i32 = 0;
export const L_POSITION: i32 = 1;
/** Unit vector it shines along (tube: lies along; distant: towards it). */
export const L_AXIS: i32 = 4;
/** Two unit vectors across. */
export const L_U: i32 = 7;
export const L_V: i32 = 10;
/** Per band: cd on the axis; cd/m² on the axis of emitters with an area; lux of distant ones. */
export const L_INTENSITY: i32 = 13;
export const L_COS_INNER: i32 = 16;
export const L_COS_OUTER: i32 = 17;
/** Half sizes of a rectangle; radius; half length of a tube in the second. */
export const L_SIZE: i32 = 18;
export const L_AREA: i32 = 20;
/** Exponent n of the beam: luminance falls with cosⁿ from the axis. */
export const L_BEAM: i32 = 21;
export const L_AIR: i32 = 22;
export const L_SURFACES: i32 = 23;
export const L_MASK: i32 = 24;
/** Fade: 1 when on, then near from, near to, far from, far to. */
export const L_FADE: i32 = 25;
export const L_BOTH_SIDES: i32 = 30;
/** Gobo: address of RGB f32 (0 none), columns, rows, and what brings the place in its plane to [-1, 1]; its distance. */
export const L_GOBO: i32 = 31;
export const L_GOBO_WIDTH: i32 = 32;
export const L_GOBO_HEIGHT: i32 = 33;
export const L_GOBO_SCALE: i32 = 34;
export const L_GOBO_DISTANCE: i32 = 35;
/** Photometric profile: address of f32 candela over LP_ROWS × LP_COLUMNS of angles from and around the axis. */
export const L_PROFILE: i32 = 36;
/** Image on the emitter: address of RGB f32, columns, rows. */
export const L_IMAGE: i32 = 37;
export const L_IMAGE_WIDTH: i32 = 38;
export const L_IMAGE_HEIGHT: i32 = 39;
/** For weighing: intensity as a distant point would have it, summed over bands; radius of its bounds. */
export const L_WEIGHT: i32 = 40;
export const L_REACH: i32 = 41;
export const L_GROUP: i32 = 42;
/** Points of a camera ray's air at which it is asked by itself; 0 where it is chosen among the others. */
export const L_OWN: i32 = 43;
export const LIGHT_WORDS: i32 = 48;
export const LP_ROWS: i32 = 181;
export const LP_COLUMNS: i32 = 360;

/**
 * One emissive triangle (f64 index): first corner, two edges, cd/m² per band (the mean over it, where pictures or holes make it differ
 * from place to place), area, triangle.
 */
export const G_CORNER: i32 = 0;
export const G_EDGE1: i32 = 3;
export const G_EDGE2: i32 = 6;
export const G_LUMINANCE: i32 = 9;
export const G_AREA: i32 = 12;
export const G_TRIANGLE: i32 = 13;
/** Its leaf in the tree. */
export const G_LEAF: i32 = 14;
/** 1 where what it gives must be looked up by place. */
export const G_LOOK: i32 = 15;
export const GLOW_WORDS: i32 = 16;

/** One node of the light tree (f64 index): centre, radius, weight, first child (-1: a leaf), second child or light, parent. */
export const T_CENTRE: i32 = 0;
export const T_RADIUS: i32 = 3;
export const T_WEIGHT: i32 = 4;
export const T_FIRST: i32 = 5;
export const T_SECOND: i32 = 6;
export const T_PARENT: i32 = 7;
export const TREE_WORDS: i32 = 8;
/** Fewer local lights than this are weighed one by one. */
export const FEW_LIGHTS: i32 = 9;
/** Lights that may have air samples of their own: each is asked along every camera ray. */
export const MOST_OWN: i32 = 32;

// --- passes (bits)
export const PASS_AIR: i32 = 1;
export const PASS_SURFACES: i32 = 2;
export const PASS_CLEAR: i32 = 4;

/**
 * BVH node, 224 bytes, of two groups of four children: minx[4] miny[4] minz[4] maxx[4] maxy[4] maxz[4] (f32), child[4] (i32), twice.
 * Children lie in the slot of their octant of the node where they can (bit 0, 1, 2 of the slot: upper half in x, y, z; the group is
 * bit 2), so that slot XOR octant of a ray's direction is about the order in which it meets them.
 * Child code: >= 0 interior node, its place / NODE_UNIT; < 0 leaf, ~code = first block * LEAF_FIRST + its lanes (bits) * LEAF_LANES +
 * how many blocks; an unused slot has an inverted box (never hit). Blocks may be shared: other lanes than the leaf's belong to others.
 * A leaf without blocks is a place of shared triangles: its number stands in place of the first block.
 */
export const NODE_SIZE: i32 = 224;
export const NODE_UNIT: i32 = 32;
export const NODE_GROUP: i32 = 112;
export const NODE_CHILDREN: i32 = 96;
export const LEAF_BLOCKS: i32 = 7;
export const LEAF_LANES: i32 = 8;
export const LEAF_FIRST: i32 = 128;
/**
 * Leaf block, 224 bytes, of four pairs of triangles with corners a b c and a c d: ax[4] ay[4] az[4], b - a, c - a, d - a (f32 each),
 * then the triangles' indices (i32[4], i32[4], -1 unused), with the corner that is a in the bits from TURN_BIT on.
 */
export const BLOCK_SIZE: i32 = 224;
export const BLOCK_INDEX: i32 = 192;
export const BLOCK_PARTNER: i32 = 208;
export const TURN_BIT: i32 = 28;
export const TRIANGLE_BITS: i32 = 0x0fffffff;
/**
 * Triangle attributes, 16 bytes: the normals of its corners, folded from the octahedron (two i16 each; FLAT_NORMAL for that of the
 * face), then object << 20 | material.
 */
export const TRIANGLE_SIZE: i32 = 16;
export const TRIANGLE_PART: i32 = 12;
export const PART_BITS: i32 = 20;
export const FLAT_NORMAL: i32 = 0x7fff8000;
/**
 * Place of shared triangles, 112 bytes: what brings directions of the scene into their frame (f32, row-major 3×4 of which the linear part
 * counts) and them into the scene (the same),
 * then i32 code of their tree's root, object, 1 where the second mirrors.
 */
export const PLACE_SIZE: i32 = 112;
export const PLACE_FORWARD: i32 = 48;
export const PLACE_ROOT: i32 = 96;
export const PLACE_OBJECT: i32 = 100;
export const PLACE_MIRRORS: i32 = 104;
/** Texture coordinates, 24 bytes a triangle: u, v of its three corners (f32). */
export const UV_SIZE: i32 = 24;
/** Set in a block's triangle index where a hit must be looked at: cut-outs, and panes that light passes straight. */
export const LOOK_AT: i32 = 0x40000000;

/** Material (f32 index unless said): base colour rgb, metalness, emission rgb (cd/m²), roughness, specular, diffuse transmission. */
export const MATERIAL_SIZE: i32 = 256;
export const MT_BASE: i32 = 0;
export const MT_METAL: i32 = 3;
export const MT_EMISSION: i32 = 4;
export const MT_ROUGHNESS: i32 = 7;
export const MT_SPECULAR: i32 = 8;
export const MT_THROUGH: i32 = 9;
export const MT_OPACITY: i32 = 10;
/** 0 opaque, 1 cut out below the threshold, 2 blended. */
export const MT_ALPHA_MODE: i32 = 11;
export const MT_CUTOFF: i32 = 12;
/** Share of light that is refracted or passed instead of scattered by the body; 1 when solid, 0 when a thin pane. */
export const MT_TRANSMISSION: i32 = 13;
export const MT_SOLID: i32 = 14;
export const MT_IOR: i32 = 15;
/** Absorption of a solid's inside, 1/m. */
export const MT_ABSORPTION: i32 = 16;
export const MT_NORMAL_SCALE: i32 = 19;
/** 1 where the lens sees black. */
export const MT_HOLDOUT: i32 = 60;
/** Texture numbers (-1 none): base colour, metalness and roughness, normal, emission, transmission; each with six of a transform. */
export const MT_TEXTURES: i32 = 20;
export const TEXTURE_WORDS: i32 = 7;
export const T_BASE: i32 = 0;
export const T_ROUGH: i32 = 1;
export const T_NORMAL: i32 = 2;
export const T_EMISSION: i32 = 3;
export const T_TRANSMISSION: i32 = 4;

/** Texture record, 32 bytes of i32: address of RGBA bytes, width, height, wrap along u and v (0 repeat, 1 mirror, 2 clamp), 1 when sRGB, 1 when nearest. */
export const TEXTURE_SIZE: i32 = 32;

/** Film pixel: f32 sums over samples. Behind these PIXEL_FLOATS lie mattes, then light groups, where a document asks for them. */
export const F_AIR: i32 = 0;
export const F_SURFACES: i32 = 3;
export const F_TRANSMITTANCE: i32 = 6;
export const F_DEPTH: i32 = 9;
export const F_HITS: i32 = 10;
export const F_LUMINANCE2: i32 = 11;
export const F_COUNT: i32 = 12;
export const F_CLEAR: i32 = 13;
export const F_CLEAR_COUNT: i32 = 16;
/** Of samples that hit: distance along the ray (m), height of the place (m), normal, base colour. */
export const F_DISTANCE: i32 = 17;
export const F_HEIGHT: i32 = 18;
export const F_NORMAL: i32 = 19;
export const F_ALBEDO: i32 = 22;
/** The part of air that the media emit themselves. */
export const F_GLOW: i32 = 25;
/** Luminance² of the air alone. */
export const F_AIR_LUMINANCE2: i32 = 28;
/** Rays traced. */
export const F_RAYS: i32 = 29;
export const PIXEL_FLOATS: i32 = 32;
/** Mattes: slots of objects, then of materials; each a number + 1 and how many samples met it. */
export const MATTE_SLOTS: i32 = 6;
export const MATTE_FLOATS: i32 = 24;
/** One light group: air, surfaces, rays sent towards its lights. */
export const GROUP_FLOATS: i32 = 7;
export const MOST_GROUPS: i32 = 64;
