/**
 * Puts a stack together: a list of steps that the processor works through here and a graphics processor in the interface, so that both say the same.
 * Light is counted in shares of the stack's white.
 */
import { InputError } from "../errors";
import { unreachable } from "../layout/codes";
import { monotoneCurve } from "../math/monotone";
import { whiteAt } from "../optics/exposure";
import { groundOf, maskOf, type MaskGround } from "./masks";
import { rampPlace } from "./ramp";
import { airFactor, depthFactors, isAsRendered, surfacesFactor } from "./reair";
import { distanceOf } from "./sources";
import type { Frame, Planes } from "../formats/layers";
import type { Blend, Content, Layer, Mask, Role, Stack } from "./stack";

/** What a step lays on what is there. */
export interface Laid {
  /** Which layer of the stack it is. */
  id: string;
  blend: Blend;
  opacity: number;
  /** Null: everywhere. */
  mask: Float32Array | null;
  /** Gain and tint by band. */
  factor: readonly [number, number, number];
  /** Places of √(n / (1 + n)) of the brightest band, and what becomes of them; null leaves it. */
  curve: Float32Array | null;
}
export type Step =
  | (Laid & { step: "planes"; planes: Planes; unit: number; role: Role | null; alpha: boolean })
  | (Laid & { step: "colour"; colour: readonly [number, number, number] })
  | (Laid & {
      step: "ramp";
      from: readonly [number, number, number];
      to: readonly [number, number, number];
      a: readonly [number, number];
      b: readonly [number, number];
    })
  /** What follows is put together over black, up to its end, which lays it on what was there. */
  | { step: "begin" }
  | (Laid & { step: "end" });

export interface Plan {
  width: number;
  height: number;
  steps: readonly Step[];
  /** Transmittance by band and factor of the optical depth by pixel; null where the air is as it was rendered. */
  thicker: { left: readonly Float32Array[]; factors: Float32Array } | null;
}

/** Places of a layer's curve. */
export const CURVE_PLACES = 256;

/** Masks are dear, and the same from one edit to the next: the caller keeps them. */
export type MaskStore = (mask: Mask, ground: MaskGround) => Float32Array;

/**
 * What is to be done for a stack over its sources.
 * @throws InputError naming layers that a source does not have, and what masks need
 */
export function planOf(stack: Stack, frames: ReadonlyMap<string, Frame>, width: number, height: number, masks: MaskStore = maskOf): Plan {
  const ground = groundOf(stack, frames, width, height);
  const white = whiteAt(stack.white);
  const steps: Step[] = [];
  const add = (layers: readonly Layer[]): void => {
    const alone = layers.some((l) => l.solo && l.on);
    for (const layer of layers) {
      if (!layer.on || layer.opacity === 0 || (alone && !layer.solo)) continue;
      const laid: Laid = {
        id: layer.id,
        blend: layer.blend,
        opacity: layer.opacity,
        mask: layer.mask && within(layer, () => masks(layer.mask!, ground)),
        factor: layer.tint.map((t) => t * 2 ** layer.gain) as [number, number, number],
        curve: layer.curve && curveTable(layer.curve),
      };
      steps.push(...stepsOf(layer, laid));
    }
  };
  const stepsOf = (layer: Layer, laid: Laid): Step[] => {
    const { content } = layer;
    switch (content.kind) {
      case "group": {
        steps.push({ step: "begin" });
        add(layer.layers);
        return [{ ...laid, step: "end" }];
      }
      case "pass":
        return [passStep(content, layer, laid, frames, white)];
      case "colour":
        return [{ ...laid, step: "colour", colour: content.colour }];
      case "ramp":
        return [{ ...laid, step: "ramp", from: content.from, to: content.to, a: content.a, b: content.b }];
      default:
        return unreachable(content, "content of a layer");
    }
  };
  add(stack.layers);
  const thick = !isAsRendered(stack) && steps.some((s) => s.step === "planes" && s.role !== null);
  return { width, height, steps, thicker: thick ? thickerOf(stack, frames, width * height) : null };
}

function within<T>(layer: Layer, work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw error instanceof InputError ? new InputError(`"${layer.name}": ${error.message}`) : error;
  }
}

function passStep(
  content: Extract<Content, { kind: "pass" }>,
  layer: Layer,
  laid: Laid,
  frames: ReadonlyMap<string, Frame>,
  white: number,
): Step {
  const planes = frames.get(content.source)?.layers.get(content.layer);
  if (!planes) throw new InputError(`"${layer.name}": the layer "${content.layer || "main picture"}" is not in "${content.source}"`);
  return {
    ...laid,
    step: "planes",
    planes,
    unit: planes.light ? 1 / white : 1,
    role: content.role,
    alpha: content.alpha && planes.alpha !== null,
  };
}

function thickerOf(stack: Stack, frames: ReadonlyMap<string, Frame>, pixels: number): NonNullable<Plan["thicker"]> {
  const left = [...frames.values()].map((f) => f.layers.get("transmittance")).find((p) => p?.bands.length === 3);
  if (!left) throw new InputError("stack: air is made thicker or thinner by its transmittance, and no source has that layer");
  return { left: left.bands, factors: depthFactors(stack.air, distanceOf(frames.values()), pixels) };
}

function curveTable(points: [number, number][]): Float32Array {
  const curve = monotoneCurve(points);
  return Float32Array.from({ length: CURVE_PLACES + 1 }, (_, i) => curve(i / CURVE_PLACES));
}

