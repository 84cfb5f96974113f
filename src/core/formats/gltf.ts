/** glTF 2.0 binary models to triangles and materials. */
import { Primitive, WebIO, type Document, type Material as GltfMaterial, type Node } from "@gltf-transform/core";
import {
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVolume,
  KHRTextureTransform,
} from "@gltf-transform/extensions";
import type { DiffuseTransmission, EmissiveStrength, IOR, Specular, Transmission, Volume } from "@gltf-transform/extensions";
import { InputError } from "../document/parse";
import { materialSchema, type Colour } from "../document/schema";
import type { Mesh, SurfaceMaterial } from "../scene/geometry";
import { TextureReader } from "./gltf-textures";

export const MODEL_LIMITS = { bytes: 512 * 1024 * 1024, triangles: 8_000_000, nodes: 100_000 } as const;

/** What was read from a model, and what was left out. */
export interface ModelReport {
  triangles: number;
  materials: number;
  left: string[];
}

export function modelIO(): WebIO {
  return new WebIO().registerExtensions([
    KHRMaterialsEmissiveStrength,
    KHRMaterialsSpecular,
    KHRMaterialsDiffuseTransmission,
    KHRMaterialsUnlit,
    KHRMaterialsIOR,
    KHRMaterialsTransmission,
    KHRMaterialsVolume,
    KHRTextureTransform,
  ]);
}

