/**
 * Glare: light of bright places that lens and eye spread over the picture, in linear light. A halo that falls with about the 2.5th power
 * of the distance, and rays as an iris of blades throws. What is spread is taken from where it came from, so that the light of the
 * frame stays; past the border the picture is thought to go on as it ends.
 */
import type { Glare } from "../document/finish";
import { whiteAt } from "../optics/exposure";

/** Gaussians of a halo, each half as wide as the one before. */
const OCTAVES = 6;
/** Light of a Gaussian to that of one half as wide: equal shares fall with the square of the distance, less of the wide ones faster. */
const WIDER = Math.SQRT1_2;
/** Least standard deviation that a Gaussian has on its level, pixels: finer ones would show the level's grid. */
const LEAST = 1.2;
/** Standard deviations to which a Gaussian is summed. */
const REACH = 3;
/** Least side of a level, pixels. */
const SMALLEST = 16;
/** Most rows of the level that rays are drawn on. */
const RAY_ROWS = 360;
/** Pixels² by which a ray widens on each pixel of its way: the least that keeps all directions alike (see spread). */
const WIDENING = 0.18;
/** Lengths of rays of red, green and blue light to those of green: diffraction spreads by wavelength (610, 550, 465 nm). */
const BY_BAND = [610 / 550, 1, 465 / 550] as const;

/** One band of a picture at a fraction of its size. */
interface Level {
  values: Float32Array;
  width: number;
  height: number;
}

/** Whether there is any. */
export const glares = ({ halo, starburst }: Glare): boolean => halo > 0 || starburst > 0;

/**
 * Adds glare to light.
 * @param light three bands a pixel (cd/m²), row by row; NaN where there is none yet @param rows of the whole frame, which may be larger
 * @param exposure EV at ISO 100, for the threshold
 */
export function addGlare(light: Float32Array, width: number, height: number, glare: Glare, rows: number, exposure: number): void {
  spreadInto(light, light, width, height, glare, rows, exposure);
}

/** What glare adds to each band of each pixel: less than nothing where more goes than comes. */
export function glareOf(light: Float32Array, width: number, height: number, glare: Glare, rows: number, exposure: number): Float32Array {
  const out = new Float32Array(light.length);
  spreadInto(out, light, width, height, glare, rows, exposure);
  return out;
}

/** Adds what glare changes of a light to an output, which may be that light itself. */
function spreadInto(
  out: Float32Array,
  light: Float32Array,
  width: number,
  height: number,
  glare: Glare,
  rows: number,
  exposure: number,
): void {
  const source = glare.threshold === null && !light.some((v) => v !== v) ? light : spreadLight(light, glare, exposure);
  const reach = glare.width * rows;
  for (let band = 0; band < 3; band++) {
    const levels = [halved(source, width, height, 3, band)];
    while (Math.min(levels.at(-1)!.width, levels.at(-1)!.height) >= 2 * SMALLEST) {
      const { values, width: w, height: h } = levels.at(-1)!;
      levels.push(halved(values, w, h, 1, 0));
    }
    const sums: (Level | null)[] = levels.map(() => null);
    let kept = 0;
    if (glare.halo > 0) kept += addHalo(levels, sums, glare.halo, reach);
    if (glare.starburst > 0) kept += addRays(levels, sums, glare, reach * BY_BAND[band]!);
    const sum = gathered(levels, sums);
    if (sum) addDoubled(sum, source, kept, out, width, height, band);
  }
}

/** Light that is spread: all of it, or what is above the threshold. */
function spreadLight(light: Float32Array, { threshold }: Glare, exposure: number): Float32Array {
  const out = new Float32Array(light.length);
  const least = threshold === null ? 0 : whiteAt(exposure) * 2 ** threshold;
  for (let p = 0; p < light.length; p += 3) {
    const n = Math.max(light[p]!, light[p + 1]!, light[p + 2]!);
    // also where there is no light yet
    if (!(n > least)) continue;
    const k = 1 - least / n;
    for (let i = p; i < p + 3; i++) out[i] = k * light[i]!;
  }
  return out;
}

