/** Records of lights, of emissive triangles and of the tree over both: places of their words, 8 bytes each. */

/** LIGHT_… */
export const L_KIND: i32 = 0;
export const L_POSITION: i32 = L_KIND + 1;
/** Unit vector it shines along (tube: lies along; distant: towards it). */
export const L_AXIS: i32 = L_POSITION + 3;
/** Two unit vectors across. */
export const L_U: i32 = L_AXIS + 3;
export const L_V: i32 = L_U + 3;
/** Per band: cd on the axis; cd/m² on the axis of emitters with an area; lux of distant ones. */
export const L_INTENSITY: i32 = L_V + 3;
export const L_COS_INNER: i32 = L_INTENSITY + 3;
export const L_COS_OUTER: i32 = L_COS_INNER + 1;
/** Half sizes of a rectangle; radius; half length of a tube in the second. */
export const L_SIZE: i32 = L_COS_OUTER + 1;
export const L_AREA: i32 = L_SIZE + 2;
/** Exponent n of the beam: luminance falls with cosⁿ from the axis. */
export const L_BEAM: i32 = L_AREA + 1;
export const L_BOTH_SIDES: i32 = L_BEAM + 1;
/** Contributions to air and surfaces, bits of the media it reaches. */
export const L_AIR: i32 = L_BOTH_SIDES + 1;
export const L_SURFACES: i32 = L_AIR + 1;
export const L_MASK: i32 = L_SURFACES + 1;
/** Distance fade: 1 when on, then near from, near to, far from, far to. */
export const L_FADE: i32 = L_MASK + 1;
/** Gobo: address of RGB f32 (0 none), columns, rows, and what brings the place in its plane to [-1, 1]; its distance. */
export const L_GOBO: i32 = L_FADE + 5;
export const L_GOBO_WIDTH: i32 = L_GOBO + 1;
export const L_GOBO_HEIGHT: i32 = L_GOBO_WIDTH + 1;
export const L_GOBO_SCALE: i32 = L_GOBO_HEIGHT + 1;
export const L_GOBO_DISTANCE: i32 = L_GOBO_SCALE + 1;
/** Photometric profile: address of f32 candela over LP_ROWS × LP_COLUMNS of angles from and around the axis. */
export const L_PROFILE: i32 = L_GOBO_DISTANCE + 1;
/** Image on the emitter: address of RGB f32, columns, rows. */
export const L_IMAGE: i32 = L_PROFILE + 1;
export const L_IMAGE_WIDTH: i32 = L_IMAGE + 1;
export const L_IMAGE_HEIGHT: i32 = L_IMAGE_WIDTH + 1;
/** For light sampling: intensity as a distant point would have it, summed over bands; radius of its bounds. */
export const L_POWER: i32 = L_IMAGE_HEIGHT + 1;
export const L_RADIUS: i32 = L_POWER + 1;
export const L_GROUP: i32 = L_RADIUS + 1;
/** Points of a camera ray's air at which it is sampled by itself; 0 where it is sampled among the others. */
export const L_AIR_SAMPLES: i32 = L_GROUP + 1;
/** 1 where the lens sees it as what it is. */
export const L_VISIBLE: i32 = L_AIR_SAMPLES + 1;
export const LIGHT_WORDS: i32 = L_VISIBLE + 1;

/** Table of a photometric profile: rows of a degree from the axis, columns of a degree around it. */
export const LP_ROWS: i32 = 181;
export const LP_COLUMNS: i32 = 360;

/**
 * Emissive triangle: first corner, two edges, cd/m² per band (the mean over it, where pictures or holes make it differ from place
 * to place), area, triangle.
 */
export const E_CORNER: i32 = 0;
export const E_EDGE1: i32 = E_CORNER + 3;
export const E_EDGE2: i32 = E_EDGE1 + 3;
export const E_LUMINANCE: i32 = E_EDGE2 + 3;
export const E_AREA: i32 = E_LUMINANCE + 3;
export const E_TRIANGLE: i32 = E_AREA + 1;
/** Its leaf in the tree. */
export const E_LEAF: i32 = E_TRIANGLE + 1;
/** 1 where its luminance differs from place to place and must be looked up. */
export const E_VARIES: i32 = E_LEAF + 1;
export const EMISSIVE_WORDS: i32 = E_VARIES + 1;

/** Node of the light tree: centre, radius, power, first child (-1: a leaf), second child or light, parent. */
export const LT_CENTRE: i32 = 0;
export const LT_RADIUS: i32 = LT_CENTRE + 3;
export const LT_POWER: i32 = LT_RADIUS + 1;
export const LT_FIRST: i32 = LT_POWER + 1;
export const LT_SECOND: i32 = LT_FIRST + 1;
export const LT_PARENT: i32 = LT_SECOND + 1;
export const LIGHT_TREE_WORDS: i32 = LT_PARENT + 1;

/**
 * A cell that knows which lights reach it, all f32. First the nodes of the tree that are worth weighing in it: how many (-1 not listed
 * yet, -2 too many), and from LC_NODES on by array centre (3), squared radius and power, and (i32) which they are. Then what can be
 * seen, once from its air and once from its surfaces towards each way along an axis: whether that is known (-1 not looked at yet),
 * shares of the places that see the sun and of the sky that they see, whether the sky is drawn by its table; a factor for each of the
 * first listed lights and for each node; sums of the table of the sky (rows of equal height, columns about the vertical).
 */
export const LIGHT_CELL_NODES: i32 = 64;
export const LIGHT_CELL_LISTED: i32 = 16;
export const LIGHT_CELL_ROWS: i32 = 6;
export const LIGHT_CELL_COLUMNS: i32 = 16;
export const LIGHT_CELL_SIDES: i32 = 7;
export const LC_NODES: i32 = 16;
export const LC_SIDES: i32 = LC_NODES + 6 * 4 * LIGHT_CELL_NODES;
export const LS_SUN: i32 = 4;
export const LS_SKY: i32 = 8;
export const LS_GUIDES_SKY: i32 = 12;
export const LS_LISTED: i32 = 16;
export const LS_NODES: i32 = LS_LISTED + 4 * LIGHT_CELL_LISTED;
export const LS_SKY_TABLE: i32 = LS_NODES + 4 * LIGHT_CELL_NODES;
export const LIGHT_SIDE_BYTES: i32 = LS_SKY_TABLE + 4 * LIGHT_CELL_ROWS * LIGHT_CELL_COLUMNS;
export const LIGHT_CELL_BYTES: i32 = LC_SIDES + LIGHT_CELL_SIDES * LIGHT_SIDE_BYTES;
/** Cells at most. */
export const MAX_LIGHT_CELLS: i32 = 2048;

/** From so many local lights on they lie in a tree; fewer are weighed one by one. */
export const MIN_TREE_LIGHTS: i32 = 9;
/** Lights that may have air samples of their own: each is sampled along every camera ray. */
export const MAX_OWN_LIGHTS: i32 = 32;
/** Light groups that a film can keep apart. */
export const MAX_GROUPS: i32 = 64;
