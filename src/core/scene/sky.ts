/** The sky as a table over azimuth and zenith angle, with the distribution it is drawn from. */
import { InputError } from "../errors";
import type { SceneDocument } from "../document/schema";
import { luminance, type Rgb } from "../optics/colour";
import { aboveGround, clearSky, horizonSines, overcast } from "../optics/sky";
import { AXES, type V3, sunDirection } from "../math/vectors";
import type { Picture } from "../data/picture";
import { memoizeByObject, memoize } from "../math/memoize";

/** Rows from the zenith down, columns from azimuth -180° over 0° (-z) to 180°; between the middles of its texels it is interpolated. */
export interface SkyTable {
  width: number;
  height: number;
  /** Four numbers a texel: its light, without the ground that hides a part of it, and 0. */
  light: Float32Array;
  /** rows + 1 cumulative shares of the rows, then columns + 1 of each row; positive wherever there is light, the ground's too */
  cdf: Float32Array;
  /** Mean luminance over the sphere, summed over bands. */
  power: number;
  /** Mean light of each row, the ground before it: three numbers a row. */
  rows: Float32Array;
  /** Ground in cd/m², and the sines of elevation between which the sky passes into it; null where there is none. */
  ground: { colour: Rgb; low: number; high: number } | null;
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

/** Shares of a texel's mean that it and its neighbours across have, where light runs straight from middle to middle. */
const AROUND = [1 / 8, 3 / 4, 1 / 8] as const;
/** Places of a row at which the ground before it is looked at. */
const WITHIN = 16;

/** Share of the sky, 0 to 1, that the ground leaves of each row. */
function skyShare(height: number, { low, high }: { low: number; high: number }): number[] {
  return Array.from({ length: height }, (_, y) => {
    let sum = 0;
    for (let i = 0; i < WITHIN; i++) sum += aboveGround(Math.cos((Math.PI * (y + (i + 0.5) / WITHIN)) / height), low, high);
    return sum / WITHIN;
  });
}

/** Mean of each texel as the kernel interpolates it, and the ground before it. @param ground null: none */
function texelMeans(width: number, height: number, rgb: Float32Array, ground: SkyTable["ground"]): Float32Array {
  const out = new Float32Array(rgb.length);
  const shares = ground && skyShare(height, ground);
  for (let y = 0; y < height; y++) {
    const share = shares?.[y] ?? 1;
    for (let x = 0; x < width; x++)
      for (let k = 0; k < 3; k++) {
        let sum = 0;
        AROUND.forEach((wy, j) => {
          const row = Math.max(0, Math.min(height - 1, y + j - 1)) * width;
          AROUND.forEach((wx, i) => (sum += wy * wx * rgb[3 * (row + ((x + i - 1 + width) % width)) + k]!));
        });
        out[3 * (y * width + x) + k] = share * sum + (1 - share) * (ground?.colour[k] ?? 0);
      }
  }
  return out;
}

/** Cumulative distribution of texels by luminance and solid angle, and the mean of each row. @param rgb three numbers a texel */
export function skyDistribution(width: number, height: number, rgb: Float32Array): Pick<SkyTable, "cdf" | "power" | "rows"> {
  const cdf = new Float32Array(height + 1 + height * (width + 1));
  const rows = new Float32Array(3 * height);
  const lit: number[] = [];
  let total = 0;
  for (let y = 0; y < height; y++) {
    const solid = ((2 * Math.PI) / width) * (Math.cos((Math.PI * y) / height) - Math.cos((Math.PI * (y + 1)) / height));
    const at = height + 1 + y * (width + 1);
    let sum = 0;
    for (let x = 0; x < width; x++) {
      const p = 3 * (y * width + x);
      for (let k = 0; k < 3; k++) rows[3 * y + k]! += rgb[p + k]! / width;
      sum += Math.max(0, luminance(rgb[p]!, rgb[p + 1]!, rgb[p + 2]!));
      cdf[at + x + 1] = sum;
    }
    // an unlit row is never drawn, but stays a valid distribution
    for (let x = 1; x <= width; x++) cdf[at + x] = sum > 0 ? cdf[at + x]! / sum : x / width;
    cdf[at + width] = 1;
    lit.push(sum * solid);
    total += sum * solid;
  }
  let sum = 0;
  for (let y = 0; y < height; y++) {
    sum += lit[y]!;
    cdf[y + 1] = total > 0 ? sum / total : (y + 1) / height;
  }
  cdf[height] = 1;
  return { cdf, power: (3 * total) / (4 * Math.PI), rows };
}

/** The sky of a document as a table; null where the kernel's gradient serves. @throws InputError for a missing image */
export function skyTable(doc: SceneDocument, pictures: Readonly<Record<string, Picture>>): SkyTable | null {
  const { sky } = doc;
  if (!sky.on || sky.model === "gradient") return null;
  if (sky.model !== "image")
    return computed(
      JSON.stringify([
        ...[sky.model, sky.turbidity, sky.strength, sky.luminance, sky.zenith, doc.sun.azimuth, doc.sun.elevation],
        ...[sky.ground, sky.horizonHeight, sky.horizonBlur],
      ]),
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
  const ground = groundOf(doc, { width, height, rgb });
  const light = new Float32Array(4 * width * height);
  for (let i = 0; i < width * height; i++) light.set(rgb.subarray(3 * i, 3 * i + 3), 4 * i);
  return { width, height, light, ground, ...skyDistribution(width, height, texelMeans(width, height, rgb, ground)) };
}

/** Mean light above the horizon as a level plane sees it, the ground before it. */
export function levelMean({ height, rows }: Pick<SkyTable, "height" | "rows">): Rgb {
  const out: Rgb = [0, 0, 0];
  for (let y = 0; y < height / 2; y++) {
    const [a, b] = [Math.cos((Math.PI * y) / height), Math.max(0, Math.cos((Math.PI * (y + 1)) / height))];
    for (const k of AXES) out[k] += rows[3 * y + k]! * (a * a - b * b);
  }
  return out;
}

/** The ground of a sky that is computed: in its luminance, or in that which the clear sky has for a level plane. */
function groundOf(
  { sky }: SceneDocument,
  { width, height, rgb }: { width: number; height: number; rgb: Float32Array },
): SkyTable["ground"] {
  if (!sky.ground || sky.model === "image") return null;
  const scale = sky.model === "clear" ? luminance(...levelMean({ height, ...skyDistribution(width, height, rgb) })) : sky.luminance;
  const { low, high } = horizonSines(sky);
  return { colour: sky.ground.map((c) => c * scale) as Rgb, low, high };
}
