/** Parameters of a frame: places in the parameter block, 8 bytes each. Each follows the one before it by that one's size. */

// geometry and film
export const P_NODES: i32 = 0;
export const P_LEAVES: i32 = P_NODES + 1;
export const P_TRIANGLES: i32 = P_LEAVES + 1;
export const P_MATERIALS: i32 = P_TRIANGLES + 1;
export const P_FILM: i32 = P_MATERIALS + 1;
export const P_WIDTH: i32 = P_FILM + 1;
/** Pixels of the whole frame, and where the film's first pixel lies in it: a film may be a window of its frame. */
export const P_FRAME_WIDTH: i32 = P_WIDTH + 1;
export const P_FRAME_HEIGHT: i32 = P_FRAME_WIDTH + 1;
export const P_FRAME_X: i32 = P_FRAME_HEIGHT + 1;
export const P_FRAME_Y: i32 = P_FRAME_X + 1;
/** Child code of the BVH's root (see NODE_SIZE). */
export const P_ROOT: i32 = P_FRAME_Y + 1;
/** Bytes of a film pixel (see PIXEL_FLOATS), light groups kept apart (0: none), 1 where mattes are kept. */
export const P_STRIDE: i32 = P_ROOT + 1;
export const P_GROUP_COUNT: i32 = P_STRIDE + 1;
export const P_MATTES: i32 = P_GROUP_COUNT + 1;
/** Addresses of both sets of texture coordinates, of colours at corners, and of texture records (0 without). */
export const P_UVS: i32 = P_MATTES + 1;
export const P_UVS_SECOND: i32 = P_UVS + 1;
export const P_COLOURS: i32 = P_UVS_SECOND + 1;
export const P_TEXTURES: i32 = P_COLOURS + 1;
/** Address of the instances (INSTANCE_SIZE). */
export const P_INSTANCES: i32 = P_TEXTURES + 1;

/** Addresses of what microfacets give back in all (FACET_…), and of the pairs of tables of glass (0 without). */
export const P_FACET_ALBEDO: i32 = P_INSTANCES + 1;
export const P_GLASS_ALBEDO: i32 = P_FACET_ALBEDO + 1;

// sampling
export const P_SEED: i32 = P_GLASS_ALBEDO + 1;
/** LEVEL_… */
export const P_LEVEL: i32 = P_SEED + 1;
export const P_AIR_BOUNCES: i32 = P_LEVEL + 1;
export const P_SURFACE_BOUNCES: i32 = P_AIR_BOUNCES + 1;
/** Points of each camera ray at which scattered light is sampled, per sample. */
export const P_AIR_SAMPLES: i32 = P_SURFACE_BOUNCES + 1;
/** ESTIMATOR_… */
export const P_ESTIMATOR: i32 = P_AIR_SAMPLES + 1;
export const P_MAX_STEPS: i32 = P_ESTIMATOR + 1;
/** Adaptive sampling: threshold (0 off), min samples, luminance that counts as dark. */
export const P_NOISE_THRESHOLD: i32 = P_MAX_STEPS + 1;
export const P_MIN_SAMPLES: i32 = P_NOISE_THRESHOLD + 1;
export const P_DARK: i32 = P_MIN_SAMPLES + 1;
/** Max luminance of one sample (0: no clamp). */
export const P_FIREFLY_CLAMP: i32 = P_DARK + 1;

// camera: origin, unit vectors, CAMERA_…
export const P_CAM_ORIGIN: i32 = P_FIREFLY_CLAMP + 1;
export const P_CAM_RIGHT: i32 = P_CAM_ORIGIN + 3;
export const P_CAM_UP: i32 = P_CAM_RIGHT + 3;
export const P_CAM_FORWARD: i32 = P_CAM_UP + 3;
export const P_CAM_KIND: i32 = P_CAM_FORWARD + 3;
/** Tangent of the half angle (perspective) or half size in metres (orthographic). */
export const P_CAM_HALF_X: i32 = P_CAM_KIND + 1;
export const P_CAM_HALF_Y: i32 = P_CAM_HALF_X + 1;
/** Lens opening: radius (m, 0 for a pinhole), focus distance (m). */
export const P_CAM_RADIUS: i32 = P_CAM_HALF_Y + 1;
export const P_CAM_FOCUS: i32 = P_CAM_RADIUS + 1;
/** FILTER_… */
export const P_FILTER: i32 = P_CAM_FOCUS + 1;