/** The place of a brightness among those of a layer's curve, and the brightness at a place. */
export const curvePlace = (n: number): number => Math.sqrt(n / (1 + n));
export const curveLight = (u: number): number => (u * u) / Math.max(1e-4, 1 - u * u);

/** Rows y0 … y1 − 1 of a plan: three bands a pixel, shares of the stack's white. */
export function composeRows(plan: Plan, y0: number, y1: number): Float32Array {
  const { width, height, thicker } = plan;
  const first = y0 * width,
    n = (y1 - y0) * width;
  const piled: Float32Array[] = [new Float32Array(3 * n)];
  const content = new Float32Array(3 * n);
  for (const step of plan.steps) {
    if (step.step === "begin") {
      piled.push(new Float32Array(3 * n));
      continue;
    }
    let from: Float32Array = content;
    let alpha: Float32Array | null = null;
    switch (step.step) {
      case "planes": {
        const { bands, alpha: own } = step.planes;
        for (let k = 0; k < 3; k++) {
          const plane = bands[Math.min(k, bands.length - 1)]!;
          const scale = step.unit;
          for (let i = 0, to = k; i < n; i++, to += 3) content[to] = scale * plane[first + i]!;
          if (!thicker || !step.role) continue;
          const left = thicker.left[k]!;
          const factor = step.role === "air" ? airFactor : surfacesFactor;
          for (let i = 0, to = k; i < n; i++, to += 3) content[to]! *= factor(left[first + i]!, thicker.factors[first + i]!);
        }
        if (step.alpha) alpha = own;
        break;
      }
      case "colour":
        fillColour(step.colour, content);
        break;
      case "ramp":
        fillRamp(step, content, y0, y1, width, height);
        break;
      case "end":
        from = piled.pop()!;
        break;
      default:
        unreachable(step, "step of a stack");
    }
    lay(step, from, piled.at(-1)!, n, first, alpha);
  }
  return piled[0]!;
}

function fillColour([r, g, b]: readonly [number, number, number], out: Float32Array): void {
  for (let i = 0; i < out.length; i += 3) {
    out[i] = r;
    out[i + 1] = g;
    out[i + 2] = b;
  }
}

function fillRamp(
  { from, to, a, b }: Extract<Step, { step: "ramp" }>,
  out: Float32Array,
  y0: number,
  y1: number,
  width: number,
  height: number,
): void {
  for (let y = y0, i = 0; y < y1; y++)
    for (let x = 0; x < width; x++, i += 3) {
      const t = rampPlace((x + 0.5) / width, (y + 0.5) / height, a, b, width / height);
      for (let k = 0; k < 3; k++) out[i + k] = from[k]! + t * (to[k]! - from[k]!);
    }
}

function lay(step: Laid, content: Float32Array, below: Float32Array, n: number, first: number, alpha: Float32Array | null): void {
  const { blend, opacity, mask, factor, curve } = step;
  const [f0, f1, f2] = factor;
  if (f0 !== 1 || f1 !== 1 || f2 !== 1)
    for (let p = 0; p < 3 * n; p += 3) {
      content[p]! *= f0;
      content[p + 1]! *= f1;
      content[p + 2]! *= f2;
    }
  if (curve)
    for (let p = 0; p < 3 * n; p += 3) {
      const k = curveFactor(curve, Math.max(content[p]!, content[p + 1]!, content[p + 2]!));
      content[p]! *= k;
      content[p + 1]! *= k;
      content[p + 2]! *= k;
    }
  const covers = alpha !== null && blend === "over";
  if (!covers) blendInto(blend, below, content, 3 * n);
  for (let i = 0, p = 0; i < n; i++, p += 3) {
    const share = opacity * (mask ? mask[first + i]! : 1);
    // where nothing is laid, what is no number stays out as well
    if (share === 0) continue;
    // multiplied with what it covers already
    const rest = covers ? 1 - share * Math.max(0, Math.min(1, alpha[first + i]!)) : 1 - share;
    below[p] = rest * below[p]! + share * content[p]!;
    below[p + 1] = rest * below[p + 1]! + share * content[p + 1]!;
    below[p + 2] = rest * below[p + 2]! + share * content[p + 2]!;
  }
}

/**
 * Makes of what is laid what the blend gives where it counts whole. Light above white is taken as it is by `screen`: the brighter of the two.
 * A loop a blend: numbers handed to a function one by one cost more than the work.
 */
function blendInto(blend: Blend, below: Float32Array, laid: Float32Array, n: number): void {
  switch (blend) {
    case "over":
      return;
    case "add":
      for (let i = 0; i < n; i++) laid[i]! += below[i]!;
      return;
    case "screen":
      for (let i = 0; i < n; i++) {
        const b = below[i]!,
          l = laid[i]!;
        laid[i] = b < 1 && l < 1 ? b + l - b * l : b > l ? b : l;
      }
      return;
    case "multiply":
      for (let i = 0; i < n; i++) laid[i]! *= below[i]!;
      return;
    case "maximum":
      for (let i = 0; i < n; i++) laid[i] = Math.max(below[i]!, laid[i]!);
      return;
    case "difference":
      for (let i = 0; i < n; i++) laid[i] = Math.abs(below[i]! - laid[i]!);
      return;
    default:
      unreachable(blend, "blend");
  }
}

/** What a layer's curve makes of a brightness, as a factor. */
function curveFactor(table: Float32Array, n: number): number {
  if (!(n > 0)) return 1;
  const at = CURVE_PLACES * curvePlace(n),
    i = Math.min(CURVE_PLACES - 1, Math.floor(at));
  return curveLight(table[i]! + (at - i) * (table[i + 1]! - table[i]!)) / n;
}
