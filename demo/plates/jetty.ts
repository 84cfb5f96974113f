/**
 * A jetty at low water, as a picture that comes from elsewhere: made by rays in code, so that every distance is known. Wet sand and pools, rows
 * of posts under a deck, a boat aground, headlands up to a kilometre and a half off. Colours of 8 bits, depth of 16 along the axis.
 */
import { encode as encodePng } from "fast-png";
import { encode } from "#core/film/finish";
import { sunDirection } from "#core/math/vectors";
import { add, Dice, dot, mul, sub, unit, type V3 } from "../kit/model";

/** The lens, and what white of the depth stands for (m). */
export const JETTY = { size: [960, 540], fieldOfView: 36, position: [0, 1.7, 0], tilt: 3.5, range: [0, 2000], sun: [-14, 11] } as const;

const SUN = sunDirection(JETTY.sun[0], JETTY.sun[1]);
const SUNLIGHT: V3 = [1.9, 1.35, 0.85];

interface Hit {
  t: number;
  n: V3;
  base: V3;
  /** How much of the sky it mirrors. */
  wet: number;
}
interface Solid {
  low: V3;
  high: V3;
  meet(o: V3, d: V3, most: number): Hit | null;
}
/** Solids in a box, halved again and again, so that a ray asks few of them. */
interface Tree {
  low: V3;
  high: V3;
  solids: Solid[];
  halves: [Tree, Tree] | null;
}

function treeOf(solids: Solid[]): Tree {
  const low = [0, 1, 2].map((k) => Math.min(...solids.map((s) => s.low[k]!))) as V3,
    high = [0, 1, 2].map((k) => Math.max(...solids.map((s) => s.high[k]!))) as V3;
  if (solids.length <= 3) return { low, high, solids, halves: null };
  const axis = high[0] - low[0] > high[2] - low[2] ? 0 : 2;
  const sorted = [...solids].sort((a, b) => a.low[axis] + a.high[axis] - b.low[axis] - b.high[axis]);
  const half = sorted.length >> 1;
  return { low, high, solids: [], halves: [treeOf(sorted.slice(0, half)), treeOf(sorted.slice(half))] };
}

function inBox({ low, high }: { low: V3; high: V3 }, o: V3, d: V3, most: number): boolean {
  let enter = 0,
    leave = most;
  for (let k = 0; k < 3; k++) {
    const inverse = 1 / d[k]!;
    const a = (low[k]! - o[k]!) * inverse,
      b = (high[k]! - o[k]!) * inverse;
    enter = Math.max(enter, Math.min(a, b));
    leave = Math.min(leave, Math.max(a, b));
  }
  return enter <= leave;
}

/** The first thing of a tree that a ray meets. @param any whether the first found will do */
function met(tree: Tree, o: V3, d: V3, most: number, any = false): Hit | null {
  if (!inBox(tree, o, d, most)) return null;
  let found: Hit | null = null;
  for (const part of tree.halves ?? []) {
    const hit = met(part, o, d, found?.t ?? most, any);
    if (hit) found = hit;
    if (found && any) return found;
  }
  for (const solid of tree.solids) {
    const hit = inBox(solid, o, d, found?.t ?? most) ? solid.meet(o, d, found?.t ?? most) : null;
    if (hit) found = hit;
    if (found && any) return found;
  }
  return found;
}

const WOOD: V3 = [0.115, 0.088, 0.066];

function cylinder(x: number, z: number, radius: number, top: number, base: V3): Solid {
  const bounds = { low: [x - radius, 0, z - radius] as V3, high: [x + radius, top, z + radius] as V3 };
  const meet: Solid["meet"] = (o, d, most) => {
    const [ox, oz] = [o[0] - x, o[2] - z];
    const a = d[0] * d[0] + d[2] * d[2],
      b = ox * d[0] + oz * d[2],
      c = ox * ox + oz * oz - radius * radius;
    const root = b * b - a * c;
    if (root < 0 || a < 1e-12) return null;
    const t = (-b - Math.sqrt(root)) / a;
    const y = o[1] + t * d[1];
    if (!(t > 1e-4 && t < most) || y < 0 || y > top) return null;
    const n: V3 = [(ox + t * d[0]) / radius, 0, (oz + t * d[2]) / radius];
    // weed and wet below the tide mark
    const around = 2.5 * Math.atan2(n[0], n[2]);
    const mark = 1.05 + 0.25 * (noise2(3 * around + x, 2 * x) - 0.5);
    const weed = mul([0.05, 0.062, 0.034], 0.5 + 0.9 * noise2(4 * around, 9 * y + x));
    const grain = mul(base, 0.75 + 0.5 * noise2(9 * around + x, 1.3 * y));
    return { t, n, base: y < mark ? weed : grain, wet: y < mark ? 0.1 : 0 };
  };
  return { ...bounds, meet };
}

