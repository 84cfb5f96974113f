/** glTF 2.0 binary models to triangles and materials. */
import { binaryGltfJson } from "./gltf-check";
import type { PictureDecoders } from "./gltf-pictures";
import { plain } from "./gltf-plain";
import { rootNodes } from "./gltf-shape";
import { AXES } from "../math/vectors";
import { type Matrix3 } from "../math/matrix";
import {
  Primitive,
  WebIO,
  type Accessor,
  type Document,
  type Material as GltfMaterial,
  type Mesh as GltfMesh,
  type Node,
} from "@gltf-transform/core";
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsPBRSpecularGlossiness,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRNodeVisibility,
  KHRTextureBasisu,
  KHRTextureTransform,
  type DiffuseTransmission,
  type EmissiveStrength,
  type InstancedMesh,
  type IOR,
  type Specular,
  type Transmission,
  type Volume,
} from "@gltf-transform/extensions";
import { InputError, reasonOf } from "../errors";
import { materialSchema } from "../document/schema";
import type { Colour } from "../data/material";
import { cofactors, composeAffine, determinant, type Affine } from "../math/affine";
import { isWorthSharing } from "../data/sharing";
import { boundsOf, type Mesh, type MeshPart, type SurfaceMaterial } from "../data/geometry";
import { TextureReader } from "./gltf-textures";
import { MODEL_LIMITS } from "./limits";

export { MODEL_LIMITS };

/** What was read from a model, and what was left out. */
export interface ModelReport {
  /** Triangles that are shown, and that are kept: many in several places are kept once. */
  triangles: number;
  kept: number;
  /** Places of meshes besides their first. */
  instances: number;
  materials: number;
  left: string[];
}

/** Reader and writer of models as the store holds them: in the open, nothing compressed. */
export function modelIO(): WebIO {
  return new WebIO().registerExtensions([
    KHRMaterialsEmissiveStrength,
    KHRMaterialsSpecular,
    KHRMaterialsDiffuseTransmission,
    KHRMaterialsUnlit,
    KHRMaterialsIOR,
    KHRMaterialsTransmission,
    KHRMaterialsVolume,
    KHRMaterialsPBRSpecularGlossiness,
    KHRNodeVisibility,
    KHRTextureBasisu,
    EXTTextureWebP,
    KHRTextureTransform,
    KHRMeshQuantization,
    KHRLightsPunctual,
    EXTMeshGPUInstancing,
  ]);
}

/** What unpacks compressed geometry; made when a file asks for it. */
export interface Decoders extends PictureDecoders {
  draco: () => Promise<unknown>;
  meshopt: () => Promise<unknown>;
}

/** Reader of models that may be compressed. @param used extensions of the file: only what it needs is made */
export async function importIO(decoders: Decoders, used: readonly string[]): Promise<WebIO> {
  const io = modelIO();
  if (used.includes("KHR_draco_mesh_compression"))
    io.registerExtensions([KHRDracoMeshCompression]).registerDependencies({ "draco3d.decoder": await decoders.draco() });
  if (used.includes("EXT_meshopt_compression"))
    io.registerExtensions([EXTMeshoptCompression]).registerDependencies({ "meshopt.decoder": await decoders.meshopt() });
  return io;
}

/** Checks the container before a parser sees it. */
export function checkContainer(bytes: Uint8Array, what: string): void {
  if (bytes.length > MODEL_LIMITS.bytes)
    throw new InputError(`${what}: ${bytes.length} bytes, more than the limit of ${MODEL_LIMITS.bytes}`);
  if (bytes.length < 20) throw new InputError(`${what}: ${bytes.length} bytes are too few for a binary glTF file`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0, true) !== 0x46546c67) throw new InputError(`${what}: does not begin like a binary glTF (.glb) file`);
  const version = view.getUint32(4, true);
  if (version !== 2) throw new InputError(`${what}: glTF version ${version}; only version 2 is read`);
  const length = view.getUint32(8, true);
  if (length > bytes.length) throw new InputError(`${what}: cut short: the header promises ${length} bytes, the file has ${bytes.length}`);
  let at = 12;
  while (at + 8 <= length) {
    const size = view.getUint32(at, true);
    if (at + 8 + size > length) throw new InputError(`${what}: the chunk at byte ${at} (${size} bytes) reaches past the end of the file`);
    at += 8 + size;
  }
}

