import { describe, expect, it } from "vitest";
import type { Wedge, WedgeSpec } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { cellCount, checkWedge, documentAt, missingCells, valuesAt, wedgeValues } from "./wedge-values";

const doc = parseDocument({ fumarium: 2, air: [{ name: "haze", density: 0.02, anisotropy: 0.5 }] });
const density = { setting: '["air","haze","density"]', values: [0.01, 0.02, 0.04] };
const g = { setting: '["air","haze","anisotropy"]', values: [0, 0.8] };
const spec: WedgeSpec = { first: density, second: g, samples: 4, width: 64, part: null };

describe("values of a wedge", () => {
  it("go from one end to the other by even steps, or by factors", () => {
    expect(wedgeValues(0, 1, 5, "linear")).toEqual([0, 0.25, 0.5, 0.75, 1]);
    expect(wedgeValues(0.01, 0.16, 5, "factors")).toEqual([0.01, 0.02, 0.04, 0.08, 0.16]);
    expect(wedgeValues(-1, -100, 3, "factors")).toEqual([-1, -10, -100]);
    expect(wedgeValues(8, 2, 3, "factors")).toEqual([8, 4, 2]);
    // both ends as they were asked for
    expect(wedgeValues(1 / 3, 2 / 3, 2, "linear")).toEqual([1 / 3, 2 / 3]);
  });

  it.each([
    [0, 1, 3, "factors", /one side of zero/],
    [1, 1, 3, "linear", /the same/],
    [0, 1, 1, "linear", /2 to 12/],
    [0, 1, 2.5, "linear", /2 to 12/],
    [NaN, 1, 3, "linear", /no numbers/],
  ] as const)("from %s to %s, %s of them, %s: refused in words", (from, to, count, by, words) => {
    expect(() => wedgeValues(from, to, count, by)).toThrow(words);
  });
});

describe("pictures of a wedge", () => {
  it("have each value of the one setting with each of the other", () => {
    expect(cellCount(spec)).toBe(6);
    expect([0, 2, 3, 5].map((at) => valuesAt(spec, at))).toEqual([[0.01, 0], [0.04, 0], [0.01, 0.8], [0.04, 0.8]]); // prettier-ignore
    const at = documentAt(doc, spec, 5);
    expect(at.air[0]).toEqual({ ...doc.air[0], density: 0.04, anisotropy: 0.8 });
    expect({ ...at, air: [] }).toEqual({ ...doc, air: [] });
    const wedge: Wedge = {
      id: "w",
      spec,
      ended: false,
      createdAt: 0,
      cells: [{ at: 1, picture: "", seconds: 1, samples: 4, noise: null }],
    };
    expect(missingCells(wedge)).toEqual([0, 2, 3, 4, 5]);
  });

  it("that the document cannot show are refused before any is made", () => {
    expect(() => checkWedge(doc, spec)).not.toThrow();
    expect(() => checkWedge(doc, { ...spec, second: { ...g, values: [0, 2] } })).toThrow(/anisotropy/);
    expect(() => checkWedge(doc, { ...spec, second: density })).toThrow(/same/);
    expect(() => checkWedge({ ...doc, air: [] }, spec)).toThrow(/no such setting/);
    const many = Array.from({ length: 9 }, (_, i) => 0.01 + 0.01 * i);
    expect(() => checkWedge(doc, { ...spec, first: { ...density, values: many }, second: { ...g, values: many } })).toThrow(/81 pictures/);
  });
});