function box(low: V3, high: V3, base: V3): Solid {
  const meet: Solid["meet"] = (o, d, most) => {
    let [enter, leave] = [-Infinity, Infinity];
    let axis = 0;
    for (let k = 0; k < 3; k++) {
      const inverse = 1 / d[k]!;
      const [a, b] = [(low[k]! - o[k]!) * inverse, (high[k]! - o[k]!) * inverse];
      if (Math.min(a, b) > enter) [enter, axis] = [Math.min(a, b), k];
      leave = Math.min(leave, Math.max(a, b));
    }
    if (!(enter < leave && enter > 1e-4 && enter < most)) return null;
    const n: V3 = [0, 0, 0];
    n[axis] = d[axis]! > 0 ? -1 : 1;
    const z = o[2] + enter * d[2];
    // planks
    return { t: enter, n, base: mul(base, 0.75 + 0.25 * noise(1, Math.floor(z / 0.18))), wet: 0 };
  };
  return { low, high, meet };
}

/** A hull: an egg cut off at the gunwale, heeled over. */
function hull(at: V3, turn: number, heel: number, size: V3): Solid {
  const [c, s, ch, sh] = [Math.cos(turn), Math.sin(turn), Math.cos(heel), Math.sin(heel)];
  const into = ([x, y, z]: V3): V3 => {
    const [px, pz] = [c * x - s * z, s * x + c * z];
    return [ch * px - sh * y, sh * px + ch * y, pz];
  };
  const back = ([x, y, z]: V3): V3 => {
    const [px, py] = [ch * x + sh * y, -sh * x + ch * y];
    return [c * px + s * z, py, -s * px + c * z];
  };
  const reach = Math.max(...size);
  const meet: Solid["meet"] = (o, d, most) => {
    const [p, q] = [into(sub(o, at)), into(d)];
    const [ps, qs] = [p.map((v, k) => v / size[k]!) as V3, q.map((v, k) => v / size[k]!) as V3];
    const a = dot(qs, qs),
      b = dot(ps, qs),
      k = dot(ps, ps) - 1;
    const root = b * b - a * k;
    if (root < 0) return null;
    for (const sign of [-1, 1]) {
      const t = (-b + sign * Math.sqrt(root)) / a;
      const y = ps[1] + t * qs[1];
      if (!(t > 1e-4 && t < most) || y > 0.15) continue;
      const n = unit(back([0, 1, 2].map((m) => ((ps[m]! + t * qs[m]!) / size[m]!) * -sign) as V3));
      const band = y > -0.05 ? ([0.52, 0.5, 0.44] as V3) : y > -0.5 ? ([0.07, 0.15, 0.17] as V3) : ([0.2, 0.06, 0.04] as V3);
      return { t, n, base: sign > 0 ? WOOD : band, wet: sign > 0 ? 0 : 0.03 };
    }
    return null;
  };
  return { low: sub(at, [reach, reach, reach]), high: add(at, [reach, reach, reach]), meet };
}

/** A headland: a card far off, whose upper end is a line of hills. */
function headland(z: number, height: number, seed: number, base: V3): Solid {
  const line = (x: number): number => height * (0.45 + 0.35 * Math.sin((x / z) * 3.1 + seed) + 0.2 * noise2((x / height) * 0.5, seed) + 0.06 * noise2((x / height) * 4, seed)); // prettier-ignore
  const meet: Solid["meet"] = (o, d, most) => {
    if (d[2] >= 0) return null;
    const t = (-z - o[2]) / d[2];
    if (!(t > 0 && t < most)) return null;
    const [x, y] = [o[0] + t * d[0], o[1] + t * d[1]];
    if (y < 0 || y > line(x)) return null;
    return { t, n: unit([0.2, 0.5, 1]), base: mul(base, 0.7 + 0.5 * noise2(x * 0.03, y * 0.06 + seed)), wet: 0 };
  };
  return { low: [-3000, 0, -z - 1], high: [3000, 1.2 * height, -z + 1], meet };
}

