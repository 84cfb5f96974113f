import { describe, expect, it } from "vitest";
import { InputError } from "#core/errors";
import { fileNameOf, frameCount, frameName, frameRange, framesOf, frameTime, layerFileName } from "./numbers";

describe("frames", () => {
  it("are one, from one to another, or every few of them", () => {
    expect(framesOf(frameRange("7", "--frames"))).toEqual([7]);
    expect(framesOf(frameRange("0-3", "--frames"))).toEqual([0, 1, 2, 3]);
    expect(framesOf(frameRange("1-8x3", "--frames"))).toEqual([1, 4, 7]);
    expect(frameCount(frameRange("1-200000", "--frames"))).toBe(200000);
  });

  it.each(["", "a", "1-", "-3", "5-2", "1-9x0", "0-9999999", "1.5", "1-2x3x4", "12345678"])("are refused with words as %j", (text) => {
    expect(() => frameRange(text, "--frames")).toThrow(InputError);
    expect(() => frameRange(text, "--frames")).toThrow(/--frames/);
  });

  it("stand by their number over the rate, from the document's moment on", () => {
    expect(frameTime(0, 48, 24)).toBe(2);
    expect(frameTime(1.5, 12, 24)).toBe(2);
  });
});

it.each([
  ["out/fog.exr", 7, "out/fog.0007.exr"],
  ["fog.exr", 12345, "fog.12345.exr"],
  ["fog_######.png", 7, "fog_000007.png"],
  ["a#b/fog##-##.exr", 7, "a#b/fog##-07.exr"],
  ["fog", 3, "fog.0003"],
  [".fog", 3, ".fog.0003"],
])("a frame of %s is put into its name", (pattern, frame, name) => {
  expect(frameName(pattern, frame)).toBe(name);
});

it("a layer's name is cut where a file's could not hold it", () => {
  const name = fileNameOf("fog.exr", 7, `surfaces.${"霧".repeat(66)}`);
  expect(name).toMatch(/^fog\.surfaces\.霧+\.0007\.exr$/);
  expect(Buffer.byteLength(fileNameOf(`${"f".repeat(100)}.exr`, 9_999_999, "x".repeat(210)))).toBeLessThanOrEqual(255);
});

it.each([
  ["out/fog.exr", "air", "out/fog.air.exr"],
  ["fog.####.exr", "air.sun", "fog.air.sun.####.exr"],
  ["fog_##.exr", "air", "fog_.air.##.exr"],
  ["fog", "air", "fog.air"],
  ["a.b/fog", "air", "a.b/fog.air"],
  ["####.exr", "air", "air.####.exr"],
  ["fog.exr", "object.a/b:c", "fog.object.a_b_c.exr"],
  ["fog.exr", null, "fog.exr"],
])("the name %s of a layer %s stands before the number, or the ending", (pattern, layer, name) => {
  expect(layerFileName(pattern, layer)).toBe(name);
});
