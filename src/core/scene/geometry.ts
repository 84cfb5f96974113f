/** Triangle geometry of a scene in flat arrays, and how parts are put together. */
import type { Material } from "../document/schema";

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

/** Use of a texture: its number, and how texture coordinates become places in it (row-major 2×3). */
export interface TextureUse {
  texture: number;
  transform: readonly [number, number, number, number, number, number];
}

/** A material with what only models bring: textures and cut-outs. */
export interface SurfaceMaterial extends Material {
  /** As the document or the model calls it. */
  name?: string;
  alphaMode?: "opaque" | "mask" | "blend";
  cutoff?: number;
  normalScale?: number;
  /** Black to the lens (see the document's `holdout`). */
  holdout?: boolean;
  textures?: Partial<Record<"base" | "rough" | "normal" | "emission" | "transmission", TextureUse>>;
}

/** Triangles of one node of a model, which follow each other. */
export interface MeshPart {
  /** Names from the root down to the node, between slashes. */
  path: string;
  first: number;
  count: number;
  /** Where the node is, m: what it turns and scales about. */
  pivot: readonly [number, number, number];
}

/** Triangles without an index: `positions` and `normals` 9 floats a triangle (m), `material` one index a triangle. */
export interface Mesh {
  positions: Float32Array;
  normals: Float32Array;
  material: Int32Array;
  materials: SurfaceMaterial[];
  /** 6 floats a triangle, where anything has textures. */
  uvs?: Float32Array;
  textures?: Texture[];
  /** What the triangles belong to, where a model has more than one thing in it. */
  parts?: MeshPart[];
}

/** All triangles of a scene, with the object each came from. */
export interface SceneGeometry extends Mesh {
  object: Int32Array;
}

/** Row-major 3×4 affine transform. */
export type Affine = [number, number, number, number, number, number, number, number, number, number, number, number];

/** Placement from position (m), rotation (degrees about x, then y, then z) and uniform scale. */
export function placementMatrix(position: readonly number[], rotation: readonly number[], scale = 1): Affine {
  const [a, b, c] = rotation.map((d) => (d * Math.PI) / 180) as [number, number, number];
  const [ca, sa, cb, sb, cc, sc] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b), Math.cos(c), Math.sin(c)];
  const s = scale;
  return [
    s * cc * cb,
    s * (cc * sb * sa - sc * ca),
    s * (cc * sb * ca + sc * sa),
    position[0]!,
    s * sc * cb,
    s * (sc * sb * sa + cc * ca),
    s * (sc * sb * ca - cc * sa),
    position[1]!,
    s * -sb,
    s * cb * sa,
    s * cb * ca,
    position[2]!,
  ];
}

/**
 * Writes triangles [first, first + n) of a mesh under a rigid-and-uniform-scale transform into larger arrays, from
 * triangle `at` on. @param material the number of each of the mesh's materials there
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
  const length = Math.hypot(m[0], m[4], m[8]) || 1;
  for (let i = 0; i < n * 3; i++) {
    const p = 9 * first + 3 * i;
    const q = 9 * at + 3 * i;
    const x = mesh.positions[p]!,
      y = mesh.positions[p + 1]!,
      z = mesh.positions[p + 2]!;
    into.positions[q] = m[0] * x + m[1] * y + m[2] * z + m[3];
    into.positions[q + 1] = m[4] * x + m[5] * y + m[6] * z + m[7];
    into.positions[q + 2] = m[8] * x + m[9] * y + m[10] * z + m[11];
    const nx = mesh.normals[p]!,
      ny = mesh.normals[p + 1]!,
      nz = mesh.normals[p + 2]!;
    into.normals[q] = (m[0] * nx + m[1] * ny + m[2] * nz) / length;
    into.normals[q + 1] = (m[4] * nx + m[5] * ny + m[6] * nz) / length;
    into.normals[q + 2] = (m[8] * nx + m[9] * ny + m[10] * nz) / length;
  }
  if (mesh.uvs && into.uvs) into.uvs.set(mesh.uvs.subarray(6 * first, 6 * (first + n)), 6 * at);
  for (let i = 0; i < n; i++) {
    into.material[at + i] = material(mesh.material[first + i]!);
    into.object[at + i] = object;
  }
}

/** Materials of a part, their textures renumbered to begin at `first`. */
export function movedTextures(materials: readonly SurfaceMaterial[], first: number): SurfaceMaterial[] {
  return materials.map((m) =>
    m.textures
      ? { ...m, textures: Object.fromEntries(Object.entries(m.textures).map(([k, t]) => [k, { ...t, texture: t.texture + first }])) }
      : m,
  );
}

export function emptyGeometry(triangles: number, textured = false): SceneGeometry {
  return {
    ...(textured ? { uvs: new Float32Array(6 * triangles) } : {}),
    textures: [],
    positions: new Float32Array(9 * triangles),
    normals: new Float32Array(9 * triangles),
    material: new Int32Array(triangles),
    object: new Int32Array(triangles),
    materials: [],
  };
}

/** Bounds of a geometry: [minx, miny, minz, maxx, maxy, maxz]; all zero when it is empty. */
export function boundsOf(positions: Float32Array): [number, number, number, number, number, number] {
  if (positions.length === 0) return [0, 0, 0, 0, 0, 0];
  const b: [number, number, number, number, number, number] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i += 3) {
    for (let k = 0; k < 3; k++) {
      const v = positions[i + k]!;
      if (v < b[k]!) b[k] = v;
      if (v > b[k + 3]!) b[k + 3] = v;
    }
  }
  return b;
}
