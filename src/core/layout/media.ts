/** Records of media and of what they refer to: places of their words, 8 bytes each. */

/** REGION_… */
export const M_REGION: i32 = 0;
/** 1 where a factor without closed form (noise, soft edge, start distance, proximity, grid) multiplies the height falloff. */
export const M_FACTOR: i32 = M_REGION + 1;
export const M_SIGMA_S: i32 = M_FACTOR + 1;
/** Extinction, not absorption. */
export const M_SIGMA_T: i32 = M_SIGMA_S + 3;
/** Luminance emitted per metre at full density, cd/m²/m. */
export const M_EMISSION: i32 = M_SIGMA_T + 3;
/** PHASE_…, then up to four numbers of the phase function. */
export const M_PHASE: i32 = M_EMISSION + 3;
export const M_PHASE_1: i32 = M_PHASE + 1;
export const M_PHASE_2: i32 = M_PHASE_1 + 1;
export const M_PHASE_3: i32 = M_PHASE_2 + 1;
export const M_PHASE_4: i32 = M_PHASE_3 + 1;
/** Region: centre, the three rows of the world-to-region rotation, half sizes (radius in x and z of round ones). */
export const M_CENTRE: i32 = M_PHASE_4 + 1;
export const M_ROWS: i32 = M_CENTRE + 3;
export const M_HALF: i32 = M_ROWS + 9;
/** Layer: unit up; its level is in M_HALF. */
export const M_LAYER_UP: i32 = M_HALF + 3;
/** Width of the soft edge, m. */
export const M_EDGE: i32 = M_LAYER_UP + 3;
/** Mesh: child code of its own tree's root. */
export const M_ROOT: i32 = M_EDGE + 1;
/** Height falloff: HEIGHT_…, level (m), scale (m), unit up. */
export const M_HEIGHT: i32 = M_ROOT + 1;
export const M_HEIGHT_LEVEL: i32 = M_HEIGHT + 1;
export const M_HEIGHT_SCALE: i32 = M_HEIGHT_LEVEL + 1;
export const M_HEIGHT_UP: i32 = M_HEIGHT_SCALE + 1;
/** Noise: NOISE_…, frequency (1/m) along each axis, octaves … */
export const M_NOISE: i32 = M_HEIGHT_UP + 3;
export const M_NOISE_FREQ: i32 = M_NOISE + 1;
export const M_NOISE_OCTAVES: i32 = M_NOISE_FREQ + 3;
export const M_NOISE_ROUGHNESS: i32 = M_NOISE_OCTAVES + 1;
export const M_NOISE_LACUNARITY: i32 = M_NOISE_ROUGHNESS + 1;
export const M_NOISE_LOW: i32 = M_NOISE_LACUNARITY + 1;
export const M_NOISE_HIGH: i32 = M_NOISE_LOW + 1;
export const M_NOISE_KNEE: i32 = M_NOISE_HIGH + 1;
export const M_NOISE_EVENNESS: i32 = M_NOISE_KNEE + 1;
export const M_NOISE_INVERT: i32 = M_NOISE_EVENNESS + 1;
/** Drift so far, m. */
export const M_NOISE_OFFSET: i32 = M_NOISE_INVERT + 1;
export const M_NOISE_CHANGE: i32 = M_NOISE_OFFSET + 3;
export const M_NOISE_SEED: i32 = M_NOISE_CHANGE + 1;
/** 1 when fixed to the region. */
export const M_NOISE_LOCAL: i32 = M_NOISE_SEED + 1;
/** Layers: the axis they are stacked along, and how far they sway, in sizes. */
export const M_NOISE_AXIS: i32 = M_NOISE_LOCAL + 1;
export const M_NOISE_BEND: i32 = M_NOISE_AXIS + 3;
/** Start distance: 1 when on, distance from the lens (m), fade-in length (m), min density, position of the lens. */
export const M_START: i32 = M_NOISE_BEND + 1;
export const M_START_DISTANCE: i32 = M_START + 1;
export const M_START_FADE: i32 = M_START_DISTANCE + 1;
export const M_START_MIN: i32 = M_START_FADE + 1;
export const M_START_LENS: i32 = M_START_MIN + 1;
/** Shares with which rays see the medium, by RAY_…. */
export const M_SEEN: i32 = M_START_LENS + 3;
/** Step size of the stepping estimator, m. */
export const M_STEP_SIZE: i32 = M_SEEN + 6;
/** Bit of this medium in the masks of lights. */
export const M_BIT: i32 = M_STEP_SIZE + 1;
/**
 * Grid of densities: metres to its index coordinates (3×4), its address (0 none), value that counts as empty, 1 / what is full
 * above it; address of the record of its density curve (0 none), of which D_POINTS and D_CURVE are read.
 */
