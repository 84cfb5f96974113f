import { Document, type Accessor, type Node, type Primitive } from "@gltf-transform/core";
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsPBRSpecularGlossiness,
  KHRMaterialsSpecular,
  KHRMaterialsUnlit,
  KHRMeshQuantization,
  KHRNodeVisibility,
  KHRTextureBasisu,
} from "@gltf-transform/extensions";
import draco3d from "draco3dgltf";
import { encode } from "fast-png";
import { zipSync } from "fflate";
import { createDefaultContainer, VK_FORMAT_R8G8B8A8_SRGB, write as writeKtx } from "ktx-parse";
import { encodeToKTX2 } from "ktx2-encoder";
import sharp from "sharp";
import { MeshoptEncoder } from "meshoptimizer/encoder";
import { describe, expect, it } from "vitest";
import { decoders } from "../../../cli/decoders";
import { modelIO, readModel } from "../../formats/gltf";
import { findFile, openFiles, plainPath } from "./files";
import { importSet, type ImportedSet } from "./index";

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const decode = (b: Uint8Array): string => new TextDecoder().decode(b);
const bring = (files: Record<string, Uint8Array | string>, white?: number): Promise<ImportedSet> =>
  importSet(new Map(Object.entries(files).map(([k, v]) => [k, typeof v === "string" ? text(v) : v])), {
    decoders,
    decode,
    ...(white ? { white } : {}),
  });

/** A wavy sheet of 2 n² triangles, a lamp, a lens, a picture. */
function sheet(n = 12): Document {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const accessor = (type: "VEC3" | "VEC2" | "SCALAR", array: Float32Array | Uint16Array): Accessor =>
    doc.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const side = n + 1;
  const p = new Float32Array(3 * side * side),
    normal = new Float32Array(3 * side * side),
    uv = new Float32Array(2 * side * side),
    index: number[] = [];
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const at = j * side + i;
      p.set([i / n, Math.sin(i + j) * 0.1, j / n], 3 * at);
      normal.set([0, 1, 0], 3 * at);
      uv.set([i / n, j / n], 2 * at);
      if (i < n && j < n) index.push(at, at + side, at + 1, at + 1, at + side, at + side + 1);
    }
  const png = encode({ width: 2, height: 2, data: new Uint8Array(12).fill(200), channels: 3, depth: 8 });
  const material = doc
    .createMaterial("cloth")
    .setBaseColorTexture(doc.createTexture("weave").setImage(new Uint8Array(png)).setMimeType("image/png").setURI("weave.png"));
  const primitive = doc
    .createPrimitive()
    .setAttribute("POSITION", accessor("VEC3", p))
    .setAttribute("NORMAL", accessor("VEC3", normal))
    .setAttribute("TEXCOORD_0", accessor("VEC2", uv))
    .setIndices(accessor("SCALAR", new Uint16Array(index)))
    .setMaterial(material);
  const mesh = doc.createMesh("sheet").addPrimitive(primitive);
  const left = doc.createNode("left").setMesh(mesh).setTranslation([-2, 0, 0]);
  const right = doc.createNode("right").setMesh(mesh).setTranslation([2, 0, 0]);
  const lens = doc
    .createNode("gate")
    .setCamera(
      doc
        .createCamera("wide")
        .setType("perspective")
        .setYFov(Math.PI / 3),
    )
    .setTranslation([0, 1, 5]);
  const scene = doc.createScene("hall").addChild(doc.createNode("row").addChild(left).addChild(right)).addChild(lens);
  const lights = doc.createExtension(KHRLightsPunctual);
  const spot = lights
    .createLight("lantern")
    .setType("spot")
    .setIntensity(300)
    .setColor([1, 0.5, 0.25])
    .setRange(8)
    .setInnerConeAngle(0.2)
    .setOuterConeAngle(0.4);
  scene.addChild(
    doc
      .createNode("post")
      .setTranslation([0, 3, 0])
      .setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2])
      .setExtension("KHR_lights_punctual", spot),
  );
  const sun = lights.createLight("day").setType("directional").setIntensity(20_000);
  // its light comes along -z of a node that looks down by 30 degrees
  scene.addChild(
    doc
      .createNode("sky")
      .setRotation([Math.sin(-Math.PI / 12), 0, 0, Math.cos(-Math.PI / 12)])
      .setExtension("KHR_lights_punctual", sun),
  );
  return doc;
}
const glb = (doc: Document): Promise<Uint8Array> => modelIO().writeBinary(doc);

