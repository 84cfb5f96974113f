/** Masks of a stack: shares from 0 to 1 by pixel, of distance, height, opacity, mattes, luminance, gradients and paint. */
import { InputError } from "../errors";
import { unreachable } from "../layout/codes";
import { guidedFilter, guideOf, softened, type Guide } from "../math/guided";
import { monotoneCurve } from "../math/monotone";
import { luminance } from "../optics/colour";
import { whiteAt } from "../optics/exposure";
import { rampPlace } from "./ramp";
import { distanceOf, heightOf, planeOf } from "./sources";
import type { Frame } from "../formats/layers";
import type { Mask, MaskPart, Stack } from "./stack";
import { PaintCache } from "./strokes";

/** What masks are made from: all sources of a stack, of one size. */
export interface MaskGround {
  frames: ReadonlyMap<string, Frame>;
  width: number;
  height: number;
  /** EV whose white is 1. */
  white: number;
  /** Where one paints: what is kept of strokes from one edit to the next. */
  painted?: PaintCache;
}

export const groundOf = (stack: Pick<Stack, "white">, frames: ReadonlyMap<string, Frame>, width: number, height: number): MaskGround => ({
  ...{ frames, width, height, white: stack.white },
});

/** Variance of the logarithm of distances below which a feather takes them for even. */
const EVENNESS = 0.002;
/** What stands for the endless in that logarithm, in multiples of the farthest that is not. */
const BEYOND = 2;

/** A mask by pixel. @throws InputError naming what it needs and no source has */
export function maskOf(mask: Mask, ground: MaskGround): Float32Array {
  const { width, height } = ground;
  let out: Float32Array | null = null;
  for (const part of mask.parts) {
    const values = partOf(part, ground);
    if (part.invert) for (let i = 0; i < values.length; i++) values[i] = 1 - values[i]!;
    out = out ? joined(out, values, part.join) : values;
  }
  let all = out!;
  const radius = Math.round(mask.feather * height);
  if (radius > 0) {
    const guide = mask.guided ? guideFor(ground, radius) : null;
    all = guide ? guidedFilter(all, guide, EVENNESS) : softened(all, width, height, radius);
    for (let i = 0; i < all.length; i++) all[i] = Math.max(0, Math.min(1, all[i]!));
  }
  return mask.invert ? all.map((v) => 1 - v) : all;
}

function joined(a: Float32Array, b: Float32Array, how: MaskPart["join"]): Float32Array {
  switch (how) {
    case "and":
      return a.map((v, i) => v * b[i]!);
    case "or":
      return a.map((v, i) => v + b[i]! - v * b[i]!);
    case "without":
      return a.map((v, i) => v * (1 - b[i]!));
    default:
      return unreachable(how, "way to join");
  }
}

/** Guides of pictures by the radius of their windows: the same from one edit to the next. Those of the last radius are kept. */
const guides = new WeakMap<MaskGround["frames"], Guide>();

/** Logarithm of distances, by which a feather finds edges; null where no source has any. */
function guideFor({ frames, width, height }: MaskGround, radius: number): Guide | null {
  const kept = guides.get(frames);
  if (kept?.radius === radius) return kept;
  const values = kept?.values ?? logarithms(distanceOf(frames.values()));
  if (!values) return null;
  const guide = guideOf(values, width, height, radius);
  guides.set(frames, guide);
  return guide;
}

function logarithms(distance: Float32Array | null): Float32Array | null {
  if (!distance) return null;
  let far = 0;
  for (const d of distance) if (d < Infinity && d > far) far = d;
  const beyond = Math.log(BEYOND * Math.max(far, 1));
  return distance.map((d) => (d < Infinity && d === d ? Math.log(Math.max(d, 1e-3)) : beyond));
}

/** A part by pixel, before it is inverted and joined. */
export function partOf(part: MaskPart, ground: MaskGround): Float32Array {
  const { width, height, frames } = ground;
  switch (part.kind) {
    case "distance": {
      const plane = needed(distanceOf(frames.values()), "distances (a layer distance or depth)");
      return along(plane, part);
    }
    case "height": {
      const plane = needed(heightOf(frames.values()), "heights (a layer height or position)");
      const distance = distanceOf(frames.values());
      // the background has none
      return along(distance ? plane.map((v, i) => (distance[i] === Infinity ? Infinity : v)) : plane, part);
    }
    case "opacity":
      return bent(Float32Array.from(opacityOf(frames.values())), part.curve);
    case "matte": {
      const planes = frames.get(part.source)?.layers.get(part.layer);
      if (!planes) throw new InputError(`mask: the layer "${part.layer}" is not in "${part.source}"`);
      return planes.bands[0]!.map((v) => Math.max(0, Math.min(1, v)));
    }
    case "luminance": {
      const main = [...frames.values()].map((f) => f.layers.get("")).find((p) => p?.bands.length === 3);
      if (!main) throw new InputError("mask: no source has a main picture whose luminance could count");
      const [r, g, b] = main.bands as [Float32Array, Float32Array, Float32Array];
      const white = main.light ? whiteAt(ground.white) : 1;
      return along(
        r.map((v, i) => Math.log2(Math.max(1e-12, luminance(v, g[i]!, b[i]!) / white))),
        part,
      );
    }
    case "gradient": {
      const out = new Float32Array(width * height);
      for (let y = 0, i = 0; y < height; y++)
        for (let x = 0; x < width; x++, i++) out[i] = rampPlace((x + 0.5) / width, (y + 0.5) / height, part.a, part.b, width / height);
      return bent(out, part.curve);
    }
    case "paint":
      return (ground.painted ?? new PaintCache()).of(part.strokes, width, height);
    default:
      return unreachable(part, "part of a mask");
  }
}

const needed = (plane: Float32Array | null, what: string): Float32Array => {
  if (!plane) throw new InputError(`mask: no source has ${what}`);
  return plane;
};

/** From 0 at one end to 1 at the other; a step where they are the same. What is no number is before both. */
function along(values: Float32Array, { from, to, curve }: { from: number; to: number; curve: [number, number][] | null }): Float32Array {
  const out = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const v = values[i]!;
    const t = v === Infinity ? (to >= from ? 1 : 0) : to === from ? Number(v >= from) : (v - from) / (to - from);
    out[i] = t > 0 ? Math.min(1, t) : 0;
  }
  return bent(out, curve);
}

/** Places of a curve's table. */
const PLACES = 1024;

function bent(values: Float32Array, points: [number, number][] | null): Float32Array {
  if (!points) return values;
  const curve = monotoneCurve(points);
  const table = Float32Array.from({ length: PLACES + 1 }, (_, i) => curve(i / PLACES));
  for (let i = 0; i < values.length; i++) {
    const x = values[i]! * PLACES,
      k = Math.min(PLACES - 1, Math.floor(x));
    values[i] = table[k]! + (x - k) * (table[k + 1]! - table[k]!);
  }
  return values;
}

/** Share of the light that the air keeps back: as a source says, or else as its transmittance does. @throws InputError */
export function opacityOf(frames: Iterable<Frame>): Float32Array {
  const all = [...frames];
  const told = planeOf(all, ["opacity"]);
  if (told) return told.map((v) => Math.max(0, Math.min(1, v)));
  const left = all.map((f) => f.layers.get("transmittance")).find((p) => p?.bands.length === 3);
  if (!left) throw new InputError("mask: no source has the air's opacity (a layer opacity or transmittance)");
  const [r, g, b] = left.bands as [Float32Array, Float32Array, Float32Array];
  return r.map((v, i) => Math.max(0, Math.min(1, 1 - luminance(v, g[i]!, b[i]!))));
}