// level veil: height of the ground below the air (m); mean luminance of the sky above, per band
export const P_GROUND: i32 = P_FILTER + 1;
export const P_SKY_MEAN: i32 = P_GROUND + 1;
/** Place (m) of the document at which the scene's zero lies. */
export const P_ORIGIN: i32 = P_SKY_MEAN + 3;

// media and lights in all
export const P_MEDIA: i32 = P_ORIGIN + 3;
/** Media that emit and are sampled as lights: how many. */
export const P_EMITTING_MEDIA: i32 = P_MEDIA + 1;
/** Address of the records of local and distant lights, and how many there are. */
export const P_LIGHTS: i32 = P_EMITTING_MEDIA + 1;
export const P_LIGHT_COUNT: i32 = P_LIGHTS + 1;
/** Those at infinity: they come first. */
export const P_DISTANT_COUNT: i32 = P_LIGHT_COUNT + 1;
/** Lights weighed one by one: distant ones, then those with air samples of their own; the tree holds the others. */
export const P_LISTED_COUNT: i32 = P_DISTANT_COUNT + 1;
/** Lights from the first that may have air samples of their own (0: none has), and the sun's. */
export const P_OWN_COUNT: i32 = P_LISTED_COUNT + 1;
export const P_SUN_AIR_SAMPLES: i32 = P_OWN_COUNT + 1;
/** Emissive triangles: how many, address of their records. */
export const P_EMISSIVE_COUNT: i32 = P_SUN_AIR_SAMPLES + 1;
export const P_EMISSIVE: i32 = P_EMISSIVE_COUNT + 1;
/** Address of the tree over local lights and emissive triangles (0: lights are few, each is weighed). */
export const P_LIGHT_TREE: i32 = P_EMISSIVE + 1;
/**
 * Cells that know which lights reach them: address (0: there are none), low corner, cells a metre, and how many along each axis. What a
 * cell holds: kernel/assembly/light-cells.ts.
 */
export const P_LIGHT_CELLS: i32 = P_LIGHT_TREE + 1;
export const P_LIGHT_CELLS_LOW: i32 = P_LIGHT_CELLS + 1;
export const P_LIGHT_CELLS_SCALE: i32 = P_LIGHT_CELLS_LOW + 3;
export const P_LIGHT_CELLS_COUNT: i32 = P_LIGHT_CELLS_SCALE + 1;
/** Light groups of sun, sky, emitting media, emissive surfaces. */
export const P_SUN_GROUP: i32 = P_LIGHT_CELLS_COUNT + 3;
export const P_SKY_GROUP: i32 = P_SUN_GROUP + 1;
export const P_MEDIUM_EMISSION_GROUP: i32 = P_SKY_GROUP + 1;
export const P_SURFACE_EMISSION_GROUP: i32 = P_MEDIUM_EMISSION_GROUP + 1;

// sun: irradiance per band on a plane facing it (0: off), unit direction towards it, cosine of the angular radius
export const P_SUN_E: i32 = P_SURFACE_EMISSION_GROUP + 1;
export const P_SUN_DIR: i32 = P_SUN_E + 3;
export const P_SUN_COS: i32 = P_SUN_DIR + 3;
/** 1 where the disk is visible to the lens. */
export const P_SUN_DISK: i32 = P_SUN_COS + 1;
/** Contributions to air and surfaces, and the bits of the media it reaches. */
export const P_SUN_AIR: i32 = P_SUN_DISK + 1;
export const P_SUN_SURFACES: i32 = P_SUN_AIR + 1;
export const P_SUN_MASK: i32 = P_SUN_SURFACES + 1;
/** Gobo before the sun: as L_GOBO … of a light, with two unit vectors across, and where along them (m) the scene's zero lies. */
export const P_SUN_GOBO: i32 = P_SUN_MASK + 1;
export const P_SUN_GOBO_WIDTH: i32 = P_SUN_GOBO + 1;
export const P_SUN_GOBO_HEIGHT: i32 = P_SUN_GOBO_WIDTH + 1;
export const P_SUN_GOBO_SCALE: i32 = P_SUN_GOBO_HEIGHT + 1;
export const P_SUN_GOBO_U: i32 = P_SUN_GOBO_SCALE + 1;
export const P_SUN_GOBO_V: i32 = P_SUN_GOBO_U + 3;
export const P_SUN_GOBO_SHIFT: i32 = P_SUN_GOBO_V + 3;
/**
 * Map of how far down sunlight comes, and the tint of panes above (4 f32 per texel): its address (0 none), unit vectors across, low
 * corner, texels per metre, where rays begin.
 */
