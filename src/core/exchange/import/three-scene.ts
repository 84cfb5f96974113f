/** A scene of three.js's objects as a glTF document: meshes, their materials, cameras. */
import {
  Document,
  type Accessor,
  type Buffer,
  type Material as GltfMaterial,
  type Node,
  type Texture as GltfTexture,
  type TextureInfo,
} from "@gltf-transform/core";
import {
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRTextureTransform,
} from "@gltf-transform/extensions";
import {
  ClampToEdgeWrapping,
  Mesh,
  MeshPhysicalMaterial,
  MirroredRepeatWrapping,
  Object3D,
  OrthographicCamera,
  PerspectiveCamera,
  SkinnedMesh,
  Vector3,
  type BufferGeometry,
  type Texture,
} from "three";

/** How often a material or a picture is met: once each in the file. */
class Writer {
  private readonly materials = new Map<MeshPhysicalMaterial, GltfMaterial>();
  private readonly pictures = new Map<Uint8Array, GltfTexture>();
  private readonly geometries = new Map<string, ReturnType<Document["createMesh"]>>();
  readonly out = new Document();
  private readonly buffer: Buffer = this.out.createBuffer();

  constructor(private readonly left: string[]) {}

  private accessor(type: "VEC2" | "VEC3" | "VEC4" | "SCALAR", values: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>): Accessor {
    return this.out.createAccessor().setType(type).setArray(values).setBuffer(this.buffer);
  }

  node(object: Object3D): Node {
    const node = this.out.createNode(object.name);
    if (object.matrixAutoUpdate) object.updateMatrix();
    node.setMatrix(object.matrix.elements);
    if (object instanceof Mesh) node.setMesh(this.mesh(object as Mesh<BufferGeometry, MeshPhysicalMaterial | MeshPhysicalMaterial[]>));
    const camera = this.camera(object);
    if (camera) node.setCamera(camera);
    for (const child of object.children) node.addChild(this.node(child));
    return node;
  }

  private camera(object: Object3D): ReturnType<Document["createCamera"]> | null {
    if (object instanceof PerspectiveCamera)
      return this.out
        .createCamera(object.name)
        .setType("perspective")
        .setYFov((object.fov * Math.PI) / 180)
        .setZNear(0.01);
    if (!(object instanceof OrthographicCamera)) return null;
    // its height grows with what scales the scene, as lengths of nodes do not
    const scale = new Vector3().setFromMatrixScale(object.matrixWorld).y;
    return this.out
      .createCamera(object.name)
      .setType("orthographic")
      .setYMag((scale * Math.abs(object.top - object.bottom)) / 2)
      .setXMag((scale * Math.abs(object.right - object.left)) / 2)
      .setZFar(1e5);
  }

  private mesh(mesh: Mesh<BufferGeometry, MeshPhysicalMaterial | MeshPhysicalMaterial[]>): ReturnType<Document["createMesh"]> {
    const materials = [mesh.material].flat();
    // figures stand as their joints carry them: each is a mesh of its own
    const key = mesh instanceof SkinnedMesh ? mesh.uuid : [mesh.geometry.uuid, ...materials.map((m) => m.uuid)].join();
    const had = this.geometries.get(key);
    if (had) return had;
    const { index, attributes, groups } = mesh.geometry;
    const out = this.out.createMesh(mesh.name);
    this.geometries.set(key, out);
    const { position, normal, uv, color } = attributes;
    if (!position) return out;
    const count = position.count;
    const floats = (name: string, size: number): Accessor | null => {
      const a = attributes[name];
      if (!a || a.count !== count) return null;
      const values = new Float32Array(count * size);
      for (let i = 0; i < count; i++) for (let k = 0; k < size; k++) values[i * size + k] = a.getComponent(i, k);
      return this.accessor(`VEC${size as 2 | 3 | 4}`, values);
    };
    const shared: [string, Accessor | null][] = [
      ["POSITION", mesh instanceof SkinnedMesh ? this.posed(mesh as SkinnedMesh<BufferGeometry>, count) : floats("position", 3)],
    ];
    if (normal && !(mesh instanceof SkinnedMesh)) shared.push(["NORMAL", floats("normal", 3)]);
    if (uv) {
      const coordinates = floats("uv", 2);
      // rows of a picture count from the top in glTF, from below there
      const values = (coordinates?.getArray() ?? null) as Float32Array | null;
      if (values) for (let i = 1; i < values.length; i += 2) values[i] = 1 - values[i]!;
      shared.push(["TEXCOORD_0", coordinates]);
    }
    if (color) shared.push(["COLOR_0", floats("color", color.itemSize === 4 ? 4 : 3)]);
    const all = index ? Uint32Array.from(index.array) : Uint32Array.from({ length: count }, (_, i) => i);
    const parts = groups.length && materials.length > 1 ? groups : [{ start: 0, count: all.length, materialIndex: 0 }];
    for (const part of parts) {
      const corners = all.slice(part.start, Math.min(all.length, part.start + part.count));
      if (corners.length < 3) continue;
      const primitive = this.out.createPrimitive().setIndices(this.accessor("SCALAR", corners));
      for (const [name, values] of shared) if (values) primitive.setAttribute(name, values);
      const material = materials[part.materialIndex ?? 0];
      if (material) primitive.setMaterial(this.material(material));
      out.addPrimitive(primitive);
    }
    return out;
  }

