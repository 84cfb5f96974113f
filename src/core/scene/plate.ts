/** A document's plate for the compiler: its pixels as the kernel reads them, and the surface through its depth as a mesh. */
import type { Mesh } from "../data/geometry";
import type { SceneDocument } from "../document/schema";
import { cameraFrame } from "../document/camera";
import type { Plate } from "../document/plate";
import { ofItsShape, plateCamera, seesPlate } from "../document/plate-lens";
import { nearestOf } from "../formats/layers";
import * as L from "../layout/layout";
import { luminance } from "../optics/colour";
import { cross, dot, sub, type V3 } from "../math/vectors";
import { partedDistances } from "../plate/edges";
import { perAxis, type PlateLens } from "../plate/lens";
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
  /** Names of the mattes that its file has. */
  mattes: string[];
}

/** Whether a film of the document shows the plate pixel by pixel: through its lens, in a frame of its shape. */
export const showsPlate = (doc: SceneDocument, plate: CompiledPlate | null): plate is CompiledPlate =>
  plate !== null && seesPlate(doc) && ofItsShape(doc.film.size, plate);

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
  { bands, normals, mattes, width, height }: PlatePictures,
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
  // normals of a file are the world's, those of the distances the lens's
  const facing = normals
    ? (i: number, to: V3): void => void ([to[0], to[1], to[2]] = [normals[0]![i]!, normals[1]![i]!, normals[2]![i]!])
    : facings(distance, lens);
  const [right, up, back] = normals
    ? ([
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ] as V3[])
    : [world([1, 0, 0]), world([0, 1, 0]), world([0, 0, 1])];
  const own: V3 = [0, 0, 0];
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
    facing(i, own);
    const [x, y, z] = own;
    words[at + L.PLATE_NORMAL / 4] = normalCode(
      x * right![0] + y * up![0] + z * back![0],
      x * right![1] + y * up![1] + z * back![1],
      x * right![2] + y * up![2] + z * back![2],
    );
  }
  if (mattes.length > 0) writeMattes(mattes, pixels);
  return { width, height, pixels, parted, white: scale * brightOf(bands), mattes: mattes.map((m) => m.name) };
}

/** Writes of each pixel the two mattes that cover most of it. */
function writeMattes(mattes: PlatePictures["mattes"], pixels: ArrayBuffer): void {
  const n = pixels.byteLength / L.PLATE_SIZE;
  const numbers = new Uint16Array(pixels),
    bytes = new Uint8Array(pixels);
  const most = new Float32Array(n),
    second = new Float32Array(n);
  mattes.forEach(({ cover: share }, number) => {
    for (let i = 0; i < n; i++) {
      const v = share[i]!;
      const to = (i * L.PLATE_SIZE) / 2;
      if (!(v > second[i]!)) continue;
      if (v > most[i]!) {
        second[i] = most[i]!;
        numbers[to + L.PLATE_MATTE_SECOND / 2] = numbers[to + L.PLATE_MATTE / 2]!;
        most[i] = v;
        numbers[to + L.PLATE_MATTE / 2] = number + 1;
      } else {
        second[i] = v;
        numbers[to + L.PLATE_MATTE_SECOND / 2] = number + 1;
      }
    }
  });
  // what neither covers is of the second, none of which may be
  for (let i = 0; i < n; i++) bytes[i * L.PLATE_SIZE + L.PLATE_MATTE_SHARE] = Math.round(255 * Math.min(1, most[i]!));
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

/** Sets the normal of the surface through the distances at a pixel, in lens space: of the flatter of the steps to both sides. Zero where nothing is. */
function facings(distance: Float32Array, lens: PlateLens): (i: number, to: V3) => void {
  const { width, height } = lens;
  const longer = perAxis(lens);
  const hy = Math.tan(lens.fieldOfView / 2),
    hx = (hy * width) / height;
  /** Step of the place from one pixel to another; false where either is the sky. */
  const step = (i: number, x: number, y: number, j: number, u: number, v: number, out: V3): boolean => {
    const [p, q] = [distance[i]!, distance[j]!];
    if (!(p < Infinity && q < Infinity)) return false;
    const a = p / longer(x, y),
      b = q / longer(u, v);
    out[0] = b * ((2 * u + 1) / width - 1) * hx - a * ((2 * x + 1) / width - 1) * hx;
    out[1] = b * (1 - (2 * v + 1) / height) * hy - a * (1 - (2 * y + 1) / height) * hy;
    out[2] = a - b;
    return true;
  };
  const [one, other]: [V3, V3] = [[0, 0, 0], [0, 0, 0]]; // prettier-ignore
  /** The shorter of the steps to both sides; false where there is none. */
  const shorter = (i: number, x: number, y: number, dx: number, dy: number, out: V3): boolean => {
    const by = dx + dy * width;
    const back = x - dx >= 0 && y - dy >= 0 && step(i - by, x - dx, y - dy, i, x, y, one);
    const ahead = x + dx < width && y + dy < height && step(i, x, y, i + by, x + dx, y + dy, other);
    const from = back && (!ahead || dot(one, one) < dot(other, other)) ? one : other;
    [out[0], out[1], out[2]] = from;
    return back || ahead;
  };
  const [across, down]: [V3, V3] = [[0, 0, 0], [0, 0, 0]]; // prettier-ignore
  return (i, to) => {
    const x = i % width,
      y = (i - x) / width;
    const known = distance[i]! < Infinity && shorter(i, x, y, 1, 0, across) && shorter(i, x, y, 0, 1, down);
    to[0] = known ? down[1] * across[2] - down[2] * across[1] : 0;
    to[1] = known ? down[2] * across[0] - down[0] * across[2] : 0;
    to[2] = known ? down[0] * across[1] - down[1] * across[0] : 0;
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
