/**
 * The picture after exposure and white balance: saturation, then contrast, highlight roll-off, black and white levels and a curve
 * of the brightest band, which the others follow so that hues stay, then a curve of each band, and a look-up table. Nothing of it renders.
 *
 * Highlights that are bent down go towards white by as much as they are bent: a bright fog of one hue keeps it and pales, where
 * bending each band by itself would turn it yellow or cyan.
 */
import { finishSchema, type Finish } from "../document/finish";
import { LutReader, type Lut } from "../data/lut";
import { monotoneCurve } from "../math/monotone";
import type { Matrix3 } from "../math/matrix";
import { decodeSrgb, luminance } from "../optics/colour";
import { MIDDLE_GREY } from "../optics/exposure";

/** Share of white from which the default roll-off bends. */
export const SHOULDER = 0.6;
/** By how much full roll-off begins earlier than none. */
const EARLIER = 0.8;

/** As by default: what is shown where the finish is off. */
export const NO_FINISH: Finish = finishSchema.parse({});

/** sRGB transfer function (IEC 61966-2-1). */
export function encode(x: number): number {
  return x <= 0.0031308 ? 12.92 * x : 1.055 * Math.pow(x, 1 / 2.4) - 0.055;
}

/** Straight below `from`, then an exponential approach to 1 with a continuous slope. */
export function shoulder(x: number, from = SHOULDER): number {
  if (x <= from) return x;
  return from < 1 ? 1 - (1 - from) * Math.exp(-(x - from) / (1 - from)) : 1;
}

/**
 * Tables are read by the digits of a number in single precision: 64 places an octave, straight between. Light below 2⁻²⁴ of white is
 * black, past 2¹⁶ of it as good as endless.
 */
const SHIFT = 17;
const BETWEEN = 2 ** -SHIFT;
const FIRST = (127 - 24) << (23 - SHIFT);
const PLACES = (24 + 16) << (23 - SHIFT);
const DISPLAY_PLACES = 24 << (23 - SHIFT);
const float = new Float32Array(1);
const digits = new Int32Array(float.buffer);
const LEAST = 2 ** -24;
const MOST = 2 ** 15.9;
/** The number at a place. */
function numberAt(place: number): number {
  digits[0] = (place + FIRST) << SHIFT;
  return float[0]!;
}

/** The brightest band at a place u = √(n / (1 + n)) of a shader's table: closer together where it is dark. */
const bandAt = (u: number): number => (u < 1 ? (u * u) / (1 - u * u) : Infinity);

export class Finisher {
  /** By the brightest band: the factor of all bands, and what goes to each of them, in turn. */
  private readonly tones = new Float64Array(2 * (PLACES + 1));
  /** Display values (0 … 255) of each band by its light. */
  private readonly display: readonly [Float64Array, Float64Array, Float64Array];
  private readonly curves: readonly (((v: number) => number) | null)[];
  private readonly all: ((v: number) => number) | null;
  private readonly finish: Finish;
  readonly saturation: number;
  /** What was finished last, three bands. */
  readonly out = new Float64Array(3);

  private readonly lut: LutReader | null;
  /** The look-up table of the last step, and how far it counts; null for none. */
  readonly lookUp: { lut: Lut; strength: number } | null;
  /** How far the look-up table takes the place of what it is given. */
  private readonly strength: number;

  /** @param lut the table that the finish names; without it that step is left out */
  constructor(finish: Finish | undefined, lut: Lut | null = null) {
    this.finish = finish?.on ? finish : NO_FINISH;
    this.saturation = this.finish.saturation;
    this.strength = this.finish.lut?.strength ?? 0;
    this.lookUp = lut && this.strength > 0 ? { lut, strength: this.strength } : null;
    this.lut = this.lookUp && new LutReader(this.lookUp.lut);
    const { all, red, green, blue } = this.finish.curves;
    this.all = all && monotoneCurve(all);
    this.curves = [red, green, blue].map((points) => points && monotoneCurve(points));
    for (let i = 0; i <= PLACES; i++) {
      const n = numberAt(i);
      const [tone, pale] = [this.toneOf(n), this.paleOf(n)];
      this.tones[2 * i] = (tone * (1 - pale)) / n;
      this.tones[2 * i + 1] = tone * pale;
    }
    const plain = this.curves.some((c) => c === null) ? displayTable(null) : null;
    this.display = this.curves.map((curve) => (curve ? displayTable(curve) : plain!)) as [Float64Array, Float64Array, Float64Array];
  }