  private posed(mesh: SkinnedMesh<BufferGeometry>, count: number): Accessor {
    mesh.skeleton.update();
    const corner = new Vector3();
    const values = new Float32Array(3 * count);
    for (let i = 0; 3 * i < values.length; i++) mesh.getVertexPosition(i, corner).toArray(values, 3 * i);
    return this.accessor("VEC3", values);
  }

  private material(m: MeshPhysicalMaterial): GltfMaterial {
    const had = this.materials.get(m);
    if (had) return had;
    const { out } = this;
    const name = m.name || `material ${this.materials.size + 1}`;
    const g = out
      .createMaterial(name)
      .setBaseColorFactor([m.color.r, m.color.g, m.color.b, m.opacity])
      .setMetallicFactor(m.metalness)
      .setRoughnessFactor(m.roughness)
      .setDoubleSided(true);
    this.materials.set(m, g);
    if (m.alphaTest > 0) g.setAlphaMode("MASK").setAlphaCutoff(m.alphaTest);
    else if (m.transparent || m.opacity < 1) g.setAlphaMode("BLEND");
    const emission = [m.emissive.r, m.emissive.g, m.emissive.b].map((c) => c * m.emissiveIntensity) as [number, number, number];
    const most = Math.max(...emission);
    if (most > 0) {
      g.setEmissiveFactor(emission.map((c) => c / Math.max(1, most)) as [number, number, number]);
      if (most > 1)
        g.setExtension(
          "KHR_materials_emissive_strength",
          out.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(most),
        );
    }
    if (m.ior !== 1.5) g.setExtension("KHR_materials_ior", out.createExtension(KHRMaterialsIOR).createIOR().setIOR(m.ior));
    const tint = m.specularColor;
    if (m.specularIntensity !== 1 || tint.r !== 1 || tint.g !== 1 || tint.b !== 1)
      g.setExtension(
        "KHR_materials_specular",
        out.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(m.specularIntensity).setSpecularColorFactor([tint.r, tint.g, tint.b]), // prettier-ignore
      );
    if (m.transmission > 0) {
      g.setExtension("KHR_materials_transmission", out.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(m.transmission)); // prettier-ignore
      if (m.thickness > 0) {
        const c = m.attenuationColor;
        const volume = out.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(m.thickness);
        g.setExtension("KHR_materials_volume", volume.setAttenuationColor([c.r, c.g, c.b]).setAttenuationDistance(Math.min(1e6, m.attenuationDistance))); // prettier-ignore
      }
    }
    this.put(m.map, (t) => g.setBaseColorTexture(t).getBaseColorTextureInfo());
    this.put(m.emissiveMap, (t) => g.setEmissiveTexture(t).getEmissiveTextureInfo());
    this.put(m.normalMap, (t) => g.setNormalTexture(t).getNormalTextureInfo());
    const rough = m.roughnessMap ?? m.metalnessMap;
    this.put(rough, (t) => g.setMetallicRoughnessTexture(t).getMetallicRoughnessTextureInfo());
    if (m.metalnessMap && m.roughnessMap && bytesOf(m.metalnessMap) !== bytesOf(m.roughnessMap))
      this.left.push(`material "${name}": its metalness texture, which is another than that of its roughness`);
    for (const [what, there] of [
      ["occlusion texture", m.aoMap],
      ["opacity texture", m.alphaMap],
      ["clear coat", m.clearcoat > 0],
      ["iridescence", m.iridescence > 0],
    ] as const)
      if (there) this.left.push(`material "${name}": its ${what}`);
    return g;
  }

  private put(texture: Texture | null, set: (t: GltfTexture) => TextureInfo | null): void {
    if (!texture) return;
    const bytes = bytesOf(texture);
    if (!bytes) {
      this.left.push(`picture "${String(texture.userData.file ?? "unnamed")}": the file is not among those chosen`);
      return;
    }
    let picture = this.pictures.get(bytes);
    if (!picture) {
      const type = bytes[0] === 0x89 ? "image/png" : bytes[0] === 0xff ? "image/jpeg" : "image/webp";
      picture = this.out
        .createTexture(`picture ${this.pictures.size + 1}`)
        .setImage(new Uint8Array(bytes))
        .setMimeType(type);
      this.pictures.set(bytes, picture);
    }
    const info = set(picture);
    if (!info) return;
    const wrap = (w: number): TextureInfo["getWrapS"] extends () => infer R ? R : never =>
      w === ClampToEdgeWrapping ? 33071 : w === MirroredRepeatWrapping ? 33648 : 10497;
    info.setWrapS(wrap(texture.wrapS)).setWrapT(wrap(texture.wrapT));
    const { offset, repeat, rotation } = texture;
    if (offset.x || offset.y || repeat.x !== 1 || repeat.y !== 1 || rotation) {
      const transform = this.out.createExtension(KHRTextureTransform).createTransform();
      // rows from the top: v' = s v + o becomes s v + (1 - s - o)
      info.setExtension("KHR_texture_transform", transform.setScale([repeat.x, repeat.y]).setOffset([offset.x, 1 - repeat.y - offset.y]));
      if (rotation) this.left.push("turned textures: they lie straight");
    }
  }
}

const bytesOf = (texture: Texture): Uint8Array | null => (texture.userData.bytes as Uint8Array | null | undefined) ?? null;

/** @param name of the scene @param left takes note of what is left out */
export function sceneToGltf(scene: Object3D, name: string, left: string[]): Document {
  const writer = new Writer(left);
  writer.out.createScene(name).addChild(writer.node(scene));
  return writer.out;
}
