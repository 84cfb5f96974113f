/** Films as OpenEXR files of every layout: what they hold adds up, and other tools find it. */
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { groupFloat, pixelFloats, type Film } from "../film/film";
import { PASS_NAMES } from "../film/passes";
import { F_AIR, F_CLEAR_COUNT, F_COUNT, F_HITS, F_SURFACES, G_AIR, G_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { COMPRESSIONS, FILE_LAYOUTS } from "./depths";
import { readExr, readExrLayers } from "./exr-read";
import { filmToExr, filmToExrFiles, lensMatrices, rateOf, timeCodeOf } from "./film-exr";
import { filmFromExr } from "./picture";

const folder = mkdtempSync(join(tmpdir(), "fumarium-film-exr-"));
const doc = parseDocument({
  fumarium: 2,
  title: "Fog",
  time: 2.5,
  camera: { position: [3, 2, 9], target: [1, 1, 0], fieldOfView: 40, roll: 12 },
  film: { size: [20, 10] },
});

/** Light of two groups, and mattes, of 17 × 6 pixels with four samples each. */
function film(): Film {
  const extras = { lights: ["sun", "left lamp"], mattes: { object: ["a"], material: ["m"], medium: ["haze", "smoke"] } };
  const stride = pixelFloats(extras);
  const [width, height] = [17, 6];
  const out: Film = { data: new Float32Array(width * height * stride), stride, width, height, crop: [0, 0, width, height], ...extras };
  let seed = 5;
  const random = (): number => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;
  for (let i = 0; i < width * height; i++) {
    const p = i * stride;
    for (const count of [F_COUNT, F_HITS, F_CLEAR_COUNT]) out.data[p + count] = 4;
    for (let g = 0; g < 2; g++)
      for (let k = 0; k < 3; k++) {
        const [air, surfaces] = [Math.fround(random() * 100), Math.fround(random() * 1000)];
        out.data[p + groupFloat(out, g) + G_AIR + k] = air;
        out.data[p + groupFloat(out, g) + G_SURFACES + k] = surfaces;
        out.data[p + F_AIR + k]! += air;
        out.data[p + F_SURFACES + k]! += surfaces;
      }
    out.data.set([1, 4], p + PIXEL_FLOATS);
    // of media, behind objects and materials
    out.data.set([1, 1, 2, 0.5], p + PIXEL_FLOATS + 24);
  }
  return out;
}

describe("a film as OpenEXR", () => {
  const facts = { frame: 49, fps: 24, samples: 4 };

  it.each(COMPRESSIONS)("air and surfaces add up to the beauty, and groups to both, as Debian's tools read it: %s", (compression) => {
    for (const type of ["float", "half"] as const) {
      const file = join(folder, `sum-${compression}-${type}.exr`),
        plain = join(folder, `sum-${compression}-${type}-plain.exr`);
      writeFileSync(file, filmToExr(film(), PASS_NAMES, type, doc, facts, { compression }));
      execFileSync("exrmaketiled", ["-o", "-z", "none", "-t", "20", "10", file, plain]);
      const image = readExr(readFileSync(plain));
      const of = (name: string): Float32Array => image.channels.find((c) => c.name === name)!.values;
      // a half has eleven bits, of each number that is added one rounding
      const close = type === "half" ? 2 ** -11 : 2 ** -23;
      for (const band of "RGB") {
        const [whole, air, surfaces] = [band, `air.${band}`, `surfaces.${band}`].map(of) as [Float32Array, Float32Array, Float32Array];
        expect(Math.min(...whole)).toBeGreaterThan(0);
        for (let i = 0; i < whole.length; i++) {
          expect(Math.abs(air[i]! + surfaces[i]! - whole[i]!)).toBeLessThanOrEqual(2 * close * whole[i]!);
          for (const [side, sum] of [
            ["air", air],
            ["surfaces", surfaces],
          ] as const) {
            // prettier-ignore
            const parts = of(`${side}.sun.${band}`)[i]! + of(`${side}.left lamp.${band}`)[i]!;
            expect(Math.abs(parts - sum[i]!)).toBeLessThanOrEqual(2 * close * sum[i]!);
          }
        }
      }
      expect([...new Set(of("medium.haze.V"))]).toEqual([0.25]);
      expect([...new Set(of("medium.smoke.V"))]).toEqual([0.125]);
      expect([...new Set(of("samples.V"))]).toEqual([4]);
      // metres are too coarse in halves
      expect([...new Set(image.channels.filter((c) => /^(position|depth|height)/.test(c.name)).map((c) => c.type))]).toEqual(["float"]);
    }
  });

  it.each(FILE_LAYOUTS)("holds the same, as %s", (layout) => {
    const whole = readExr(filmToExr(film(), PASS_NAMES, "float", doc, facts));
    const files = filmToExrFiles(film(), PASS_NAMES, "float", doc, facts, { compression: "piz" }, layout);
    const wanted = whole.channels.filter(({ name }) => name !== "Z" || layout === "layers");
    if (layout === "files") {
      expect(files.slice(0, 3).map((f) => f.layer)).toEqual(["beauty", "clear", "air"]);
      expect(files.map((f) => f.layer)).toContain("air.left lamp");
      for (const { name, values } of wanted) {
        const dot = name.lastIndexOf(".");
        const one = readExr(files.find((f) => f.layer === (dot < 0 ? "beauty" : name.slice(0, dot)))!.bytes);
        expect(one.channels.find((c) => c.name === name.slice(dot + 1))!.values, name).toEqual(values);
        expect(one.attributes).toEqual(whole.attributes);
      }
      return;
    }
    expect(files.map((f) => f.layer)).toEqual([null]);
    const back = readExrLayers(files[0].bytes);
    expect(back.attributes).toEqual(whole.attributes);
    expect(new Set(back.channels.map((c) => c.name))).toEqual(new Set(wanted.map((c) => c.name)));
    for (const { name, values } of wanted) expect(back.channels.find((c) => c.name === name)!.values, name).toEqual(values);
    // and is a film again
    expect(filmFromExr(back)).toEqual(filmFromExr(whole));
    const file = join(folder, `${layout}.exr`);
    writeFileSync(file, files[0].bytes);
    const header = execFileSync("exrheader", [file], { encoding: "utf8" });
    expect(header).toMatch(/timeCode[^\n]*\n\s*time 00:00:02:01/);
    expect(header).toMatch(/framesPerSecond \(type rational\): 24\/1/);
    expect(header).toContain("worldToNDC (type m44f)");
    expect(header).toContain('fumarium.time (type string): "2.5 s"');
    if (layout === "parts") {
      execFileSync("exrmultipart", ["-separate", "-i", file, "-o", join(folder, "own")]);
      expect(readExr(readFileSync(join(folder, "own.1.exr"))).channels.map((c) => c.name)).toEqual(["A", "B", "G", "R"]);
    }
  });

  it("says rates as fractions, and times as digits", () => {
    expect([24, 25, 23.976, 29.97, 59.94, 12.5].map(rateOf)).toEqual([
      [24, 1],
      [25, 1],
      [24000, 1001],
      [30000, 1001],
      [60000, 1001],
      [12500, 1000],
    ]);
    // an hour, two minutes, three seconds and four frames
    expect(timeCodeOf(((60 + 2) * 60 + 3) * 25 + 4, 25)!.toString(16)).toBe("1020304");
    expect(timeCodeOf(39 * 24 + 23, 24)!.toString(16)).toBe("3923");
    expect(timeCodeOf(1, 120)).toBeNull();
  });
});

describe("the matrices of a lens", () => {
  const times = (p: readonly number[], m: readonly number[]): number[] =>
    [0, 1, 2, 3].map((column) => [...p, 1].reduce((sum, v, row) => sum + v * m[4 * row + column]!, 0));

  it.each([
    ["perspective", doc],
    ["orthographic", { ...doc, camera: { ...doc.camera, kind: "orthographic", height: 5 } }],
  ] as const)("have the target in the middle, right to the right and up at the top: %s", (_, given) => {
    const { worldToCamera, worldToNDC } = lensMatrices(given);
    const [x, y, z] = times([1, 1, 0], worldToCamera);
    // the distance of the two, on the axis
    expect([x, y]).toEqual([expect.closeTo(0, 9), expect.closeTo(0, 9)]);
    expect(z).toBeCloseTo(Math.hypot(2, 1, 9), 9);
    expect(times([3, 2, 9], worldToCamera)).toEqual([0, 0, 0, 1].map((v) => expect.closeTo(v, 9) as number));
    const frame = (p: readonly number[]): number[] => {
      const [a, b, , w] = times(p, worldToNDC) as [number, number, number, number];
      return [a / w, b / w];
    };
    expect(frame([1, 1, 0])).toEqual([expect.closeTo(0.5, 9), expect.closeTo(0.5, 9)]);
    // the lens is rolled a little, so up is up but not quite
    expect(frame([1, 1.5, 0])[1]).toBeLessThan(0.49);
    expect(frame([2, 1, 0])[0]).toBeGreaterThan(0.51);
  });
});
