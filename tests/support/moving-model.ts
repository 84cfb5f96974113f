/** Small models of what is rare: one that moves, and one with pictures in other formats. */
import { Document } from "@gltf-transform/core";
import { EXTTextureWebP, KHRTextureBasisu } from "@gltf-transform/extensions";
import { encodeToKTX2 } from "ktx2-encoder";
import sharp from "sharp";
import { modelIO } from "#core/formats/gltf";

/** A figure of two joints with a morph target, turned by an animation. @param lens whether a lens rises by it, from 1 to 3 in a second */
export async function movingModel(lens = false): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const make = (type: "VEC3" | "VEC4" | "SCALAR", values: readonly number[]) => doc.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer); // prettier-ignore
  const primitive = doc
    .createPrimitive()
    .setAttribute("POSITION", make("VEC3", [0, 0, 0, 1, 0, 0, 0, 1, 0]))
    .setAttribute(
      "JOINTS_0",
      doc
        .createAccessor()
        .setType("VEC4")
        .setArray(new Uint8Array([0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0]))
        .setBuffer(buffer),
    ) // prettier-ignore
    .setAttribute("WEIGHTS_0", make("VEC4", [1, 0, 0, 0, 0.5, 0.5, 0, 0, 1, 0, 0, 0]))
    .addTarget(doc.createPrimitiveTarget().setAttribute("POSITION", make("VEC3", [0, 0, 2, 0, 0, 0, 0, 0, 0])));
  const [a, b] = [doc.createNode("a"), doc.createNode("b").setTranslation([0, 0, 4])];
  const mesh = doc.createMesh("m").addPrimitive(primitive).setWeights([0.5]);
  doc
    .createScene()
    .addChild(doc.createNode("n").setMesh(mesh).setSkin(doc.createSkin().addJoint(a).addJoint(b)))
    .addChild(a)
    .addChild(b);
  const sampler = doc
    .createAnimationSampler()
    .setInput(make("SCALAR", [0, 1]))
    .setOutput(make("VEC4", [0, 0, 0, 1, 0, 0, 1, 0]));
  const channel = doc.createAnimationChannel().setTargetNode(b).setTargetPath("rotation").setSampler(sampler);
  const animation = doc.createAnimation("turn").addSampler(sampler).addChannel(channel);
  if (lens) {
    const node = doc.createNode("lens").setCamera(doc.createCamera("crane").setType("perspective").setYFov(0.9));
    doc.getRoot().listScenes()[0]!.addChild(node);
    const rising = doc
      .createAnimationSampler()
      .setInput(make("SCALAR", [0, 1]))
      .setOutput(make("VEC3", [0, 1, 8, 0, 3, 8]));
    const channel = doc.createAnimationChannel().setTargetNode(node).setTargetPath("translation").setSampler(rising);
    animation.addSampler(rising).addChannel(channel);
  }
  return modelIO().writeBinary(doc);
}

/** A model with a picture in another format. */
export async function picturedModel(kind: "webp" | "ktx2"): Promise<Uint8Array> {
  const doc = await modelIO().readBinary(await movingModel());
  const rgba = new Uint8Array(16 * 16 * 4).fill(120);
  const image =
    kind === "webp"
      ? await sharp(rgba, { raw: { width: 16, height: 16, channels: 4 } }).webp().toBuffer()
      : await encodeToKTX2(rgba, { isUASTC: true, generateMipmap: false, imageDecoder: () => Promise.resolve({ width: 16, height: 16, data: rgba }) }); // prettier-ignore
  if (kind === "webp") doc.createExtension(EXTTextureWebP).setRequired(true);
  else doc.createExtension(KHRTextureBasisu).setRequired(true);
  const texture = doc.createTexture("t").setImage(new Uint8Array(image)).setMimeType(`image/${kind}`);
  doc.getRoot().listMeshes()[0]!.listPrimitives()[0]!.setMaterial(doc.createMaterial("m").setBaseColorTexture(texture));
  return modelIO().writeBinary(doc);
}