function materialOf(m: GltfMaterial | null, textures: TextureReader, left: string[]): SurfaceMaterial {
  if (!m) return materialSchema.parse({ baseColor: [1, 1, 1], metallic: 1 });
  const clamp = (v: number): number => Math.max(0, Math.min(1, v));
  const strength = m.getExtension<EmissiveStrength>("KHR_materials_emissive_strength")?.getEmissiveStrength() ?? 1;
  const transmission = m.getExtension<Transmission>("KHR_materials_transmission");
  const volume = m.getExtension<Volume>("KHR_materials_volume");
  const diffuse = m.getExtension<DiffuseTransmission>("KHR_materials_diffuse_transmission");
  const specular = m.getExtension<Specular>("KHR_materials_specular");
  const tint = specular?.getSpecularColorFactor() ?? [1, 1, 1];
  const mode = m.getAlphaMode();
  const unread: [string, unknown][] = [
    ["occlusion", m.getOcclusionTexture()],
    ["specular", specular?.getSpecularTexture() ?? specular?.getSpecularColorTexture()],
    ["diffuse transmission", diffuse?.getDiffuseTransmissionTexture() ?? diffuse?.getDiffuseTransmissionColorTexture()],
    ["thickness", volume?.getThicknessTexture()],
  ];
  for (const [what, texture] of unread) if (texture) left.push(`material "${m.getName()}": its ${what} texture`);
  return {
    ...(m.getName() ? { name: m.getName().slice(0, 120) } : {}),
    ...materialSchema.parse({
      baseColor: m.getBaseColorFactor().slice(0, 3).map(clamp),
      metallic: clamp(m.getMetallicFactor()),
      roughness: clamp(m.getRoughnessFactor()),
      specular: clamp(specular?.getSpecularFactor() ?? 1),
      diffuseTransmission: clamp(diffuse?.getDiffuseTransmissionFactor() ?? 0),
      emission: m.getEmissiveFactor().map((v) => Math.max(0, Math.min(1e9, v * strength))) as Colour,
      opacity: mode === "OPAQUE" ? 1 : clamp(m.getAlpha()),
      transmission: clamp(transmission?.getTransmissionFactor() ?? 0),
      solid: (volume?.getThicknessFactor() ?? 0) > 0,
      ior: Math.max(1, Math.min(4, m.getExtension<IOR>("KHR_materials_ior")?.getIOR() ?? 1.5)),
      ...(volume
        ? {
            attenuationColor: volume.getAttenuationColor().map(clamp),
            attenuationDistance: Math.max(1e-6, Math.min(1e6, volume.getAttenuationDistance())),
          }
        : {}),
    }),
    alphaMode: mode === "MASK" ? "mask" : mode === "BLEND" ? "blend" : "opaque",
    cutoff: m.getAlphaCutoff(),
    ...(tint.some((c) => c !== 1) ? { specularColor: tint.map((c) => Math.max(0, Math.min(1000, c))) as Colour } : {}),
    // the format says white where it says nothing
    ...(diffuse ? { diffuseTransmissionColor: diffuse.getDiffuseTransmissionColorFactor().map(clamp) as Colour } : {}),
    normalScale: m.getNormalScale(),
    textures: {
      ...textures.use("base", m.getBaseColorTexture(), m.getBaseColorTextureInfo(), true),
      ...textures.use("rough", m.getMetallicRoughnessTexture(), m.getMetallicRoughnessTextureInfo(), false),
      ...textures.use("normal", m.getNormalTexture(), m.getNormalTextureInfo(), false),
      ...textures.use("emission", m.getEmissiveTexture(), m.getEmissiveTextureInfo(), true),
      ...(transmission
        ? textures.use("transmission", transmission.getTransmissionTexture(), transmission.getTransmissionTextureInfo(), false)
        : {}),
    },
  };
}

/** A mesh where a node, or one of a node's many copies, puts it. */
interface Placement {
  mesh: GltfMesh;
  matrix: Affine;
  /** Names from the scene's root down to the node, and where the node is. */
  path: string;
  pivot: [number, number, number];
}

/** Names of siblings, made different from each other and free of what parts a path. */
function siblingNames(nodes: readonly Node[]): string[] {
  const taken = new Set<string>();
  return nodes.map((node, i) => {
    const base = (node.getName() || node.getMesh()?.getName() || `part ${i + 1}`).replaceAll("/", "∕").slice(0, 100);
    let name = base;
    for (let k = 2; taken.has(name); k++) name = `${base} (${k})`;
    taken.add(name);
    return name;
  });
}

