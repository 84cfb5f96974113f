/**
 * Compiles a document and its models to the kernel's buffers. Geometry (slow, cached by what it
 * depends on) and parameters (instant) are separate, so that moving a light never rebuilds a BVH.
 */
import type { Material, SceneDocument } from "../document/schema";
import { InputError } from "../document/parse";
import { luminance, temperatureRgb } from "../optics/colour";
import { absorptionOf, automaticStep, scatteringOf } from "../optics/medium";
import { buildBvh, type Bvh } from "./bvh";
import { boundsOf, emptyGeometry, placeMesh, placementMatrix, type Mesh, type SceneGeometry } from "./geometry";
import { shapeMesh } from "./shapes";
import * as L from "./layout";

/** Most triangles a scene may have: the leaf code's block index and memory set the limit. */
export const MOST_TRIANGLES = 12_000_000;

/** The part of a scene that is slow to make: triangles, BVH, and facts about them. */
export interface CompiledGeometry {
  bvh: Bvh;
  /** TRIANGLE_SIZE bytes a triangle. */
  triangles: ArrayBuffer;
  triangleCount: number;
  materials: Material[];
  /** minx, miny, minz, maxx, maxy, maxz in metres */
  bounds: [number, number, number, number, number, number];
}

/** What the geometry of a document depends on, as a key: equal keys, equal geometry. */
export function geometryKey(doc: SceneDocument): string {
  const { objects, materials, assets } = doc;
  return JSON.stringify({ objects, materials, assets: Object.fromEntries(Object.entries(assets).map(([k, a]) => [k, a.sha256 ?? a.uri])) });
}

/** Puts shapes and models together. @param models by asset name. @throws InputError for a missing model */
export function assemble(doc: SceneDocument, models: ReadonlyMap<string, Mesh>): SceneGeometry {
  const parts: { mesh: Mesh; object: number }[] = [];
  let triangles = 0;
  doc.objects.forEach((object, i) => {
    if (object.hidden) return;
    let mesh: Mesh;
    if (object.kind === "model") {
      const model = models.get(object.asset);
      if (!model) throw new InputError(`objects[${i}]: model "${object.asset}" is missing`);
      mesh = model;
    } else mesh = shapeMesh(object, doc.materials[object.material]!);
    parts.push({ mesh, object: i });
    triangles += mesh.material.length;
  });
  if (triangles > MOST_TRIANGLES) throw new InputError(`scene: ${triangles} triangles, more than the limit of ${MOST_TRIANGLES}`);
  const out = emptyGeometry(triangles);
  let at = 0;
  for (const { mesh, object } of parts) {
    const o = doc.objects[object]!;
    placeMesh(mesh, placementMatrix(o.position, o.rotation, o.kind === "model" ? o.scale : 1), out, at, out.materials.length, object);
    out.materials.push(...mesh.materials);
    at += mesh.material.length;
  }
  return out;
}

/** Builds the BVH and packs triangle attributes. */
export function compileGeometry(geometry: SceneGeometry): CompiledGeometry {
  const count = geometry.material.length;
  const triangles = new ArrayBuffer(Math.max(1, count) * L.TRIANGLE_SIZE);
  const f = new Float32Array(triangles),
    i32 = new Int32Array(triangles);
  const stride = L.TRIANGLE_SIZE / 4;
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 9; k++) f[stride * i + k] = geometry.normals[9 * i + k]!;
    i32[stride * i + L.TRIANGLE_MATERIAL / 4] = geometry.material[i]!;
    i32[stride * i + L.TRIANGLE_OBJECT / 4] = geometry.object[i]!;
  }
  return {
    bvh: buildBvh(geometry.positions),
    triangles,
    triangleCount: count,
    materials: geometry.materials,
    bounds: boundsOf(geometry.positions),
  };
}

/** Where each buffer lies in kernel memory. */
export interface MemoryPlan {
  nodes: number;
  leaves: number;
  triangles: number;
  materials: number;
  film: number;
  /** Bytes in all. */
  end: number;
}

