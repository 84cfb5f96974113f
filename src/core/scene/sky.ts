/** The sky as a table over azimuth and zenith angle, with the distribution it is drawn from. */
import { InputError } from "../errors";
import type { SceneDocument } from "../document/schema";
import { luminance, type Rgb } from "../optics/colour";
import { clearSky, overcast } from "../optics/sky";
import { type V3, sunDirection } from "../math/vectors";
import type { Picture } from "../data/picture";
import { memoizeByObject, memoize } from "../math/memoize";

/** RGB rows from the zenith down, columns from azimuth -180° over 0° (-z) to 180°. */
export interface SkyTable {
  width: number;
  height: number;
  rgb: Float32Array;
  /** rows + 1 cumulative shares of the rows, then columns + 1 of each row */
  cdf: Float32Array;
  /** Mean luminance over the sphere, summed over bands. */
  power: number;
}

const MAX_WIDTH = 1024;

function fill(width: number, height: number, at: (d: Readonly<V3>) => Rgb): Float32Array {
  const rgb = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y++) {
    const theta = (Math.PI * (y + 0.5)) / height;
    for (let x = 0; x < width; x++) {
      const phi = ((x + 0.5) / width - 0.5) * 2 * Math.PI;
      const d: V3 = [Math.sin(theta) * Math.sin(phi), Math.cos(theta), -Math.sin(theta) * Math.cos(phi)];
      rgb.set(at(d), 3 * (y * width + x));
    }
  }
  return rgb;
}

/** Averages an image down to at most MAX_WIDTH columns, weighted evenly (rows are thin enough). */
function fitted(image: Picture): { width: number; height: number; rgb: Float32Array } {
  const k = Math.max(1, Math.ceil(image.width / MAX_WIDTH));
  const [width, height] = [Math.max(1, Math.floor(image.width / k)), Math.max(1, Math.floor(image.height / k))];
  const rgb = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let j = 0; j < k; j++) for (let i = 0; i < k; i++) sum += image.rgb[3 * ((y * k + j) * image.width + x * k + i) + c]!;
        rgb[3 * (y * width + x) + c] = sum / (k * k);
      }
  return { width, height, rgb };
}

const fittedOnce = memoizeByObject(fitted);

/** Cumulative distribution of a table by luminance and solid angle. */
export function skyDistribution(width: number, height: number, rgb: Float32Array): { cdf: Float32Array; power: number } {
  const cdf = new Float32Array(height + 1 + height * (width + 1));
  const rows: number[] = [];
  let total = 0;
  for (let y = 0; y < height; y++) {
    const solid = ((2 * Math.PI) / width) * (Math.cos((Math.PI * y) / height) - Math.cos((Math.PI * (y + 1)) / height));
    const at = height + 1 + y * (width + 1);
    let sum = 0;
    for (let x = 0; x < width; x++) {
      const p = 3 * (y * width + x);
      sum += Math.max(0, luminance(rgb[p]!, rgb[p + 1]!, rgb[p + 2]!));
      cdf[at + x + 1] = sum;
    }
    // an unlit row is never drawn, but stays a valid distribution
    for (let x = 1; x <= width; x++) cdf[at + x] = sum > 0 ? cdf[at + x]! / sum : x / width;
    cdf[at + width] = 1;
    rows.push(sum * solid);
    total += sum * solid;
  }
  let sum = 0;
  for (let y = 0; y < height; y++) {
    sum += rows[y]!;
    cdf[y + 1] = total > 0 ? sum / total : (y + 1) / height;
  }
  cdf[height] = 1;
  return { cdf, power: (3 * total) / (4 * Math.PI) };
}

/** The sky of a document as a table; null where the kernel's gradient serves. @throws InputError for a missing image */
export function skyTable(doc: SceneDocument, pictures: Readonly<Record<string, Picture>>): SkyTable | null {
  const { sky } = doc;
  if (!sky.on || sky.model === "gradient") return null;
  if (sky.model !== "image")
    return computed(
      JSON.stringify([sky.model, sky.turbidity, sky.strength, sky.luminance, sky.zenith, doc.sun.azimuth, doc.sun.elevation]),
      () => makeTable(doc, pictures),
    );
  return makeTable(doc, pictures);
}

const computed = memoize<SkyTable>(4);

function makeTable(doc: SceneDocument, pictures: Readonly<Record<string, Picture>>): SkyTable {
  const { sky } = doc;
  let [width, height] = [96, 64];
  let rgb: Float32Array;
  if (sky.model === "image") {
    const image = pictures[sky.image!];
    if (!image) throw new InputError(`sky.image: picture "${sky.image}" is missing`);
    const small = fittedOnce(image);
    ({ width, height } = small);
    rgb = small.rgb.map((v) => (v > 0 && v < 1e12 ? v * sky.strength : 0));
  } else if (sky.model === "clear") {
    const at = clearSky(sky.turbidity, sunDirection(doc.sun.azimuth, doc.sun.elevation));
    [width, height] = [192, 96];
    rgb = fill(width, height, (d) => at(d).map((v) => v * sky.strength) as Rgb);
  } else {
    const hue = sky.zenith.map((c) => c / Math.max(1e-9, luminance(...sky.zenith)));
    rgb = fill(width, height, (d) => hue.map((c) => c * sky.luminance * overcast(d[1])) as Rgb);
  }
  return { width, height, rgb, ...skyDistribution(width, height, rgb) };
}
