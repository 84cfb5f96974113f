import { describe, expect, it } from "vitest";
import type { Section } from "#core/section/probe";
import { fateAt } from "../drawings/section/FateChart";
import { drawSection, paintSection } from "./section-paint";

const [COLUMNS, ROWS] = [4, 3];

/** A section of white air whose extinction rises from the left to the right column. */
function section(max: number, lit: number[] | null, colour: [number, number, number] = [1, 1, 1]): Section {
  const field = new Float32Array(4 * COLUMNS * ROWS);
  for (let i = 0; i < COLUMNS * ROWS; i++) {
    const sigma = (max * (i % COLUMNS)) / (COLUMNS - 1);
    field.set([...colour.map((c) => c * sigma), sigma], 4 * i);
  }
  return {
    columns: COLUMNS,
    rows: ROWS,
    window: [0, 0, 10, 5],
    field,
    densest: max,
    lit: lit && { columns: COLUMNS, rows: ROWS, values: Float32Array.from(lit) },
  } as unknown as Section;
}
function paint(s: Section): Uint8ClampedArray {
  const pixels = new Uint8ClampedArray(4 * COLUMNS * ROWS);
  paintSection(s, COLUMNS, ROWS, pixels);
  return pixels;
}
const pixel = (d: Uint8ClampedArray, x: number, y: number): number[] => [...d.subarray(4 * (y * COLUMNS + x), 4 * (y * COLUMNS + x) + 3)];

describe("the picture of a section", () => {
  it("is brighter where the air is denser, the same in every row, and dark where there is none", () => {
    const d = paint(section(0.3, null));
    const row = [0, 1, 2, 3].map((x) => pixel(d, x, 1)[0]!);
    for (let x = 1; x < 4; x++) expect(row[x]).toBeGreaterThan(row[x - 1]!);
    expect(pixel(d, 2, 0)).toEqual(pixel(d, 2, 2));
    expect(new Set(pixel(d, 0, 1)).size).toBe(1);
    expect(row[0]).toBeLessThan(40);
  });

  it("is tinted by what the air glows with, and dark where it only absorbs", () => {
    const [r, , b] = pixel(paint(section(0.3, null, [1, 0.3, 0.1])), 3, 1) as [number, number, number];
    expect(r).toBeGreaterThan(b + 10);
    expect(pixel(paint(section(0.3, null, [0, 0, 0])), 3, 1)[0]).toBeLessThan(pixel(paint(section(0.3, null)), 3, 1)[0]!);
  });

  it("is warm where lamps light it, with the lowest row of cells at the bottom", () => {
    // the lowest row alone is lit
    const d = paint(section(0.3, [5, 5, 5, 5, 0, 0, 0, 0, 0, 0, 0, 0]));
    const [r, , b] = pixel(d, 3, ROWS - 1) as [number, number, number];
    expect(r).toBeGreaterThan(b + 10);
    expect(pixel(d, 3, 0)[0]).toBe(pixel(d, 3, 0)[2]);
  });
});

describe("what is known at a distance", () => {
  // two pieces of 5 m: depth 0.5 each, one lamp that gives 2 then 6 cd/m²
  const fate = {
    far: 10,
    pieces: 2,
    end: null,
    depths: Float64Array.from([0, 0, 0, 0.5, 0.5, 0.5, 1, 1, 1]),
    gains: [{ name: "lamp", values: Float64Array.from([2, 2, 2, 6, 6, 6]), total: 8 }],
    marks: [null, null, null] as [null, null, null],
  };
  it("is the transmittance, what was scattered in so far, and its share of all", () => {
    expect(fateAt(fate, 5)).toMatchObject({ share: 0.25 });
    expect(fateAt(fate, 5)!.transmittance).toBeCloseTo(Math.exp(-0.5), 9);
    expect(fateAt(fate, 7.5)!.scatteredIn).toBeCloseTo(5, 9);
    expect(fateAt(fate, 10)).toMatchObject({ share: 1 });
    expect(fateAt(fate, 10)!.transmittance).toBeCloseTo(Math.exp(-1), 9);
    expect(fateAt(fate, 11)).toBeNull();
    expect(fateAt(fate, -1)).toBeNull();
  });
});

describe("what is drawn of a section", () => {
  it("lines of equal density run where the density says, and the cut from edge to edge of the window", () => {
    const s = { ...section(1, null), scale: "even", cut: Float32Array.from([0, 0, 10, 5]) } as Section;
    const drawn = drawSection(s, [8, 6]);
    expect(drawn.picture).toMatchObject({ width: 8, height: 6 });
    expect(drawn.cutPath).toBe("M0.00000 1.00000L1.00000 0.00000");
    // density rises from 0 in the middle of the first column to 1 in that of the last: half of it at two columns
    const half = drawn.contours.find((c) => c.share === 0.5)!;
    expect(half.label![0]).toBeCloseTo(2, 6);
    expect(half.path).toMatch(/^M/);
    expect(drawSection({ ...s, densest: 0 }, [2, 2]).contours).toEqual([]);
  });
});