export const P_SUN_MAP: i32 = P_SUN_GOBO_SHIFT + 2;
export const P_SUN_MAP_U: i32 = P_SUN_MAP + 1;
export const P_SUN_MAP_V: i32 = P_SUN_MAP_U + 3;
export const P_SUN_MAP_LOW: i32 = P_SUN_MAP_V + 3;
export const P_SUN_MAP_SCALE: i32 = P_SUN_MAP_LOW + 2;
export const P_SUN_MAP_TOP: i32 = P_SUN_MAP_SCALE + 1;
/** Texels along a side of that map. */
export const SUN_MAP_SIDE: i32 = 384;

// sky: radiance at the zenith, at the horizon and below it; sines of elevations: of the horizon, where ground alone ends, where it
// begins (both -2: none); contributions
export const P_SKY_ZENITH: i32 = P_SUN_MAP_TOP + 1;
export const P_SKY_HORIZON: i32 = P_SKY_ZENITH + 3;
export const P_SKY_GROUND: i32 = P_SKY_HORIZON + 3;
export const P_SKY_LEVEL: i32 = P_SKY_GROUND + 3;
export const P_SKY_GROUND_LOW: i32 = P_SKY_LEVEL + 1;
export const P_SKY_GROUND_HIGH: i32 = P_SKY_GROUND_LOW + 1;
export const P_SKY_AIR: i32 = P_SKY_GROUND_HIGH + 1;
export const P_SKY_SURFACES: i32 = P_SKY_AIR + 1;
/** Sky from a table: address of RGB f32 rows (0: the gradient), columns, rows, rotation (radians), mean luminance. */
export const P_ENV: i32 = P_SKY_SURFACES + 1;
export const P_ENV_WIDTH: i32 = P_ENV + 1;
export const P_ENV_HEIGHT: i32 = P_ENV_WIDTH + 1;
export const P_ENV_ROTATION: i32 = P_ENV_HEIGHT + 1;
export const P_ENV_POWER: i32 = P_ENV_ROTATION + 1;
/** Address of its cumulative distribution (f32: rows + 1 of the rows, then columns + 1 of each row). */
export const P_ENV_CDF: i32 = P_ENV_POWER + 1;
/** Stars: count over the sphere (0 none), angular radius, luminance of a bright one, hue variation, seed. */
export const P_STARS: i32 = P_ENV_CDF + 1;
export const P_STARS_SIZE: i32 = P_STARS + 1;
export const P_STARS_LUMINANCE: i32 = P_STARS_SIZE + 1;
export const P_STARS_HUE: i32 = P_STARS_LUMINANCE + 1;
export const P_STARS_SEED: i32 = P_STARS_HUE + 1;
/** Roughness that surfaces have at least for light that is scattered again before it reaches the lens. */
export const P_INDIRECT_ROUGHNESS: i32 = P_STARS_SEED + 1;
/** A plate: address of its pixels (0: none, or the lens is not its own), how many across and down, light group, and the object that is its surface (-1: none). */
export const P_PLATE: i32 = P_INDIRECT_ROUGHNESS + 1;
export const P_PLATE_WIDTH: i32 = P_PLATE + 1;
export const P_PLATE_HEIGHT: i32 = P_PLATE_WIDTH + 1;
export const P_PLATE_GROUP: i32 = P_PLATE_HEIGHT + 1;
export const P_PLATE_OBJECT: i32 = P_PLATE_GROUP + 1;
/** 1 where nothing but that object stands before the lens. */
export const P_PLATE_ALONE: i32 = P_PLATE_OBJECT + 1;
/** Number of its material. */
export const P_PLATE_MATERIAL: i32 = P_PLATE_ALONE + 1;
/** Luminance (cd/m²) that its colours count by where surfaces are told apart: of its brightest parts. */
export const P_PLATE_WHITE: i32 = P_PLATE_MATERIAL + 1;
/** Number of the first of its own mattes among those of objects. */
export const P_PLATE_MATTES: i32 = P_PLATE_WHITE + 1;
/** 1 where it is black to the lens, but for its sky. */
export const P_PLATE_HELD: i32 = P_PLATE_MATTES + 1;
/** Parameters in all; a test holds that the block has room for them. */
export const P_END: i32 = P_PLATE_HELD + 1;
