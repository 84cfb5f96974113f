/** Pictures for skies, gobos and emitters, told apart by how they begin: OpenEXR, Radiance HDR, PNG, JPEG. */
import jpeg from "jpeg-js";
import { InputError, reasonOf } from "../errors";
import { times3 } from "../math/matrix";
import { map3, type V3 } from "../math/vectors";
import { decodeSrgb, fromPrimaries } from "../optics/colour";
import type { Picture } from "../data/picture";
import { readExr } from "./exr-read";
import { MAX_PIXELS, readHdr } from "./hdr";
import { readPng } from "./png";

const begins = (bytes: Uint8Array, ...magic: number[]): boolean => magic.every((b, i) => bytes[i] === b);

/** Reads a picture as linear RGB; PNG of 8 and 16 bits and JPEG as sRGB. @throws InputError saying what is wrong */
export function readPicture(bytes: Uint8Array, what = "picture"): Picture {
  if (begins(bytes, 0x76, 0x2f, 0x31, 0x01)) return fromExr(bytes, what);
  if (begins(bytes, 0x23, 0x3f)) return readHdr(bytes, what);
  if (begins(bytes, 0x89, 0x50, 0x4e, 0x47)) return fromPng(bytes, what);
  if (begins(bytes, 0xff, 0xd8)) return fromJpeg(bytes, what);
  throw new InputError(`${what}: is neither OpenEXR, Radiance HDR, PNG nor JPEG`);
}

function fromJpeg(bytes: Uint8Array, what: string): Picture {
  try {
    const { width, height, data } = jpeg.decode(bytes, { useTArray: true, formatAsRGBA: false, maxMemoryUsageInMB: 1024 });
    if (width * height > MAX_PIXELS) throw new Error(`${width} × ${height} pixels, more than the limit of ${MAX_PIXELS}`);
    return { width, height, rgb: Float32Array.from(data, (v) => decodeSrgb(v / 255)) };
  } catch (error) {
    throw new InputError(`${what}: not readable (${reasonOf(error)})`);
  }
}

function fromExr(bytes: Uint8Array, what: string): Picture {
  const image = readExr(bytes, what);
  const plane = (name: string): ArrayLike<number> | undefined => image.channels.find((c) => c.name === name)?.values;
  // without a layer of its own, else of the first layer that has colours
  const layers = ["", ...new Set(image.channels.flatMap((c) => /^(.*\.)[RYG]$/.exec(c.name)?.[1] ?? []))];
  const found = layers.flatMap((layer) => {
    const grey = plane(`${layer}Y`);
    const [r, g, b] = [plane(`${layer}R`) ?? grey, plane(`${layer}G`) ?? grey, plane(`${layer}B`) ?? grey];
    return r && g && b ? [[r, g, b] as const] : [];
  })[0];
  if (!found) throw new InputError(`${what}: has no channels R, G, B (or Y), by themselves or in a layer`);
  const frame = image.frame ?? { x: 0, y: 0, width: image.width, height: image.height };
  if (frame.width * frame.height > MAX_PIXELS)
    throw new InputError(`${what}: ${frame.width} × ${frame.height} pixels, more than the limit of ${MAX_PIXELS}`);
  const toOurs = image.chromaticities ? fromPrimaries(image.chromaticities) : null;
  // what lies outside the data window is black
  const rgb = new Float32Array(3 * frame.width * frame.height);
  for (let y = 0; y < image.height; y++)
    for (let x = 0; x < image.width; x++) {
      const i = y * image.width + x;
      const v: V3 = [found[0][i] ?? 0, found[1][i] ?? 0, found[2][i] ?? 0];
      rgb.set(toOurs ? map3(times3(toOurs, v), (c) => Math.max(0, c)) : v, 3 * ((frame.y + y) * frame.width + frame.x + x));
    }
  return { width: frame.width, height: frame.height, rgb };
}

function fromPng(bytes: Uint8Array, what: string): Picture {
  const { width, height, top, rgba } = readPng(bytes, what, MAX_PIXELS);
  const table = Float32Array.from({ length: top + 1 }, (_, i) => decodeSrgb(i / top));
  const rgb = new Float32Array(3 * width * height);
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) rgb[3 * i + c] = table[rgba[4 * i + c]!]!;
  return { width, height, rgb };
}