/** Meshes in their places, in the order of the nodes. @throws InputError for more than the limits allow */
function collect(doc: Document, what: string): Placement[] {
  const placements: Placement[] = [];
  let nodes = 0;
  const visit = (node: Node, path: string, depth: number): void => {
    if (++nodes > MODEL_LIMITS.nodes) throw new InputError(`${what}: more than ${MODEL_LIMITS.nodes} nodes`);
    if (depth > MODEL_LIMITS.depth) throw new InputError(`${what}: nodes within nodes more than ${MODEL_LIMITS.depth} deep`);
    const mesh = node.getMesh();
    if (mesh) {
      const world = node.getWorldMatrix() as unknown as number[];
      for (const matrix of instances(node, world, what)) {
        if (placements.length >= MODEL_LIMITS.nodes) throw new InputError(`${what}: meshes in more than ${MODEL_LIMITS.nodes} places`);
        placements.push({ mesh, matrix, path, pivot: [world[12]!, world[13]!, world[14]!] });
      }
    }
    const children = node.listChildren();
    const names = siblingNames(children);
    children.forEach((child, i) => visit(child, `${path}/${names[i]!}`, depth + 1));
  };
  const roots = rootNodes(doc);
  const names = siblingNames(roots);
  roots.forEach((node, i) => visit(node, names[i]!, 0));
  return placements;
}

/** World matrices of a node's mesh: its own, or one for each instance of EXT_mesh_gpu_instancing. */
function instances(node: Node, world: readonly number[], what: string): Affine[] {
  const batch = node.getExtension<InstancedMesh>("EXT_mesh_gpu_instancing");
  const rows = AXES.flatMap((r) => [world[r]!, world[4 + r]!, world[8 + r]!, world[12 + r]!]) as Affine;
  if (!batch) return [rows];
  const [t, r, s] = ["TRANSLATION", "ROTATION", "SCALE"].map((name) => batch.getAttribute(name));
  const count = Math.min(...[t, r, s].flatMap((a) => (a ? [a.getCount()] : [])));
  if (Number.isFinite(count) && count > MODEL_LIMITS.nodes)
    throw new InputError(`${what}: node "${node.getName()}": ${count} copies, more than the limit of ${MODEL_LIMITS.nodes}`);
  return Array.from({ length: Number.isFinite(count) ? count : 0 }, (_, i) => {
    const [px, py, pz] = t?.getElement(i, []) ?? [0, 0, 0];
    const [x, y, z, w] = (r?.getElement(i, []) ?? [0, 0, 0, 1]) as [number, number, number, number];
    const [sx, sy, sz] = (s?.getElement(i, []) ?? [1, 1, 1]) as [number, number, number];
    return composeAffine(rows, [
      sx * (1 - 2 * (y * y + z * z)), sy * 2 * (x * y - w * z), sz * 2 * (x * z + w * y), px!,
      sx * 2 * (x * y + w * z), sy * (1 - 2 * (x * x + z * z)), sz * 2 * (y * z - w * x), py!,
      sx * 2 * (x * z - w * y), sy * 2 * (y * z + w * x), sz * (1 - 2 * (x * x + y * y)), pz!,
    ]); // prettier-ignore
  });
}

/** Numbers of an accessor in single precision, whatever they are stored as. */
function floats(accessor: Accessor): Float32Array {
  const array = accessor.getArray() as ArrayLike<number> | null;
  if (array instanceof Float32Array) return array;
  const size = accessor.getElementSize();
  const out = new Float32Array(accessor.getCount() * size);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let k = 0; k < size; k++) out[i * size + k] = element[k]!;
  }
  return out;
}

