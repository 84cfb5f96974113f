import { describe, expect, it } from "vitest";
import { filmChannels, filmFromExr } from "../formats/picture";
import { F_COUNT, F_HITS, F_LUMINANCE2, PIXEL_FLOATS } from "../layout/layout";
import { develop } from "./develop";
import { emptyFilm, passValues, type Film } from "./film";
import { channelsOf, isScalar, PASS_NAMES, passOfChannel, PASSES, type Pass } from "./passes";

/** A film of two pixels with another number in every sum. */
function film(): Film {
  const f = emptyFilm(2, 1);
  for (let i = 0; i < f.data.length; i++) f.data[i] = 0.01 + 0.003 * (i % 23);
  for (let p = 0; p < f.data.length; p += PIXEL_FLOATS) {
    for (const { source } of Object.values(PASSES)) if (source) f.data[p + source.count] = 2;
    f.data[p + F_COUNT] = 2;
    f.data[p + F_HITS] = 2;
    // more than the square of the mean: some noise
    f.data[p + F_LUMINANCE2] = 3;
  }
  return f;
}

describe("the table of passes", () => {
  it("gives every pass channels of its own, found again by name", () => {
    const all = PASS_NAMES.flatMap(channelsOf);
    expect(new Set(all).size).toBe(all.length);
    for (const pass of PASS_NAMES) channelsOf(pass).forEach((name, band) => expect(passOfChannel(name), name).toEqual({ pass, band }));
  });

  it("has no two sums in one place, and counts that are no sums", () => {
    // the height is the place's own
    expect(PASSES.height.source.sum).toBe(PASSES.position.source.sum + 1);
    const used = PASS_NAMES.filter((pass) => pass !== "height").flatMap((pass) => {
      const { source, bands }: Pass = PASSES[pass];
      return source ? [...bands].map((_, k) => source.sum + k) : [];
    });
    expect(new Set(used).size).toBe(used.length);
    for (const pass of PASS_NAMES) expect(used).not.toContain((PASSES[pass] as Pass).source?.count);
  });

  it("takes no light group's or matte's channel for a pass", () => {
    for (const name of ["air.sun.R", "surfaces.lamp.G", "object.column.V", "material.stone.V", "air", "V", "nothing.R", "depth.R"])
      expect(passOfChannel(name), name).toBeNull();
  });

  it("reads the layers of earlier versions by their old names", () => {
    expect(passOfChannel("glow.G")).toEqual({ pass: "emission", band: 1 });
    expect(passOfChannel("mist.V")).toEqual({ pass: "opacity", band: 0 });
    expect(passOfChannel("cost.V")).toEqual({ pass: "rays", band: 0 });
  });

  it.each(PASS_NAMES)("%s comes back from a file as it was, and is shown", (pass) => {
    const f = film();
    const back = filmFromExr({ width: 2, height: 1, channels: filmChannels(f, PASS_NAMES, "float") });
    const [a, b] = [passValues(f, pass), passValues(back, pass)];
    expect(a.length).toBe(isScalar(pass) ? 2 : 6);
    a.forEach((v, i) => expect(b[i]).toBeCloseTo(v, 5));
    const shown = new Uint8ClampedArray(8);
    develop(f, pass, { exposure: -4, whiteBalance: 6500 }, shown);
    expect(shown[3]).toBe(255);
    expect(shown[0]! + shown[1]! + shown[2]!).toBeGreaterThan(0);
  });
});