/** Adds the halo's Gaussians to the sums of their levels. @returns share of the light that is spread */
function addHalo(levels: readonly Level[], sums: (Level | null)[], share: number, reach: number): number {
  const whole = (1 - WIDER ** OCTAVES) / (1 - WIDER);
  let kept = 0;
  for (let octave = 0; octave < OCTAVES; octave++) {
    const deviation = reach / 2 ** octave;
    // halving once and doubling again spreads by one pixel²; what is narrower is left where it is
    if (deviation < 2 * LEAST) break;
    const k = Math.min(levels.length, Math.floor(Math.log2(deviation / LEAST)));
    // boxes of the halves and tents of the doublings have a variance of their own
    const own = Math.sqrt((deviation ** 2 - (4 ** k - 1) / 3) / 4 ** k);
    const weight = (share * WIDER ** (OCTAVES - 1 - octave)) / whole;
    addTo(sums, k - 1, blurred(levels[k - 1]!, own), weight);
    kept += weight;
  }
  return kept;
}

/** Adds rays of all directions to the sum of their level. @returns share of the light that is spread */
function addRays(levels: readonly Level[], sums: (Level | null)[], { starburst, blades, turn }: Glare, length: number): number {
  const k = Math.max(
    0,
    levels.findIndex((l) => l.height <= RAY_ROWS),
  );
  const count = blades % 2 === 0 ? blades : 2 * blades;
  for (let i = 0; i < count; i++) {
    const angle = (turn / 180 + (2 * i) / count) * Math.PI;
    addTo(sums, k, spread(levels[k]!, Math.sin(angle), -Math.cos(angle), length / 2 ** (k + 1)), starburst / count);
  }
  return starburst;
}

function addTo(sums: (Level | null)[], k: number, { values, width, height }: Level, weight: number): void {
  const sum = (sums[k] ??= { values: new Float32Array(width * height), width, height }).values;
  for (let i = 0; i < sum.length; i++) sum[i]! += weight * values[i]!;
}

/** Sums of all levels at the size of the first; null where there are none. */
function gathered(levels: readonly Level[], sums: readonly (Level | null)[]): Level | null {
  let coarse: Level | null = null;
  for (let k = levels.length - 1; k >= 0; k--) {
    const here = sums[k] ?? null;
    const { width, height } = levels[k]!;
    if (coarse) {
      coarse = doubled(coarse, width, height);
      if (here) for (let i = 0; i < here.values.length; i++) coarse.values[i]! += here.values[i]!;
    } else coarse = here;
  }
  return coarse;
}

/** Half the size: means of two by two; a last odd row or column is taken twice. @param stride numbers a pixel, of which one is taken */
function halved(values: Float32Array, width: number, height: number, stride: number, from: number): Level {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const out = new Float32Array(w * h);
  for (let y = 0, to = 0; y < h; y++) {
    const a = from + stride * width * 2 * y,
      b = 2 * y + 1 < height ? a + stride * width : a;
    for (let x = 0; x < w; x++, to++) {
      const p = 2 * stride * x,
        q = 2 * x + 1 < width ? p + stride : p;
      out[to] = 0.25 * (values[a + p]! + values[a + q]! + values[b + p]! + values[b + q]!);
    }
  }
  return { values: out, width: w, height: h };
}

/** A row between two rows of a level, a quarter of the way from the nearer one. */
function rowBetween({ values, width, height }: Level, y: number, row: Float32Array): void {
  const near = y >> 1,
    far = Math.max(0, Math.min(height - 1, y & 1 ? near + 1 : near - 1));
  const a = near * width,
    b = far * width;
  for (let x = 0; x < width; x++) row[x] = 0.75 * values[a + x]! + 0.25 * values[b + x]!;
}

/** Twice the size, straight between the middles of pixels, level past the border. */
function doubled(level: Level, width: number, height: number): Level {
  const values = new Float32Array(width * height);
  const row = new Float32Array(level.width);
  for (let y = 0, to = 0; y < height; y++) {
    rowBetween(level, y, row);
    for (let x = 0; x < width; x++, to++) {
      const near = x >> 1,
        far = x & 1 ? Math.min(row.length - 1, near + 1) : Math.max(0, near - 1);
      values[to] = 0.75 * row[near]! + 0.25 * row[far]!;
    }
  }
  return { values, width, height };
}