/** Plans memory for a geometry and a film of `pixels`. @throws InputError past the 4 GB of a kernel memory */
export function planMemory(geometry: CompiledGeometry, pixels: number): MemoryPlan {
  const align = (n: number): number => Math.ceil(n / 128) * 128;
  const nodes = L.SCENE;
  const leaves = align(nodes + geometry.bvh.nodes.byteLength);
  const triangles = align(leaves + geometry.bvh.leaves.byteLength);
  const materials = align(triangles + geometry.triangles.byteLength);
  const film = align(materials + Math.max(1, geometry.materials.length) * L.MATERIAL_SIZE);
  const end = film + pixels * L.PIXEL_SIZE;
  if (end > 4_000_000_000) throw new InputError(`scene and picture need ${(end / 1e9).toFixed(1)} GB, more than the 4 GB a render may use`);
  return { nodes, leaves, triangles, materials, film, end };
}

/** Copies geometry into kernel memory. */
export function writeGeometry(memory: ArrayBufferLike, geometry: CompiledGeometry, plan: MemoryPlan): void {
  const copy = (from: ArrayBuffer, to: number): void => new Uint8Array(memory, to, from.byteLength).set(new Uint8Array(from));
  copy(geometry.bvh.nodes, plan.nodes);
  copy(geometry.bvh.leaves, plan.leaves);
  copy(geometry.triangles, plan.triangles);
  const m = new Float32Array(memory, plan.materials, Math.max(1, geometry.materials.length) * (L.MATERIAL_SIZE / 4));
  geometry.materials.forEach((material, i) => {
    const at = i * (L.MATERIAL_SIZE / 4);
    m.set(material.baseColor, at);
    m[at + 3] = material.metallic;
    m.set(material.emission, at + 4);
    m[at + 7] = material.roughness;
    m[at + 8] = material.specular;
    m[at + 9] = material.diffuseTransmission;
  });
}

