import { Document, type Accessor } from "@gltf-transform/core";
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsUnlit,
  KHRMeshQuantization,
} from "@gltf-transform/extensions";
import draco3d from "draco3dgltf";
import { encode } from "fast-png";
import { zipSync } from "fflate";
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
    doc.createAnimation("wave");
    doc.createScene("spare");
    doc.getRoot().listMaterials()[0]!.setExtension("KHR_materials_unlit", doc.createExtension(KHRMaterialsUnlit).createUnlit());
    expect((await bring({ "a.glb": await glb(doc) })).report.left).toEqual([
      'material "cloth": is unlit, so it shines by itself, its white with 4920 cd/m²',
      "1 further scene",
      "1 animation",
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

describe("bringing OBJ in", () => {
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
    ["no model", { "readme.txt": "hello" }, "no model among the files (.txt); glTF (.gltf, .glb) and OBJ are read"],
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
