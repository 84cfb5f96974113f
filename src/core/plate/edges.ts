/**
 * Pixels of a picture that an edge crosses: their light is of two things, their depth is of one, or of neither. They are parted into what is in
 * front and what is behind, by their colour between that of the two sides.
 */
import { perAxis, type PlateLens } from "./lens";
import { depthSteps } from "./steps";

export interface PartedDistances {
  /** Distance along the ray, m, of what is in front and behind; the same where no edge crosses a pixel. Infinity: the sky. */
  near: Float32Array;
  far: Float32Array;
  /** Share of the pixel that the front covers, of 255. */
  cover: Uint8Array;
  /** Share of its light per band that is the front's, of 255: three a pixel. */
  shares: Uint8Array;
  /** Pixels that were parted. */
  parted: number;
}

/** Least difference of the two sides' colours, as a share of the brighter, and of what neighbours of one side differ by, that tells them apart. */
const APART = 0.08,
  OVER_GRAIN = 3;
/** How far a pixel's colour may lie from the line between the two sides', as a share of that line. */
const BESIDE_LINE = 0.35;

type Colour = readonly [number, number, number];
const difference = (a: Colour, b: Colour): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** One side of an edge, as seen from the pixel on it. */
interface Side {
  /** One over depth along the axis, carried on to the pixel; 0 for the sky. */
  inverse: number;
  colour: Colour;
  /** What its colours differ by from pixel to pixel. */
  grain: number;
}

/**
 * @param bands light of the picture, linear, each as many as pixels @param distance along the ray, m @param mend false leaves all as it is
 */
export function partedDistances(bands: readonly Float32Array[], distance: Float32Array, lens: PlateLens, mend = true): PartedDistances {
  const { width, height } = lens;
  const n = width * height;
  const out: PartedDistances = {
    near: distance.slice(),
    far: distance.slice(),
    cover: new Uint8Array(n).fill(255),
    shares: new Uint8Array(3 * n).fill(255),
    parted: 0,
  };
  if (!mend) return out;
  const { inverse, joined } = depthSteps(distance, lens);
  const axial = perAxis(lens);
  const colour = (i: number): Colour => [bands[0]![i]!, bands[1]![i]!, bands[2]![i]!];
  const sky = (i: number): boolean => inverse[i] === 0;
  // whether the surface, or the sky, goes on from each pixel to the right, and down
  const across = new Uint8Array(n),
    down = new Uint8Array(n);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 < width) across[i] = Number((sky(i) && sky(i + 1)) || joined(x, y, 1));
      if (y + 1 < height) down[i] = Number((sky(i) && sky(i + width)) || joined(x, y, width));
    }
  /** Whether it goes on from the pixel at (x, y) in a direction along its row or column. */
  const linked = (x: number, y: number, dx: number, dy: number): boolean =>
    (dx !== 0 ? across : down)[Math.min(y, y + dy) * width + Math.min(x, x + dx)] === 1;
  const inside = (x: number, y: number): boolean => x >= 0 && y >= 0 && x < width && y < height;
  const side = (x: number, y: number, dx: number, dy: number): Side | null => {
    const [ax, ay, bx, by] = [x + dx, y + dy, x + 2 * dx, y + 2 * dy];
    if (!inside(ax, ay)) return null;
    const a = ay * width + ax,
      b = by * width + bx;
    // what lies next to an edge may be crossed by it too: one further is of one thing
    const further = inside(bx, by) && linked(ax, ay, dx, dy);
    if (!further) return { inverse: inverse[a]!, colour: colour(a), grain: 0 };
    const carried = sky(a) ? 0 : Math.max(0, 2 * inverse[a]! - inverse[b]!);
    const [cx, cy] = [bx + dx, by + dy];
    const third = inside(cx, cy) && linked(bx, by, dx, dy) ? colour(cy * width + cx) : null;
    return { inverse: carried > 0 ? carried : inverse[a]!, colour: colour(b), grain: third ? difference(third, colour(b)) : 0 };
  };
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      // most pixels lie within one thing
      if ((x === 0 || across[i - 1]) && across[i] && (y === 0 || down[i - width]) && down[i]) continue;
      let best: { a: Side; b: Side; jump: number; toA: boolean; toB: boolean } | null = null;
      for (const [dx, dy] of [[1, 0], [0, 1]] as const) {
        if (!inside(x - dx, y - dy) || !inside(x + dx, y + dy)) continue;
        const [toA, toB] = [linked(x, y, -dx, -dy), linked(x, y, dx, dy)];
        if (toA && toB) continue;
        const [a, b] = [side(x, y, -dx, -dy), side(x, y, dx, dy)];
        if (!a || !b) continue;
        const jump = Math.abs(a.inverse - b.inverse);
        if (jump > 0.02 * Math.max(a.inverse, b.inverse) && jump > (best?.jump ?? 0)) best = { a, b, jump, toA, toB };
      } // prettier-ignore
      if (best) part(i, best.a, best.b, best.toA, best.toB);
    }
  return out;

  function part(i: number, a: Side, b: Side, toA: boolean, toB: boolean): void {
    const aFront = a.inverse > b.inverse;
    const [front, behind] = aFront ? [a, b] : [b, a];
    const [toFront, toBehind] = aFront ? [toA, toB] : [toB, toA];
    const longer = axial(i % width, Math.floor(i / width));
    const along = (v: number): number => (v > 0 ? longer / v : Infinity);
    const near = toFront ? distance[i]! : along(front.inverse),
      far = toBehind ? distance[i]! : along(behind.inverse);
    if (!(near < far)) return;
    const [f, k, c] = [front.colour, behind.colour, colour(i)];
    const apart = difference(f, k);
    const tells = apart > APART * Math.max(Math.hypot(...f), Math.hypot(...k)) && apart > OVER_GRAIN * Math.max(front.grain, behind.grain);
    let cover: number;
    if (tells) {
      const t = f.reduce((sum, v, m) => sum + (c[m]! - k[m]!) * (v - k[m]!), 0) / (apart * apart);
      cover = Math.max(0, Math.min(1, t));
      const off = Math.hypot(...f.map((v, m) => c[m]! - k[m]! - t * (v - k[m]!)));
      if (off > BESIDE_LINE * apart || t < -BESIDE_LINE || t > 1 + BESIDE_LINE) return;
    } else {
      // a depth between the two is a mean of them; else it says which it is
      if (toFront || toBehind || far === Infinity) return;
      cover = Math.max(0, Math.min(1, (far - distance[i]!) / (far - near)));
    }
    const bytes = Math.round(255 * cover);
    out.parted++;
    out.near[i] = bytes === 0 ? far : near;
    out.far[i] = bytes === 255 ? near : far;
    if (bytes === 0 || bytes === 255) return;
    out.cover[i] = bytes;
    f.forEach((v, m) => {
      const [lit, rest] = [cover * Math.max(0, v), (1 - cover) * Math.max(0, k[m]!)];
      out.shares[3 * i + m] = lit + rest > 0 ? Math.round((255 * lit) / (lit + rest)) : bytes;
    });
  }
}
