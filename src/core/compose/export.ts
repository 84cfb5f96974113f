/** Files of a composed picture: linear with its layers, or finished as it is looked at. */
import type { Lut } from "../data/lut";
import { dithered, exposedMatrix, type Development } from "../film/develop";
import { finisherOf } from "../film/finish";
import { addGlare, glares } from "../film/glare";
import { layerName, type ExrChannel, type ExrImage } from "../formats/exr";
import type { Shown } from "../formats/shown";
import { REC709 } from "../optics/colour";
import { whiteAt } from "../optics/exposure";
import { composeRows, type Plan, type Step } from "./compose";
import type { Frame } from "../formats/layers";
import type { Layer, Stack } from "./stack";

/** Rows that are composed at a time: between them is said how far it is. */
const ROWS = 64;

/** Composes a band of rows: here, or in another thread. */
export type ComposeBand = (y0: number, y1: number) => Float32Array | Promise<Float32Array>;

/** What a share of white is in files of a stack: that white in cd/m², or 1 where its first source has no light in cd/m². */
export function unitOf(stack: Stack, frames: ReadonlyMap<string, Frame>): number {
  const [first] = frames.values();
  return [...(first?.layers.values() ?? [])].some((p) => p.light) ? whiteAt(stack.white) : 1;
}

/**
 * Light of a plan, three bands a pixel.
 * @param unit what a share of white is: that white in cd/m² for what is developed @param onRows told the share that is done; what it throws ends the work @param band composes rows, of which `width` are asked for at a time
 */
export async function composedLight(
  plan: Plan,
  unit: number,
  onRows?: (share: number) => void | Promise<void>,
  { band, width: at }: { band: ComposeBand; width: number } = { band: (y0, y1) => composeRows(plan, y0, y1), width: 1 },
): Promise<Float32Array> {
  const { width, height } = plan;
  const out = new Float32Array(3 * width * height);
  let next = 0,
    done = 0;
  const work = async (): Promise<void> => {
    while (next < height) {
      const y = next;
      next += ROWS;
      const rows = await band(y, Math.min(height, y + ROWS));
      if (unit !== 1) for (let i = 0; i < rows.length; i++) rows[i]! *= unit;
      out.set(rows, 3 * width * y);
      done += rows.length / (3 * width);
      await onRows?.(done / height);
    }
  };
  await Promise.all(Array.from({ length: at }, work));
  return out;
}

/** How a stack's picture is developed. */
export const developmentOf = (stack: Stack, lut: Lut | null = null): Development => ({ ...stack.film, lut });

/** Light as it is looked at, its glare added, in whole numbers. The light is changed by glare. */
export function finishedLight(light: Float32Array, width: number, height: number, development: Development, depth: 8 | 16): Shown {
  const { finish, exposure } = development;
  if (finish?.on && glares(finish.glare)) addGlare(light, width, height, finish.glare, height, exposure);
  const finisher = finisherOf(finish, development.lut ?? null);
  const m = exposedMatrix(development);
  const rgba = depth === 16 ? new Uint16Array(4 * width) : new Uint8ClampedArray(4 * width);
  const values = depth === 16 ? new Uint16Array(3 * width * height) : new Uint8Array(3 * width * height);
  const wobbles = new Float32Array(width);
  for (let y = 0; y < height; y++) {
    dithered(wobbles, 0, y);
    finisher.putRow(light.subarray(3 * width * y, 3 * width * (y + 1)), m, wobbles, rgba, 0);
    for (let x = 0, to = 3 * width * y; x < width; x++, to += 3) {
      values[to] = rgba[4 * x]!;
      values[to + 1] = rgba[4 * x + 1]!;
      values[to + 2] = rgba[4 * x + 2]!;
    }
  }
  return { width, height, bands: 3, depth, values };
}

const colours = (layer: string, light: Float32Array, type: "half" | "float"): ExrChannel[] =>
  [..."RGB"].map((band, k) => {
    const values = new Float32Array(light.length / 3);
    for (let i = 0; i < values.length; i++) values[i] = light[3 * i + k]!;
    return { name: layer ? `${layer}.${band}` : band, type, values };
  });

/**
 * The composed light (of the same unit) as an OpenEXR picture, with the stack as text; with `layers`, what each layer lays (gain, tint, curve and thicker air in it)
 * as layers of its own, and its mask as mask.NAME.V.
 */
export function composedExr(
  stack: Stack,
  plan: Plan,
  light: Float32Array,
  unit: number,
  { type = "half", layers = false }: { type?: "half" | "float"; layers?: boolean } = {},
): ExrImage {
  const { width, height } = plan;
  const channels = colours("", light, type);
  if (layers) {
    const taken = new Set<string>(["mask"]);
    for (const { layer, steps, mask } of apart(stack.layers, plan.steps)) {
      const name = layerName(layer.name || layer.id, taken);
      taken.add(name);
      const own = composeRows({ ...plan, steps }, 0, height).map((v) => v * unit);
      channels.push(...colours(name, own, type));
      if (mask) channels.push({ name: `mask.${name}.V`, type, values: mask });
    }
  }
  return { width, height, channels, chromaticities: REC709, attributes: { software: "Fumarium", "fumarium.stack": JSON.stringify(stack) } };
}

/** Steps of each layer by itself, laid whole over black. */
function apart(layers: readonly Layer[], steps: readonly Step[]): { layer: Layer; steps: Step[]; mask: Float32Array | null }[] {
  const out: { layer: Layer; steps: Step[]; mask: Float32Array | null }[] = [];
  let at = 0;
  while (at < steps.length) {
    const first = at;
    let open = 0;
    do {
      const { step } = steps[at]!;
      open += step === "begin" ? 1 : step === "end" ? -1 : 0;
      at++;
    } while (open > 0);
    const last = steps[at - 1]!;
    if (last.step === "begin") break;
    const layer = layers.find((l) => l.id === last.id)!;
    const whole: Step = { ...last, blend: "over", opacity: 1, mask: null };
    out.push({ layer, steps: [...steps.slice(first, at - 1), whole], mask: last.mask });
  }
  return out;
}
