import { expect, it } from "vitest";
import { FLAT_NORMAL } from "../layout/layout";
import { isFlat, normalCode } from "./normals";

/** As kernel/assembly/surface.ts unfolds it. */
function unfolded(code: number): [number, number, number] {
  let x = ((code << 16) >> 16) / 32767,
    y = (code >> 16) / 32767;
  const z = 1 - Math.abs(x) - Math.abs(y);
  if (z < 0) [x, y] = [(1 - Math.abs(y)) * (x >= 0 ? 1 : -1), (1 - Math.abs(x)) * (y >= 0 ? 1 : -1)];
  const l = Math.hypot(x, y, z);
  return [x / l, y / l, z / l];
}

it("a folded normal comes back within 0.004 degrees, from every side", () => {
  let worst = 0;
  for (let i = 0; i < 20000; i++) {
    const y = 1 - (2 * (i + 0.5)) / 20000,
      phi = 2.399963 * i,
      r = Math.sqrt(1 - y * y);
    const n = [r * Math.cos(phi), y, r * Math.sin(phi)] as const;
    const m = unfolded(normalCode(...n));
    const cross = Math.hypot(n[1] * m[2] - n[2] * m[1], n[2] * m[0] - n[0] * m[2], n[0] * m[1] - n[1] * m[0]);
    worst = Math.max(worst, cross);
    expect(n[0] * m[0] + n[1] * m[1] + n[2] * m[2]).toBeGreaterThan(0.99);
  }
  expect((Math.asin(worst) * 180) / Math.PI).toBeLessThan(0.004);
  for (const axis of [
    [1, 0, 0],
    [-1, 0, 0],
    [0, 1, 0],
    [0, -1, 0],
    [0, 0, 1],
    [0, 0, -1],
  ] as [number, number, number][])
    unfolded(normalCode(...axis)).forEach((v, k) => expect(v).toBeCloseTo(axis[k]!, 12));
});

it("no direction, and that of the face, are told apart from others", () => {
  expect(normalCode(0, 0, 0)).toBe(FLAT_NORMAL);
  expect(normalCode(NaN, 0, 1)).toBe(FLAT_NORMAL);
  expect(isFlat(new Float32Array([0, 0, 1]), 0, [0, 0, 5])).toBe(true);
  expect(isFlat(new Float32Array([0, 0.01, 1]), 0, [0, 0, 5])).toBe(false);
});
