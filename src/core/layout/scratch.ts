/**
 * What each worker has for itself: regions of its scratch block, in bytes from its beginning, each behind the one before it.
 * Whatever a worker notes must lie here or in its globals: static memory is shared by all workers.
 */
import { GROUP_FLOATS } from "./film";
import { LC_SIDES, LIGHT_CELL_COLUMNS, LIGHT_CELL_ROWS, LIGHT_SIDE_BYTES, MAX_GROUPS } from "./lights";
import { MAX_MEDIA, SCRATCH_STRIDE } from "./memory";

/** A traversal keeps a few words below the beginning of its stack, so the block begins behind them. */
export const SCRATCH_LEAD: i32 = 128;

/** Stacks of the traversal: the scene's, and behind it that of an instance. */
export const SCRATCH_STACK: i32 = 0;
export const SCRATCH_STACK_BYTES: i32 = 8192;

/** Segments a ray may have; what lies beyond is left out, which no sensible scene reaches. */
export const MAX_SEGMENTS: i32 = 63;
/** Bytes of a segment: see kernel/assembly/segments.ts. */
export const SEGMENT_BYTES: i32 = 128;
const LIST_BYTES: i32 = (MAX_SEGMENTS + 1) * SEGMENT_BYTES;
/** Two lists of segments: that of the camera ray, and that of any other. */
export const SCRATCH_LIST_A: i32 = SCRATCH_STACK + SCRATCH_STACK_BYTES;
export const SCRATCH_LIST_B: i32 = SCRATCH_LIST_A + LIST_BYTES;

/** Crossings of a ray with a closed mesh: distance and sign, f64 each. One with more is a thicket no medium needs. */
export const MAX_CROSSINGS: i32 = 250;
export const SCRATCH_CROSSINGS: i32 = SCRATCH_LIST_B + LIST_BYTES;

/** Media that scatter at a point: record, then weight per band. */
export const SCATTERER_BYTES: i32 = 32;
export const SCRATCH_SCATTERERS: i32 = SCRATCH_CROSSINGS + (MAX_CROSSINGS + 6) * 16;

/** What light sampling may draw from: weights (f64), then ids (i32). One table for points, one for the air of a camera ray. */
export const MAX_CHOICES: i32 = 320;
/** Past that, nodes are no longer opened, but what was begun is still put down. */
export const CHOICE_ROOM: i32 = 512;
export const CHOICE_IDS: i32 = CHOICE_ROOM * 8;
const CHOICE_BYTES: i32 = CHOICE_IDS + CHOICE_ROOM * 4;
export const SCRATCH_POINT_CHOICES: i32 = SCRATCH_SCATTERERS + MAX_MEDIA * SCATTERER_BYTES;
export const SCRATCH_AIR_CHOICES: i32 = SCRATCH_POINT_CHOICES + CHOICE_BYTES;
/** What the nodes of a cut are weighed by, up to three numbers each in arrays of their own (f64). */
export const SCRATCH_CUT: i32 = SCRATCH_AIR_CHOICES + CHOICE_BYTES;
export const CUT_BYTES: i32 = CHOICE_ROOM * 8;
/** Nodes of the light tree that are still to be opened. */
export const MAX_OPEN_NODES: i32 = 64;
export const SCRATCH_OPEN_NODES: i32 = SCRATCH_CUT + 3 * CUT_BYTES;

/** Cells of the camera ray in heterogeneous media: see kernel/assembly/forced.ts. */
export const MAX_CELLS: i32 = 700;
export const CELL_BYTES: i32 = 24;
export const SCRATCH_CELLS: i32 = SCRATCH_OPEN_NODES + MAX_OPEN_NODES * 4;

/** Sums of the light groups of a sample: seven f64 each. */
export const GROUP_BYTES: i32 = GROUP_FLOATS * 8;
export const SCRATCH_GROUPS: i32 = SCRATCH_CELLS + MAX_CELLS * CELL_BYTES;