/** Reads a binary glTF model. @throws InputError saying what is wrong and where */
export async function readModel(bytes: Uint8Array, what = "model"): Promise<{ mesh: Mesh; report: ModelReport }> {
  checkContainer(bytes, what);
  binaryGltfJson(bytes, what);
  let doc: Document;
  try {
    doc = await modelIO().readBinary(bytes);
  } catch (error) {
    throw new InputError(`${what}: not readable as glTF (${reasonOf(error)})`);
  }
  const left = plain(doc, null, what);
  const textures = new TextureReader(what, left);
  const placements = collect(doc, what);
  const meshes = new Map<GltfMesh, GltfContent>();
  for (const { mesh } of placements) {
    const had = meshes.get(mesh);
    if (had) had.places++;
    else meshes.set(mesh, { ...contentOf(mesh, what, left), places: 1 });
  }
  let total = 0;
  for (const c of meshes.values()) {
    c.shared = isWorthSharing(c.triangles, c.places);
    total += c.triangles * (c.shared ? 1 : c.places);
    if (total > MODEL_LIMITS.triangles) throw new InputError(`${what}: more than ${MODEL_LIMITS.triangles} triangles`);
  }
  if (total === 0) throw new InputError(`${what}: holds no triangles`);
  const materials: SurfaceMaterial[] = [];
  const indexOf = new Map<GltfMaterial | null, number>();
  const mesh: Mesh = {
    positions: new Float32Array(9 * total),
    normals: new Float32Array(9 * total),
    material: new Int32Array(total),
    materials,
    textures: textures.textures,
    parts: [],
    ...cornersOf(placements, total, doc.getRoot().listTextures().length > 0),
  };
  let at = 0;
  const whereOf = (of: GltfMesh): string => `${what}: mesh "${of.getName() || "unnamed"}"`;
  const append = (of: GltfMesh, matrix: Affine): { first: number; count: number } => {
    const first = at;
    for (const primitive of meshes.get(of)!.primitives) {
      const gltf = primitive.getMaterial();
      let material = indexOf.get(gltf);
      if (material === undefined) {
        material = materials.push(materialOf(gltf, textures, left)) - 1;
        indexOf.set(gltf, material);
      }
      at = appendPrimitive(primitive, matrix, mesh, at, material, whereOf(of));
    }
    return { first, count: at - first };
  };
  for (const { mesh: of, matrix, path, pivot } of placements) {
    const content = meshes.get(of)!;
    if (content.triangles === 0) continue;
    if (content.shared) {
      content.kept ??= append(of, IDENTITY);
      const { first, count } = content.kept;
      content.box ??= boundsOf(mesh.positions.subarray(9 * first, 9 * (first + count)));
      checkPlace(matrix, content.box, whereOf(of));
      mesh.parts!.push({ path, pivot, first, count, matrix });
    } else addPart(mesh.parts!, { path, pivot, ...append(of, matrix) });
  }
  const shown = [...meshes.values()].reduce((n, c) => n + c.triangles * c.places, 0);
  return { mesh, report: { triangles: shown, kept: total, instances: placements.length - meshes.size, materials: materials.length, left } };
}

/** Room for what corners have besides their places, where any of the primitives has it. */
function cornersOf(placements: readonly Placement[], triangles: number, textured: boolean): Pick<Mesh, "uvs" | "uvsSecond" | "colours"> {
  const has = (name: string): boolean => placements.some(({ mesh }) => mesh.listPrimitives().some((p) => p.getAttribute(name)));
  return {
    ...(textured ? { uvs: new Float32Array(6 * triangles) } : {}),
    ...(textured && has("TEXCOORD_1") ? { uvsSecond: new Float32Array(6 * triangles) } : {}),
    ...(has("COLOR_0") ? { colours: new Uint16Array(12 * triangles).fill(65535) } : {}),
  };
}

/** What a mesh holds, how often it stands, and where its triangles are kept when they are kept once. */
interface GltfContent {
  primitives: Primitive[];
  triangles: number;
  places: number;
  shared?: boolean;
  kept?: { first: number; count: number };
  box?: readonly number[];
}

/** Triangles of a mesh. @throws InputError for one that has no positions, or corners that are not in threes */
function contentOf(mesh: GltfMesh, what: string, left: string[]): Pick<GltfContent, "primitives" | "triangles"> {
  const primitives: Primitive[] = [];
  let triangles = 0;
  for (const primitive of mesh.listPrimitives()) {
    if (primitive.getMode() !== Primitive.Mode.TRIANGLES) {
      left.push(`mesh "${mesh.getName()}": points and lines`);
      continue;
    }
    const position = primitive.getAttribute("POSITION");
    if (!position) throw new InputError(`${what}: mesh "${mesh.getName() || "unnamed"}" has no positions`);
    const count = primitive.getIndices()?.getCount() ?? position.getCount();
    if (count % 3) throw new InputError(`${what}: mesh "${mesh.getName() || "unnamed"}" has ${count} corners, not a multiple of 3`);
    triangles += count / 3;
    primitives.push(primitive);
  }
  return { primitives, triangles };
}

const IDENTITY: Affine = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
/** Coordinates (m) that nothing lies beyond. */
const FAR = 1e7;

/** @throws InputError where a place puts a box where nothing lies */
function checkPlace(m: Affine, b: readonly number[], where: string): void {
  for (let i = 0; i < 8; i++)
    for (let r = 0; r < 3; r++) {
      const v = AXES.reduce((sum, k) => sum + m[4 * r + k]! * b[k + ((i >> k) & 1 ? 3 : 0)]!, m[4 * r + 3]!);
      if (!(Math.abs(v) < FAR)) throw new InputError(`${where}: its place (${m.join(", ")}) is not a number or is out of range`);
    }
}

