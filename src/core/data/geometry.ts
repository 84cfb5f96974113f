/** Triangle geometry of a scene in flat arrays, and how parts are put together. */
import { AXES, MOST } from "../math/vectors";
import type { Box } from "../math/box";
import { type Matrix3 } from "../math/matrix";
import { cofactors, determinant, type Affine } from "../math/affine";
import type { Colour, Material } from "./material";

/** An image on a surface: RGBA bytes, rows from the top. */
export interface Texture {
  width: number;
  height: number;
  rgba: Uint8Array;
  /** Whether its colours are sRGB-encoded (base colour, emission) or plain numbers. */
  srgb: boolean;
  /** What lies past its edges: 0 it repeats, 1 it is mirrored, 2 its border is held. */
  wrap: [number, number];
  nearest: boolean;
}

/** Use of a texture: its number, and how texture coordinates of a set become places in it (row-major 2×3). */
export interface TextureUse {
  texture: number;
  /** Which of the two sets of coordinates; the first where it is not said. */
  set?: 0 | 1;
  transform: readonly [number, number, number, number, number, number];
}

/** A material with what only models bring: textures and cut-outs. */
export interface SurfaceMaterial extends Material {
  /** As the document or the model calls it. */
  name?: string;
  alphaMode?: "opaque" | "mask" | "blend";
  cutoff?: number;
  normalScale?: number;
  /** Tint of the reflection that is no metal's, at the normal; may be above 1. White where it is not said. */
  specularColor?: Colour;
  /** Colour of light that passes diffusely; the base colour where it is not said. */
  diffuseTransmissionColor?: Colour;
  /** Black to the lens (see the document's `holdout`). */
  holdout?: boolean;
  textures?: Partial<Record<"base" | "rough" | "normal" | "emission" | "transmission", TextureUse>>;
}

/** Triangles of one node of a model, which follow each other. A node of many copies has a part for each. */
export interface MeshPart {
  /** Names from the root down to the node, between slashes. */
  path: string;
  first: number;
  count: number;
  /** Where the node is, m: what it turns and scales about. */
  pivot: readonly [number, number, number];
  /** Brings the triangles into the model's frame, where several parts share them; without it they lie there. */
  matrix?: Affine;
}

/** Triangles without an index: `positions` and `normals` 9 floats a triangle (m), `material` one index a triangle. */
export interface Mesh {
  positions: Float32Array;
  normals: Float32Array;
  material: Int32Array;
  materials: SurfaceMaterial[];
  /** 6 floats a triangle, where anything has textures; the second set where anything uses it. */
  uvs?: Float32Array;
  uvsSecond?: Float32Array;
  /** Linear RGBA of the three corners, 0 to 65535, where any has a colour: factors of base colour and opacity. */
  colours?: Uint16Array;
  textures?: Texture[];
  /** What the triangles belong to, where a model has more than one thing in it. */
  parts?: MeshPart[];
}

/** Triangles that stand in several places of a scene and are kept once, about the origin of their own frame. */
export interface SharedTriangles {
  first: number;
  count: number;
  /** Where they stand, and the object each place belongs to. */
  places: { matrix: Affine; object: number }[];
}

/** All triangles of a scene, with the object each came from. */
export interface SceneGeometry extends Mesh {
  object: Int32Array;
  /** Triangles in several places follow those that stand where they are; their object is that of the place. */
  shared?: SharedTriangles[];
}

/** How many triangles of a geometry stand where they are: the first ones. */
export const ownTriangles = (g: SceneGeometry): number => g.shared?.[0]?.first ?? g.material.length;

/**
 * Writes triangles [first, first + n) of a mesh under an affine transform into larger arrays, from triangle `at` on. One that mirrors
 * changes the order of their corners, so that they turn about the same side. Normals of no direction stay so.
 * @param material the number of each of the mesh's materials there
 */