describe("bringing a set in", () => {
  it("keeps triangles, instances, lens, lights and sun of a binary glTF", async () => {
    const set = await bring({ "hall.glb": await glb(sheet()) });
    expect(set.report).toMatchObject({ triangles: 576, instances: 1, materials: 1, textures: 1, left: [] });
    expect(set.bounds.map((v) => Number(v.toFixed(2)))).toEqual([-2, -0.1, 0, 3, 0.1, 1]);
    expect(set.lenses).toHaveLength(1);
    expect(set.lenses[0]!.name).toBe("wide");
    expect(set.lenses[0]!.camera).toMatchObject({ kind: "perspective", position: [0, 1, 5], target: [0, 1, 0], roll: 0 });
    expect(set.lenses[0]!.camera.fieldOfView).toBeCloseTo(60, 4);
    const [spot] = set.lights;
    expect(spot).toMatchObject({
      kind: "spot",
      name: "lantern",
      intensity: 300,
      unit: "cd",
      tint: [1, 0.5, 0.25],
      fade: { farFrom: 6, farTo: 8 },
    });
    if (spot?.kind !== "spot") throw new Error("no spot");
    expect(spot.cone).toBeCloseTo((0.8 * 180) / Math.PI, 3);
    expect(spot.softness).toBeCloseTo(0.5, 5);
    expect(spot.target.map((v) => Math.round(v * 1e4) / 1e4)).toEqual([0, -2, 0]);
    expect(set.sun).toMatchObject({ illuminance: 20_000 });
    expect(set.sun!.elevation).toBeCloseTo(30, 3);
    const { mesh } = await readModel(set.model);
    expect(mesh.parts!.map((p) => [p.path, p.first, p.count])).toEqual([
      ["row/left", 0, 288],
      ["row/right", 288, 288],
    ]);
    expect(mesh.parts![1]!.pivot).toEqual([2, 0, 0]);
  });

  it("reads glTF with its files from a folder and from an archive, whatever the case of names", async () => {
    const { json, resources } = await modelIO().writeJSON(sheet(), { basename: "hall" });
    const loose: Record<string, Uint8Array | string> = { "set/hall.gltf": JSON.stringify(json) };
    for (const [name, bytes] of Object.entries(resources)) loose[`set/${name.toUpperCase()}`] = bytes;
    const set = await bring(loose);
    expect(set.report).toMatchObject({ triangles: 576, textures: 1, left: [] });
    const zip = zipSync(Object.fromEntries(Object.entries(loose).map(([k, v]) => [k, typeof v === "string" ? text(v) : v])));
    expect((await bring({ "hall.zip": zip })).report).toEqual(set.report);
    const { mesh } = await readModel(set.model);
    expect(mesh.textures).toHaveLength(1);
    expect(Math.max(...mesh.uvs!)).toBe(1);
  });

  it("says which file of a glTF is missing, and does without pictures", async () => {
    const { json, resources } = await modelIO().writeJSON(sheet(), { basename: "hall" });
    await expect(bring({ "hall.gltf": JSON.stringify(json) })).rejects.toThrow(
      'hall.gltf: buffer 0 is in "hall.bin", which is not among the files; choose the whole folder or a zip archive of it',
    );
    const set = await bring({ "hall.gltf": JSON.stringify(json), "hall.bin": resources["hall.bin"]! });
    expect(set.report.left).toEqual(['picture "weave.png": the file is not among those chosen']);
    expect(set.report.triangles).toBe(576);
  });

  it("unpacks Draco, meshopt and quantised geometry to what it was", async () => {
    const plain = (await readModel(await glb(sheet()))).mesh;
    const encoder = await draco3d.createEncoderModule();
    await MeshoptEncoder.ready;
    const io = modelIO()
      .registerExtensions([KHRDracoMeshCompression, EXTMeshoptCompression, KHRMeshQuantization])
      .registerDependencies({ "draco3d.encoder": encoder, "meshopt.encoder": MeshoptEncoder });
    const packed = sheet();
    packed.createExtension(KHRDracoMeshCompression).setRequired(true);
    const draco = await bring({ "a.glb": await io.writeBinary(packed) });
    const meshopt = sheet();
    meshopt.createExtension(EXTMeshoptCompression).setRequired(true);
    const filtered = await bring({ "b.glb": await io.writeBinary(meshopt) });
    for (const [set, off] of [
      [draco, 1e-3],
      [filtered, 1e-6],
    ] as const) {
      const { mesh } = await readModel(set.model);
      expect(mesh.material.length).toBe(576);
      // triangles may come in another order: compare what they enclose
      const sum = (m: Float32Array): number => m.reduce((a, v) => a + v, 0) / m.length;
      expect(Math.abs(sum(mesh.positions) - sum(plain.positions))).toBeLessThan(off);
      expect(set.report.left).toEqual([]);
    }
    const quantised = sheet();
    quantised.createExtension(KHRMeshQuantization).setRequired(true);
    for (const a of quantised.getRoot().listAccessors())
      if (a.getType() === "VEC2")
        a.setArray(Uint16Array.from(a.getArray() as ArrayLike<number>, (v) => Math.round(v * 65535))).setNormalized(true);
    const { mesh } = await readModel((await bring({ "c.glb": await io.writeBinary(quantised) })).model);
    expect(Math.max(...mesh.uvs!.map((v, i) => Math.abs(v - plain.uvs![i]!)))).toBeLessThan(1e-4);
  });

  it("places instances of a batch", async () => {
    const doc = sheet();
    const batch = doc.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh();
    const at = doc
      .createAccessor()
      .setType("VEC3")
      .setArray(new Float32Array([0, 0, 0, 0, 10, 0, 0, 20, 0]))
      .setBuffer(doc.getRoot().listBuffers()[0]!);
    const turn = doc
      .createAccessor()
      .setType("VEC4")
      .setArray(new Float32Array([0, 0, 0, 1, 0, 1, 0, 0, 0, 0, 0, 1]))
      .setBuffer(doc.getRoot().listBuffers()[0]!);
    batch.setAttribute("TRANSLATION", at).setAttribute("ROTATION", turn);
    doc
      .getRoot()
      .listNodes()
      .find((n) => n.getName() === "left")!
      .setExtension("EXT_mesh_gpu_instancing", batch);
    const set = await bring({ "a.glb": await glb(doc) });
    expect(set.report.triangles).toBe(288 * 4);
    // the second of them stands half turned about y
    expect(set.bounds.map((v) => Number(v.toFixed(2)))).toEqual([-3, -0.1, -1, 3, 20.1, 1]);
  });

  it("keeps what stands in many places once, and says where it stands", async () => {
    const doc = sheet();
    const [left, right] = ["left", "right"].map((n) => doc.getRoot().listNodes().find((node) => node.getName() === n)!); // prettier-ignore
    const count = 100;
    const at = Float32Array.from({ length: 3 * count }, (_, i) => (i % 3 === 2 ? Math.floor(i / 3) : 0));
    const batch = doc.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh();
    batch.setAttribute("TRANSLATION", doc.createAccessor().setType("VEC3").setArray(at).setBuffer(doc.getRoot().listBuffers()[0]!));
    left!.setExtension("EXT_mesh_gpu_instancing", batch);
    // a mirrored place of the same mesh
    right!.setScale([-1, 1, 2]);
    const set = await bring({ "a.glb": await glb(doc) });
    expect(set.report).toMatchObject({ triangles: 288 * 101, kept: 288, instances: 100, left: [] });
    const { mesh } = await readModel(set.model);
    expect(mesh.material.length).toBe(288);
    expect(mesh.parts).toHaveLength(101);
    expect(mesh.parts![99]).toMatchObject({ path: "row/left", first: 0, count: 288, matrix: [1, 0, 0, -2, 0, 1, 0, 0, 0, 0, 1, 99] });
    expect(mesh.parts![100]).toMatchObject({ path: "row/right", matrix: [-1, 0, 0, 2, 0, 1, 0, 0, 0, 0, 2, 0] });
    expect(set.bounds.map((v) => Number(v.toFixed(2)) + 0)).toEqual([-2, -0.1, 0, 2, 0.1, 100]);
    // a place where nothing lies, and more places than are read
    left!.setTranslation([1e7, 0, 0]);
    await expect(bring({ "a.glb": await glb(doc) })).rejects.toThrow(
      /^a\.glb: mesh "[^"]*": its place \(1, 0, 0, 10000000.* out of range$/,
    );
    left!.setTranslation([0, 0, 0]);
    batch.setAttribute("TRANSLATION", doc.createAccessor().setType("VEC3").setArray(new Float32Array(300_003)).setBuffer(doc.getRoot().listBuffers()[0]!)); // prettier-ignore
    await expect(bring({ "a.glb": await glb(doc) })).rejects.toThrow(/^a\.glb: node "left": 100001 copies, more than the limit of 100000$/);
  });

  it("turns the corners of what is mirrored, so that it keeps its outside", async () => {
    const faces = async (scale: [number, number, number]): Promise<number[]> => {
      const doc = sheet();
      doc.getRoot().listNodes().find((n) => n.getName() === "left")!.setScale(scale); // prettier-ignore
      const { positions: p, normals, uvs, parts } = (await readModel(await glb(doc))).mesh;
      const { first, count } = parts!.find((part) => part.path === "row/left")!;
      let along = 0,
        corners = 0;
      for (let i = first; i < first + count; i++) {
        const e = (k: number): number[] => [0, 1, 2].map((c) => p[9 * i + 3 * k + c]! - p[9 * i + c]!);
        const [a, b] = [e(1), e(2)];
        const face = [a[1]! * b[2]! - a[2]! * b[1]!, a[2]! * b[0]! - a[0]! * b[2]!, a[0]! * b[1]! - a[1]! * b[0]!];
        if (face.reduce((sum, v, k) => sum + v * normals[9 * i + k]!, 0) > 0) along++;
        // texture coordinates go with their corners: u says how far along x the corner was
        for (let k = 0; k < 3; k++) corners += Math.abs((p[9 * i + 3 * k]! + 2) / scale[0]) * uvs![6 * i + 2 * k]!;
      }
      return [along, Number(corners.toFixed(3))];
    };
    expect(await faces([-1, 1, 1])).toEqual(await faces([1, 1, 1]));
  });

  it("tells what it leaves out", async () => {
    const doc = sheet();
    doc.createScene("spare");
    doc.getRoot().listMaterials()[0]!.setExtension("KHR_materials_unlit", doc.createExtension(KHRMaterialsUnlit).createUnlit());
    expect((await bring({ "a.glb": await glb(doc) })).report.left).toEqual([
      'material "cloth": is unlit, so it shines by itself, its white with 4920 cd/m²',
      "1 further scene",
    ]);
  });

  it("keeps unlit materials as they look: their colour as light, nothing else", async () => {
    const doc = sheet();
    const material = doc.getRoot().listMaterials()[0]!;
    const picture = doc.createTexture("sky").setImage(encode({ width: 2, height: 1, channels: 4, data: Uint8Array.of(255, 0, 0, 255, 0, 255, 0, 128) })).setMimeType("image/png"); // prettier-ignore
    material.setBaseColorFactor([0.5, 0.25, 1, 0.75]).setBaseColorTexture(picture).setAlphaMode("BLEND").setMetallicFactor(1);
    material.setExtension("KHR_materials_unlit", doc.createExtension(KHRMaterialsUnlit).createUnlit());
    const set = await bring({ "a.glb": await glb(doc) }, 1000);
    const { mesh } = await readModel(set.model, "a");
    const m = mesh.materials.find((x) => x.name === "cloth")!;
    expect(m).toMatchObject({
      baseColor: [0, 0, 0],
      emission: [500, 250, 1000],
      opacity: 0.75,
      metallic: 0,
      specular: 0,
      alphaMode: "blend",
    });
    expect(m.textures!.emission).toBeDefined();
    expect(mesh.textures![m.textures!.emission!.texture]!.width).toBe(2);
  });
});

