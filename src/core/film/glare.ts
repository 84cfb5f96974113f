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
const LEAST = 1;
/** Standard deviations to which a Gaussian is summed. */
const REACH = 2.6;
/** Least side of a level, pixels. */
const SMALLEST = 16;
/** Most rows of what rays are drawn on: their width is some of its pixels. */
const RAY_ROWS = 480;
/** Doublings by which light is summed along a ray before it is handed on by as many pixels at once: each hand-over widens the ray. */
const DOUBLINGS = 3;
/** Pixels² by which a ray widens each time that it is handed on: the least that keeps all directions alike (see spread). */
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

/**
 * What glare adds to each band of each pixel: less than nothing where more goes than comes.
 * @param rayRows most rows of what rays are drawn on: fewer make them wider, and are sooner done
 */
export function glareOf(
  light: Float32Array,
  width: number,
  height: number,
  glare: Glare,
  rows: number,
  exposure: number,
  rayRows = RAY_ROWS,
): Float32Array {
  const out = new Float32Array(light.length);
  spreadInto(out, light, width, height, glare, rows, exposure, rayRows);
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
  rayRows = RAY_ROWS,
): void {
  const source = glare.threshold === null && isWhole(light) ? light : spreadLight(light, glare, exposure);
  const reach = glare.width * rows;
  const bands = ([0, 1, 2] as const).map((band): Spread => {
    const levels = [halved(source, width, height, 3, band)];
    while (Math.min(levels.at(-1)!.width, levels.at(-1)!.height) >= 2 * SMALLEST) {
      const { values, width: w, height: h } = levels.at(-1)!;
      levels.push(halved(values, w, h, 1, 0));
    }
    const sums: (Level | null)[] = levels.map(() => null);
    const kept = glare.starburst + (glare.halo > 0 ? addHalo(levels, sums, glare.halo, reach) : 0);
    let fine: Float32Array | null = null;
    if (glare.starburst > 0 && height <= rayRows) fine = raysOf(bandOf(source, width, height, band), glare, reach * BY_BAND[band]).values;
    else if (glare.starburst > 0) {
      const k = Math.max(
        0,
        levels.findIndex((l) => l.height <= rayRows),
      );
      addTo(sums, k, raysOf(levels[k]!, glare, (reach * BY_BAND[band]) / 2 ** (k + 1)), 1);
    }
    const { width: w, height: h } = levels[0]!;
    return { half: gathered(levels, sums) ?? { values: new Float32Array(w * h), width: w, height: h }, fine, kept };
  });
  addSpread(bands as [Spread, Spread, Spread], source, out, width, height);
}

/** What of a band is spread: at half its size, at its own size where that is done, and the share that was taken of it. */
interface Spread {
  half: Level;
  fine: Float32Array | null;
  kept: number;
}

