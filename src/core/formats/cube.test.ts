import { describe, expect, it } from "vitest";
import { LutReader, lutTexture, type Lut } from "../data/lut";
import { finishSchema } from "../document/finish";
import { Finisher, NO_FINISH } from "../film/finish";
import { CUBE_LIMITS, readCube, writeCube } from "./cube";
import { finishToCube, lightOfInput } from "./look-cube";

/** A cube of 2 as other programs write it: in the standard's own order, with all that may stand about it. */
const SWAPPED = `# red and blue change places
TITLE "swap"
LUT_3D_SIZE 2
DOMAIN_MIN 0.0 0.0 0.0
DOMAIN_MAX 1.0 1.0 1.0

0 0 0
0 0 1
0 1 0
0 1 1
1 0 0
1 0 1
1 1.0 0
  1 1 1e0
`;
const look = (lut: Lut, r: number, g: number, b: number): number[] => {
  const reader = new LutReader(lut);
  reader.look(r, g, b);
  return [...reader.out];
};
const close = (a: readonly number[], b: readonly number[], digits = 6): void => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, digits));

describe("look-up tables", () => {
  it("run with red fastest, and are straight between their places", () => {
    const lut = readCube(SWAPPED, "swap.cube", "x");
    for (const [r, g, b] of [
      [0, 0, 0],
      [1, 0, 0],
      [0.2, 0.7, 0.4],
      [0.9, 0.1, 0.5],
      [0.3, 0.3, 0.3],
      [0.5, 0.9, 0.9],
      [0.1, 0.2, 0.8],
    ] as const)
      // prettier-ignore
      close(look(lut, r, g, b), [b, g, r]);
    // past the ends
    close(look(lut, -3, 2, 0.5), [0.5, 1, 0]);
  });

  it("of curves look each band up by itself, within their domain", () => {
    const lut = readCube("LUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 1 1\n0 1 0\n0.5 0.5 0.1\n1 0 0.9\r\n", "c.cube", "x");
    close(look(lut, 1, 0.25, 0.75), [0.5, 0.75, 0.5]);
    close(look(lut, 0.5, 0, 1), [0.25, 1, 0.9]);
  });

  it("keep greys and a linear change of colours to the last digit, whatever their size", () => {
    const text = writeCube("t", [], (r, g, b) => [0.5 * r + 0.1, 0.2 * r + 0.7 * g, b], 5);
    const lut = readCube(text, "t", "x");
    for (let i = 0; i < 50; i++) {
      const [r, g, b] = [(i * 0.37) % 1, (i * 0.61) % 1, (i * 0.83) % 1];
      close(look(lut, r, g, b), [0.5 * r + 0.1, 0.2 * r + 0.7 * g, b], 5);
    }
  });

  it.each([
    ["nothing", "", /holds no table/],
    ["colours before the size", "0 0 0", /line 1: colours before/],
    ["a size that is none", "LUT_3D_SIZE two", /line 1: "two" is no number/],
    ["a huge size", "\n\nLUT_3D_SIZE 256\n", /line 3: the size must be whole, from 2 to 65/],
    ["a size of one", "LUT_1D_SIZE 1", /from 2 to/],
    ["a broken size", "LUT_3D_SIZE 2.5", /whole/],
    ["two sizes", "LUT_3D_SIZE 2\nLUT_1D_SIZE 2", /line 2: a second size/],
    ["too few colours", "LUT_1D_SIZE 3\n0 0 0\n1 1 1\n", /2 colours, where a table of 3 has 3: the file is cut short/],
    ["too many colours", "LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1", /line 4: more than the 2 colours/],
    ["a colour of two", "LUT_1D_SIZE 2\n0 0\n1 1 1", /line 2: 3 numbers are needed/],
    ["no number", "LUT_1D_SIZE 2\n0 0 nan\n1 1 1", /line 2: "nan" is no number/],
    ["endless numbers", "LUT_1D_SIZE 2\n0 0 1e999\n1 1 1", /line 2: "1e999" is no number/],
    ["another format", "<xml>", /line 1: "<xml>" is neither/],
    ["a domain without width", "LUT_1D_SIZE 2\nDOMAIN_MAX 0 1 1\n0 0 0\n1 1 1", /DOMAIN_MAX must lie above/],
  ])("a file with %s is refused with the place", (_, text, said) => {
    expect(() => readCube(text, "bad.cube", "x")).toThrow(said);
  });

  it("a file that is too long is refused before it is read", () => {
    expect(() => readCube(" ".repeat(CUBE_LIMITS.bytes + 1), "long.cube", "x")).toThrow(/more than/);
  });

  it("as textures hold the same colours", () => {
    const cube = lutTexture(readCube(SWAPPED, "s", "x"));
    expect([cube.width, cube.height]).toEqual([2, 4]);
    expect([...cube.texels.subarray(4, 8)]).toEqual([0, 0, 1, 0]);
    const curve = lutTexture(readCube("LUT_1D_SIZE 2\n0 0 0\n1 0.5 0\n", "c", "x"));
    expect(curve.height).toBe(1);
    expect(curve.texels[4 * 512]).toBeCloseTo(512 / 1023, 5);
    expect(curve.texels[4 * 512 + 1]).toBeCloseTo(256 / 1023, 5);
  });
});