describe("what moves, and what extensions say", () => {
  const flat = (doc: Document, type: "VEC2" | "VEC3" | "VEC4" | "MAT4" | "SCALAR", values: readonly number[]): Accessor =>
    doc
      .createAccessor()
      .setType(type)
      .setArray(new Float32Array(values))
      .setBuffer(doc.getRoot().listBuffers()[0] ?? doc.createBuffer());

  /** One triangle under a node. */
  function triangle(): { doc: Document; node: Node; primitive: Primitive } {
    const doc = new Document();
    const primitive = doc.createPrimitive().setAttribute("POSITION", flat(doc, "VEC3", [0, 0, 0, 1, 0, 0, 0, 1, 0]));
    const node = doc.createNode("sail").setMesh(doc.createMesh("sail").addPrimitive(primitive.setMaterial(doc.createMaterial("linen"))));
    doc.createScene().addChild(node);
    return { doc, node, primitive };
  }
  const corners = async (set: ImportedSet): Promise<number[]> =>
    [...(await readModel(set.model)).mesh.positions].map((v) => Number(v.toFixed(5)));
  const moved = async (doc: Document, time: number | null): Promise<number[]> =>
    corners(
      await importSet(new Map([["a.glb", await glb(doc)]]), { decoders, decode, moment: time === null ? null : { animation: 0, time } }),
    );

  it("a skin is posed by its joints, wherever its own node stands, and its normals turn along", async () => {
    const { doc, node, primitive } = triangle();
    node.setTranslation([7, 7, 7]).setScale([2, 2, 2]);
    primitive
      .setAttribute("NORMAL", flat(doc, "VEC3", [0, 0, 1, 0, 0, 1, 0, 0, 1]))
      .setAttribute(
        "JOINTS_0",
        doc
          .createAccessor()
          .setType("VEC4")
          .setArray(new Uint8Array([0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0])),
      )
      .setAttribute("WEIGHTS_0", flat(doc, "VEC4", [1, 0, 0, 0, 0.5, 0.5, 0, 0, 1, 0, 0, 0]));
    const [a, b] = [doc.createNode("a"), doc.createNode("b").setTranslation([0, 0, 4]).setRotation([Math.SQRT1_2, 0, 0, Math.SQRT1_2])];
    doc.getRoot().listScenes()[0]!.addChild(a).addChild(b);
    // the second joint was bound 1 above its origin
    const bind = flat(doc, "MAT4", [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -1, 0, 1]);
    node.setSkin(doc.createSkin().addJoint(a).addJoint(b).setInverseBindMatrices(bind));
    const set = await bring({ "a.glb": await glb(doc) });
    // (1, 0, 0) lies half where a has it and half where b does: (1, 0, 0 - 1 turned + 4) → (1, 0, 3)
    expect(await corners(set)).toEqual([0, 0, 0, 1, 0, 1.5, 0, 0, 4]);
    const { normals } = (await readModel(set.model)).mesh;
    // a quarter turn about x takes z to -y
    normals.subarray(6, 9).forEach((v, k) => expect(v).toBeCloseTo([0, -1, 0][k]!, 5));
  });

  it("morph targets stand by their weights: those of the node, else those of the mesh", async () => {
    const { doc, node, primitive } = triangle();
    primitive.addTarget(doc.createPrimitiveTarget().setAttribute("POSITION", flat(doc, "VEC3", [0, 0, 2, 0, 0, 0, 0, 0, 0])));
    primitive.addTarget(doc.createPrimitiveTarget().setAttribute("POSITION", flat(doc, "VEC3", [4, 0, 0, 0, 0, 0, 0, 0, 0])));
    node.getMesh()!.setWeights([0.5, 0]);
    expect((await moved(doc, null)).slice(0, 3)).toEqual([0, 0, 1]);
    node.setWeights([0, 0.25]);
    expect((await moved(doc, null)).slice(0, 3)).toEqual([1, 0, 0]);
  });

  it.each([
    ["LINEAR", [0, 0, 0, 0, 8, 0], 0.5, [0, 2, 0]],
    ["LINEAR", [0, 0, 0, 0, 8, 0], -1, [0, 0, 0]],
    ["LINEAR", [0, 0, 0, 0, 8, 0], 9, [0, 8, 0]],
    ["STEP", [0, 0, 0, 0, 8, 0], 1.99, [0, 0, 0]],
    // Hermite: value 0 and slope 3 to value 8 and slope 1 in 2 s, at a quarter: 0.140625·2·3 + 0.15625·8 - 0.046875·2·1
    ["CUBICSPLINE", [0, 0, 0, 0, 0, 0, 0, 3, 0, 0, 1, 0, 0, 8, 0, 0, 0, 0], 0.5, [0, 2, 0]],
  ] as const)("an animation (%s of %o) at %d s", async (interpolation, values, time, expected) => {
    const { doc, node } = triangle();
    const sampler = doc
      .createAnimationSampler()
      .setInput(flat(doc, "SCALAR", [0, 2]))
      .setOutput(flat(doc, "VEC3", values))
      .setInterpolation(interpolation);
    const channel = doc.createAnimationChannel().setTargetNode(node).setTargetPath("translation").setSampler(sampler);
    doc.createAnimation("rise").addSampler(sampler).addChannel(channel);
    expect((await moved(doc, time)).slice(0, 3)).toEqual(expected);
    expect((await moved(doc, null)).slice(0, 3)).toEqual([0, 0, 0]);
  });

  it("rotations go the shorter way about", async () => {
    const { doc, node } = triangle();
    const q = Math.SQRT1_2;
    // a quarter turn about z, written as its negative
    const sampler = doc
      .createAnimationSampler()
      .setInput(flat(doc, "SCALAR", [0, 1]))
      .setOutput(flat(doc, "VEC4", [0, 0, 0, 1, 0, 0, -q, -q]));
    doc
      .createAnimation("turn")
      .addSampler(sampler)
      .addChannel(doc.createAnimationChannel().setTargetNode(node).setTargetPath("rotation").setSampler(sampler));
    const [x, y] = (await moved(doc, 1 / 3)).slice(3, 5);
    expect(x).toBeCloseTo(Math.cos(Math.PI / 6), 4);
    expect(y).toBeCloseTo(Math.sin(Math.PI / 6), 4);
  });

  it("says what a skin or an animation refers to that is not there", async () => {
    const { doc, node, primitive } = triangle();
    primitive
      .setAttribute(
        "JOINTS_0",
        doc
          .createAccessor()
          .setType("VEC4")
          .setArray(new Uint8Array([0, 0, 0, 0, 5, 0, 0, 0, 0, 0, 0, 0])),
      )
      .setAttribute("WEIGHTS_0", flat(doc, "VEC4", [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]));
    const joint = doc.createNode("a");
    doc.getRoot().listScenes()[0]!.addChild(joint);
    node.setSkin(doc.createSkin().addJoint(joint));
    await expect(moved(doc, null)).rejects.toThrow('a.glb: mesh "sail", corner 1: hangs on joint 5 of 1');
    await expect(moved(doc, 1)).rejects.toThrow("a.glb: has no animation 1");
  });

  it("hidden nodes are left out with all below them", async () => {
    const { doc, node } = triangle();
    const below = doc.createNode("below").setMesh(node.getMesh());
    const hidden = doc.createNode("store").addChild(below).setExtension("KHR_node_visibility", doc.createExtension(KHRNodeVisibility).createVisibility().setVisible(false)); // prettier-ignore
    doc.getRoot().listScenes()[0]!.addChild(hidden);
    const set = await bring({ "a.glb": await glb(doc) });
    expect(set.report).toMatchObject({ triangles: 1, left: ["1 hidden node"] });
  });

  it("the sun has the colour of the directional light", async () => {
    const { doc } = triangle();
    const light = doc
      .createExtension(KHRLightsPunctual)
      .createLight("dusk")
      .setType("directional")
      .setColor([1, 0.5, 0.25])
      .setIntensity(900);
    doc.getRoot().listScenes()[0]!.addChild(doc.createNode("sky").setExtension("KHR_lights_punctual", light));
    expect((await bring({ "a.glb": await glb(doc) })).sun).toMatchObject({ illuminance: 900, tint: [1, 0.5, 0.25] });
  });

  it("tints of reflection and of light that passes; specular and glossiness as metal–rough", async () => {
    const { doc } = triangle();
    const [linen] = doc.getRoot().listMaterials();
    linen!
      .setExtension("KHR_materials_specular", doc.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularColorFactor([1, 0.5, 3]))
      .setExtension("KHR_materials_diffuse_transmission", doc.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission().setDiffuseTransmissionFactor(0.4).setDiffuseTransmissionColorFactor([0.2, 0.7, 0.1])); // prettier-ignore
    const first = (await readModel(await glb(doc))).mesh.materials[0]!;
    expect(first).toMatchObject({ specularColor: [1, 0.5, 3], diffuseTransmission: 0.4, diffuseTransmissionColor: [0.2, 0.7, 0.1] });
    const old = doc.createExtension(KHRMaterialsPBRSpecularGlossiness).createPBRSpecularGlossiness().setDiffuseFactor([0.3, 0.2, 0.1, 1]).setGlossinessFactor(0.75).setSpecularFactor([0.04, 0.02, 0.4]); // prettier-ignore
    linen!.setExtension("KHR_materials_pbrSpecularGlossiness", old).setExtension("KHR_materials_specular", null);
    const second = (await readModel(await glb(doc))).mesh.materials[0]!;
    expect(second).toMatchObject({ baseColor: [0.3, 0.2, 0.1], metallic: 0, roughness: 0.25 });
    second.specularColor!.forEach((c, k) => expect(c).toBeCloseTo([1, 0.5, 10][k]!, 5));
  });

  it("colours at corners and the second set of texture coordinates come with their corners", async () => {
    const { doc, primitive } = triangle();
    const picture = doc.createTexture("a").setMimeType("image/png").setImage(new Uint8Array(encode({ width: 1, height: 1, channels: 3, data: Uint8Array.of(9, 9, 9) }))); // prettier-ignore
    const material = doc.getRoot().listMaterials()[0]!.setBaseColorTexture(picture).setEmissiveTexture(picture);
    material.getEmissiveTextureInfo()!.setTexCoord(1);
    primitive
      .setAttribute(
        "COLOR_0",
        doc
          .createAccessor()
          .setType("VEC4")
          .setNormalized(true)
          .setArray(new Uint8Array([255, 0, 51, 255, 0, 255, 0, 102, 0, 0, 255, 255])),
      )
      .setAttribute("TEXCOORD_0", flat(doc, "VEC2", [0, 0, 1, 0, 0, 1]))
      .setAttribute("TEXCOORD_1", flat(doc, "VEC2", [0.5, 0.5, NaN, 0, 0, 2]));
    const { mesh } = await readModel(await glb(doc));
    expect([...mesh.colours!]).toEqual([65535, 0, 13107, 65535, 0, 65535, 0, 26214, 0, 0, 65535, 65535]);
    expect([...mesh.uvsSecond!]).toEqual([0.5, 0.5, 0, 0, 0, 2]);
    expect([mesh.materials[0]!.textures!.base!.set, mesh.materials[0]!.textures!.emission!.set]).toEqual([undefined, 1]);
  });

  it("says which field has the wrong type", async () => {
    const say = (change: object): Promise<ImportedSet> => bring({ "a.gltf": JSON.stringify({ asset: { version: "2.0" }, ...change }) });
    await expect(say({ nodes: [{ translation: [0, 1] }] })).rejects.toThrow("a.gltf: nodes[0].translation: must be a list of 3 numbers");
    await expect(say({ materials: [{ alphaCutoff: "half" }] })).rejects.toThrow("a.gltf: materials[0].alphaCutoff: must be a number");
  });
});

