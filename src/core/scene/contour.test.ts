import { expect, it } from "vitest";
import type { V3 } from "../math/vectors";
import { contourOf } from "./contour";

/** Corners of a box's triangles, all faces outwards, their squares cut once. */
function box(half: number): Float32Array {
  const out: number[] = [];
  for (const k of [0, 1, 2])
    for (const side of [-1, 1]) {
      const at = (u: number, v: number): V3 => {
        const p: V3 = [0, 0, 0];
        p[k] = side * half;
        p[(k + 1) % 3] = u * half;
        p[(k + 2) % 3] = v * half;
        return p;
      };
      const [a, b, c, d] = [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)];
      const faces = side > 0 ? [a, b, c, a, c, d] : [a, c, b, a, d, c];
      out.push(...faces.flat());
    }
  return new Float32Array(out);
}

/** A ball of flat faces, fine enough to have no sharp edge. */
function ball(n: number): Float32Array {
  const at = (i: number, j: number): V3 => {
    const [t, p] = [(Math.PI * i) / n, (2 * Math.PI * (j % (2 * n))) / (2 * n)];
    return [Math.sin(t) * Math.cos(p), Math.cos(t), -Math.sin(t) * Math.sin(p)];
  };
  const out: number[] = [];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < 2 * n; j++)
      out.push(...[at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1)].flat());
  return new Float32Array(out);
}

const segments = (lines: readonly number[]): [V3, V3][] =>
  Array.from({ length: lines.length / 6 }, (_, i) => [lines.slice(6 * i, 6 * i + 3) as V3, lines.slice(6 * i + 3, 6 * i + 6) as V3]);

it("a box shows its twelve edges and no diagonal, from anywhere", () => {
  for (const eye of [null, { from: [3, 2, 5] as V3 }, { along: [0, 0, -1] as V3 }]) {
    const lines = segments(contourOf(box(1), eye));
    expect(lines).toHaveLength(12);
    for (const [a, b] of lines) expect(Math.hypot(...a.map((v, k) => v - b[k]!))).toBeCloseTo(2, 6);
  }
});

it("a ball shows the circle where it turns from the eye", () => {
  // along the three axes together: three circles about the middle
  const rings = segments(contourOf(ball(48), null));
  expect(rings.length).toBeGreaterThan(3 * 80);
  for (const [a, b] of rings) expect(Math.min(...a.map((v, k) => Math.max(Math.abs(v), Math.abs(b[k]!))))).toBeLessThan(0.08);
  // seen from 2 radii away, the circle lies at half a radius towards the eye
  const near = segments(contourOf(ball(48), { from: [0, 0, 2] }));
  expect(near.length).toBeGreaterThan(40);
  for (const [a] of near) expect(Math.abs(a[2] - 0.5)).toBeLessThan(0.1);
  for (const [a] of segments(contourOf(ball(48), { along: [0, 0, -1] }))) expect(Math.abs(a[2])).toBeLessThan(0.1);
});

it("an open mesh shows where it ends; triangles without an area count for nothing", () => {
  const bottomless = box(1).slice(0, 9 * 10);
  expect(segments(contourOf(bottomless, null)).length).toBe(12);
  expect(contourOf(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0]), null)).toHaveLength(18);
});

it("of very many segments the longest are kept", () => {
  const many: number[] = [];
  for (let i = 0; i < 5000; i++) many.push(3 * i, 0, 0, 3 * i + (i < 10 ? 2 : 1), 0, 0, 3 * i, 1, 0);
  const lines = segments(contourOf(new Float32Array(many), null));
  expect(lines).toHaveLength(4000);
  expect(lines.filter(([a, b]) => Math.hypot(...a.map((v, k) => v - b[k]!)) > 2)).toHaveLength(10);
});