export function placeMesh(
  mesh: Mesh,
  first: number,
  n: number,
  m: Affine,
  into: SceneGeometry,
  at: number,
  material: (own: number) => number,
  object: number,
): void {
  const mirrors = determinant(m) < 0;
  // a mirror turns normals over too: cofactors carry its sign
  const c = cofactors(m).map((v) => (mirrors ? -v : v)) as Matrix3;
  for (let i = 0; i < n * 3; i++) {
    const p = 9 * first + 3 * i;
    const corner = mirrors ? i + [0, 1, -1][i % 3]! : i;
    const q = 9 * at + 3 * corner;
    const x = mesh.positions[p]!,
      y = mesh.positions[p + 1]!,
      z = mesh.positions[p + 2]!;
    into.positions[q] = m[0] * x + m[1] * y + m[2] * z + m[3];
    into.positions[q + 1] = m[4] * x + m[5] * y + m[6] * z + m[7];
    into.positions[q + 2] = m[8] * x + m[9] * y + m[10] * z + m[11];
    const a = mesh.normals[p]!,
      b = mesh.normals[p + 1]!,
      d = mesh.normals[p + 2]!;
    const nx = c[0] * a + c[1] * b + c[2] * d,
      ny = c[3] * a + c[4] * b + c[5] * d,
      nz = c[6] * a + c[7] * b + c[8] * d;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    into.normals[q] = nx / length;
    into.normals[q + 1] = ny / length;
    into.normals[q + 2] = nz / length;
    copyCorner(mesh.uvs, into.uvs, 2, 3 * first + i, 3 * at + corner);
    copyCorner(mesh.uvsSecond, into.uvsSecond, 2, 3 * first + i, 3 * at + corner);
    copyCorner(mesh.colours, into.colours, 4, 3 * first + i, 3 * at + corner);
  }
  for (let i = 0; i < n; i++) {
    into.material[at + i] = material(mesh.material[first + i]!);
    into.object[at + i] = object;
  }
}

/** Copies what a corner has besides its place, `size` numbers, where both have it. */
function copyCorner<T extends Float32Array | Uint16Array>(
  from: T | undefined,
  to: T | undefined,
  size: number,
  i: number,
  j: number,
): void {
  if (from && to) for (let k = 0; k < size; k++) to[size * j + k] = from[size * i + k]!;
}

/** Materials of a part, their textures renumbered to begin at `first`. */
export function movedTextures(materials: readonly SurfaceMaterial[], first: number): SurfaceMaterial[] {
  return materials.map((m) =>
    m.textures
      ? { ...m, textures: Object.fromEntries(Object.entries(m.textures).map(([k, t]) => [k, { ...t, texture: t.texture + first }])) }
      : m,
  );
}

/** Room for triangles. @param like meshes that will be put there: what their corners have gets room too, white where one has no colours */
export function emptyGeometry(triangles: number, like: readonly Mesh[] = []): SceneGeometry {
  return {
    ...(like.some((m) => m.uvs) ? { uvs: new Float32Array(6 * triangles) } : {}),
    ...(like.some((m) => m.uvsSecond) ? { uvsSecond: new Float32Array(6 * triangles) } : {}),
    ...(like.some((m) => m.colours) ? { colours: new Uint16Array(12 * triangles).fill(65535) } : {}),
    textures: [],
    positions: new Float32Array(9 * triangles),
    normals: new Float32Array(9 * triangles),
    material: new Int32Array(triangles),
    object: new Int32Array(triangles),
    materials: [],
  };
}

/** Bounds of triangles; all zero where there are none. */
export function boundsOf(positions: Float32Array): Box {
  if (positions.length === 0) return [0, 0, 0, 0, 0, 0];
  const b: Box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i += 3) {
    for (const k of AXES) {
      const v = positions[i + k]!;
      if (v < b[k]) b[k] = v;
      if (v > b[MOST[k]]) b[MOST[k]] = v;
    }
  }
  return b;
}

/** Union of boxes; all zero where there are none. */
export function unionOf(boxes: readonly Box[]): Box {
  if (boxes.length === 0) return [0, 0, 0, 0, 0, 0];
  const out: Box = [...boxes[0]!];
  for (const b of boxes)
    for (const k of AXES) {
      out[k] = Math.min(out[k], b[k]);
      out[MOST[k]] = Math.max(out[MOST[k]], b[MOST[k]]);
    }
  return out;
}
