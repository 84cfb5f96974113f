import { describe, expect, it } from "vitest";
import { finishSchema, type Finish } from "../document/finish";
import { decodeSrgb, luminance } from "../optics/colour";
import { Finisher, NO_FINISH, encode, finisherOf, shoulder } from "./finish";

const of = (change: Partial<Finish>): Finish => ({ ...NO_FINISH, ...change });
/** Display values, 0 to 1. */
function exactly(finish: Finish, ...rgb: [number, number, number]): [number, number, number] {
  const f = new Finisher(finish);
  f.applyExactly(...rgb);
  return [f.out[0]! / 255, f.out[1]! / 255, f.out[2]! / 255];
}
const grey = (finish: Finish, x: number): number => exactly(finish, x, x, x)[1];
const linear = (v: readonly number[]): number[] => v.map(decodeSrgb);

/** Numbers in [0, 1) by a seed. */
function numbers(seed: number): () => number {
  let s = seed;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) | 0;
    return (s >>> 0) / 4294967296;
  };
}

describe("the finish", () => {
  it("at first only bends highlights: greys lie where shoulder and sRGB put them", () => {
    for (const x of [0, 0.001, 0.02, 0.18, 0.5, 0.6, 0.9, 1.7, 5, 1000]) expect(grey(NO_FINISH, x)).toBeCloseTo(encode(shoulder(x)), 12);
    // and colours below the shoulder are left alone (IEC 61966-2-1: 0.21404 is half of the display's range)
    exactly(NO_FINISH, 0.21404, 0.05, 0.4).forEach((v, k) => expect(v).toBeCloseTo([0.5, encode(0.05), encode(0.4)][k]!, 5));
    expect(finisherOf(undefined)).toBe(finisherOf(undefined));
  });

  it("keeps the hue of bright fog, which pales, and never turns it to another", () => {
    const fog = [0.8, 0.9, 1] as const;
    let before = 1;
    for (const k of [0.1, 0.5, 1, 2, 4, 10, 40]) {
      const [r, g, b] = linear(exactly(NO_FINISH, k * fog[0], k * fog[1], k * fog[2])) as [number, number, number];
      // the middle band lies where it lay between the others
      if (b - r > 1e-3) expect((g - r) / (b - r)).toBeCloseTo((fog[1] - fog[0]) / (fog[2] - fog[0]), 6);
      const saturation = (b - r) / b;
      expect(saturation).toBeLessThanOrEqual(before + 1e-9);
      before = saturation;
      expect(b).toBeLessThanOrEqual(1);
    }
    expect(before).toBeLessThan(0.01);
  });

  it("spreads stops about the pivot by the contrast", () => {
    for (const [contrast, pivot] of [
      [2, 0],
      [1.5, -1],
      [0.5, 1],
    ] as const)
      for (const stops of [-4, -1, -0.25]) {
        const finish = of({ contrast, pivot, rollOff: 0 });
        const at = 0.18 * 2 ** (pivot + stops);
        expect(Math.log2(decodeSrgb(grey(finish, at)) / 0.18)).toBeCloseTo(pivot + contrast * stops, 6);
      }
    // hues stay
    const [r, g, b] = linear(exactly(of({ contrast: 2 }), 0.2, 0.1, 0.05));
    expect([g! / r!, b! / r!].map((v) => Number(v.toFixed(9)))).toEqual([0.5, 0.25]);
  });

  it("makes grey of the same luminance where saturation is none, and keeps luminance", () => {
    const c = [0.3, 0.1, 0.25] as const;
    const l = luminance(...c);
    for (const v of linear(exactly(of({ saturation: 0 }), ...c))) expect(v).toBeCloseTo(l, 9);
    const [r, g, b] = linear(exactly(of({ saturation: 1.5 }), ...c));
    expect(luminance(r!, g!, b!)).toBeCloseTo(l, 9);
    expect(r! - g!).toBeCloseTo(1.5 * (c[0] - c[1]), 9);
  });

  it("fits what the display has no colour for by greying it, its luminance kept", () => {
    const [r, g, b] = linear(exactly(NO_FINISH, -0.05, 0.4, 0.2));
    expect(r).toBeCloseTo(0, 9);
    expect(luminance(r!, g!, b!)).toBeCloseTo(luminance(-0.05, 0.4, 0.2), 9);
    expect(exactly(NO_FINISH, -1, -1, -1)).toEqual([0, 0, 0]);
    expect(exactly(NO_FINISH, -3, 0.1, 0)).toEqual([0, 0, 0]);
  });

  it("rolls highlights off from none to a long shoulder", () => {
    const hard = of({ rollOff: 0 });
    for (const x of [0.3, 0.99]) expect(decodeSrgb(grey(hard, x))).toBeCloseTo(x, 9);
    for (const x of [1, 1.5, 1e6]) expect(grey(hard, x)).toBeCloseTo(1, 12);
    const long = of({ rollOff: 1 });
    expect(decodeSrgb(grey(long, 0.2))).toBeCloseTo(0.2, 9);
    // 1 − 0.8 exp(−(1 − 0.2) / 0.8), by hand
    expect(decodeSrgb(grey(long, 1))).toBeCloseTo(0.7056964471, 8);
  });

  it("sets levels and bends curves where they say", () => {
    const levels = of({ black: 0.1, white: 0.9, rollOff: 0 });
    expect(grey(levels, decodeSrgb(0.1))).toBeCloseTo(0, 9);
    expect(grey(levels, decodeSrgb(0.05))).toBe(0);
    expect(grey(levels, decodeSrgb(0.5))).toBeCloseTo(0.5, 9);
    expect(grey(levels, decodeSrgb(0.9))).toBeCloseTo(1, 9);
    const bent = { ...NO_FINISH.curves, all: [[0, 0], [0.5, 0.7], [1, 1]] as [number, number][] }; // prettier-ignore
    expect(grey(of({ curves: bent }), decodeSrgb(0.5))).toBeCloseTo(0.7, 9);
    const [r, g, b] = linear(exactly(of({ curves: bent }), 0.2, 0.1, 0.05));
    expect(g! / r!).toBeCloseTo(0.5, 9);
    expect(b! / r!).toBeCloseTo(0.25, 9);
    const red = { ...NO_FINISH.curves, red: [[0, 0.2], [1, 0.8]] as [number, number][] }; // prettier-ignore
    const tinted = exactly(of({ curves: red }), 0.3, 0.3, 0.3);
    expect(tinted[0]).toBeCloseTo(0.2 + 0.6 * encode(0.3), 9);
    expect(tinted[1]).toBeCloseTo(encode(0.3), 9);
  });

  it("is left out whole where it is off", () => {
    const off = of({ on: false, contrast: 3, saturation: 0, rollOff: 1, black: 0.3 });
    expect(exactly(off, 0.7, 0.2, 1.3)).toEqual(exactly(NO_FINISH, 0.7, 0.2, 1.3));
  });

  it("by tables is as good as exact, for any settings; what is brighter is never darker", () => {
    const random = numbers(11);
    const bytes = new Uint8ClampedArray(4);
    for (let i = 0; i < 40; i++) {
      const finish = of({
        contrast: 0.5 + 1.5 * random(),
        pivot: 4 * random() - 2,
        saturation: 2 * random(),
        rollOff: random(),
        black: 0.2 * random(),
        white: 0.8 + 0.2 * random(),
        curves: { ...NO_FINISH.curves, all: [[0, 0], [0.3 + 0.3 * random(), 0.2 + 0.6 * random()], [1, 1]], blue: [[0, 0.1 * random()], [1, 1]] }, // prettier-ignore
      });
      const f = new Finisher(finish);
      let before = -1;
      for (let k = 0; k < 200; k++) {
        const scale = 10 ** (5 * random() - 3.5);
        const rgb = [scale * random(), scale * random(), scale * random()] as const;
        f.applyExactly(...rgb);
        const exact = [...f.out];
        f.putRow(Float32Array.from(rgb), [1, 0, 0, 0, 1, 0, 0, 0, 1], new Float32Array(1), bytes, 0);
        bytes.subarray(0, 3).forEach((v, n) => expect(Math.abs(v - exact[n]!), `${JSON.stringify(finish)} of ${rgb}`).toBeLessThan(0.6));
        f.applyExactly(0.01 * 1.05 ** k, 0.008 * 1.05 ** k, 0.012 * 1.05 ** k);
        const l = luminance(f.out[0]!, f.out[1]!, f.out[2]!);
        expect(l).toBeGreaterThanOrEqual(before - 1e-9);
        before = l;
      }
    }
  });

  it("is refused where it makes no sense", () => {
    for (const bad of [
      { contrast: 0 },
      { contrast: NaN },
      { rollOff: 1.1 },
      { black: 0.5, white: 0.5 },
      { curves: { all: [[0, 0]] } },
      { curves: { all: [[0.5, 0], [0.5, 1]] } }, // prettier-ignore
      { curves: { all: [[0, NaN], [1, 1]] } }, // prettier-ignore
      { glow: 1 },
    ])
      expect(finishSchema.safeParse(bad).success, JSON.stringify(bad)).toBe(false);
  });
});