describe("pictures in other formats", () => {
  const withPicture = async (image: Uint8Array, type: string): Promise<Uint8Array> => {
    const doc = sheet(1);
    if (type === "image/ktx2") doc.createExtension(KHRTextureBasisu).setRequired(true);
    else doc.createExtension(EXTTextureWebP).setRequired(true);
    doc.getRoot().listTextures()[0]!.setImage(image).setMimeType(type).setURI("");
    return glb(doc);
  };
  const pixels = async (image: Uint8Array, type: string): Promise<{ width: number; height: number; rgba: number[] }> => {
    const set = await bring({ "a.glb": await withPicture(image, type) });
    expect(set.report.left).toEqual([]);
    const { width, height, rgba } = (await readModel(set.model)).mesh.textures![0]!;
    return { width, height, rgba: [...rgba] };
  };

  it("plain KTX2 as it is", async () => {
    const rgba = Uint8Array.from({ length: 4 * 6 }, (_, i) => 10 * i);
    const container = createDefaultContainer();
    Object.assign(container, { vkFormat: VK_FORMAT_R8G8B8A8_SRGB, pixelWidth: 3, pixelHeight: 2, levels: [{ levelData: rgba, uncompressedByteLength: rgba.length }] }); // prettier-ignore
    expect(await pixels(writeKtx(container), "image/ktx2")).toEqual({ width: 3, height: 2, rgba: [...rgba] });
  });

  it.each([
    ["UASTC", true, 6],
    ["ETC1S", false, 40],
  ])("KTX2 with Basis Universal (%s) to within what it loses", async (_, isUASTC, within) => {
    const side = 16;
    const rgba = Uint8Array.from({ length: 4 * side * side }, (_, i) => [16 * ((i >> 2) % side), 16 * (i >> 6), 90, 255][i & 3]!);
    const image = await encodeToKTX2(rgba, {
      isUASTC,
      generateMipmap: false,
      isPerceptual: false,
      imageDecoder: () => Promise.resolve({ width: side, height: side, data: rgba }),
    });
    const seen = await pixels(new Uint8Array(image), "image/ktx2");
    expect([seen.width, seen.height]).toEqual([side, side]);
    const off = seen.rgba.map((v, i) => Math.abs(v - rgba[i]!));
    expect(Math.max(...off)).toBeLessThan(2 * within);
    expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(within / 4);
  });

  it("WebP as its encoder had it", async () => {
    const image = await sharp(Buffer.from([200, 30, 10, 255, 20, 220, 90, 128]), { raw: { width: 2, height: 1, channels: 4 } }).webp({ lossless: true }).toBuffer(); // prettier-ignore
    expect(await pixels(new Uint8Array(image), "image/webp")).toEqual({ width: 2, height: 1, rgba: [200, 30, 10, 255, 20, 220, 90, 128] });
  });

  it("broken ones are named", async () => {
    const webp = new Uint8Array(
      await sharp({ create: { width: 40, height: 40, channels: 3, background: "red" } })
        .webp()
        .toBuffer(),
    );
    await expect(bring({ "a.glb": await withPicture(webp.slice(0, 40), "image/webp") })).rejects.toThrow(
      /a.glb: texture "weave": not readable/,
    );
    const ktx = Uint8Array.of(0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 13, 10, 26, 10, ...new Array<number>(100).fill(0));
    await expect(bring({ "a.glb": await withPicture(ktx, "image/ktx2") })).rejects.toThrow(/a.glb: texture "weave"/);
  });
});

