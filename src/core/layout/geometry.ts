/** The BVH, triangles and instances: sizes and places in bytes. */

/**
 * BVH node, 224 bytes, of two groups of four children: minx[4] miny[4] minz[4] maxx[4] maxy[4] maxz[4] (f32), child[4] (i32), twice.
 * Children lie in the slot of their octant of the node where they can (bit 0, 1, 2 of the slot: upper half in x, y, z; the group is
 * bit 2), so that slot XOR octant of a ray's direction is about the order in which it meets them.
 * Child code: >= 0 interior node, its place / NODE_UNIT; < 0 leaf, ~code = first block * LEAF_FIRST + its lanes (bits) * LEAF_LANES +
 * how many blocks; an unused slot has an inverted box (never hit). Blocks may be shared: other lanes than the leaf's belong to others.
 * A leaf without blocks is an instance of shared triangles: its number stands in place of the first block.
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
 * Instance of shared triangles, 112 bytes: what brings directions of the scene into their frame (f32, row-major 3×4 of which the linear part
 * counts) and them into the scene (the same),
 * then i32 code of their tree's root, object, 1 where the second mirrors.
 */
export const INSTANCE_SIZE: i32 = 112;
export const INSTANCE_FORWARD: i32 = 48;
export const INSTANCE_ROOT: i32 = 96;
export const INSTANCE_OBJECT: i32 = 100;
export const INSTANCE_MIRRORS: i32 = 104;
/** Texture coordinates, 24 bytes a triangle: u, v of its three corners (f32). */
export const UV_SIZE: i32 = 24;
/** Colours of a triangle: linear RGBA at three corners, u16 of 65535. */
export const COLOUR_SIZE: i32 = 24;
/** Set in a block's triangle index where a hit goes through the any-hit filter: cut-outs, and panes that light passes straight. */
export const NEEDS_FILTER: i32 = 0x40000000;