/** Notes which triangles a node has; those of one node follow each other. */
function addPart(parts: MeshPart[], part: MeshPart): void {
  const last = parts.at(-1);
  if (last && last.path === part.path && !last.matrix) last.count += part.count;
  else parts.push(part);
}

/** What brings texture coordinates and colours from a corner of a primitive to one of a mesh. Values that are no numbers would make whole pictures so. */
function cornerCopies(primitive: Primitive, mesh: Mesh): ((from: number, to: number) => void)[] {
  const out: ((from: number, to: number) => void)[] = [];
  const element: number[] = [];
  const add = (name: string, room: Float32Array | Uint16Array | undefined, put: (values: number[], to: number) => void): void => {
    const accessor = room && primitive.getAttribute(name);
    if (!accessor) return;
    const count = accessor.getCount();
    out.push((from, to) => {
      if (from < count) put(accessor.getElement(from, element), to);
    });
  };
  const { uvs, uvsSecond, colours } = mesh;
  const number = (v: number | undefined): number => (Number.isFinite(v) ? v! : 0);
  const both =
    (into: Float32Array) =>
    (uv: number[], to: number): void =>
      into.set([number(uv[0]), number(uv[1])], 2 * to);
  if (uvs) add("TEXCOORD_0", uvs, both(uvs));
  if (uvsSecond) add("TEXCOORD_1", uvsSecond, both(uvsSecond));
  const alpha = primitive.getAttribute("COLOR_0")?.getElementSize() === 4;
  const level = (v: number | undefined): number => Math.round(65535 * Math.max(0, Math.min(1, number(v))));
  if (colours) add("COLOR_0", colours, ([r, g, b, a], to) => colours.set([level(r), level(g), level(b), alpha ? level(a) : 65535], 4 * to));
  return out;
}

/** Writes a primitive's triangles from triangle `at` on. One that is mirrored changes the order of its corners. @returns where it ends */
function appendPrimitive(primitive: Primitive, m: Affine, mesh: Mesh, at: number, material: number, where: string): number {
  const position = primitive.getAttribute("POSITION")!;
  const normal = primitive.getAttribute("NORMAL");
  const indices = (primitive.getIndices()?.getArray() ?? null) as ArrayLike<number> | null;
  const p = floats(position);
  const extras = cornerCopies(primitive, mesh);
  const n = normal && normal.getCount() === position.getCount() ? floats(normal) : null;
  const corners = indices ? indices.length : position.getCount();
  const mirrors = determinant(m) < 0;
  // normals go by the inverse transpose; a mirror's cofactors turn them over
  const c = cofactors(m).map((v) => (mirrors ? -v : v)) as Matrix3;
  const count = position.getCount();
  for (let i = 0; i < corners; i++) {
    const v = indices ? indices[i]! : i;
    if (v >= count) throw new InputError(`${where} refers to corner ${v} of ${count}`);
    const x = p[3 * v]!,
      y = p[3 * v + 1]!,
      z = p[3 * v + 2]!;
    const to = mirrors ? i + [0, 1, -1][i % 3]! : i;
    const o = 9 * at + 3 * to;
    const wx = m[0] * x + m[1] * y + m[2] * z + m[3];
    const wy = m[4] * x + m[5] * y + m[6] * z + m[7];
    const wz = m[8] * x + m[9] * y + m[10] * z + m[11];
    if (!(Math.abs(wx) < FAR && Math.abs(wy) < FAR && Math.abs(wz) < FAR))
      throw new InputError(`${where}, corner ${v}: position (${wx}, ${wy}, ${wz}) is not a number or is out of range`);
    for (const copy of extras) copy(v, 3 * at + to);
    mesh.positions[o] = wx;
    mesh.positions[o + 1] = wy;
    mesh.positions[o + 2] = wz;
    if (!n) continue;
    const a = n[3 * v]!,
      b = n[3 * v + 1]!,
      d = n[3 * v + 2]!;
    const nx = c[0] * a + c[1] * b + c[2] * d,
      ny = c[3] * a + c[4] * b + c[5] * d,
      nz = c[6] * a + c[7] * b + c[8] * d;
    const l = Math.hypot(nx, ny, nz);
    // a missing or broken normal stays zero: the kernel then uses the face's own
    if (!(l > 0) || !(l < Infinity)) continue;
    mesh.normals[o] = nx / l;
    mesh.normals[o + 1] = ny / l;
    mesh.normals[o + 2] = nz / l;
  }
  for (let t = 0; t < corners / 3; t++) mesh.material[at + t] = material;
  return at + corners / 3;
}