/** Whether there is light everywhere. */
function isWhole(light: Float32Array): boolean {
  for (let i = 0; i < light.length; i += 3) if (light[i] !== light[i]) return false;
  return true;
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

/** One band of a picture at its own size. */
function bandOf(source: Float32Array, width: number, height: number, band: number): Level {
  const values = new Float32Array(width * height);
  for (let i = 0, p = band; i < values.length; i++, p += 3) values[i] = source[p]!;
  return { values, width, height };
}

/** Rays of all directions. @param length mean length, pixels of the level */
function raysOf(from: Level, { starburst, blades, turn }: Glare, length: number): Level {
  const { width, height } = from;
  const values = new Float32Array(width * height);
  const count = blades % 2 === 0 ? blades : 2 * blades;
  const ways = Array.from({ length: count }, (_, i) => {
    const angle = (turn / 180 + (2 * i) / count) * Math.PI;
    return [Math.sin(angle), -Math.cos(angle)] as const;
  });
  const add = (of: Level, dx: number, dy: number, sum: Float32Array): void => {
    const ray = spread(of, dx, dy, length);
    for (let p = 0; p < sum.length; p++) sum[p]! += (starburst / count) * ray[p]!;
  };
  for (const [dx, dy] of ways) if (Math.abs(dy) > Math.abs(dx)) add(from, dx, dy, values);
  // those that go sideways go down in a picture on its side, whose rows lie together
  const side = turned(from);
  const sums = new Float32Array(values.length);
  for (const [dx, dy] of ways) if (Math.abs(dy) <= Math.abs(dx)) add(side, dy, dx, sums);
  const back = turned({ values: sums, width: height, height: width }).values;
  for (let p = 0; p < values.length; p++) values[p]! += back[p]!;
  return { values, width, height };
}

/** Rows as columns. */
function turned({ values, width, height }: Level): Level {
  const out = new Float32Array(values.length);
  for (let y = 0, p = 0; y < height; y++) for (let x = 0; x < width; x++, p++) out[x * height + y] = values[p]!;
  return { values: out, width: height, height: width };
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

/** Adds what is spread of all bands, less what was taken of their source. */
function addSpread(bands: readonly [Spread, Spread, Spread], source: Float32Array, out: Float32Array, width: number, height: number): void {
  const [a, b, c] = bands;
  const across = a.half.width;
  const red = new Float32Array(across),
    green = new Float32Array(across),
    blue = new Float32Array(across);
  const [keptRed, keptGreen, keptBlue] = bands.map((band) => band.kept) as [number, number, number];
  for (let y = 0, p = 0; y < height; y++) {
    rowBetween(a.half, y, red);
    rowBetween(b.half, y, green);
    rowBetween(c.half, y, blue);
    for (let x = 0; x < width; x++, p += 3) {
      const near = x >> 1,
        far = x & 1 ? (near + 1 < across ? near + 1 : near) : near > 0 ? near - 1 : 0;
      // read before anything is written: the source may be the output
      const r = source[p]!,
        g = source[p + 1]!,
        d = source[p + 2]!;
      out[p]! += 0.75 * red[near]! + 0.25 * red[far]! - keptRed * r;
      out[p + 1]! += 0.75 * green[near]! + 0.25 * green[far]! - keptGreen * g;
      out[p + 2]! += 0.75 * blue[near]! + 0.25 * blue[far]! - keptBlue * d;
    }
  }
  bands.forEach(({ fine }, band) => {
    if (fine) for (let p = band, q = 0; q < fine.length; p += 3, q++) out[p]! += fine[q]!;
  });
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
 * Light that goes one way, ever less of it. First it is summed over a few pixels of its way, twice as many each time; then each row
 * hands it on to the one as many rows ahead, spread over three pixels so that it goes the right way on the mean, and widens as much for its
 * length in every direction. Past the border the picture is thought to go on as it ends.
 * @param dx with dy the way, of length 1, rather down or up than sideways @param length mean length, pixels
 */
function spread(from: Level, dx: number, dy: number, length: number): Float32Array {
  // of one row: those of a slanted way are longer
  const cosine = Math.abs(dy);
  const keeps = Math.exp(-1 / (cosine * Math.max(1e-3, length)));
  const way = { slope: dx / cosine, down: dy > 0 };
  let level = from;
  for (let k = 0; k < DOUBLINGS; k++) {
    const share = keeps ** (2 ** k);
    const values = new Float32Array(level.values.length);
    handOn(level, level.values, values, way, 2 ** k, 0, 1 / (1 + share), share / (1 + share));
    level = { ...level, values };
  }
  const rows = 2 ** DOUBLINGS;
  const left = keeps ** rows;
  const out = new Float32Array(level.values.length);
  // a row's spread aside is the ray's own divided by the cosine, and rows are farther apart by it
  handOn(level, out, out, way, rows, WIDENING / cosine ** 3, 1 - left, left);
  return out;
}

/**
 * Of each row a share stays, and a share comes from the one so many rows before.
 * @param before what comes is taken from here: where it is the output, all that was handed on before comes with it
 * @param variance of the spread aside, pixels²; at least as much as lies between two pixels
 */
function handOn(
  { values, width, height }: Level,
  before: Float32Array,
  out: Float32Array,
  { slope, down }: { slope: number; down: boolean },
  rows: number,
  variance: number,
  stays: number,
  comes: number,
): void {
  const whole = Math.round(slope * rows),
    rest = slope * rows - whole;
  const wide = Math.max(variance, Math.abs(rest) * (1 - Math.abs(rest)));
  const low = (comes * (wide + rest * rest + rest)) / 2,
    high = (comes * (wide + rest * rest - rest)) / 2,
    middle = comes * (1 - wide - rest * rest);
  // what comes, with room for pixels past its ends
  const room = Math.abs(whole) + 1;
  const row = new Float32Array(width + 2 * room);
  for (let s = 0; s < height; s++) {
    const at = (down ? s : height - 1 - s) * width;
    // a ray that comes in over the border is what the border's own pixels make it
    const inside = s >= rows;
    const there = inside ? at - (down ? rows : -rows) * width : before === out ? at : (down ? 0 : height - 1) * width;
    row.set((inside ? before : values).subarray(there, there + width), room);
    row.fill(row[room]!, 0, room);
    row.fill(row[room + width - 1]!, room + width);
    for (let x = 0, p = at, r = room - whole; x < width; x++, p++, r++)
      out[p] = stays * values[p]! + low * row[r - 1]! + middle * row[r]! + high * row[r + 1]!;
  }
}