export const M_VOLUME_ROWS: i32 = M_BIT + 1;
export const M_VOLUME: i32 = M_VOLUME_ROWS + 12;
export const M_VOLUME_LOW: i32 = M_VOLUME + 1;
export const M_VOLUME_SCALE: i32 = M_VOLUME_LOW + 1;
export const M_VOLUME_CURVE: i32 = M_VOLUME_SCALE + 1;
/** Address of the record of a tint (0 none): TINT_…. */
export const M_TINT: i32 = M_VOLUME_CURVE + 1;
/** Grid of temperatures: its address (0 none), kelvin per unit, kelvin at 0, the kelvin that M_EMISSION is for, address of the table of black bodies, rows. */
export const M_TEMPERATURE: i32 = M_TINT + 1;
export const M_TEMPERATURE_SCALE: i32 = M_TEMPERATURE + 1;
export const M_TEMPERATURE_OFFSET: i32 = M_TEMPERATURE_SCALE + 1;
export const M_TEMPERATURE_MAX: i32 = M_TEMPERATURE_OFFSET + 1;
export const M_BLACKBODY_TABLE: i32 = M_TEMPERATURE_MAX + 1;
export const M_TEMPERATURE_ROWS: i32 = M_BLACKBODY_TABLE + 1;
/** Majorant grid: address (0 none), cells along each axis, low corner and 1 / cell size in its frame; 1 when that is the region's. */
export const M_MAJORANT: i32 = M_TEMPERATURE_ROWS + 12;
export const M_MAJORANT_CELLS: i32 = M_MAJORANT + 1;
export const M_MAJORANT_LOW: i32 = M_MAJORANT_CELLS + 3;
export const M_MAJORANT_SCALE: i32 = M_MAJORANT_LOW + 3;
export const M_MAJORANT_LOCAL: i32 = M_MAJORANT_SCALE + 3;
/** Proximity: address of the record of a distance grid (0 none), see D_…; the same of the region's own mesh, for its soft edge. */
export const M_PROXIMITY: i32 = M_MAJORANT_LOCAL + 1;
export const M_EDGE_DISTANCE: i32 = M_PROXIMITY + 1;
/** Words in use; a test holds that MEDIUM_WORDS has room for them. */
export const M_END: i32 = M_EDGE_DISTANCE + 1;

/** Record of a tint: channels (1: a ramp, 3: the colour itself), address of each, value at the ramp's beginning, 1 / its length, points, rows of each channel, then place and colour of each point. */
export const TINT_CHANNELS: i32 = 0;
export const TINT_GRIDS: i32 = TINT_CHANNELS + 1;
export const TINT_LOW: i32 = TINT_GRIDS + 3;
export const TINT_SCALE: i32 = TINT_LOW + 1;
export const TINT_POINTS: i32 = TINT_SCALE + 1;
export const TINT_ROWS: i32 = TINT_POINTS + 1;
export const TINT_COLOURS: i32 = TINT_ROWS + 36;
export const TINT_WORDS: i32 = TINT_COLOURS + 32;

/** Record of a distance grid: its address, low corner, 1 / cell size, points of the curve, then pairs of metres and share. */
export const D_VOLUME: i32 = 0;
export const D_LOW: i32 = D_VOLUME + 1;
export const D_SCALE: i32 = D_LOW + 3;
export const D_POINTS: i32 = D_SCALE + 1;
export const D_CURVE: i32 = D_POINTS + 1;
export const D_WORDS: i32 = D_CURVE + 16;

/** Table of black bodies: kelvin from one entry to the next, and how many; each three f64, luminance per band. */
export const BLACKBODY_STEP: i32 = 25;
export const BLACKBODY_ENTRIES: i32 = 480;