/** Adds the spread light of a band, at twice the size of its level, less what was taken of its source. */
function addDoubled(level: Level, source: Float32Array, kept: number, out: Float32Array, width: number, height: number, band: number): void {
  const row = new Float32Array(level.width);
  for (let y = 0, to = band; y < height; y++) {
    rowBetween(level, y, row);
    for (let x = 0; x < width; x++, to += 3) {
      const near = x >> 1,
        far = x & 1 ? Math.min(row.length - 1, near + 1) : Math.max(0, near - 1);
      out[to]! += 0.75 * row[near]! + 0.25 * row[far]! - kept * source[to]!;
    }
  }
}

/** A Gaussian over a level, which goes on past its border as it ends. */
function blurred({ values, width, height }: Level, deviation: number): Level {
  const radius = Math.ceil(REACH * deviation);
  const weights = Array.from({ length: radius + 1 }, (_, i) => Math.exp(-0.5 * (i / deviation) ** 2));
  const sum = weights.reduce((a, w) => a + 2 * w, -weights[0]!);
  const kernel = Float64Array.from(weights, (w) => w / sum);
  const across = new Float32Array(width * height);
  const line = new Float32Array(width + 2 * radius);
  for (let y = 0; y < height; y++) {
    const from = y * width;
    line.fill(values[from]!, 0, radius);
    line.set(values.subarray(from, from + width), radius);
    line.fill(values[from + width - 1]!, radius + width);
    for (let x = 0; x < width; x++) {
      let v = kernel[0]! * line[x + radius]!;
      for (let i = 1; i <= radius; i++) v += kernel[i]! * (line[x + radius - i]! + line[x + radius + i]!);
      across[from + x] = v;
    }
  }
  const out = new Float32Array(width * height);
  const rows = new Float64Array(width);
  for (let y = 0; y < height; y++) {
    rows.fill(0);
    for (let i = -radius; i <= radius; i++) {
      const from = Math.max(0, Math.min(height - 1, y + i)) * width,
        k = kernel[Math.abs(i)]!;
      for (let x = 0; x < width; x++) rows[x]! += k * across[from + x]!;
    }
    out.set(rows, y * width);
  }
  return { values: out, width, height };
}

/**
 * Light that goes one way, ever less of it: what each pixel hands on is spread over three pixels of the next row (or column) so that
 * it goes the right way on the mean, and widens as much for its length in every direction. The border's pixels are fed as if they
 * went on.
 * @param length mean length, pixels
 */
function spread({ values, width, height }: Level, dx: number, dy: number, length: number): Level {
  const sideways = Math.abs(dx) >= Math.abs(dy);
  const [along, aside] = sideways ? [dx, dy] : [dy, dx];
  const [steps, places] = sideways ? [width, height] : [height, width];
  // numbers from one step, and from one place, to the next
  const [stepBy, placeBy] = sideways ? [1, width] : [width, 1];
  const slope = aside / Math.abs(along);
  const whole = Math.round(slope),
    rest = slope - whole;
  // of the ways across that share a row's spread, the ray is the slanted one: its own width is the row's times the cosine, and steps are longer
  const variance = Math.max(WIDENING / Math.abs(along) ** 3, Math.abs(rest) * (1 - Math.abs(rest)));
  const keeps = Math.exp(-1 / (Math.abs(along) * Math.max(1e-3, length)));
  const before = (keeps * (variance + rest * rest + rest)) / 2,
    after = (keeps * (variance + rest * rest - rest)) / 2,
    middle = keeps * (1 - variance - rest * rest);
  const out = new Float32Array(width * height);
  // the row handed on, with room for places past its ends
  const row = new Float32Array(places + 4);
  for (let s = 0; s < steps; s++) {
    const at = (along > 0 ? s : steps - 1 - s) * stepBy;
    for (let i = 0, p = at, r = 2 - whole; i < places; i++, p += placeBy, r++) {
      const v = values[p]!;
      out[p] = s === 0 ? v : before * row[r - 1]! + middle * row[r]! + after * row[r + 1]! + (1 - keeps) * v;
    }
    for (let i = 0, p = at; i < places; i++, p += placeBy) row[2 + i] = out[p]!;
    row[0] = row[1] = row[2]!;
    row[places + 2] = row[places + 3] = row[places + 1]!;
  }
  return { values: out, width, height };
}
