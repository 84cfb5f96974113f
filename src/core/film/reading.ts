/** Everything that a film says of one place of its frame. */
import { luminance } from "../optics/colour";
import { MIDDLE_GREY, whiteAt } from "../optics/exposure";
import { CLEANED_FLOATS, GROUPED, SIDES, type Cleaned } from "./cleaned";
import type { Development } from "./develop";
import { lightValues, passValues, sampledNear, type Film } from "./film";
import { lightOf } from "./light";
import { PASS_NAMES, PASSES, type PassName } from "./passes";

export interface Reading {
  /** Numbers of each pass in its unit, cleaned and balanced where the picture is; NaN of light that has no sample yet. */
  passes: Record<PassName, number[]>;
  /** Luminance of the beauty (cd/m²), and its stops above middle grey; null for black. */
  luminance: number;
  stops: number | null;
  /** Luminance that each light group that the film keeps gives, as it was rendered. */
  lights: { name: string; air: number; surfaces: number }[];
}

const bright = (v: ArrayLike<number>): number => luminance(v[0]!, v[1]!, v[2]!);

/** What is cleaned of one pixel of the crop. */
function cleanedPixel(cleaned: Cleaned, i: number): Cleaned {
  const of = (values: Float32Array | null): Float32Array | null => values && values.subarray(CLEANED_FLOATS * i, CLEANED_FLOATS * (i + 1));
  const out: Cleaned = { ...cleaned };
  for (const side of SIDES) out[side] = of(cleaned[side]);
  if (cleaned.lights) {
    const { lights } = cleaned;
    out.lights = { air: [], surfaces: [] };
    for (const side of GROUPED) out.lights[side] = lights[side].map((values) => of(values)!);
  }
  return out;
}

/** What is read at a place of the frame (shares), of the pixel there or the nearest with samples; null where there is none about it. */
export function readingAt(
  film: Film,
  x: number,
  y: number,
  { exposure, balance }: Pick<Development, "exposure" | "balance">,
): Reading | null {
  const at = sampledNear(film, x, y);
  if (at === null) return null;
  const i = at / film.stride;
  const [x0, y0, x1] = film.crop;
  const inCrop = (Math.floor(i / film.width) - y0) * (x1 - x0) + (i % film.width) - x0;
  const pixel: Film = {
    ...film,
    data: film.data.subarray(at, at + film.stride),
    width: 1,
    height: 1,
    crop: [0, 0, 1, 1],
    frame: null,
    cleaned: film.cleaned ? cleanedPixel(film.cleaned, inCrop) : null,
  };
  const values = (pass: PassName): number[] => {
    if (PASSES[pass].display !== "light") return [...passValues(pixel, pass)];
    const light = [...lightOf(pixel, pass, balance)];
    // rows say it in their first band alone
    return Number.isNaN(light[0]) ? light.map(() => NaN) : light;
  };
  const passes = Object.fromEntries(PASS_NAMES.map((pass) => [pass, values(pass)])) as Record<PassName, number[]>;
  const l = bright(passes.beauty);
  return {
    passes,
    luminance: l,
    stops: l > 0 ? Math.log2(l / whiteAt(exposure) / MIDDLE_GREY) : null,
    lights: film.lights.map((name) => ({
      name,
      air: bright(lightValues(pixel, name, "air")),
      surfaces: bright(lightValues(pixel, name, "surfaces")),
    })),
  };
}
