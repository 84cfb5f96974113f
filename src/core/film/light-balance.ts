/** What light groups give to a frame, what they cost, and how noisy they are. */
import { gainOf, type Balance, type BalancedSide } from "../document/balance";
import { F_COUNT, G_AIR, G_RAYS, G_SURFACES } from "../layout/layout";
import { luminance } from "../optics/colour";
import { groupFloat, type Film } from "./film";

/** Luminances of the two sides, cd/m². */
type Sides = Record<BalancedSide, number>;

/** What a light group gives to the frame and what it costs, as shares of all groups together. */
export interface LightBalance {
  name: string;
  /** Share of the light that the air, and surfaces, send to the lens. */
  air: number;
  surfaces: number;
  /** Share of both together. */
  light: number;
  /** Share of the rays sent towards lights: most of what lighting costs. */
  rays: number;
  /** Mean of what it gives to each side. */
  mean: Sides;
  /** Standard deviation of its noise from pixel to pixel, as it is estimated. */
  noise: Sides;
}

const FIRST = { air: G_AIR, surfaces: G_SURFACES } as const satisfies Record<BalancedSide, number>;

/** Balance of the light groups that a film keeps, by luminance over the crop. */
export function lightBalance(film: Film): LightBalance[] {
  const [x0, y0, x1, y1] = film.crop;
  const count = film.lights.length;
  const [air, surfaces, rays] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const d = film.data;
  const firsts = Int32Array.from({ length: count }, (_, i) => groupFloat(film, i));
  let pixels = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride;
      const n = d[p + F_COUNT]!;
      if (n === 0) continue;
      pixels++;
      for (let i = 0; i < count; i++) {
        const at = p + firsts[i]!;
        air[i]! += luminance(d[at + G_AIR]!, d[at + G_AIR + 1]!, d[at + G_AIR + 2]!) / n;
        surfaces[i]! += luminance(d[at + G_SURFACES]!, d[at + G_SURFACES + 1]!, d[at + G_SURFACES + 2]!) / n;
        rays[i]! += d[at + G_RAYS]! / n;
      }
    }
  const whole = (of: Float64Array): number => of.reduce((a, v) => a + v, 0);
  const [allAir, allSurfaces, allRays] = [whole(air), whole(surfaces), whole(rays)];
  const share = (v: number, of: number): number => (of > 0 ? v / of : 0);
  return film.lights.map((name, i) => ({
    name,
    air: share(air[i]!, allAir),
    surfaces: share(surfaces[i]!, allSurfaces),
    light: share(air[i]! + surfaces[i]!, allAir + allSurfaces),
    rays: share(rays[i]!, allRays),
    mean: { air: share(air[i]!, pixels), surfaces: share(surfaces[i]!, pixels) },
    noise: { air: groupNoise(film, firsts[i]! + FIRST.air), surfaces: groupNoise(film, firsts[i]! + FIRST.surfaces) },
  }));
}

/** Pixels from one at which noise is estimated to the next. */
const STEP = 5;
/** A mask that straight slopes and edges along the axes leave nothing in, and the root of the sum of its squares (Immerkær 1996). */
const MASK = [1, -2, 1, -2, 4, -2, 1, -2, 1] as const;
const MASK_NORM = 6;

/**
 * Standard deviation of the noise of one band triple's luminance, from how each pixel stands out of those about it; fine detail counts as
 * noise too. @param first place of its sums in a pixel
 */
function groupNoise(film: Film, first: number): number {
  const [x0, y0, x1, y1] = film.crop;
  const d = film.data;
  let sum = 0,
    count = 0;
  for (let y = y0 + 1; y < y1 - 1; y += STEP)
    for (let x = x0 + 1; x < x1 - 1; x += STEP) {
      let v = 0;
      for (let k = 0; k < 9; k++) {
        const p = ((y - 1 + Math.floor(k / 3)) * film.width + x - 1 + (k % 3)) * film.stride;
        const n = d[p + F_COUNT]!;
        v += n > 0 ? (MASK[k]! * luminance(d[p + first]!, d[p + first + 1]!, d[p + first + 2]!)) / n : NaN;
      }
      if (!(v === v)) continue;
      sum += Math.abs(v);
      count++;
    }
  // of a normal deviate the mean size is √(2/π) of its standard deviation
  return count > 0 ? (Math.sqrt(Math.PI / 2) * sum) / count / MASK_NORM : 0;
}

/** By how much a balance pulls the noise of the picture up, relative to its light; 1 where it leaves it as it is. */
export function noisePulled(groups: readonly LightBalance[], balance: Balance): number {
  let [before, after, light, lit] = [0, 0, 0, 0];
  for (const g of groups)
    for (const side of ["air", "surfaces"] as const) {
      const gain = luminance(...gainOf(balance, g.name, side));
      before += g.noise[side] ** 2;
      after += (gain * g.noise[side]) ** 2;
      light += g.mean[side];
      lit += gain * g.mean[side];
    }
  return before > 0 && lit > 0 && light > 0 ? Math.sqrt(after / before) * (light / lit) : 1;
}