describe("a finish as a look-up table", () => {
  const finish = finishSchema.parse({ contrast: 1.3, saturation: 0.8, black: 0.03, curves: { blue: [[0, 0.05], [1, 0.95]] } }); // prettier-ignore

  it.each(["display", "log"] as const)("gives what the finish gives, fed with %s values", (input) => {
    const lut = readCube(finishToCube("a look", finish, null, input), "look.cube", "x");
    expect([lut.size, lut.dimensions]).toEqual([33, 3]);
    const finisher = new Finisher(finish);
    // at its places exactly, between them closely
    for (const [places, digits] of [
      [32, 5],
      [24.7, input === "display" ? 1.7 : 0.8],
    ] as const)
      // prettier-ignore
      for (let i = 0; i < 40; i++) {
        const v = [(i * 7) % 33, (i * 11) % 33, (i * 5) % 33].map((n) => Math.min(1, n / places)) as [number, number, number];
        finisher.applyExactly(...(v.map((x) => lightOfInput(input, x)) as [number, number, number]));
        close(
          look(lut, ...v),
          [...finisher.out].map((x) => x / 255),
          digits,
        );
      }
  });

  it("is the last step of the finish, as far as its strength goes, in tables and exactly", () => {
    const lut = readCube(SWAPPED, "swap.cube", "x");
    for (const strength of [0, 0.5, 1]) {
      const [plain, looked] = [new Finisher(NO_FINISH), new Finisher({ ...NO_FINISH, lut: { asset: "swap", strength } }, lut)];
      plain.applyExactly(0.05, 0.2, 0.4);
      looked.applyExactly(0.05, 0.2, 0.4);
      const [r, g, b] = [...plain.out] as [number, number, number];
      close([...looked.out], [r + strength * (b - r), g, b + strength * (r - b)], 3);
      const row = new Uint8ClampedArray(4);
      looked.putRow(new Float32Array([0.05, 0.2, 0.4]), [1, 0, 0, 0, 1, 0, 0, 0, 1], new Float32Array(1), row, 0);
      [...looked.out].forEach((v, k) => expect(Math.abs(row[k]! - v)).toBeLessThan(0.6));
    }
    // an identity changes nothing
    const identity = readCube(
      writeCube("i", [], (r, g, b) => [r, g, b], 17),
      "i",
      "y",
    );
    const through = new Finisher({ ...finish, lut: { asset: "i", strength: 1 } }, identity);
    const without = new Finisher(finish);
    for (let i = 0; i < 60; i++) {
      const c = [(i * 0.37) % 2, (i * 0.61) % 1, (i * 0.13) % 3] as const;
      through.applyExactly(...c);
      without.applyExactly(...c);
      close([...through.out], [...without.out], 3);
    }
  });
});
