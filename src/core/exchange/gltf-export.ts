/** A scene as glTF 2.0: its set as it stands, lens and kept lenses, and the lights that glTF knows. */
import {
  Document,
  type Buffer,
  type Material as GltfMaterial,
  type Mesh as GltfMesh,
  type Node,
  type Primitive,
  type Texture as GltfTexture,
} from "@gltf-transform/core";
import {
  KHRLightsPunctual,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRTextureTransform,
  type Transmission,
} from "@gltf-transform/extensions";
import { encode } from "fast-png";
import type { Camera, SceneDocument } from "../document/schema";
import { temperatureRgb } from "../optics/colour";
import { linearPart, type Affine } from "../math/affine";
import { assemble, MAX_TRIANGLES } from "../scene/assemble";
import { cameraFrame } from "../document/camera";
import { AXES, sub, sunDirection, across, unit, type V3 } from "../math/vectors";
import {
  emptyGeometry,
  placeMesh,
  ownTriangles,
  type Mesh,
  type SceneGeometry,
  type SurfaceMaterial,
  type Texture,
} from "../data/geometry";
import { strengthOf } from "../scene/lights";
import { weld, type CornerValues } from "./weld";
import { modelIO } from "../formats/gltf";

type Quaternion = [number, number, number, number];

/** Rotation whose x, y, z axes are the given unit vectors. */
function quaternion(x: V3, y: V3, z: V3): Quaternion {
  const trace = x[0] + y[1] + z[2];
  if (trace > 0) {
    const s = 2 * Math.sqrt(1 + trace);
    return [(y[2] - z[1]) / s, (z[0] - x[2]) / s, (x[1] - y[0]) / s, s / 4];
  }
  if (x[0] > y[1] && x[0] > z[2]) {
    const s = 2 * Math.sqrt(1 + x[0] - y[1] - z[2]);
    return [s / 4, (y[0] + x[1]) / s, (z[0] + x[2]) / s, (y[2] - z[1]) / s];
  }
  if (y[1] > z[2]) {
    const s = 2 * Math.sqrt(1 + y[1] - x[0] - z[2]);
    return [(y[0] + x[1]) / s, s / 4, (z[1] + y[2]) / s, (z[0] - x[2]) / s];
  }
  const s = 2 * Math.sqrt(1 + z[2] - x[0] - y[1]);
  return [(z[0] + x[2]) / s, (z[1] + y[2]) / s, s / 4, (x[1] - y[0]) / s];
}

/** Rotation of something that looks or shines along -z to a direction. */
function looking(direction: V3): Quaternion {
  const [u, v] = across(direction);
  return quaternion(u, v, direction.map((c) => -c) as V3);
}

/**
 * Writes binary glTF. Objects become nodes with a primitive for each material; what stands in several places is one mesh with a node
 * for each. Media, sky and lights with an area have no place in glTF. @returns the file, and what it leaves out
 */