/** Checks the container before a parser sees it. */
function checkContainer(bytes: Uint8Array, what: string): void {
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

function materialOf(m: GltfMaterial | null, textures: TextureReader): SurfaceMaterial {
  if (!m) return materialSchema.parse({ baseColor: [1, 1, 1], metallic: 1 });
  const clamp = (v: number): number => Math.max(0, Math.min(1, v));
  const strength = m.getExtension<EmissiveStrength>("KHR_materials_emissive_strength")?.getEmissiveStrength() ?? 1;
  const transmission = m.getExtension<Transmission>("KHR_materials_transmission");
  const volume = m.getExtension<Volume>("KHR_materials_volume");
  const diffuse = m.getExtension<DiffuseTransmission>("KHR_materials_diffuse_transmission");
  const mode = m.getAlphaMode();
  return {
    ...(m.getName() ? { name: m.getName().slice(0, 120) } : {}),
    ...materialSchema.parse({
      baseColor: m.getBaseColorFactor().slice(0, 3).map(clamp),
      metallic: clamp(m.getMetallicFactor()),
      roughness: clamp(m.getRoughnessFactor()),
      specular: clamp(m.getExtension<Specular>("KHR_materials_specular")?.getSpecularFactor() ?? 1),
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

interface Part {
  primitive: Primitive;
  matrix: ArrayLike<number>;
  name: string;
}

function collect(doc: Document, what: string, left: string[]): Part[] {
  const parts: Part[] = [];
  let nodes = 0;
  const scene = doc.getRoot().getDefaultScene() ?? doc.getRoot().listScenes()[0];
  const visit = (node: Node): void => {
    if (++nodes > MODEL_LIMITS.nodes) throw new InputError(`${what}: more than ${MODEL_LIMITS.nodes} nodes`);
    const mesh = node.getMesh();
    if (mesh) {
      for (const primitive of mesh.listPrimitives()) {
        if (primitive.getMode() !== Primitive.Mode.TRIANGLES) left.push(`mesh "${mesh.getName()}": points and lines`);
        else parts.push({ primitive, matrix: node.getWorldMatrix(), name: mesh.getName() || node.getName() || "unnamed" });
      }
    }
    for (const child of node.listChildren()) visit(child);
  };
  for (const node of scene?.listChildren() ?? []) visit(node);
  return parts;
}

/** Reads a binary glTF model. @throws InputError saying what is wrong and where */
export async function readModel(bytes: Uint8Array, what = "model"): Promise<{ mesh: Mesh; report: ModelReport }> {
  checkContainer(bytes, what);
  let doc: Document;
  try {
    doc = await modelIO().readBinary(bytes);
  } catch (error) {
    throw new InputError(`${what}: not readable as glTF (${error instanceof Error ? error.message : String(error)})`);
  }
  const left: string[] = [];
  const textures = new TextureReader(what, left);
  const parts = collect(doc, what, left);
  const materials: SurfaceMaterial[] = [];
  const indexOf = new Map<GltfMaterial | null, number>();
  let total = 0;
  for (const part of parts) {
    const position = part.primitive.getAttribute("POSITION");
    if (!position) throw new InputError(`${what}: mesh "${part.name}" has no positions`);
    const count = part.primitive.getIndices()?.getCount() ?? position.getCount();
    if (count % 3) throw new InputError(`${what}: mesh "${part.name}" has ${count} corners, not a multiple of 3`);
    total += count / 3;
    if (total > MODEL_LIMITS.triangles) throw new InputError(`${what}: more than ${MODEL_LIMITS.triangles} triangles`);
  }
  const mesh: Mesh = {
    positions: new Float32Array(9 * total),
    normals: new Float32Array(9 * total),
    material: new Int32Array(total),
    materials,
    textures: textures.textures,
    ...(doc.getRoot().listTextures().length ? { uvs: new Float32Array(6 * total) } : {}),
  };
  let at = 0;
  for (const part of parts) {
    const gltf = part.primitive.getMaterial();
    let material = indexOf.get(gltf);
    if (material === undefined) {
      material = materials.push(materialOf(gltf, textures)) - 1;
      indexOf.set(gltf, material);
    }
    at = appendPart(part, mesh, at, material, what);
  }
  if (total === 0) throw new InputError(`${what}: holds no triangles`);
  return { mesh, report: { triangles: total, materials: materials.length, left } };
}

function appendPart(part: Part, mesh: Mesh, at: number, material: number, what: string): number {
  const m = part.matrix as number[];
  const position = part.primitive.getAttribute("POSITION")!;
  const normal = part.primitive.getAttribute("NORMAL");
  const indices = part.primitive.getIndices()?.getArray() ?? null;
  const p = position.getArray()!;
  const coordinates = mesh.uvs ? part.primitive.getAttribute("TEXCOORD_0") : null;
  const uv: number[] = [0, 0];
  const n = normal && normal.getCount() === position.getCount() ? normal.getArray()! : null;
  const corners = indices ? indices.length : position.getCount();
  if (!(p instanceof Float32Array) || (n && !(n instanceof Float32Array)))
    throw new InputError(`${what}: mesh "${part.name}" has quantised positions, which are not read`);
  // normals go by the inverse transpose: the cofactors of the upper 3×3
  const c = [
    m[5]! * m[10]! - m[6]! * m[9]!,
    m[6]! * m[8]! - m[4]! * m[10]!,
    m[4]! * m[9]! - m[5]! * m[8]!,
    m[2]! * m[9]! - m[1]! * m[10]!,
    m[0]! * m[10]! - m[2]! * m[8]!,
    m[1]! * m[8]! - m[0]! * m[9]!,
    m[1]! * m[6]! - m[2]! * m[5]!,
    m[2]! * m[4]! - m[0]! * m[6]!,
    m[0]! * m[5]! - m[1]! * m[4]!,
  ];
  const count = position.getCount();
  for (let i = 0; i < corners; i++) {
    const v = indices ? indices[i]! : i;
    if (v >= count) throw new InputError(`${what}: mesh "${part.name}" refers to corner ${v} of ${count}`);
    const x = p[3 * v]!,
      y = p[3 * v + 1]!,
      z = p[3 * v + 2]!;
    const o = 9 * at + 3 * i;
    const wx = m[0]! * x + m[4]! * y + m[8]! * z + m[12]!;
    const wy = m[1]! * x + m[5]! * y + m[9]! * z + m[13]!;
    const wz = m[2]! * x + m[6]! * y + m[10]! * z + m[14]!;
    if (!(Math.abs(wx) < 1e7 && Math.abs(wy) < 1e7 && Math.abs(wz) < 1e7))
      throw new InputError(`${what}: mesh "${part.name}", corner ${v}: position (${wx}, ${wy}, ${wz}) is not a number or is out of range`);
    if (coordinates && v < coordinates.getCount()) {
      // values that are not numbers would make whole pictures so
      coordinates.getElement(v, uv);
      for (let k = 0; k < 2; k++) mesh.uvs![6 * at + 2 * i + k] = Number.isFinite(uv[k]) ? uv[k]! : 0;
    }
    mesh.positions[o] = wx;
    mesh.positions[o + 1] = wy;
    mesh.positions[o + 2] = wz;
    if (!n) continue;
    const a = n[3 * v]!,
      b = n[3 * v + 1]!,
      d = n[3 * v + 2]!;
    const nx = c[0]! * a + c[1]! * b + c[2]! * d,
      ny = c[3]! * a + c[4]! * b + c[5]! * d,
      nz = c[6]! * a + c[7]! * b + c[8]! * d;
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
