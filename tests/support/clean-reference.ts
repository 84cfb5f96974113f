/**
 * The better filter of the clean-up once more, as docs/clean-up.md states it: a pixel at a time, in double precision, without tiles. For
 * films of some thousand pixels.
 */
import type { Film } from "#core/film/film";
import type { Side } from "#core/film/cleaned";
import {
  F_AIR,
  F_AIR_ODD,
  F_ALBEDO,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_CLEAR_ODD,
  F_CLEAR_SEEN,
  F_COUNT,
  F_DISTANCE,
  F_HITS,
  F_NORMAL,
  F_SEEN,
  F_SURFACES,
  F_SURFACES_ODD,
  F_TRANSMITTANCE,
} from "#core/layout/layout";

type V3 = [number, number, number];
interface Pixel {
  a: V3;
  b: V3;
  modulation: V3;
  seen: V3;
  share: number;
  first: V3;
  far: number;
  rest: V3 | null;
}
const three = (f: (k: number) => number): V3 => [f(0), f(1), f(2)];
const lum = (v: V3): number => 0.2126 * v[0] + 0.7152 * v[1] + 0.0722 * v[2];

/** Piecewise linear in the binary digits, as the filter takes it: what is compared needs no true logarithm. */
function logarithm(x: number): number {
  const bits = new Int32Array(new Float32Array([x]).buffer)[0]!;
  return ((bits - 0x3f800000) * 0.6931472) / 8388608;
}

export function gather(film: Film, side: Side, x: number, y: number): Pixel {
  const p = (y * film.width + x) * film.stride;
  const d = film.data;
  const clear = side === "clear";
  const n = d[p + (clear ? F_CLEAR_COUNT : F_COUNT)]!;
  const nB = Math.floor(n / 2),
    nA = n - nB;
  const sum = side === "air" ? F_AIR : clear ? F_CLEAR : F_SURFACES,
    odd = side === "air" ? F_AIR_ODD : clear ? F_CLEAR_ODD : F_SURFACES_ODD;
  const hits = d[p + F_HITS]!,
    counted = d[p + F_COUNT]!;
  const cover = counted > 0 ? Math.min(1, hits / counted) : 0;
  const mean = (at: number): V3 => three((k) => (hits > 0 ? d[p + at + k]! / hits : 0));
  const t = three((k) => (!clear && counted > 0 ? d[p + F_TRANSMITTANCE + k]! / counted : 1));
  const colour = mean(F_ALBEDO).map((c) => cover * c + 1 - cover) as V3;
  const modulation = three((k) => (side === "air" ? 1 : Math.max(1e-3, t[k]!) * Math.max(0.02, colour[k]!)));
  const seenAt = clear ? F_CLEAR_SEEN : F_SEEN;
  const seenSum = three((k) => (side === "air" ? 0 : d[p + seenAt + k]!));
  const a = three((k) => (d[p + sum + k]! - seenSum[k]! - d[p + odd + k]!) / (nA * modulation[k]!));
  const b = nB > 0 ? three((k) => d[p + odd + k]! / (nB * modulation[k]!)) : a;
  const distance = hits > 0 ? Math.min(1e4, d[p + F_DISTANCE]! / hits) : 0;
  const far = cover * logarithm(1 + distance) + (1 - cover) * logarithm(1 + 1e4);
  return {
    a,
    b,
    modulation,
    seen: seenSum.map((v) => v / n) as V3,
    share: nB / n,
    first: side === "air" ? (t.map((v) => v / 0.2) as V3) : (mean(F_NORMAL).map((v) => (cover * v) / 0.21) as V3),
    far: far / (side === "air" ? 0.28 : 0.15),
    rest: side === "air" ? null : (colour.map((v) => v / 0.0945) as V3),
  };
}

/** Pixels by which a frame is continued: what lies past its edge is what lies at it. */
const BEYOND = 20;

/** A side of a film, cleaned whole (strength 1): three bands and the square of the error, by pixel. Every pixel needs two samples. */
export function referenceClean(film: Film, side: Side): [number, number, number, number][] {
  const [w, h] = [film.width + 2 * BEYOND, film.height + 2 * BEYOND];
  const wide: Film = { ...film, width: w, height: h, data: new Float32Array(w * h * film.stride) };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [fx, fy] = [Math.max(0, Math.min(film.width - 1, x - BEYOND)), Math.max(0, Math.min(film.height - 1, y - BEYOND))];
      const from = (fy * film.width + fx) * film.stride;
      wide.data.set(film.data.subarray(from, from + film.stride), (y * w + x) * film.stride);
    }
  const all = cleanAll(wide, side);
  return Array.from({ length: film.width * film.height }, (_, i) => {
    const [x, y] = [i % film.width, Math.floor(i / film.width)];
    return all[(y + BEYOND) * w + x + BEYOND]!;
  });
}

