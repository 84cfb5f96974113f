import { describe, expect, it } from "vitest";
import { bytesText, durationText, fittedNumber, formatNumber, parseQuantity } from "./quantities";

describe("typed numbers", () => {
  it.each([
    ["3 ft", "length", 0.9144],
    ["(1+2) km", "length", 3000],
    ["-2.5e1 cm", "length", -0.25],
    ["12", "length", 12],
    ["1,5 m", "length", 1.5],
    ["0.2*2", "coefficient", 0.4],
    ["1/40", "coefficient", 0.025],
    ["1/40 1/m", "coefficient", 0.025],
    ["5 1/km", "coefficient", 0.005],
    ["25", "share", 0.25],
    ["12.5 %", "share", 0.125],
    ["5500 K", "temperature", 5500],
    ["2--3", "plain", 5],
    ["8/2/2", "plain", 2],
    ["3 klx", "plain", 3000],
  ] as const)("%s as %s is %d", (text, quantity, expected) => {
    expect(parseQuantity(text, quantity)).toBeCloseTo(expected, 12);
  });

  it.each(["", "abc", "3 furlongs", "1/0", "2 *", "(1", "1)", "0x10", "1e999", "Infinity", "NaN", "-".repeat(300) + "1", "alert(1)"])(
    "refuses %j",
    (text) => {
      expect(parseQuantity(text, "length")).toBeNull();
    },
  );

  it("shows as many digits as matter", () => {
    expect([0, 0.0297861, 33.5742, 100.6, 12345.678, 1e-7, Infinity].map((v) => formatNumber(v))).toEqual([
      "0",
      "0.02979",
      "33.57",
      "100.6",
      "12346",
      "1.00e-7",
      "∞",
    ]);
  });

  it("spans of time never say sixty of what has a name of its own", () => {
    expect([1.72, 43.2, 59.97, 65, 659.7, 3599.6, 9600, 7199].map(durationText)).toEqual(
      ["1.7 s", "43.2 s", "1 min 0 s", "1 min 5 s", "11 min 0 s", "1 h 0 min", "2 h 40 min", "2 h 0 min"],
    ); // prettier-ignore
  });
});

describe("numbers in narrow fields", () => {
  it.each([
    [0, "0"],
    [1, "1"],
    [0.985, "0.985"],
    [0.00248, "0.0025"],
    [0.000248, "2.5e-4"],
    [0.0000167, "1.7e-5"],
    [2.5e-7, "2.5e-7"],
    [1e-12, "1e-12"],
    [123.456, "123"],
  ])("%d is %s", (v, text) => {
    expect(fittedNumber(v, 6)).toBe(text);
    const typed = parseQuantity(text, "plain")!;
    expect(Math.abs(typed - v)).toBeLessThanOrEqual(0.05 * Math.abs(v));
  });
});

it("bytes are told in kB, MB and GB", () => {
  expect([400, 12_300, 2_345_000, 84_000_000, 3.2e9].map(bytesText)).toEqual(["1 kB", "12 kB", "2.3 MB", "84 MB", "3.20 GB"]);
});
