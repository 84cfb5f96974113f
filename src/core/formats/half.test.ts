import { setFloat16 } from "@petamoriken/float16";
import { describe, expect, it } from "vitest";
import { HALVES, halfBits } from "./half";

describe("half precision", () => {
  const view = new DataView(new ArrayBuffer(2));
  const library = (v: number): number => {
    setFloat16(view, 0, v, true);
    return view.getUint16(0, true);
  };
  it("every half comes back as itself, and what lies between two goes to the nearer, or to even", () => {
    for (let h = 0; h < 0x7c00; h++) {
      expect(halfBits(HALVES[h]!)).toBe(h);
      expect(halfBits(-HALVES[h]!)).toBe(h | 0x8000);
    }
    for (let h = 0; h < 0x7bff; h += 7) {
      const middle = (HALVES[h]! + HALVES[h + 1]!) / 2;
      for (const v of [middle, middle * (1 - 1e-6), middle * (1 + 1e-6)].map(Math.fround)) expect(halfBits(v)).toBe(library(v));
    }
  });
  it("agrees with the library on single-precision numbers of every size, and at the ends", () => {
    let x = 12345;
    for (let i = 0; i < 40000; i++) {
      x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
      const v = Math.fround((x / 4294967296 - 0.5) * 2 ** ((i % 60) - 35));
      expect(halfBits(v)).toBe(library(v));
    }
    for (const v of [
      0,
      -0,
      65504,
      65519.99,
      65520,
      1e30,
      Infinity,
      -Infinity,
      2 ** -24,
      2 ** -25,
      Math.fround(2 ** -25 * 1.0001),
      2 ** -26,
    ])
      expect(halfBits(v)).toBe(library(Math.fround(v)));
    expect(HALVES[halfBits(NaN)]).toBeNaN();
  });
});