export async function exportGltf(doc: SceneDocument, models: ReadonlyMap<string, Mesh>): Promise<{ bytes: Uint8Array; left: string[] }> {
  const out = new Document();
  out.getRoot().getAsset().generator = "Fumarium";
  const buffer = out.createBuffer();
  const scene = out.createScene(doc.title);
  const left: string[] = [];
  const geometry = assemble(doc, models);
  const writer = new SetWriter(out, buffer, new MaterialWriter(out, geometry.materials, geometry.textures ?? []));
  const nodes = new Map<number, Node>();
  const nodeOf = (object: number): Node => {
    let node = nodes.get(object);
    if (!node) {
      const o = doc.objects[object]!;
      nodes.set(object, (node = out.createNode(o.name ?? `${o.kind} ${object + 1}`)));
      scene.addChild(node);
    }
    return node;
  };
  const { object } = geometry;
  for (let from = 0; from < ownTriangles(geometry);) {
    let to = from;
    while (to < ownTriangles(geometry) && object[to] === object[from]) to++;
    const node = nodeOf(object[from]!);
    node.setMesh(writer.mesh(node.getName(), geometry, from, to));
    from = to;
  }
  let spelt = 0,
    omitted = 0;
  for (const { first, count, places } of geometry.shared ?? []) {
    const parents = places.map((p) => nodeOf(p.object));
    const mesh = writer.mesh(parents[0]!.getName(), geometry, first, first + count);
    places.forEach(({ matrix, object: o }, i) => {
      const parent = parents[i]!;
      const node = out.createNode(`${parent.getName()} ${parent.listChildren().length + 1}`);
      // nodes keep a place, a turn and a size: what is sheared besides is written where it stands
      if (setPlace(node, matrix)) node.setMesh(mesh);
      else if ((spelt += count) > MAX_TRIANGLES) {
        omitted++;
        return;
      } else {
        node.setMatrix([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
        const placed: SceneGeometry = { ...emptyGeometry(count, [geometry]), materials: geometry.materials };
        placeMesh(geometry, first, count, matrix, placed, 0, (m) => m, o);
        node.setMesh(writer.mesh(node.getName(), placed, 0, count));
      }
      parent.addChild(node);
    });
  }
  if (omitted) left.push(`${omitted} sheared copies, which glTF has no place for: they would come to more than ${MAX_TRIANGLES} triangles`);
  scene.addChild(lensNode(out, "lens", doc.camera, doc));
  for (const l of doc.lenses) scene.addChild(lensNode(out, l.name, l.camera, doc));
  addLights(out, doc, (node) => scene.addChild(node), left);
  if (doc.air.length) left.push(`${doc.air.length} ${doc.air.length === 1 ? "medium" : "media"}`);
  if (doc.sky.on) left.push("the sky");
  if (doc.moon.on) left.push("the moon");
  return { bytes: await modelIO().writeBinary(out), left };
}

/** Puts a node where a transform puts things. @returns false where a node cannot keep it */
function setPlace(node: Node, m: Affine): boolean {
  node.setMatrix([m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1]);
  const back = node.getMatrix();
  const size = Math.max(...linearPart(m).map(Math.abs));
  return AXES.every((r) => AXES.every((c) => Math.abs(back[4 * c + r]! - m[4 * r + c]!) < 1e-5 * size));
}

/** Writes triangles as meshes with a primitive for each material. */
class SetWriter {
  constructor(
    private readonly out: Document,
    private readonly buffer: Buffer,
    private readonly materials: MaterialWriter,
  ) {}

  /** Triangles [from, to) of a geometry. Corners that are alike are written once. */
  mesh(name: string, geometry: Mesh, from: number, to: number): GltfMesh {
    const mesh = this.out.createMesh(name);
    const by = new Map<number, number[]>();
    for (let i = from; i < to; i++) {
      const list = by.get(geometry.material[i]!);
      if (list) list.push(i);
      else by.set(geometry.material[i]!, [i]);
    }
    for (const [m, triangles] of by) mesh.addPrimitive(this.primitive(geometry, m, triangles));
    return mesh;
  }

  private primitive({ positions, normals, uvs, uvsSecond, colours, materials }: Mesh, m: number, triangles: readonly number[]): Primitive {
    const { out, buffer } = this;
    const gather = <T extends Float32Array | Uint16Array>(values: T, size: number): T => {
      const part = new (values.constructor as new (n: number) => T)(triangles.length * 3 * size);
      triangles.forEach((t, k) => part.set(values.subarray(3 * t * size, 3 * (t + 1) * size), 3 * k * size));
      return part;
    };
    const attributes: [name: string, values: CornerValues][] = [["POSITION", { values: gather(positions, 3), size: 3 }]];
    const n = gather(normals, 3);
    // a missing normal is zero here, which glTF does not allow: then all are the reader's to make
    let whole = true;
    for (let i = 0; i < n.length && whole; i += 3) whole = Math.abs(Math.hypot(n[i]!, n[i + 1]!, n[i + 2]!) - 1) < 1e-3;
    if (whole) attributes.push(["NORMAL", { values: n, size: 3 }]);
    const uses = Object.values(materials[m]!.textures ?? {});
    if (uvs && uses.length) attributes.push(["TEXCOORD_0", { values: gather(uvs, 2), size: 2 }]);
    if (uvsSecond && uses.some((use) => use.set === 1)) attributes.push(["TEXCOORD_1", { values: gather(uvsSecond, 2), size: 2 }]);
    if (colours) {
      const own = gather(colours, 4);
      if (own.some((v) => v !== 65535)) attributes.push(["COLOR_0", { values: own, size: 4 }]);
    }
    const { indices, kept } = weld(
      attributes.map(([, values]) => values),
      3 * triangles.length,
    );
    const small = kept.length < 65_535;
    const primitive = out
      .createPrimitive()
      .setMaterial(this.materials.material(m))
      .setIndices(
        out
          .createAccessor()
          .setType("SCALAR")
          .setArray(small ? Uint16Array.from(indices) : indices)
          .setBuffer(buffer),
      );
    for (const [name, { values, size }] of attributes) {
      const part = new (values.constructor as new (n: number) => Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>)(kept.length * size);
      kept.forEach((corner, k) => part.set(values.subarray(corner * size, (corner + 1) * size), k * size));
      const type = (["VEC2", "VEC3", "VEC4"] as const)[size - 2]!;
      primitive.setAttribute(
        name,
        out
          .createAccessor()
          .setType(type)
          .setArray(part)
          .setNormalized(part instanceof Uint16Array)
          .setBuffer(buffer),
      );
    }
    return primitive;
  }
}

function lensNode(out: Document, name: string, camera: Camera, doc: SceneDocument): Node {
  const { right, up, forward } = cameraFrame(camera);
  const aspect = doc.film.size[0] / doc.film.size[1];
  const c = out.createCamera(name);
  if (camera.kind === "perspective")
    c.setType("perspective")
      .setYFov((camera.fieldOfView * Math.PI) / 180)
      .setAspectRatio(aspect)
      .setZNear(0.01);
  else
    c.setType("orthographic")
      .setYMag(camera.height / 2)
      .setXMag((camera.height / 2) * aspect)
      .setZNear(0.01)
      .setZFar(1e5);
  return out
    .createNode(name)
    .setCamera(c)
    .setTranslation(camera.position)
    .setRotation(quaternion(right, up, forward.map((v) => -v) as V3));
}

function addLights(out: Document, doc: SceneDocument, add: (node: Node) => void, left: string[]): void {
  const punctual = out.createExtension(KHRLightsPunctual);
  const split = (rgb: readonly number[]): { colour: V3; max: number } => {
    const max = Math.max(...rgb);
    return { colour: (max > 0 ? rgb.map((v) => v / max) : [1, 1, 1]) as V3, max };
  };
  if (doc.sun.on && doc.sun.illuminance > 0) {
    const { colour, max } = split(temperatureRgb(doc.sun.temperature).map((c, k) => c * doc.sun.tint[k]!));
    const light = punctual
      .createLight("sun")
      .setType("directional")
      .setColor(colour)
      .setIntensity(doc.sun.illuminance * max);
    const d = sunDirection(doc.sun.azimuth, doc.sun.elevation).map((v) => -v) as V3;
    add(out.createNode("sun").setRotation(looking(d)).setExtension("KHR_lights_punctual", light));
  }
  for (const l of doc.lights) {
    if (!l.on || l.intensity <= 0) continue;
    if (l.kind !== "point" && l.kind !== "spot") {
      left.push(`light "${l.name}": glTF knows no ${l.kind} lights`);
      continue;
    }
    if ("gobo" in l && l.gobo) left.push(`light "${l.name}": its gobo`);
    const { colour, max } = split(temperatureRgb(l.temperature).map((c, k) => c * l.tint[k]!));
    const light = punctual
      .createLight(l.name)
      .setType(l.kind)
      .setColor(colour)
      .setIntensity(strengthOf(l) * max);
    const node = out.createNode(l.name).setTranslation(l.position).setExtension("KHR_lights_punctual", light);
    if (l.kind === "spot") {
      const half = Math.min(Math.PI / 2, (l.cone * Math.PI) / 360);
      light.setOuterConeAngle(half).setInnerConeAngle(Math.min(half * (1 - l.softness), half - 1e-4));
      node.setRotation(looking(unit(sub(l.target, l.position))));
    }
    add(node);
  }
}

class MaterialWriter {
  private readonly made = new Map<number, GltfMaterial>();
  private readonly pictures = new Map<number, GltfTexture>();
  constructor(
    private readonly out: Document,
    private readonly materials: readonly SurfaceMaterial[],
    private readonly textures: readonly Texture[],
  ) {}

  material(number: number): GltfMaterial {
    const had = this.made.get(number);
    if (had) return had;
    const m = this.materials[number]!;
    const { out } = this;
    const max = Math.max(...m.emission);
    const g = out
      .createMaterial(m.name ?? `material ${number + 1}`)
      .setBaseColorFactor([...m.baseColor, m.opacity])
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness)
      .setEmissiveFactor(max > 0 ? (m.emission.map((c) => c / max) as V3) : [0, 0, 0])
      .setDoubleSided(true)
      .setAlphaMode(m.alphaMode === "mask" ? "MASK" : m.alphaMode === "blend" || m.opacity < 1 ? "BLEND" : "OPAQUE")
      .setAlphaCutoff(m.cutoff ?? 0.5)
      .setNormalScale(m.normalScale ?? 1);
    this.made.set(number, g);
    if (max > 0)
      g.setExtension(
        "KHR_materials_emissive_strength",
        out.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(max),
      );
    if (m.specular !== 1 || m.specularColor)
      g.setExtension(
        "KHR_materials_specular",
        out
          .createExtension(KHRMaterialsSpecular)
          .createSpecular()
          .setSpecularFactor(m.specular)
          .setSpecularColorFactor(m.specularColor ?? [1, 1, 1]),
      );
    if (m.ior !== 1.5) g.setExtension("KHR_materials_ior", out.createExtension(KHRMaterialsIOR).createIOR().setIOR(m.ior));
    if (m.diffuseTransmission > 0)
      g.setExtension(
        "KHR_materials_diffuse_transmission",
        out
          .createExtension(KHRMaterialsDiffuseTransmission)
          .createDiffuseTransmission()
          .setDiffuseTransmissionFactor(m.diffuseTransmission)
          .setDiffuseTransmissionColorFactor(m.diffuseTransmissionColor ?? m.baseColor),
      );
    const use = m.textures ?? {};
    let passes: Transmission | null = null;
    if (m.transmission > 0) {
      const t = (passes = out.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(m.transmission));
      g.setExtension("KHR_materials_transmission", t);
      if (m.solid)
        g.setExtension(
          "KHR_materials_volume",
          out
            .createExtension(KHRMaterialsVolume)
            .createVolume()
            .setThicknessFactor(1)
            .setAttenuationColor(m.attenuationColor)
            .setAttenuationDistance(m.attenuationDistance),
        );
    }
    const slots = [
      ["base", (t: GltfTexture) => g.setBaseColorTexture(t), () => g.getBaseColorTextureInfo()],
      ["rough", (t: GltfTexture) => g.setMetallicRoughnessTexture(t), () => g.getMetallicRoughnessTextureInfo()],
      ["normal", (t: GltfTexture) => g.setNormalTexture(t), () => g.getNormalTextureInfo()],
      ["emission", (t: GltfTexture) => g.setEmissiveTexture(t), () => g.getEmissiveTextureInfo()],
      ["transmission", (t: GltfTexture) => passes?.setTransmissionTexture(t), () => passes?.getTransmissionTextureInfo()],
    ] as const;
    for (const [slot, set, info] of slots) {
      const u = use[slot];
      if (!u) continue;
      set(this.picture(u.texture));
      const texture = this.textures[u.texture]!;
      const wrap = [10497, 33648, 33071] as const;
      const how = info();
      if (!how) continue;
      how
        .setWrapS(wrap[texture.wrap[0]]!)
        .setWrapT(wrap[texture.wrap[1]]!)
        .setTexCoord(u.set ?? 0);
      if (texture.nearest) how.setMagFilter(9728);
      const [a, b, ox, c, , oy] = u.transform;
      // offset × rotation × scale, taken apart again
      const turn = Math.atan2(-c, a);
      const sx = Math.hypot(a, c),
        sy = Math.hypot(b, u.transform[4]);
      if (turn !== 0 || sx !== 1 || sy !== 1 || ox !== 0 || oy !== 0)
        how.setExtension(
          "KHR_texture_transform",
          out.createExtension(KHRTextureTransform).createTransform().setOffset([ox, oy]).setRotation(turn).setScale([sx, sy]),
        );
    }
    return g;
  }

  private picture(number: number): GltfTexture {
    const had = this.pictures.get(number);
    if (had) return had;
    const { width, height, rgba } = this.textures[number]!;
    const texture = this.out
      .createTexture(`picture ${number + 1}`)
      .setImage(new Uint8Array(encode({ width, height, data: rgba, channels: 4, depth: 8 })))
      .setMimeType("image/png");
    this.pictures.set(number, texture);
    return texture;
  }
}