type V3 = [number, number, number];
const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (a: V3): V3 => {
  const l = Math.hypot(...a);
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Lens frame: unit right, up and forward vectors of a camera. */
export function cameraFrame(camera: SceneDocument["camera"]): { right: V3; up: V3; forward: V3 } {
  const forward = unit(sub(camera.target, camera.position));
  // looking straight up or down, "up" in the picture is towards -z
  const reference: V3 = Math.abs(forward[1]) > 0.99999 ? [0, 0, -1] : [0, 1, 0];
  const r0 = unit(cross(forward, reference));
  const u0 = cross(r0, forward);
  const a = (camera.roll * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  const right = r0.map((v, i) => c * v + s * u0[i]!) as V3;
  return { right, up: cross(right, forward), forward };
}

/** Unit vector towards the sun. Azimuth 0 looks along -z, 90 along +x. */
export function sunDirection(azimuth: number, elevation: number): V3 {
  const [a, e] = [(azimuth * Math.PI) / 180, (elevation * Math.PI) / 180];
  return [Math.cos(e) * Math.sin(a), Math.sin(e), -Math.cos(e) * Math.cos(a)];
}

/** Azimuth and elevation (degrees) of a direction; inverse of {@link sunDirection}. */
export function sunAngles([x, y, z]: V3): { azimuth: number; elevation: number } {
  const l = Math.hypot(x, y, z);
  return { azimuth: (Math.atan2(x, -z) * 180) / Math.PI, elevation: (Math.asin(Math.max(-1, Math.min(1, y / l))) * 180) / Math.PI };
}

/** Unit ray direction through a point of the frame (shares of width and height from the upper left); perspective. */
export function rayThrough(doc: SceneDocument, x: number, y: number): V3 {
  const { right, up, forward } = cameraFrame(doc.camera);
  if (doc.camera.kind === "orthographic") return forward;
  const hy = Math.tan((doc.camera.fieldOfView * Math.PI) / 360);
  const hx = (hy * doc.film.size[0]) / doc.film.size[1];
  const [a, b] = [(2 * x - 1) * hx, (1 - 2 * y) * hy];
  return unit([0, 1, 2].map((i) => forward[i]! + a * right[i]! + b * up[i]!) as V3);
}

/** Where a direction at infinity appears in the frame (shares), or null when it is behind the lens or the lens is orthographic. */
export function frameOf(doc: SceneDocument, d: V3): { x: number; y: number } | null {
  if (doc.camera.kind === "orthographic") return null;
  const { right, up, forward } = cameraFrame(doc.camera);
  const dot = (a: V3): number => a[0] * d[0] + a[1] * d[1] + a[2] * d[2];
  const z = dot(forward);
  if (z <= 1e-6) return null;
  const hy = Math.tan((doc.camera.fieldOfView * Math.PI) / 360);
  const hx = (hy * doc.film.size[0]) / doc.film.size[1];
  return { x: 0.5 + dot(right) / z / hx / 2, y: 0.5 - dot(up) / z / hy / 2 };
}

/** Pixels to render: [x0, y0, x1, y1) of a frame of the given size. */
export function cropOf(doc: SceneDocument, width: number, height: number): [number, number, number, number] {
  const r = doc.film.region;
  if (!r) return [0, 0, width, height];
  const x0 = Math.min(width - 1, Math.floor(r.x * width + 1e-6)),
    y0 = Math.min(height - 1, Math.floor(r.y * height + 1e-6));
  const x1 = Math.max(x0 + 1, Math.min(width, Math.ceil((r.x + r.width) * width - 1e-6)));
  const y1 = Math.max(y0 + 1, Math.min(height, Math.ceil((r.y + r.height) * height - 1e-6)));
  return [x0, y0, x1, y1];
}

/** Writes everything that changes without rebuilding geometry. @param width,height pixels of the film */
export function writeParameters(
  memory: ArrayBufferLike,
  doc: SceneDocument,
  geometry: CompiledGeometry,
  plan: MemoryPlan,
  width: number,
  height: number,
): void {
  const p = new Float64Array(memory, L.PARAMS, L.PARAM_COUNT);
  p.fill(0);
  p[L.P_NODES] = plan.nodes;
  p[L.P_LEAVES] = plan.leaves;
  p[L.P_TRIANGLES] = plan.triangles;
  p[L.P_MATERIALS] = plan.materials;
  p[L.P_FILM] = plan.film;
  p[L.P_WIDTH] = width;
  p[L.P_HEIGHT] = height;
  p[L.P_ROOT] = geometry.bvh.root;
  const b = geometry.bounds;
  p[L.P_EPSILON] = 2e-6 * Math.hypot(b[3] - b[0], b[4] - b[1], b[5] - b[2]);
  p[L.P_SEED] = doc.render.seed;
  p[L.P_LEVEL] = doc.render.level === "full" ? 1 : 0;
  p[L.P_AIR_BOUNCES] = doc.render.airBounces;
  p[L.P_SURFACE_BOUNCES] = doc.render.surfaceBounces;

  p[L.P_AIR_SAMPLES] = doc.render.airSamples;

  const frame = cameraFrame(doc.camera);
  p.set(doc.camera.position, L.P_CAM_ORIGIN);
  p.set(frame.right, L.P_CAM_RIGHT);
  p.set(frame.up, L.P_CAM_UP);
  p.set(frame.forward, L.P_CAM_FORWARD);
  const half = doc.camera.kind === "perspective" ? Math.tan((doc.camera.fieldOfView * Math.PI) / 360) : doc.camera.height / 2;
  p[L.P_CAM_KIND] = doc.camera.kind === "perspective" ? 0 : 1;
  p[L.P_CAM_HALF_Y] = half;
  p[L.P_CAM_HALF_X] = (half * width) / height;

  writeMedium(p, doc);

  if (doc.sun.on)
    p.set(
      temperatureRgb(doc.sun.temperature).map((c) => c * doc.sun.illuminance),
      L.P_SUN_E,
    );
  p.set(sunDirection(doc.sun.azimuth, doc.sun.elevation), L.P_SUN_DIR);
  p[L.P_SUN_COS] = Math.cos((doc.sun.angularDiameter * Math.PI) / 360);
  p[L.P_SUN_DISK] = doc.sun.on && doc.sun.diskVisible ? 1 : 0;
  if (doc.sky.on) {
    p.set(
      doc.sky.zenith.map((c) => c * doc.sky.luminance),
      L.P_SKY_ZENITH,
    );
    p.set(
      doc.sky.horizon.map((c) => c * doc.sky.luminance),
      L.P_SKY_HORIZON,
    );
  }
  writeLights(memory, p, doc);
}

function writeMedium(p: Float64Array, doc: SceneDocument): void {
  const medium = doc.air[0];
  if (!medium || !medium.on || medium.density <= 0) return;
  p[L.P_MEDIUM] = medium.region.kind === "box" ? 2 : 1;
  p.set(scatteringOf(medium), L.P_SIGMA_S);
  p.set(absorptionOf(medium), L.P_SIGMA_A);
  p[L.P_G] = medium.anisotropy;
  if (medium.region.kind === "box") {
    const m = placementMatrix([0, 0, 0], medium.region.rotation);
    p.set(medium.region.centre, L.P_BOX_CENTRE);
    // columns of the rotation are the box axes: rows of its inverse
    for (let axis = 0; axis < 3; axis++) p.set([m[axis]!, m[4 + axis]!, m[8 + axis]!], L.P_BOX_ROWS + 3 * axis);
    p.set(
      medium.region.size.map((s) => s / 2),
      L.P_BOX_HALF,
    );
  }
  if (medium.height) {
    p[L.P_HEIGHT_ON] = 1;
    p[L.P_HEIGHT_LEVEL] = medium.height.level;
    p[L.P_HEIGHT_SCALE] = medium.height.scale;
  }
  if (medium.breakUp) {
    const n = medium.breakUp;
    p[L.P_NOISE_ON] = 1;
    p.fill(1 / n.size, L.P_NOISE_FREQ, L.P_NOISE_FREQ + 3);
    p[L.P_NOISE_OCTAVES] = n.octaves;
    p[L.P_NOISE_ROUGHNESS] = n.roughness;
    p[L.P_NOISE_LOW] = n.low;
    p[L.P_NOISE_HIGH] = n.high;
    p[L.P_NOISE_SEED] = n.seed;
  }
  // air without break-up has closed forms: stepping would only add error
  p[L.P_ESTIMATOR] = doc.render.estimator === "stepping" && medium.breakUp ? 1 : 0;
  p[L.P_STEP] = doc.render.stepSize === "auto" ? automaticStep(medium) : doc.render.stepSize;
  p[L.P_MAX_STEPS] = 100_000;
}

function writeLights(memory: ArrayBufferLike, p: Float64Array, doc: SceneDocument): void {
  const table = new Float64Array(memory, L.LIGHTS, L.MAX_LIGHTS * L.LIGHT_STRIDE);
  table.fill(0);
  let n = 0;
  for (const light of doc.lights) {
    if (!light.on || light.intensity <= 0) continue;
    const at = n++ * L.LIGHT_STRIDE;
    table[at + L.L_KIND] = light.kind === "spot" ? 1 : 0;
    table.set(light.position, at + L.L_POSITION);
    const rgb = temperatureRgb(light.temperature);
    table.set(
      rgb.map((c) => (c / luminance(...rgb)) * light.intensity),
      at + L.L_INTENSITY,
    );
    if (light.kind === "spot") {
      table.set(unit(sub(light.target, light.position)), at + L.L_AXIS);
      const half = (light.cone * Math.PI) / 360;
      table[at + L.L_COS_OUTER] = Math.cos(half);
      table[at + L.L_COS_INNER] = Math.cos(half * (1 - light.softness));
    }
  }
  p[L.P_LIGHT_COUNT] = n;
}