describe("bringing OBJ in", () => {
  it("hollow faces keep their form, colours of corners are taken as displays show them, UTF-16 is read", async () => {
    // an arrow head: its fan would cover what is cut out
    const arrow = "v 0 0 0\nv 4 0 0 1 0 0.5\nv 1 1 0\nv 0 4 0\nf 1 2 3 4\nf 4 3 2 1\n";
    const area = ({ positions: p }: { positions: Float32Array }, i: number): number => {
      const at = (c: number): [number, number] => [p[9 * i + 3 * c]!, p[9 * i + 3 * c + 1]!];
      const [[ax, ay], [bx, by], [cx, cy]] = [at(0), at(1), at(2)];
      return ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)) / 2;
    };
    const { mesh } = await readModel((await bring({ "a.obj": arrow })).model);
    const areas = [0, 1, 2, 3].map((i) => area(mesh, i));
    // the triangle of 8 less the notch of 4; the second face turns the other way
    expect(areas[0]! + areas[1]!).toBeCloseTo(4, 5);
    expect(areas[2]! + areas[3]!).toBeCloseTo(-4, 5);
    expect(areas.slice(0, 2).every((a) => a > 0) && areas.slice(2).every((a) => a < 0)).toBe(true);
    expect([...mesh.colours!]).toContain(Math.round(65535 * ((0.5 + 0.055) / 1.055) ** 2.4));
    const utf16 = new Uint8Array(Buffer.from(`\uFEFF${arrow}`, "utf16le"));
    expect((await bring({ "a.obj": utf16 })).report.triangles).toBe(4);
    expect((await bring({ "a.obj": utf16.map((_, i) => utf16[i ^ 1]!) })).report.triangles).toBe(4);
  });

  it("libraries: index, strength of the reflection, filters of glass, places of pictures", async () => {
    const library = "newmtl wet\nNi 1.33\nKs 0.25 0.25 0.25\nmap_Kd -s 2 4 1 -o 0.5 0.25 -clamp on a b.png\nnewmtl pane\nillum 4\nTf 0.8 0.4 0.2\nnewmtl odd\nTf 1 0.5 1\nmap_Kd -imfchan r a b.png\n"; // prettier-ignore
    const faces = ["wet", "pane", "odd"].map((m) => `usemtl ${m}\nf 1/1 2/2 3/3\n`).join("");
    const obj = `mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\n${faces}`;
    const png = new Uint8Array(encode({ width: 1, height: 1, data: new Uint8Array([9, 9, 9]), channels: 3, depth: 8 }));
    const set = await bring({ "a.obj": obj, "a.mtl": library, "a b.png": png });
    expect(set.report.left).toEqual(
      ['material "odd": Tf is only read of glass (illum 4, 6, 7, 9)', "map_kd: the option -imfchan"].reverse(),
    );
    const { mesh } = await readModel(set.model);
    const [wet, pane] = mesh.materials;
    expect(wet!.ior).toBeCloseTo(1.33, 5);
    expect(wet!.specular).toBeCloseTo(0.5, 5);
    // u' = 2 u + 0.5; rows count from the top: v' of the format is 4 v + 0.25
    const [a, b, ox, c, d, oy] = wet!.textures!.base!.transform;
    const at = (u: number, v: number): number[] => [a * u + b * (1 - v) + ox, 1 - (c * u + d * (1 - v) + oy)];
    at(0.3, 0.7).forEach((v, k) => expect(v).toBeCloseTo([1.1, 3.05][k]!, 5));
    expect(mesh.textures![wet!.textures!.base!.texture]!.wrap).toEqual([2, 2]);
    expect(pane).toMatchObject({ transmission: expect.closeTo(0.8, 5) as number, opacity: 1 });
    pane!.baseColor.forEach((v, k) => expect(v).toBeCloseTo([1, 0.5, 0.25][k]!, 5));
  });

  const mtl = "newmtl brick\nKd 0.6 0.3 0.2\nNs 98\nmap_Kd -s 1 1 1 brick.png\nnewmtl lamp\nKe 40 30 20\nd 0.5\n";
  const obj = `mtllib wall.mtl
o wall
v 0 0 0
v 2 0 0
v 2 3 0
v 0 3 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl brick
f 1/1 2/2 3/3 4/4
o bulb
v 5 1 0
v 6 1 0
v 5 2 0
usemtl lamp
f -3 -2 -1
l 1 2
`;
  const png = new Uint8Array(encode({ width: 1, height: 1, data: new Uint8Array([9, 9, 9]), channels: 3, depth: 8 }));

  it("with its library and picture becomes objects, materials and triangles", async () => {
    const set = await bring({ "wall.obj": obj, "wall.mtl": mtl, "brick.png": png });
    expect(set.report).toMatchObject({ triangles: 3, materials: 2, textures: 1, left: ["lines (1)"] });
    expect(set.bounds).toEqual([0, 0, 0, 6, 3, 0]);
    const { mesh } = await readModel(set.model);
    expect(mesh.parts!.map((p) => p.path)).toEqual(["wall", "bulb"]);
    expect(mesh.materials[0]!.roughness).toBeCloseTo(0.02 ** 0.25, 5);
    mesh.materials[1]!.emission.forEach((v, k) => expect(v).toBeCloseTo([40, 30, 20][k]!, 4));
    expect(mesh.materials[1]!).toMatchObject({ opacity: 0.5, alphaMode: "blend" });
    // texture rows count from the top
    expect([...mesh.uvs!.subarray(0, 6)]).toEqual([0, 1, 1, 1, 1, 0]);
  });

  it("says line and reason of what is wrong", async () => {
    const wrong: [string, string][] = [
      ["v 0 0\n", 'a.obj: line 1: "v 0 0" needs 3 numbers'],
      ["v 0 0 0\nv 1 0 0\nf 1 2\n", "a.obj: line 3: a face needs three corners"],
      ["v 0 0 0\nv 1 0 0\nf 1 2 7\n", "a.obj: line 3: there is no corner 7 (of 2)"],
      ["v 0 0 0\nf 1 1 x\n", "a.obj: line 2: there is no corner x (of 1)"],
      ["# nothing\n", "a.obj: holds no faces"],
    ];
    for (const [file, message] of wrong) await expect(bring({ "a.obj": file })).rejects.toThrow(message);
    const set = await bring({ "a.obj": "mtllib gone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl x\nf 1 2 3\n" });
    expect(set.report.left).toEqual([
      'materials of "gone.mtl": the file is not among those chosen',
      'material "x": not found in any library; it is plain grey',
    ]);
  });
});

