/** TIFF files as pictures that the computation reads: whole numbers as PNG, those with a point as OpenEXR. By sharp. */
import { InputError } from "#core/errors";
import { writeExr } from "#core/formats/exr";

/** Most pixels that are unpacked. */
const MOST_PIXELS = 1 << 26;

/** Whether a file begins as TIFF does. */
export const isTiff = (bytes: Uint8Array): boolean =>
  (bytes[0] === 0x49 && bytes[1] === 0x49 && bytes[2] === 42) || (bytes[0] === 0x4d && bytes[1] === 0x4d && bytes[3] === 42);

/** The same picture in a file that needs no TIFF, to its last digit. @throws InputError where it cannot be read */
export async function withoutTiff(bytes: Uint8Array, what: string): Promise<{ bytes: Uint8Array; ending: ".png" | ".exr" }> {
  const { default: sharp } = await import("sharp");
  try {
    const image = sharp(bytes, { limitInputPixels: MOST_PIXELS });
    const { depth, channels, width, height } = await image.metadata();
    if (depth === "float" || depth === "double") {
      const { data, info } = await image.raw({ depth: "float" }).toBuffer({ resolveWithObject: true });
      const all = new Float32Array(data.buffer, data.byteOffset, data.length / 4);
      const plane = (k: number): Float32Array => Float32Array.from({ length: width * height }, (_, i) => all[info.channels * i + k]!);
      const names = info.channels >= 3 ? ["R", "G", "B"] : ["Y"];
      const planes = names.map((name, k) => ({ name, type: "float" as const, values: plane(k) }));
      return { bytes: writeExr({ width, height, channels: planes }, { compression: "zips" }), ending: ".exr" };
    }
    const deep = depth === "ushort";
    if (!deep && depth !== "uchar") throw new Error(`numbers of ${depth} are not read`);
    const colours = channels >= 3;
    const spaced = deep ? image.toColourspace(colours ? "rgb16" : "grey16") : image.toColourspace(colours ? "srgb" : "b-w");
    return {
      bytes: await (colours ? spaced.removeAlpha() : spaced.extractChannel(0)).png({ compressionLevel: 3 }).toBuffer(),
      ending: ".png",
    };
  } catch (error) {
    throw new InputError(`${what}: not readable as TIFF (${(error as Error).message})`);
  }
}
