import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { formOf, framesToTry, orderOf, pixelsOf, sideText } from "./form";

const form = formOf(parseDocument({ fumarium: 2, title: "Fog, at sea", film: { size: [640, 360] }, render: { samples: 64 } }));

describe("the order of a final", () => {
  it("asks for what the document has, where nothing is typed", () => {
    expect(orderOf(form)).toMatchObject({
      size: [640, 360],
      samples: 64,
      frames: null,
      noise: null,
      seconds: null,
      level: null,
      airBounces: null,
      airSize: null,
      estimator: null,
      whole: false,
      name: "fog-at-sea",
      file: { ending: ".exr", depth: "half", layout: "layers", compression: "zip", masks: [] },
    });
  });

  it("takes sizes of prints: 30 × 20 cm at 254 dots an inch are 3000 × 2000 pixels", () => {
    const print = { ...form, unit: "cm", dpi: "254", width: "30", height: "20,0" } as const;
    expect(orderOf(print)).toMatchObject({ size: [3000, 2000], file: { dpi: 254 } });
    expect(orderOf({ ...print, unit: "in", dpi: "100", width: "8.5", height: "11" }).size).toEqual([850, 1100]);
    expect(sideText(print, 3000)).toBe("30");
    expect(sideText({ unit: "px", dpi: "x" }, pixelsOf(print, "30"))).toBe("3000");
    expect(() => orderOf({ ...print, width: "3000" })).toThrow(/Width: 300000 pixels/);
    expect(() => orderOf({ ...print, dpi: "" })).toThrow(/Width|Dots/);
  });

  it("has masks with a PNG or TIFF alone, and says what is wrong with them", () => {
    const masked = { ...form, ending: ".tif", depth: "16", maskDepth: true, near: "2", far: "40", maskAir: true } as const;
    expect(orderOf(masked).file.masks).toEqual([{ of: "depth", near: 2, far: 40 }, { of: "air" }]);
    expect(orderOf({ ...masked, ending: ".exr", depth: "half" }).file.masks).toEqual([]);
    expect(() => orderOf({ ...masked, far: "1" })).toThrow(/Far: 1/);
  });

  it.each([
    [{ samples: "many" }, /Samples: many/],
    [{ noise: "0" }, /Noise: 0/],
    [{ airBounces: "0" }, /Bounces in air: 0/],
    [{ surfaceBounces: "1.5" }, /Bounces off surfaces: 1\.5/],
    [{ many: true, from: "" }, /From: is missing/],
    [{ height: "" }, /Height: is missing/],
  ] as const)("says what is typed wrongly: %o", (typed, words) => {
    expect(() => orderOf({ ...form, ...typed })).toThrow(words);
  });
});

describe("frames that are tried", () => {
  it("are the first, the middle and the last, each once, at their moments", () => {
    expect(framesToTry({ from: 0, to: 48, step: 1 }, 24, 0.5)).toEqual([
      { frame: 0, time: 0.5 },
      { frame: 24, time: 1.5 },
      { frame: 48, time: 2.5 },
    ]);
    // the last one that is rendered: 1, 6, 11
    expect(framesToTry({ from: 1, to: 12, step: 5 }, 25, 0).map((f) => f.frame)).toEqual([1, 6, 11]);
    expect(framesToTry({ from: 3, to: 3, step: 1 }, 24, 0).map((f) => f.frame)).toEqual([3]);
  });
});
