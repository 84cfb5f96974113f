/** A document's plate for the compiler: its pixels as the kernel reads them, and the surface through its depth as a mesh. */
import type { Mesh } from "../data/geometry";
import type { SceneDocument } from "../document/schema";
import { cameraFrame } from "../document/camera";
import type { Plate } from "../document/plate";
import { plateCamera } from "../document/plate-lens";
import { nearestOf } from "../formats/layers";
import * as L from "../layout/layout";
import { luminance } from "../optics/colour";
import { cross, dot, sub, unit, type V3 } from "../math/vectors";
import { partedDistances } from "../plate/edges";
import { axisDirection, type PlateLens } from "../plate/lens";
import { depthMesh } from "../plate/mesh";
import { lensOf, plateDistances, type PlatePictures } from "../plate/read";
import { normalCode } from "./normals";

/** Pixels of a plate, PLATE_SIZE bytes each. */
export interface CompiledPlate {
  width: number;
  height: number;
  pixels: ArrayBuffer;
  /** Pixels that an edge crosses, parted into front and back. */
  parted: number;
  /** Luminance (cd/m²) that all but a hundredth of its pixels stay below. */
  white: number;
}

export interface PlateResource {
  compiled: CompiledPlate;
  surface: Mesh;
}

/** Axes of the lens in the world: what brings a direction of lens space (x right, y up, −z forward) there. */
function toWorld(plate: Plate, camera: SceneDocument["camera"]): (d: Readonly<V3>) => V3 {
  const { right, up, forward } = cameraFrame(plateCamera(plate, camera));
  return ([x, y, z]) => [0, 1, 2].map((k) => x * right[k]! + y * up[k]! - z * forward[k]!) as V3;
}

/** A plate of its pictures. Of a depth that has no surface, as a sky alone, the surface is empty. */
export function compilePlate(doc: SceneDocument, plate: Plate, pictures: PlatePictures): PlateResource {
  const lens = lensOf(plate, pictures);
  const distance = plateDistances(plate, pictures);
  const world = toWorld(plate, doc.camera);
  return {
    compiled: compiledPixels(plate, pictures, distance, lens, world),
    surface: surfaceMesh(plate, distance, lens, world),
  };
}

function compiledPixels(
  plate: Plate,
  { bands, normals, width, height }: PlatePictures,
  distance: Float32Array,
  lens: PlateLens,
  world: (d: Readonly<V3>) => V3,
): CompiledPlate {
  const { near, far, cover, shares, parted } = partedDistances(bands, distance, lens, plate.edges);
  const n = width * height;
  const pixels = new ArrayBuffer(n * L.PLATE_SIZE);
  const floats = new Float32Array(pixels),
    words = new Int32Array(pixels),
    bytes = new Uint8Array(pixels);
  const scale = 2 ** plate.light;
  const stride = L.PLATE_SIZE / 4;
  const facing = normals ? null : facings(distance, lens);
  for (let i = 0; i < n; i++) {
    const at = i * stride;
    // a power of two changes no digit; what is no light is none
    for (let k = 0; k < 3; k++) {
      const v = bands[k]![i]!;
      floats[at + k] = v >= 0 && v < Infinity ? v * scale : 0;
    }
    floats[at + L.PLATE_NEAR / 4] = near[i]!;
    floats[at + L.PLATE_FAR / 4] = far[i]!;
    bytes[4 * at + L.PLATE_COVER] = cover[i]!;
    for (let k = 0; k < 3; k++) bytes[4 * at + L.PLATE_SHARES + k] = shares[3 * i + k]!;
    const normal = normals ? ([normals[0]![i]!, normals[1]![i]!, normals[2]![i]!] as const) : world(facing!(i));
    words[at + L.PLATE_NORMAL / 4] = normalCode(...(normal as V3));
  }
  return { width, height, pixels, parted, white: scale * brightOf(bands) };
}

/** Luminance that all but a hundredth of the pixels stay below, of some of them; 1 of a black picture. */
function brightOf(bands: readonly Float32Array[]): number {
  const n = bands[0]!.length;
  const every = Math.max(1, Math.floor(n / 20_000));
  const some = Array.from({ length: Math.ceil(n / every) }, (_, i) =>
    luminance(bands[0]![i * every]!, bands[1]![i * every]!, bands[2]![i * every]!),
  );
  const sorted = some.filter((v) => v > 0 && v < Infinity).sort((a, b) => a - b);
  return sorted[Math.floor(0.99 * sorted.length)] ?? 1;
}

/** Normals of the surface through the distances, in lens space: of the flatter of the steps to both sides. Zero where nothing is. */
function facings(distance: Float32Array, lens: PlateLens): (i: number) => V3 {
  const { width, height } = lens;
  const place = (x: number, y: number): V3 | null => {
    const d = distance[y * width + x]!;
    if (!(d < Infinity)) return null;
    const [a, b, c] = unit(axisDirection(lens, (x + 0.5) / width, (y + 0.5) / height));
    return [d * a, d * b, d * c];
  };
  const step = (here: V3, back: V3 | null, ahead: V3 | null): V3 | null => {
    const [p, q] = [back && sub(here, back), ahead && sub(ahead, here)];
    if (!p || !q) return p ?? q;
    return dot(p, p) < dot(q, q) ? p : q;
  };
  return (i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    const here = place(x, y);
    if (!here) return [0, 0, 0];
    const across = step(here, x > 0 ? place(x - 1, y) : null, x + 1 < width ? place(x + 1, y) : null);
    const down = step(here, y > 0 ? place(x, y - 1) : null, y + 1 < height ? place(x, y + 1) : null);
    if (!across || !down) return [0, 0, 0];
    const n = cross(down, across);
    return dot(n, n) > 0 ? unit(n) : [0, 0, 0];
  };
}

/** Triangles of the surface in the world, flat. */
function surfaceMesh(plate: Plate, distance: Float32Array, lens: PlateLens, world: (d: Readonly<V3>) => V3): Mesh {
  const k = Math.min(1, plate.across / lens.width);
  const small: PlateLens = { ...lens, width: Math.max(2, Math.round(k * lens.width)), height: Math.max(2, Math.round(k * lens.height)) };
  const { positions: corners, triangles } = depthMesh(nearestOf(distance, lens, small.width, small.height), small);
  const placed = new Float32Array(corners.length);
  for (let i = 0; i < corners.length; i += 3) {
    const [x, y, z] = world([corners[i]!, corners[i + 1]!, corners[i + 2]!]);
    placed[i] = x + plate.position[0];
    placed[i + 1] = y + plate.position[1];
    placed[i + 2] = z + plate.position[2];
  }
  const positions = new Float32Array(3 * triangles.length),
    normals = new Float32Array(3 * triangles.length);
  triangles.forEach((c, j) => {
    for (let m = 0; m < 3; m++) positions[3 * j + m] = placed[3 * c + m]!;
  });
  for (let t = 0; t < positions.length; t += 9) {
    const corner = (c: number): V3 => [positions[t + 3 * c]!, positions[t + 3 * c + 1]!, positions[t + 3 * c + 2]!];
    const [a, b, c] = [corner(0), corner(1), corner(2)];
    const n = cross(sub(b, a), sub(c, a));
    const length = Math.hypot(...n) || 1;
    for (let v = 0; v < 3; v++) for (let m = 0; m < 3; m++) normals[t + 3 * v + m] = n[m]! / length;
  }
  return { positions, normals, material: new Int32Array(triangles.length / 3), materials: [] };
}