function cleanAll(film: Film, side: Side): [number, number, number, number][] {
  const { width: w, height: h } = film;
  const clamp = (v: number, n: number): number => Math.max(0, Math.min(n - 1, v));
  const pixels = Array.from({ length: w * h }, (_, i) => gather(film, side, i % w, Math.floor(i / w)));
  const at = <T>(list: T[], x: number, y: number): T => list[clamp(y, h) * w + clamp(x, w)]!;
  const each = <T>(f: (x: number, y: number) => T): T[] => Array.from({ length: w * h }, (_, i) => f(i % w, Math.floor(i / w)));
  /** Mean of f over a box about a pixel; what is beyond the frame is what lies at its edge. */
  const box = (list: number[], x: number, y: number, r: number): number => {
    let s = 0;
    for (let j = -r; j <= r; j++) for (let i = -r; i <= r; i++) s += at(list, x + i, y + j);
    return s / (2 * r + 1) ** 2;
  };
  // outliers
  const [rawA, rawB] = [pixels.map((p) => lum(p.a)), pixels.map((p) => lum(p.b))];
  const third = (list: number[], x: number, y: number): number => {
    const around: number[] = [];
    for (let j = -2; j <= 2; j++) for (let i = -2; i <= 2; i++) around.push(at(list, x + i, y + j));
    return around.sort((p, q) => q - p)[2]!;
  };
  const limited = each((x, y) => {
    const around = Math.max(0, Math.min(third(rawA, x, y), third(rawB, x, y)));
    const [a, b] = [at(rawA, x, y), at(rawB, x, y)];
    const keep = (own: number, other: number): number => {
      const allowed = 1.5 * Math.max(around, other);
      return own > allowed ? allowed / own : 1;
    };
    const p = at(pixels, x, y);
    return { a: p.a.map((v) => keep(a, b) * v) as V3, b: p.b.map((v) => keep(b, a) * v) as V3 };
  });
  const [la, lb] = [limited.map((p) => lum(p.a)), limited.map((p) => lum(p.b))];
  const guide = each((x, y) => at(la, x, y) + at(pixels, x, y).share * (at(lb, x, y) - at(la, x, y)));
  const own = each((x, y) => {
    const s = at(pixels, x, y).share;
    return s * (1 - s) * (at(lb, x, y) - at(la, x, y)) ** 2;
  });
  const variance = each((x, y) => box(own, x, y, 2));
  // weights
  const patch = side === "air" ? 3 : 1;
  const filtered = each((x, y) => {
    const p = at(pixels, x, y);
    let weight = 0,
      fa = 0,
      fb = 0;
    const sum: V3 = [0, 0, 0];
    for (let dy = -5; dy <= 5; dy++)
      for (let dx = -5; dx <= 5; dx++) {
        let unlike = 0;
        for (let j = -patch; j <= patch; j++)
          for (let i = -patch; i <= patch; i++) {
            const [g, q] = [at(guide, x + i, y + j), at(guide, x + i + dx, y + j + dy)];
            const [v, u] = [at(variance, x + i, y + j), at(variance, x + i + dx, y + j + dy)];
            unlike += ((g - q) ** 2 - v - Math.min(v, u)) / (1e-6 * (g * g + q * q) + 1e-30 + 0.36 * (v + u));
          }
        unlike /= (2 * patch + 1) ** 2;
        const o = at(pixels, x + dx, y + dy);
        const apart = (a: V3, b: V3): number => a.reduce((s, c, k) => s + (c - b[k]!) ** 2, 0);
        let features = Math.max(apart(p.first, o.first), (p.far - o.far) ** 2);
        if (p.rest && o.rest) features = Math.max(features, apart(p.rest, o.rest));
        const alike = Math.min(1, 1 - Math.max(unlike, features) / 16);
        // what is less alike hardly counts
        const k = alike > 0.36 ? alike ** 16 : 0;
        const l = at(limited, x + dx, y + dy);
        weight += k;
        for (let c = 0; c < 3; c++) sum[c]! += k * (l.a[c]! + o.share * (l.b[c]! - l.a[c]!));
        fa += k * at(la, x + dx, y + dy);
        fb += k * at(lb, x + dx, y + dy);
      }
    return { sum: sum.map((v) => v / weight) as V3, fa: fa / weight, fb: fb / weight };
  });
  // the judgement
  const bright = each(
    (x, y) =>
      at(guide, x, y) ** 2 + ((at(filtered, x, y).fa + at(filtered, x, y).fb) / 2) ** 2 + ((at(lb, x, y) - at(la, x, y)) / 2) ** 2 + 1e-30,
  );
  const judged = (f: (x: number, y: number) => number): number[] => each((x, y) => f(x, y) / at(bright, x, y));
  const da = (x: number, y: number): number => at(filtered, x, y).fa - at(la, x, y);
  const db = (x: number, y: number): number => at(filtered, x, y).fb - at(lb, x, y);
  const explained = judged((x, y) => (at(lb, x, y) - at(la, x, y)) * (da(x, y) - db(x, y)));
  const apart = judged((x, y) => da(x, y) ** 2 + db(x, y) ** 2);
  const left = judged((x, y) => (at(filtered, x, y).fa - at(filtered, x, y).fb) ** 2 / 4);
  const squares = guide.map((g) => g * g);
  return each((x, y) => {
    const noise = Math.max(0, box(explained, x, y, 4) / 2);
    const rest = box(apart, x, y, 4) - noise;
    const relative = Math.sqrt(box(variance, x, y, 4) / (box(squares, x, y, 4) + 1e-30));
    const k = Math.max(Math.min(1, noise / Math.max(1e-30, rest)), Math.max(0, Math.min(1, (relative - 0.03) / 0.09)));
    const error = at(bright, x, y) * (k * k * (Math.max(0, rest - noise) + box(left, x, y, 4)) + (1 - k) ** 2 * noise);
    const p = at(pixels, x, y),
      l = at(limited, x, y),
      f = at(filtered, x, y);
    const light = three((c) => p.seen[c]! + p.modulation[c]! * ((1 - k) * (l.a[c]! + p.share * (l.b[c]! - l.a[c]!)) + k * f.sum[c]!));
    return [...light, lum(p.modulation) ** 2 * error];
  });
}