/** Rows of the sun's control variate: see kernel/assembly/sun-variate.ts. */
export const MAX_SUN_ROWS: i32 = 24;
export const SUN_ROW_BYTES: i32 = 672;
export const SCRATCH_SUN_ROWS: i32 = SCRATCH_GROUPS + MAX_GROUPS * GROUP_BYTES;

/** Panes that one way may pass straight: distance and the weight behind it, four f64 each. */
export const MAX_PANES: i32 = 16;
export const PANE_BYTES: i32 = 32;
export const SCRATCH_PANES: i32 = SCRATCH_SUN_ROWS + MAX_SUN_ROWS * SUN_ROW_BYTES;

/** Table of phase-weighted equiangular sampling: see kernel/assembly/phase-equiangular.ts. */
export const EQUIANGULAR_BINS: i32 = 12;
export const SCRATCH_EQUIANGULAR: i32 = SCRATCH_PANES + MAX_PANES * PANE_BYTES;
const EQUIANGULAR_BYTES: i32 = 256;

/** Groups of the sequence's dimensions: see kernel/assembly/random.ts. */
export const SEQUENCE_GROUP_BYTES: i32 = 192;
export const SCRATCH_SEQUENCE: i32 = SCRATCH_EQUIANGULAR + EQUIANGULAR_BYTES;

/** A side of a cell of lights, its nodes, and its view of the sky, while they are being found: see kernel/assembly/light-cells.ts. */
export const SCRATCH_LIGHT_SIDE: i32 = SCRATCH_SEQUENCE + 4 * SEQUENCE_GROUP_BYTES;
export const SCRATCH_LIGHT_NODES: i32 = SCRATCH_LIGHT_SIDE + LIGHT_SIDE_BYTES;
export const SCRATCH_LIGHT_SKY: i32 = SCRATCH_LIGHT_NODES + LC_SIDES;
/** Places that a cell is looked at from: where, and the normal (f64). */
export const SCRATCH_LIGHT_PLACES: i32 = SCRATCH_LIGHT_SKY + 4 * LIGHT_CELL_ROWS * LIGHT_CELL_COLUMNS;
const LIGHT_PLACES_ROOM: i32 = 8 * 48;
/** Pixels that another takes air from: weight (f64), address (u32); as many as a cubic spline meets. */
export const NEIGHBOUR_BYTES: i32 = 16;
export const SCRATCH_NEIGHBOURS: i32 = SCRATCH_LIGHT_PLACES + LIGHT_PLACES_ROOM;
/** What the worker is at, five i32: the part of a sample, the light group that is asked, the address of the medium that light goes through, the passes that are sampled, and the pixel (column in the low half, row in the high one). */
export const SCRATCH_ACTIVITY: i32 = SCRATCH_NEIGHBOURS + 16 * NEIGHBOUR_BYTES;
export const A_PART: i32 = 0;
export const A_LIGHT: i32 = A_PART + 1;
export const A_MEDIUM: i32 = A_LIGHT + 1;
export const A_PASSES: i32 = A_MEDIUM + 1;
export const A_PIXEL: i32 = A_PASSES + 1;
export const ACTIVITY_BYTES: i32 = 20;
/** Parts of a sample; none: the worker rests. A walk's part has how often it was scattered by the air and by surfaces in higher bits. */
export const PART_NONE: i32 = 0;
export const PART_LENS: i32 = 1;
export const PART_AIR: i32 = 2;
export const PART_SURFACES: i32 = 3;
export const PART_WALK: i32 = 4;
export const PART_FILM: i32 = 5;
export const PART_MASK: i32 = 15;
export const PART_AIR_SHIFT: i32 = 4;
export const PART_SURFACE_SHIFT: i32 = 16;
/** In place of a light group: none is asked, and they are chosen between. */
export const NO_LIGHT: i32 = -1;
export const CHOOSING_LIGHTS: i32 = -2;
/** Bytes in use; a test holds that a worker's block has room for them. */
export const SCRATCH_END: i32 = SCRATCH_ACTIVITY + ACTIVITY_BYTES;
export const SCRATCH_ROOM: i32 = SCRATCH_STRIDE - SCRATCH_LEAD;