  /** Contrast about the pivot, of the brightest band n (white is 1). */
  private contrasted(n: number): number {
    const { contrast, pivot } = this.finish;
    const middle = MIDDLE_GREY * 2 ** pivot;
    return contrast === 1 ? n : middle * (n / middle) ** contrast;
  }

  private rolled(n: number): number {
    return n === Infinity ? 1 : shoulder(n, 1 - EARLIER * this.finish.rollOff);
  }

  /** What the brightest band becomes: light of 0 to 1. */
  private toneOf(n: number): number {
    const { black, white } = this.finish;
    const x = this.rolled(this.contrasted(n));
    if (black === 0 && white === 1 && !this.all) return x;
    const v = Math.max(0, Math.min(1, (encode(x) - black) / (white - black)));
    return decodeSrgb(this.all ? this.all(v) : v);
  }

  /** How far the other bands go towards the brightest: as far as it was bent. */
  private paleOf(n: number): number {
    const x = this.contrasted(n);
    return x > 0 && x < Infinity ? 1 - this.rolled(x) / x : x > 0 ? 1 : 0;
  }

  /** Light with its saturation, and within the display's colours. */
  private coloured(r: number, g: number, b: number): void {
    const { saturation } = this;
    const l = luminance(r, g, b);
    this.fit(l + saturation * (r - l), l + saturation * (g - l), l + saturation * (b - l));
  }

  /** What has less than nothing of a band becomes greyer, its luminance kept; black where that is none. */
  private fit(r: number, g: number, b: number): void {
    const { out } = this;
    const l = luminance(r, g, b);
    const least = Math.min(r, g, b);
    const k = least >= 0 ? 1 : l > 0 ? l / (l - least) : 0;
    out[0] = least >= 0 ? r : l > 0 ? l + k * (r - l) : 0;
    out[1] = least >= 0 ? g : l > 0 ? l + k * (g - l) : 0;
    out[2] = least >= 0 ? b : l > 0 ? l + k * (b - l) : 0;
  }

  /** The brightest band becomes `tone`; the others keep their share of it but for what goes towards white. */
  private toned(n: number, tone: number, pale: number): void {
    const { out } = this;
    const k = (tone * (1 - pale)) / n,
      w = tone * pale;
    for (let i = 0; i < 3; i++) out[i] = k * out[i]! + w;
  }

  /**
   * Finishes a row of pixels into RGBA of 8 or 16 bits; 8 by tables, within a tenth of a byte. Rows, not pixels: numbers that are handed to a function
   * one at a time cost more than the work itself.
   * @param light three bands a pixel (cd/m²); where the first is NaN there is no light yet, and the picture black
   * @param m white balance over the luminance of white @param wobbles one a pixel, added before a display value (0 … 255) is rounded
   */
  putRow(light: Float32Array, m: Matrix3, wobbles: Float32Array, to: Uint8ClampedArray | Uint16Array, at: number): void {
    if (to instanceof Uint16Array) return this.putFineRow(light, m, wobbles, to, at);
    const { tones, saturation, out } = this;
    const [red, green, blue] = this.display;
    const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = m;
    for (let i = 0, p = 0; i < wobbles.length; i++, p += 3, at += 4) {
      const x = light[p]!,
        y = light[p + 1]!,
        z = light[p + 2]!;
      to[at + 3] = 255;
      if (x !== x) {
        to[at] = to[at + 1] = to[at + 2] = 0;
        continue;
      }
      let r = m0 * x + m1 * y + m2 * z,
        g = m3 * x + m4 * y + m5 * z,
        b = m6 * x + m7 * y + m8 * z;
      if (saturation !== 1) {
        const l = 0.2126 * r + 0.7152 * g + 0.0722 * b;
        r = l + saturation * (r - l);
        g = l + saturation * (g - l);
        b = l + saturation * (b - l);
      }
      if (r < 0 || g < 0 || b < 0) {
        this.fit(r, g, b);
        r = out[0]!;
        g = out[1]!;
        b = out[2]!;
      }
      let n = r > g ? r : g;
      if (b > n) n = b;
      float[0] = n > LEAST ? (n < MOST ? n : MOST) : LEAST;
      const bits = digits[0]!,
        q = 2 * ((bits >> SHIFT) - FIRST),
        f = (bits & ((1 << SHIFT) - 1)) * BETWEEN;
      const k = tones[q]! + f * (tones[q + 2]! - tones[q]!),
        w = tones[q + 1]! + f * (tones[q + 3]! - tones[q + 1]!),
        wobble = wobbles[i]!;
      to[at] = shownAt(red, k * r + w) + wobble;
      to[at + 1] = shownAt(green, k * g + w) + wobble;
      to[at + 2] = shownAt(blue, k * b + w) + wobble;
      if (!this.lut) continue;
      this.looked(shownAt(red, k * r + w), shownAt(green, k * g + w), shownAt(blue, k * b + w));
      to[at] = out[0]! + wobble;
      to[at + 1] = out[1]! + wobble;
      to[at + 2] = out[2]! + wobble;
    }
  }

