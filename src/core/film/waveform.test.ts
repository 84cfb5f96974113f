import { expect, it } from "vitest";
import { waveform } from "./waveform";

it("a waveform counts each column's display values, a band at a time, of the crop alone", () => {
  const [width, height] = [8, 4];
  const pixels = new Uint8ClampedArray(4 * width * height).fill(255);
  // inside the crop red rises from column to column, green is 128, blue is black but for its last row
  for (let y = 1; y < 4; y++) for (let x = 2; x < 6; x++) pixels.set([64 * (x - 2), 128, y === 3 ? 255 : 0, 255], 4 * (y * width + x));
  const { columns, levels, shares } = waveform(pixels, width, [2, 1, 6, 4]);
  expect([columns, levels]).toEqual([4, 64]);
  const at = (band: number, column: number, level: number): number => shares[(band * columns + column) * levels + level]!;
  for (let c = 0; c < 4; c++) {
    expect(at(0, c, 16 * c)).toBe(1);
    expect(at(1, c, 32)).toBe(1);
    expect(at(2, c, 0)).toBeCloseTo(2 / 3, 6);
    expect(at(2, c, 63)).toBeCloseTo(1 / 3, 6);
  }
  expect(shares.reduce((a, v) => a + v)).toBeCloseTo(12, 5);
});