const noise = (a: number, b: number): number => {
  let h = Math.imul(Math.floor(a) ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(Math.floor(b * 16), 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
};
function noise2(x: number, y: number): number {
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const f = (v: number): number => v * v * (3 - 2 * v);
  const [u, v] = [f(x - i), f(y - j)];
  const at = (a: number, b: number): number => noise(i + a, j + b);
  return at(0, 0) * (1 - u) * (1 - v) + at(1, 0) * u * (1 - v) + at(0, 1) * (1 - u) * v + at(1, 1) * u * v;
}
const octaves = (x: number, y: number): number => 0.55 * noise2(x, y) + 0.3 * noise2(2.1 * x, 2.1 * y) + 0.15 * noise2(4.3 * x, 4.3 * y);

/** Everything that stands on the sand. */
function solids(): Tree {
  const dice = new Dice(11);
  const out: Solid[] = [];
  for (let i = 0; i < 20; i++)
    for (const x of [1.7, 4.1]) {
      const z = -7.5 - 3.4 * i;
      const shade = dice.between(0.75, 1.2);
      out.push(cylinder(x + dice.between(-0.08, 0.08), z + dice.between(-0.1, 0.1), dice.between(0.13, 0.19), 3.1, mul(WOOD, shade)));
      out.push(box([x - 0.05, 3.1, z - 0.05], [x + 0.05, 4.05, z + 0.05], mul(WOOD, 0.9)));
    }
  out.push(box([1.3, 2.75, -75], [1.5, 2.95, -6.5], mul(WOOD, 0.8)), box([4.3, 2.75, -75], [4.5, 2.95, -6.5], mul(WOOD, 0.8)));
  out.push(box([1.2, 2.95, -76], [4.6, 3.1, -6.2], mul(WOOD, 1.25)));
  for (const x of [1.7, 4.1]) out.push(box([x - 0.04, 3.98, -74], [x + 0.04, 4.06, -6.3], WOOD));
  // a shed at the head of it, and mooring posts out on the flat
  out.push(box([0.6, 3.1, -84], [6.4, 6.2, -76], [0.2, 0.17, 0.14]), box([0.2, 6.2, -84.5], [6.8, 6.5, -75.5], [0.09, 0.09, 0.1]));
  for (let i = 0; i < 14; i++)
    out.push(cylinder(dice.between(-38, -4), dice.between(-95, -22), dice.between(0.09, 0.16), dice.between(1.4, 3.4), mul(WOOD, 0.9)));
  out.push(hull([-3.4, 0.5, -12.5], 0.7, 0.22, [0.95, 0.8, 2.9]), hull([-15, 0.45, -44], -0.5, -0.2, [1.1, 0.9, 3.6]));
  out.push(
    headland(420, 46, 1, [0.1, 0.105, 0.06]),
    headland(900, 130, 3.4, [0.09, 0.11, 0.09]),
    headland(1500, 260, 5.2, [0.1, 0.12, 0.14]),
  );
  return treeOf(out);
}

function sky(d: V3): V3 {
  const up = Math.max(0, d[1]);
  const glow = Math.max(0, dot(d, SUN));
  const base = add(mul([0.62, 0.5, 0.4], Math.exp(-6 * up)), mul([0.2, 0.34, 0.56], 1 - Math.exp(-6 * up)));
  const cloud = Math.max(0, octaves((d[0] / (up + 0.12)) * 1.4 + 3, (d[2] / (up + 0.12)) * 0.9) - 0.48) * Math.min(1, 5 * up);
  const lit = add(mul([0.95, 0.8, 0.68], 1.1 * cloud), mul([1.15, 0.8, 0.48], 0.42 * glow ** 60 + 0.3 * glow ** 7));
  return add(mul(base, 1 - cloud), lit);
}

/** What a ray meets: light, and how far; Infinity for the sky. */
export function jettyRay(all: Tree, o: V3, d: V3, mirrored = false): { light: V3; t: number } {
  let t = d[1] < 0 ? -o[1] / d[1] : Infinity;
  // the flat ends at the headlands
  if (t * -d[2] > 1500) t = Infinity;
  let hit = met(all, o, d, t);
  if (hit) ({ t } = hit);
  if (t === Infinity) return { light: sky(d), t };
  const p = add(o, mul(d, t));
  if (!hit) {
    const pool = octaves(p[0] * 0.16 + 8, p[2] * 0.09);
    const wet = Math.min(1, Math.max(0, (pool - 0.5) * 14));
    const far = Math.min(1, 12 / t);
    const ripple = Math.sin(p[2] * 7 + 3 * noise2(p[0] * 0.7, p[2] * 0.7) + p[0] * 0.8) * 0.16 * far * (1 - wet);
    const n = unit([0.3 * ripple + 0.1 * far * (noise2(p[0] * 5, p[2] * 5) - 0.5) * (1 - wet), 1, ripple]);
    const grain = 0.75 + 0.35 * octaves(p[0] * 1.1, p[2] * 1.1) + 0.12 * (noise2(p[0] * 30, p[2] * 30) - 0.5) * far;
    hit = { t, n, base: mul([0.2, 0.165, 0.12], grain * (1 - 0.55 * wet)), wet: 0.1 + 0.75 * wet };
  }
  const facing = Math.max(0, dot(hit.n, SUN));
  const from = add(p, mul(hit.n, 2e-3 * Math.max(1, t * 0.01)));
  const shaded = facing > 0 && met(all, from, SUN, 1200, true) !== null;
  const ambient = add(mul([0.34, 0.4, 0.5], 0.55 + 0.45 * hit.n[1]), mul([0.25, 0.18, 0.12], 0.5 - 0.5 * hit.n[1]));
  let light = hit.base.map((b, k) => b * (ambient[k]! + (shaded ? 0 : facing * SUNLIGHT[k]!))) as V3;
  if (hit.wet > 0 && !mirrored) {
    const cos = Math.min(1, Math.max(0, -dot(d, hit.n)));
    const share = hit.wet * (0.04 + 0.96 * (1 - cos) ** 5);
    const r = sub(d, mul(hit.n, 2 * dot(d, hit.n)));
    if (r[1] > 0 && share > 0.004) light = add(mul(light, 1 - share), mul(jettyRay(all, from, unit(r), true).light, share));
  }
  return { light, t };
}

/** Places along each side of a pixel at which its colour is asked for, and where that differs by more than this, more of them. */
const [GRID, DIFFERS, FINE] = [2, 0.05, 5];

/** Direction through a place of the frame, pixels, and its part along the axis. */
function ray(x: number, y: number): { d: V3; axis: number } {
  const [w, h] = JETTY.size;
  const hy = Math.tan((JETTY.fieldOfView * Math.PI) / 360);
  const [a, b] = [((2 * x) / w - 1) * ((hy * w) / h), (1 - (2 * y) / h) * hy];
  const tilt = (JETTY.tilt * Math.PI) / 180;
  const d = unit([a, b * Math.cos(tilt) + Math.sin(tilt), b * Math.sin(tilt) - Math.cos(tilt)]);
  return { d, axis: d[1] * Math.sin(tilt) - d[2] * Math.cos(tilt) };
}

/** Depth along the axis through the middle of a pixel, m; Infinity for the sky. */
export function jettyDepth(all: Tree, x: number, y: number): number {
  const { d, axis } = ray(x + 0.5, y + 0.5);
  return jettyRay(all, [...JETTY.position], d, true).t * axis;
}
export const jettySolids = solids;

/** Light at places of a pixel. */
const lights = (all: Tree, x: number, y: number, grid: number): V3[] =>
  Array.from({ length: grid * grid }, (_, k) => {
    const { d } = ray(x + ((k % grid) + 0.5) / grid, y + (Math.floor(k / grid) + 0.5) / grid);
    return jettyRay(all, [...JETTY.position], d).light;
  });

/** The picture and its depth as PNG. */
export function buildJetty(): { picture: Uint8Array; depth: Uint8Array } {
  const [width, height] = JETTY.size;
  const all = solids();
  const colours = new Uint8Array(3 * width * height),
    depths = new Uint16Array(width * height);
  const [near, far] = JETTY.range;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      let seen = lights(all, x, y, GRID);
      const bright = seen.map(([r, g, b]) => Math.min(1, (r + g + b) / 3));
      if (Math.max(...bright) - Math.min(...bright) > DIFFERS) seen = lights(all, x, y, FINE);
      for (let k = 0; k < 3; k++) {
        const mean = seen.reduce((sum, light) => sum + Math.min(1, light[k]!), 0) / seen.length;
        colours[3 * i + k] = Math.round(255 * encode(mean));
      }
      const depth = jettyDepth(all, x, y);
      depths[i] = depth === Infinity ? 65535 : Math.min(65534, Math.round((65535 * (depth - near)) / (far - near)));
    }
  const png = (data: Uint8Array | Uint16Array, channels: 1 | 3, depth: 8 | 16): Uint8Array =>
    new Uint8Array(encodePng({ width, height, data, channels, depth }));
  return { picture: png(colours, 3, 8), depth: png(depths, 1, 16) };
}