  /** Display values (0 … 255) through the look-up table, to `out`. */
  private looked(r: number, g: number, b: number): void {
    const { out, strength } = this;
    const lut = this.lut!;
    lut.look(r / 255, g / 255, b / 255);
    out[0] = r + strength * (255 * lut.out[0]! - r);
    out[1] = g + strength * (255 * lut.out[1]! - g);
    out[2] = b + strength * (255 * lut.out[2]! - b);
  }

  /** The same into 16 bits, exactly. */
  private putFineRow(light: Float32Array, m: Matrix3, wobbles: Float32Array, to: Uint16Array, at: number): void {
    for (let i = 0, p = 0; i < wobbles.length; i++, p += 3, at += 4) {
      const [x, y, z] = [light[p]!, light[p + 1]!, light[p + 2]!];
      to[at + 3] = 65535;
      if (Number.isNaN(x)) {
        to.fill(0, at, at + 3);
        continue;
      }
      this.applyExactly(m[0] * x + m[1] * y + m[2] * z, m[3] * x + m[4] * y + m[5] * z, m[6] * x + m[7] * y + m[8] * z);
      for (let k = 0; k < 3; k++) to[at + k] = Math.max(0, Math.min(65535, Math.round(257 * this.out[k]! + wobbles[i]!)));
    }
  }

  /** Display values (0 … 255) of exposed light to `out` without tables, whose steps 16 bits would show. */
  applyExactly(r: number, g: number, b: number): void {
    const { out } = this;
    this.coloured(r, g, b);
    const n = Math.max(out[0]!, out[1]!, out[2]!);
    if (n > 0) this.toned(n, this.toneOf(n), this.paleOf(n));
    else out.fill(0);
    for (let k = 0; k < 3; k++) {
      const v = encode(Math.max(0, Math.min(1, out[k]!)));
      out[k] = 255 * (this.curves[k]?.(v) ?? v);
    }
    if (this.lut) this.looked(out[0]!, out[1]!, out[2]!);
  }

  /**
   * What a shader needs of it: `size` places of u = √(n / (1 + n)) with what the brightest band becomes and how it pales, four numbers each, then as many of
   * display values with those of each band.
   */
  shaderTable(size: number): Float32Array {
    const table = new Float32Array(2 * 4 * size);
    for (let i = 0; i < size; i++) {
      const u = i / (size - 1);
      table.set([this.toneOf(bandAt(u)), this.paleOf(bandAt(u)), 0, 0], 4 * i);
      table.set([...this.curves.map((curve) => curve?.(u) ?? u), 0], 4 * (size + i));
    }
    return table;
  }
}

/** Of light up to white; the last place stands for all that rounding leaves above it. */
function displayTable(curve: ((v: number) => number) | null): Float64Array {
  return Float64Array.from({ length: DISPLAY_PLACES + 2 }, (_, i) => {
    const v = i === 0 ? 0 : encode(Math.min(1, numberAt(i)));
    return 255 * (curve ? curve(v) : v);
  });
}

function shownAt(table: Float64Array, x: number): number {
  float[0] = x > LEAST ? (x < 1 ? x : 1) : LEAST;
  const bits = digits[0]!,
    i = (bits >> SHIFT) - FIRST;
  return table[i]! + (bits & ((1 << SHIFT) - 1)) * BETWEEN * (table[i + 1]! - table[i]!);
}

let latest: Finisher | null = null;
let latestOf: string | null = null;

/** A finisher of these settings; the last one is kept, as pictures come one after another. */
export function finisherOf(finish: Finish | undefined, lut: Lut | null = null): Finisher {
  // by what they say: another thread gets a copy each time
  const key = JSON.stringify([finish ?? null, lut?.id ?? null]);
  if (!latest || latestOf !== key) {
    latest = new Finisher(finish, lut);
    latestOf = key;
  }
  return latest;
}
