/** Pictures of glTF in WebP and KTX2 as PNG, which the store keeps: their decoders are only made when a file asks for them. */
import type { Document, Texture } from "@gltf-transform/core";
import { encode } from "fast-png";
import { read as readContainer, VK_FORMAT_R8G8B8A8_SRGB, VK_FORMAT_R8G8B8A8_UNORM, VK_FORMAT_UNDEFINED } from "ktx-parse";
import { InputError, reasonOf } from "../errors";
import { MAX_TEXTURE_PIXELS } from "./gltf-textures";

/** Pixels, RGBA bytes from the top left. */
export interface Decoded {
  width: number;
  height: number;
  data: Uint8Array | Uint8ClampedArray;
}

/** Makes RGBA of a file in KTX2 with Basis Universal inside. */
export type BasisDecoder = (bytes: Uint8Array) => Decoded;
export type WebpDecoder = (bytes: Uint8Array) => Promise<Decoded>;

export interface PictureDecoders {
  basis: () => Promise<BasisDecoder>;
  webp: () => Promise<WebpDecoder>;
}

/** What a build of the Basis Universal transcoder offers, as far as it is used here. */
export interface BasisModule {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => BasisFile;
}
interface BasisFile {
  isValid(): boolean;
  getWidth(): number;
  getHeight(): number;
  startTranscoding(): number;
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(
    out: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    alpha: number,
    row: number,
    flags: number,
  ): number;
  close(): void;
  delete(): void;
}
/** cTFRGBA32 of the transcoder. */
const RGBA32 = 13;

/** A decoder from a transcoder that was made. */
export function basisDecoder(module: BasisModule): BasisDecoder {
  module.initializeBasis();
  return (bytes) => {
    const file = new module.KTX2File(bytes);
    try {
      if (!file.isValid()) throw new Error("its header is broken");
      const [width, height] = [file.getWidth(), file.getHeight()];
      if (!file.startTranscoding()) throw new Error("it cannot be unpacked");
      const data = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
      if (data.length !== 4 * width * height || !file.transcodeImage(data, 0, 0, 0, RGBA32, 0, -1, -1))
        throw new Error("it cannot be unpacked");
      return { width, height, data };
    } finally {
      file.close();
      file.delete();
    }
  };
}

const MARKS = { ktx2: [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30], webp: [0x52, 0x49, 0x46, 0x46] } as const;
const begins = (bytes: Uint8Array, mark: readonly number[]): boolean => mark.every((b, i) => bytes[i] === b);

/** Turns pictures in WebP and KTX2 into PNG, in place. @throws InputError for broken or outsized ones @returns what is left out */
export async function unpackPictures(doc: Document, decoders: PictureDecoders, what: string): Promise<string[]> {
  const left: string[] = [];
  // each is made once, however many pictures ask for it
  const made: { basis?: ReturnType<PictureDecoders["basis"]>; webp?: ReturnType<PictureDecoders["webp"]> } = {};
  const once: PictureDecoders = { basis: () => (made.basis ??= decoders.basis()), webp: () => (made.webp ??= decoders.webp()) };
  for (const texture of doc.getRoot().listTextures()) {
    const bytes = texture.getImage();
    if (!bytes) continue;
    const name = `${what}: texture "${texture.getName() || texture.getURI() || "unnamed"}"`;
    const ktx = begins(bytes, MARKS.ktx2);
    if (!ktx && !begins(bytes, MARKS.webp)) continue;
    checkSize(texture, name);
    try {
      const { width, height, data } = ktx ? await fromKtx(bytes, once) : await (await once.webp())(bytes);
      texture
        .setImage(new Uint8Array(encode({ width, height, data: new Uint8Array(data), channels: 4, depth: 8 })))
        .setMimeType("image/png");
      // its name ended as the other format's do
      texture.setURI("");
    } catch (error) {
      if (!(error instanceof UnknownFormat)) throw new InputError(`${name}: not readable (${reasonOf(error)})`);
      left.push(`texture "${texture.getName()}": ${error.message}`);
      texture.dispose();
    }
  }
  for (const e of doc.getRoot().listExtensionsUsed())
    if (e.extensionName === "KHR_texture_basisu" || e.extensionName === "EXT_texture_webp") e.dispose();
  return left;
}

function checkSize(texture: Texture, name: string): void {
  let size: [number, number] | null;
  try {
    size = texture.getSize();
  } catch {
    throw new InputError(`${name}: not readable (its header is cut short)`);
  }
  if (!size) throw new InputError(`${name}: not readable (its header says no size)`);
  if (size[0] * size[1] > MAX_TEXTURE_PIXELS)
    throw new InputError(`${name}: ${size[0]} × ${size[1]} pixels, more than the limit of ${MAX_TEXTURE_PIXELS}`);
}

class UnknownFormat extends Error {}

async function fromKtx(bytes: Uint8Array, decoders: PictureDecoders): Promise<Decoded> {
  const container = readContainer(bytes);
  const { pixelWidth: width, pixelHeight: height, vkFormat } = container;
  if (vkFormat === VK_FORMAT_UNDEFINED) return (await decoders.basis())(bytes);
  if (vkFormat !== VK_FORMAT_R8G8B8A8_SRGB && vkFormat !== VK_FORMAT_R8G8B8A8_UNORM)
    throw new UnknownFormat(`KTX2 of format ${vkFormat} is not read; Basis Universal and plain RGBA are`);
  const data = container.levels[0]?.levelData;
  if (container.supercompressionScheme !== 0 || !data) throw new UnknownFormat("plain KTX2 that is packed once more is not read");
  if (data.length < 4 * width * height) throw new Error("cut short");
  return { width, height, data: data.subarray(0, 4 * width * height) };
}