describe("files that are wrong or hostile", () => {
  it.each([
    [
      "no model",
      { "readme.txt": "hello" },
      "no model among the files (.txt); glTF (.gltf, .glb), OBJ and OpenUSD (.usda, .usdc, .usd, .usdz) are read",
    ],
    ["two models", { "a.glb": "x", "b.glb": "y" }, "several models were chosen (a.glb, b.glb)"],
    ["not JSON", { "a.gltf": "{" }, "a.gltf: not JSON"],
    ["a list", { "a.gltf": "[]" }, "a.gltf: not a glTF document"],
    ["old", { "a.gltf": '{"asset":{"version":"1.0"}}' }, "a.gltf: glTF version 1.0; save it as glTF 2.0"],
    [
      "needs the unknown",
      { "a.gltf": '{"asset":{"version":"2.0"},"extensionsRequired":["ACME_x"]}' },
      "a.gltf: needs ACME_x, which is not read; save it without",
    ],
    ["buffers no list", { "a.gltf": '{"asset":{"version":"2.0"},"buffers":{}}' }, "a.gltf: buffers: must be a list"],
    [
      "elsewhere",
      { "a.gltf": '{"asset":{"version":"2.0"},"buffers":[{"uri":"http://example.org/a.bin","byteLength":4}]}' },
      "only files that come with the set are read",
    ],
    ["outside", { "a.gltf": '{"asset":{"version":"2.0"},"buffers":[{"uri":"../../etc/passwd","byteLength":4}]}' }, "outside the set"],
    [
      "short",
      { "a.gltf": '{"asset":{"version":"2.0"},"buffers":[{"uri":"a.bin","byteLength":400}]}', "a.bin": "abc" },
      '"a.bin" has 3 bytes, buffer 0 needs 400',
    ],
    [
      "a place that is a number",
      { "a.gltf": '{"asset":{"version":"2.0"},"buffers":[{"uri":5,"byteLength":4}]}' },
      "a.gltf: buffers[0].uri: must be text",
    ],
    ["no triangles", { "a.gltf": '{"asset":{"version":"2.0"}}' }, "holds no triangles"],
    ["cut", { "a.glb": "glTF" }, "a.glb: 4 bytes are too few"],
  ] as [string, Record<string, string>, string][])("%s", async (_, files, message) => {
    await expect(bring(files)).rejects.toThrow(message);
  });

  it("no file bent at random is more than an error", async () => {
    const whole = await glb(sheet(2));
    let errors = 0;
    for (let seed = 1; seed <= 300; seed++) {
      const bytes = whole.slice();
      let s = seed;
      for (let k = 0; k < 6; k++) {
        s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
        // mostly in the JSON, where structure is
        bytes[20 + (s % Math.min(bytes.length - 20, 4000))] = (s >>> 12) & 255;
      }
      try {
        await bring({ "bent.glb": bytes });
      } catch (error) {
        errors++;
        expect((error as Error).name, `seed ${seed}: ${(error as Error).stack}`).toBe("InputError");
      }
    }
    expect(errors).toBeGreaterThan(100);
  });

  it("archives: entries that lead outside, that swell, that are broken", async () => {
    expect(plainPath("a/./b/../c.bin")).toBe("a/c.bin");
    expect(plainPath("../x")).toBeNull();
    await expect(bring({ "a.zip": zipSync({ "../evil.glb": text("x") }) })).rejects.toThrow("leads outside the archive");
    const broken = zipSync({ "a.glb": text("hello") }).slice(0, 40);
    await expect(bring({ "a.zip": broken })).rejects.toThrow("not readable as a zip archive");
    const files = openFiles(new Map([["b.zip", zipSync({ "tex/Wood.PNG": text("p"), "__MACOSX/x": text("q") })]]));
    expect([...files.keys()]).toEqual(["tex/Wood.PNG"]);
    expect(findFile(files, "model.gltf", "textures/wood.png")?.path).toBe("tex/Wood.PNG");
  });
});
