/**
 * The picture after exposure and white balance: saturation, then contrast, highlight roll-off, black and white levels and a curve
 * of the brightest band, which the others follow so that hues stay, then a curve of each band. Nothing of it renders.
 *
 * Highlights that are bent down go towards white by as much as they are bent: a bright fog of one hue keeps it and pales, where
 * bending each band by itself would turn it yellow or cyan.
 */
import { finishSchema, type Finish } from "../document/finish";
import { monotoneCurve } from "../math/monotone";
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

/** Numbers of a table over the brightest band n, of which u = √(n / (1 + n)) is the place: closer together where it is dark. */
const TABLE = 4096;
const placeOf = (n: number): number => Math.sqrt(n / (1 + n));
const bandAt = (u: number): number => (u < 1 ? (u * u) / (1 - u * u) : Infinity);

export class Finisher {
  /** By the place of the brightest band: what it becomes, and how far the others go towards it. */
  private readonly tone = new Float64Array(TABLE + 1);
  private readonly pale = new Float64Array(TABLE + 1);
  /** Display values (0 … 255) of each band by the square root of light. */
  private readonly display: readonly Float32Array[];
  private readonly curves: readonly (((v: number) => number) | null)[];
  private readonly all: ((v: number) => number) | null;
  private readonly finish: Finish;
  /** What was finished last, three bands. */
  readonly out = new Float64Array(3);

  constructor(finish: Finish | undefined) {
    this.finish = finish?.on ? finish : NO_FINISH;
    const { all, red, green, blue } = this.finish.curves;
    this.all = all && monotoneCurve(all);
    this.curves = [red, green, blue].map((points) => points && monotoneCurve(points));
    for (let i = 0; i <= TABLE; i++) {
      const n = bandAt(i / TABLE);
      this.tone[i] = this.toneOf(n);
      this.pale[i] = this.paleOf(n);
    }
    const plain = this.curves.some((c) => c === null) ? displayTable(null) : null;
    this.display = this.curves.map((curve) => (curve ? displayTable(curve) : plain!));
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

  /** Light with its saturation, and within the display's colours: what has less than nothing of a band is greyer. */
  private coloured(r: number, g: number, b: number): void {
    const { out, finish } = this;
    const { saturation } = finish;
    const l = luminance(r, g, b);
    if (saturation !== 1) {
      r = l + saturation * (r - l);
      g = l + saturation * (g - l);
      b = l + saturation * (b - l);
    }
    const least = Math.min(r, g, b);
    if (least < 0) {
      const k = l > 0 ? l / (l - least) : 0;
      r = l > 0 ? l + k * (r - l) : 0;
      g = l > 0 ? l + k * (g - l) : 0;
      b = l > 0 ? l + k * (b - l) : 0;
    }
    out[0] = r;
    out[1] = g;
    out[2] = b;
  }

  /** The brightest band becomes `tone`; the others keep their share of it but for what goes towards white. */
  private toned(n: number, tone: number, pale: number): void {
    const { out } = this;
    const k = (tone * (1 - pale)) / n,
      w = tone * pale;
    for (let i = 0; i < 3; i++) out[i] = k * out[i]! + w;
  }

  /** Display values (0 … 255) of exposed light (white is 1) to `out`, by tables: within a tenth of a step of 8 bits. */
  apply(r: number, g: number, b: number): void {
    const { out, display } = this;
    this.coloured(r, g, b);
    const n = Math.max(out[0]!, out[1]!, out[2]!);
    if (!(n > 0)) {
      out[0] = display[0]![0]!;
      out[1] = display[1]![0]!;
      out[2] = display[2]![0]!;
      return;
    }
    const at = TABLE * placeOf(Math.min(n, 1e12));
    const i = Math.min(TABLE - 1, at | 0),
      f = at - i;
    this.toned(n, this.tone[i]! + f * (this.tone[i + 1]! - this.tone[i]!), this.pale[i]! + f * (this.pale[i + 1]! - this.pale[i]!));
    for (let k = 0; k < 3; k++) out[k] = display[k]![(TABLE * Math.sqrt(Math.max(0, Math.min(1, out[k]!))) + 0.5) | 0]!;
  }

  /** The same without tables, whose steps 16 bits would show. */
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

  get saturation(): number {
    return this.finish.saturation;
  }
}

function displayTable(curve: ((v: number) => number) | null): Float32Array {
  return Float32Array.from({ length: TABLE + 1 }, (_, i) => {
    const v = encode((i / TABLE) ** 2);
    return 255 * (curve ? curve(v) : v);
  });
}

let latest: Finisher | null = null;
let latestOf: string | null = null;

/** A finisher of these settings; the last one is kept, as pictures come one after another. */
export function finisherOf(finish: Finish | undefined): Finisher {
  // by what they say: another thread gets a copy each time
  const key = JSON.stringify(finish ?? null);
  if (!latest || latestOf !== key) {
    latest = new Finisher(finish);
    latestOf = key;
  }
  return latest;
}
