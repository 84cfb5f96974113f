/**
 * Pixels of a plate, a record each, rows from the top: its light (f32 RGB, cd/m²), distance along the ray of what is in front and behind where
 * an edge crosses the pixel (f32, m; both the same elsewhere, Infinity for the sky), how much of it the front covers and how much of its
 * light per band is the front's (bytes, of 255), the normal (folded octahedron, as of triangles), and the two mattes of its file that cover most
 * of it: a number + 1 each (u16, 0 none), and the share of the first (byte, of 255).
 */
export const PLATE_SIZE: i32 = 36;
export const PLATE_NEAR: i32 = 12;
export const PLATE_FAR: i32 = 16;
export const PLATE_COVER: i32 = 20;
export const PLATE_SHARES: i32 = 21;
export const PLATE_NORMAL: i32 = 24;
export const PLATE_MATTE: i32 = 28;
export const PLATE_MATTE_SECOND: i32 = 30;
export const PLATE_MATTE_SHARE: i32 = 32;
