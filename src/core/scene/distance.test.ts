import { expect, it } from "vitest";
import { squaredDistance } from "./distance";

type V3 = [number, number, number];
const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

/** Squared distance to a stretch of a line. */
function toEdge(p: V3, a: V3, b: V3): number {
  const [d, e] = [sub(b, a), sub(p, a)];
  const t = dot(d, d) > 0 ? Math.max(0, Math.min(1, dot(d, e) / dot(d, d))) : 0;
  const away = sub(e, [t * d[0], t * d[1], t * d[2]]);
  return dot(away, away);
}
/** The same by another way: the least of three edges, or the height over the plane where the foot is on the inner side of each edge. */
function byEdges(p: V3, a: V3, b: V3, c: V3): number {
  const least = Math.min(toEdge(p, a, b), toEdge(p, b, c), toEdge(p, c, a));
  const n = cross(sub(b, a), sub(c, a));
  const inside = [[a, b] as const, [b, c] as const, [c, a] as const].every(([u, v]) => dot(cross(n, sub(v, u)), sub(p, u)) >= 0);
  return inside && dot(n, n) > 0 ? Math.min(least, dot(n, sub(p, a)) ** 2 / dot(n, n)) : least;
}

it("is the distance to the nearest point of a triangle, of needles and of points too", () => {
  let seed = 11;
  const random = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647 - 0.5;
  const vector = (): V3 => [random(), random(), random()].map(Math.fround) as V3;
  const regions = new Set<boolean>();
  for (let k = 0; k < 4000; k++) {
    const a = vector();
    const b = k % 10 === 0 ? a : vector();
    const c = k % 20 === 0 ? a : k % 15 === 0 ? (a.map((v, i) => Math.fround((v + b[i]!) / 2)) as V3) : vector();
    const p = vector();
    const is = squaredDistance(new Float32Array([9, 9, 9, ...a, ...b, ...c]), 3, ...p);
    const expected = byEdges(p, a, b, c);
    expect(Math.abs(Math.sqrt(is) - Math.sqrt(expected)), JSON.stringify([p, a, b, c])).toBeLessThan(2e-6);
    regions.add(expected < Math.min(toEdge(p, a, b), toEdge(p, b, c), toEdge(p, c, a)));
  }
  expect(regions.size).toBe(2);
});
