/** Textures of a glTF model: decoded once each, with their wrapping and transforms. */
import type { Texture as GltfTexture, TextureInfo } from "@gltf-transform/core";
import type { Transform } from "@gltf-transform/extensions";
import jpeg from "jpeg-js";
import { InputError, reasonOf } from "../errors";
import type { SurfaceMaterial, Texture, TextureUse } from "../data/geometry";
import { readPng } from "./png";

/** Most pixels of one texture. */
export const MAX_TEXTURE_PIXELS = 8192 * 8192;

type Slot = keyof NonNullable<SurfaceMaterial["textures"]>;
const WRAP: Record<number, number> = { 10497: 0, 33648: 1, 33071: 2 };

export class TextureReader {
  readonly textures: Texture[] = [];
  private readonly known = new Map<string, number>();
  private readonly ids = new Map<GltfTexture, number>();

  /** @param left takes note of what is left out */
  constructor(
    private readonly what: string,
    private readonly left: string[],
  ) {}

  /** The use of a texture in a slot, as an entry to spread; nothing where there is none or it cannot be used. */
  use(slot: Slot, texture: GltfTexture | null, info: TextureInfo | null, srgb: boolean): Partial<Record<Slot, TextureUse>> {
    if (!texture || !info) return {};
    const transform = info.getExtension<Transform>("KHR_texture_transform");
    const set = transform?.getTexCoord() ?? info.getTexCoord();
    if (set !== 0 && set !== 1) {
      this.left.push(`texture "${texture.getName()}": uses texture coordinates ${set}; the first two sets are read`);
      return {};
    }
    const wrap: [number, number] = [WRAP[info.getWrapS()] ?? 0, WRAP[info.getWrapT()] ?? 0];
    const nearest = info.getMagFilter() === 9728;
    if (!this.ids.has(texture)) this.ids.set(texture, this.ids.size);
    const key = [this.ids.get(texture), ...wrap, nearest, srgb].join();
    let number = this.known.get(key);
    if (number === undefined) {
      const image = this.decoded(texture);
      if (!image) return {};
      number = this.textures.push({ ...image, srgb, wrap, nearest }) - 1;
      this.known.set(key, number);
    }
    const [ox, oy] = transform?.getOffset() ?? [0, 0];
    const [sx, sy] = transform?.getScale() ?? [1, 1];
    const a = transform?.getRotation() ?? 0;
    // offset × rotation × scale, as the extension says
    const [c, s] = [Math.cos(a), Math.sin(a)];
    return { [slot]: { texture: number, ...(set === 1 ? { set } : {}), transform: [c * sx, s * sy, ox, -s * sx, c * sy, oy] } };
  }

  private readonly images = new Map<GltfTexture, { width: number; height: number; rgba: Uint8Array } | null>();

  private decoded(texture: GltfTexture): { width: number; height: number; rgba: Uint8Array } | null {
    const had = this.images.get(texture);
    if (had !== undefined) return had;
    const image = this.decode(texture);
    this.images.set(texture, image);
    return image;
  }

  private decode(texture: GltfTexture): { width: number; height: number; rgba: Uint8Array } | null {
    const name = `${this.what}: texture "${texture.getName() || texture.getURI() || "unnamed"}"`;
    const bytes = texture.getImage();
    if (!bytes) {
      this.left.push(`texture "${texture.getName()}": has no image`);
      return null;
    }
    let size: [number, number] | null = null;
    try {
      size = texture.getSize();
    } catch {
      throw new InputError(`${name}: not readable (its header is cut short)`);
    }
    if (size && size[0] * size[1] > MAX_TEXTURE_PIXELS)
      throw new InputError(`${name}: ${size[0]} × ${size[1]} pixels, more than the limit of ${MAX_TEXTURE_PIXELS}`);
    try {
      if (bytes[0] === 0x89) return fromPng(bytes, name);
      if (bytes[0] === 0xff && bytes[1] === 0xd8) {
        const { width, height, data } = jpeg.decode(bytes, { useTArray: true, formatAsRGBA: true, maxMemoryUsageInMB: 1024 });
        return { width, height, rgba: data };
      }
    } catch (error) {
      if (error instanceof InputError) throw error;
      throw new InputError(`${name}: not readable (${reasonOf(error)})`);
    }
    this.left.push(`texture "${texture.getName()}": ${texture.getMimeType()} is not read, PNG and JPEG are`);
    return null;
  }
}

function fromPng(bytes: Uint8Array, what: string): { width: number; height: number; rgba: Uint8Array } {
  const { width, height, top, rgba } = readPng(bytes, what, MAX_TEXTURE_PIXELS);
  if (top === 255 && rgba instanceof Uint8Array) return { width, height, rgba };
  return { width, height, rgba: Uint8Array.from(rgba, (v) => Math.round((v * 255) / top)) };
}
