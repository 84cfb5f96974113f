/** Materials and textures: places of their words (f32), sizes in bytes. */

/** Base colour rgb, metalness, emission rgb (cd/m²), roughness, specular, diffuse transmission. */
export const MT_BASE: i32 = 0;
export const MT_METALLIC: i32 = MT_BASE + 3;
export const MT_EMISSION: i32 = MT_METALLIC + 1;
export const MT_ROUGHNESS: i32 = MT_EMISSION + 3;
export const MT_SPECULAR: i32 = MT_ROUGHNESS + 1;
/** Tint of the dielectric reflection at the normal. */
export const MT_SPECULAR_COLOUR: i32 = MT_SPECULAR + 1;
export const MT_DIFFUSE_TRANSMISSION: i32 = MT_SPECULAR_COLOUR + 3;
/** Colour of light that passes diffusely; the first is below 0 where it is the base colour. */
export const MT_PASSED_COLOUR: i32 = MT_DIFFUSE_TRANSMISSION + 1;
export const MT_OPACITY: i32 = MT_PASSED_COLOUR + 3;
/** ALPHA_…, and the threshold of a mask. */
export const MT_ALPHA_MODE: i32 = MT_OPACITY + 1;
export const MT_CUTOFF: i32 = MT_ALPHA_MODE + 1;
/** Share of light that is refracted or passed instead of scattered by the body; 1 when solid, 0 when a thin pane. */
export const MT_TRANSMISSION: i32 = MT_CUTOFF + 1;
export const MT_SOLID: i32 = MT_TRANSMISSION + 1;
export const MT_IOR: i32 = MT_SOLID + 1;
/** Absorption of a solid's inside, 1/m. */
export const MT_ABSORPTION: i32 = MT_IOR + 1;
/** Solid glass: which pair of tables (from outside, from inside) at P_GLASS_ALBEDO is its own. */
export const MT_GLASS_TABLE: i32 = MT_ABSORPTION + 3;
export const MT_NORMAL_SCALE: i32 = MT_GLASS_TABLE + 1;
/** 1 where the lens sees black. */
export const MT_HOLDOUT: i32 = MT_NORMAL_SCALE + 1;
/** Textures by SLOT_…: number (-1 none), six of a transform, and the set of coordinates (0 or 1) each. */
export const TEXTURE_WORDS: i32 = 8;
export const SLOT_BASE: i32 = 0;
export const SLOT_METALLIC_ROUGHNESS: i32 = SLOT_BASE + 1;
export const SLOT_NORMAL: i32 = SLOT_METALLIC_ROUGHNESS + 1;
export const SLOT_EMISSION: i32 = SLOT_NORMAL + 1;
export const SLOT_TRANSMISSION: i32 = SLOT_EMISSION + 1;
export const TEXTURE_SLOTS: i32 = SLOT_TRANSMISSION + 1;
export const MT_TEXTURES: i32 = MT_HOLDOUT + 1;
export const MT_END: i32 = MT_TEXTURES + 40;
/** Bytes of a material: its words, to a multiple of 64. */
export const MATERIAL_SIZE: i32 = (MT_END * 4 + 63) & ~63;

/** One over the roughness² of the smoothest surface. */
export const SMOOTHEST: i32 = 1000;
/** Nodes along the cosine and along the roughness of the tables of what microfacets give back (optics/microfacets.ts). */
export const ALBEDO_NODES: i32 = 24;
/** Numbers of such a table, and of the block at P_FACET_ALBEDO: mirrors, Schlick's root, two means a row. */
export const ALBEDO_TABLE: i32 = ALBEDO_NODES * ALBEDO_NODES;
export const FACET_MIRROR: i32 = 0;
export const FACET_SCHLICK: i32 = FACET_MIRROR + ALBEDO_TABLE;
export const FACET_MEANS: i32 = FACET_SCHLICK + ALBEDO_TABLE;
export const FACET_END: i32 = FACET_MEANS + 2 * ALBEDO_NODES;

/** Texture record, 32 bytes of i32: address of RGBA bytes, width, height, WRAP_… along u and v, 1 when sRGB, 1 when nearest. */
export const TEXTURE_SIZE: i32 = 32;
