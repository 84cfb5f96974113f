import { describe, expect, it } from "vitest";
import { classesLeft, largestFirst } from "./by-area";

/** Right triangles with legs of the lengths given, one beside the other, coloured by their number. */
function triangles(legs: readonly number[]): { positions: Float32Array; colours: Uint8Array } {
  return {
    positions: Float32Array.from(legs.flatMap((leg, i) => [10 * i, 0, 0, 10 * i + leg, 0, 0, 10 * i, 0, leg])),
    colours: Uint8Array.from(legs.flatMap((_, i) => new Array<number>(9).fill(i))),
  };
}

describe("triangles by size", () => {
  it("come largest first, none lost, each with its colour", () => {
    const legs = Array.from({ length: 97 }, (_, i) => 0.01 * 1.1 ** ((i * 37) % 97));
    const { positions, colours } = triangles(legs);
    const out = largestFirst(positions, colours);
    expect(out.classes.reduce((a, n) => a + n)).toBe(97);
    const numbers = legs.map((_, n) => out.colours[9 * n]!);
    expect([...numbers].sort((a, b) => a - b)).toEqual(legs.map((_, i) => i));
    numbers.forEach((i, n) => {
      // Float32 places: the first corner says which triangle it is
      expect(out.positions[9 * n]).toBe(10 * i);
      // a class spans a factor of two in area
      if (n > 0) expect(legs[i]! ** 2).toBeLessThanOrEqual(2.001 * legs[numbers[n - 1]!]! ** 2);
    });
    expect(largestFirst(new Float32Array(0), new Uint8Array(0)).positions.length).toBe(0);
  });

  it("are sorted by what they measure where they stand", () => {
    const { positions, colours } = triangles([1]);
    const [asMade, shrunk] = [1, 0.5].map((scale) => largestFirst(positions, colours, scale).classes.findIndex((n) => n > 0));
    expect(shrunk! - asMade!).toBe(2);
  });

  it("of equal size are spread over the shape, however few are drawn", () => {
    const { positions, colours } = triangles(new Array<number>(200).fill(1));
    const out = largestFirst(positions, colours);
    const first = Array.from({ length: 10 }, (_, n) => out.positions[9 * n]! / 10).sort((a, b) => a - b);
    for (let n = 1; n < 10; n++) expect(first[n]! - first[n - 1]!).toBeLessThan(50);
  });

  it("a degenerate triangle is among the smallest", () => {
    const { positions, colours } = triangles([0, 1]);
    expect(largestFirst(positions, colours).colours[0]).toBe(1);
  });

  it("of a shape drawn in part keep their classes in proportion", () => {
    const leaves = [...new Array<number>(20).fill(0), 600, 400, ...new Array<number>(26).fill(0)];
    expect(classesLeft(leaves, 100).slice(20, 22)).toEqual([60, 40]);
    expect(classesLeft(leaves, 5000)).toEqual(leaves);
    expect(classesLeft([3, 3, 3], 4).reduce((a, n) => a + n)).toBe(4);
  });
});
