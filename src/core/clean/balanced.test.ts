import { expect, it } from "vitest";
import { F_AIR, F_AIR_ODD, F_SEEN, F_SURFACES, F_SURFACES_ODD, G_AIR, G_SEEN, G_SURFACES } from "../layout/layout";
import { groupFloat, pixelFloats } from "../film/film";
import { balanceRow } from "./balanced";

it("a balanced row holds the gained sums, and halves that stand to them as they did", () => {
  const extras = { lights: ["a", "b"], mattes: null };
  const stride = pixelFloats(extras);
  const row = new Float32Array(2 * stride);
  for (let p = 0; p < row.length; p += stride)
    for (let k = 0; k < 3; k++) {
      [2, 6].forEach((v, g) => {
        const at = p + groupFloat(extras, g) + k;
        row[at + G_AIR] = v;
        row[at + G_SURFACES] = 10 * v;
        row[at + G_SEEN] = v;
      });
      row[p + F_AIR + k] = 8;
      row[p + F_AIR_ODD + k] = 5;
      row[p + F_SURFACES + k] = 80;
      row[p + F_SEEN + k] = 8;
      row[p + F_SURFACES_ODD + k] = 30;
    }
  balanceRow(row, stride, {
    first: groupFloat(extras, 0),
    air: [
      [2, 1, 0],
      [0.5, 1, 0],
    ],
    surfaces: [
      [1, 1, 1],
      [0, 1, 1],
    ],
  });
  for (const p of [0, stride]) {
    expect([0, 1, 2].map((k) => row[p + F_AIR + k])).toEqual([7, 8, 0]);
    expect([0, 1, 2].map((k) => row[p + F_AIR_ODD + k])).toEqual([(5 * 7) / 8, 5, 0]);
    expect([0, 1, 2].map((k) => row[p + F_SURFACES + k])).toEqual([20, 80, 80]);
    expect([0, 1, 2].map((k) => row[p + F_SEEN + k])).toEqual([2, 8, 8]);
    expect(row[p + F_SURFACES_ODD]).toBeCloseTo((30 * 18) / 72, 5);
  }
});
