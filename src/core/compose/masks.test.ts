import { describe, expect, it } from "vitest";
import { boxMean } from "../math/guided";
import { whiteAt } from "../optics/exposure";
import { maskOf, type MaskGround } from "./masks";
import type { Frame, Planes } from "../formats/layers";
import type { Mask, MaskPart, Stroke } from "./stack";
import { maskSchema } from "./stack";
import { dabsOf, PaintCache, paintStrokes } from "./strokes";

const single = (name: string, values: ArrayLike<number>): [string, Planes] => [
  name,
  { name, light: false, alpha: null, bands: [Float32Array.from(values)] },
];
const ground = (width: number, height: number, layers: [string, Planes][], white = 0): MaskGround => {
  const frame: Frame = { width, height, attributes: {}, layers: new Map(layers) };
  return { frames: new Map([["a", frame]]), width, height, white };
};
const mask = (parts: object[], more: object = {}): Mask => maskSchema.parse({ parts, ...more });
const rounded = (m: Float32Array): number[] => [...m].map((v) => Number(v.toFixed(4)));
/** Numbers from 0 to 1, the same each time. */
function* noise(seed: number): Generator<number> {
  let s = seed;
  for (;;) yield (s = (s * 16807) % 2147483647) / 2147483647;
}

describe("masks of what is seen", () => {
  const distances = single("distance", [5, 10, 15, 30, Infinity]);

  it("go with distance between two places, either way about, and what is endless is past them", () => {
    const g = ground(5, 1, [distances]);
    expect(rounded(maskOf(mask([{ kind: "distance", from: 10, to: 20 }]), g))).toEqual([0, 0, 0.5, 1, 1]);
    expect(rounded(maskOf(mask([{ kind: "distance", from: 20, to: 10 }]), g))).toEqual([1, 1, 0.5, 0, 0]);
    expect(rounded(maskOf(mask([{ kind: "distance", from: 10, to: 10 }]), g))).toEqual([0, 1, 1, 1, 1]);
    expect(rounded(maskOf(mask([{ kind: "distance", from: 10, to: 20 }], { invert: true }), g))).toEqual([1, 1, 0.5, 0, 0]);
    // the curve is level past its ends, and goes through its points
    const curve = [[0, 0.2], [0.5, 0.9], [1, 1]]; // prettier-ignore
    expect(rounded(maskOf(mask([{ kind: "distance", from: 10, to: 20, curve }]), g))).toEqual([0.2, 0.2, 0.9, 1, 1]);
  });

  it("take depth where there is no distance, and NaN for before all", () => {
    const g = ground(3, 1, [single("depth", [NaN, 15, Infinity])]);
    expect(rounded(maskOf(mask([{ kind: "distance", from: 10, to: 20 }]), g))).toEqual([0, 0.5, 1]);
  });

  it("go with height, the background above all", () => {
    const g = ground(4, 1, [single("distance", [1, 1, 1, Infinity]), single("height", [-1, 0.5, 3, 0])]);
    expect(rounded(maskOf(mask([{ kind: "height", from: 0, to: 2 }]), g))).toEqual([0, 0.25, 1, 1]);
  });

  it("go with opacity, or else with what transmittance leaves", () => {
    expect(rounded(maskOf(mask([{ kind: "opacity" }]), ground(3, 1, [single("opacity", [0, 0.3, 1.2])])))).toEqual([0, 0.3, 1]);
    const left: Planes = { name: "transmittance", light: false, alpha: null, bands: [0.2, 0.5, 0.8].map((v) => Float32Array.of(v)) };
    // Rec. 709 weights
    const wanted = 1 - (0.2126 * 0.2 + 0.7152 * 0.5 + 0.0722 * 0.8);
    expect(maskOf(mask([{ kind: "opacity" }]), ground(1, 1, [["transmittance", left]]))[0]).toBeCloseTo(wanted, 6);
  });

  it("go with luminance in stops from white", () => {
    const grey = Float32Array.from([0.25, 1, 2.8284271, 64], (v) => v * whiteAt(5));
    const main: Planes = { name: "", light: true, alpha: null, bands: [grey, grey, grey] };
    const stops = mask([{ kind: "luminance", from: 0, to: 3 }]);
    expect(rounded(maskOf(stops, ground(4, 1, [["", main]], 5)))).toEqual([0, 0, 0.5, 1]);
    // what counts in shares of white already
    const shares = Float32Array.of(0.25, 1, 2.8284271, 64);
    const foreign: Planes = { name: "", light: false, alpha: null, bands: [shares, shares, shares] };
    expect(rounded(maskOf(stops, ground(4, 1, [["", foreign]], 5)))).toEqual([0, 0, 0.5, 1]);
  });

  it("go along a gradient, square to it in the picture", () => {
    // 2 : 1; from the left middle to the right middle
    const g = ground(4, 2, []);
    expect(rounded(maskOf(mask([{ kind: "gradient", a: [0, 0.5], b: [1, 0.5] }]), g))).toEqual([
      0.125, 0.375, 0.625, 0.875, 0.125, 0.375, 0.625, 0.875,
    ]);
    // along the diagonal of a square of the picture: a height down and a height across
    const m = maskOf(mask([{ kind: "gradient", a: [0, 0], b: [0.5, 1] }]), g);
    expect(m[2]).toBeCloseTo(m[4]! + (0.5 * (1.25 - 0.25) + 0.5 * (0.25 - 0.75)), 5);
  });

  it("are joined as their words say", () => {
    const g = ground(2, 1, [single("object.a", [0.5, 1]), single("object.b", [0.5, 0.25])]);
    const parts = (join: MaskPart["join"]) => [
      { kind: "matte", source: "a", layer: "object.a" },
      { kind: "matte", source: "a", layer: "object.b", join },
    ];
    expect(rounded(maskOf(mask(parts("and")), g))).toEqual([0.25, 0.25]);
    expect(rounded(maskOf(mask(parts("or")), g))).toEqual([0.75, 1]);
    expect(rounded(maskOf(mask(parts("without")), g))).toEqual([0.25, 0.75]);
    expect(rounded(maskOf(mask([{ ...parts("and")[0]!, invert: true }]), g))).toEqual([0.5, 0]);
  });

  it("say what is lacking", () => {
    const g = ground(1, 1, []);
    expect(() => maskOf(mask([{ kind: "distance", from: 1, to: 2 }]), g)).toThrow(/no source has distances/);
    expect(() => maskOf(mask([{ kind: "height", from: 1, to: 2 }]), g)).toThrow(/heights/);
    expect(() => maskOf(mask([{ kind: "opacity" }]), g)).toThrow(/opacity/);
    expect(() => maskOf(mask([{ kind: "matte", source: "a", layer: "object.gone" }]), g)).toThrow(/"object.gone" is not in "a"/);
    expect(() => maskOf(mask([{ kind: "luminance", from: 0, to: 1 }]), g)).toThrow(/main picture/);
  });
});

describe("feather", () => {
  it("means over squares, cut at the borders", () => {
    const [w, h, r] = [13, 7, 2];
    const random = noise(5);
    const plane = Float32Array.from({ length: w * h }, () => random.next().value as number);
    const fast = boxMean(plane, w, h, r);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        let sum = 0,
          n = 0;
        for (let v = Math.max(0, y - r); v <= Math.min(h - 1, y + r); v++)
          for (let u = Math.max(0, x - r); u <= Math.min(w - 1, x + r); u++, n++) sum += plane[v * w + u]!;
        expect(fast[y * w + x]).toBeCloseTo(sum / n, 5);
      }
  });

  it("softens a rim across even ground, and keeps to an edge of distance", () => {
    const [w, h] = [96, 48];
    // near at the left, far at the right; a matte that ends at the edge above, and on even ground below
    const near = Array.from({ length: w * h }, (_, i) => (i % w < 48 ? 5 : 80));
    const matte = near.map((d, i) => (Math.floor(i / w) < 24 ? (d < 10 ? 1 : 0) : i % w < 20 ? 1 : 0));
    const g = ground(w, h, [single("distance", near), single("object.a", matte)]);
    const parts = [{ kind: "matte", source: "a", layer: "object.a" }];
    const guided = maskOf(mask(parts, { feather: 0.15, guided: true }), g);
    const even = maskOf(mask(parts, { feather: 0.15, guided: false }), g);
    const at = (m: Float32Array, x: number, y: number): number => m[y * w + x]!;
    // hard where the object ends, though the radius is seven pixels
    expect(at(guided, 47, 8) - at(guided, 48, 8)).toBeGreaterThan(0.9);
    expect(at(even, 47, 8) - at(even, 48, 8)).toBeLessThan(0.2);
    // soft on even ground
    expect(at(guided, 19, 40) - at(guided, 20, 40)).toBeLessThan(0.2);
    expect(at(guided, 16, 40)).toBeLessThan(0.95);
    expect(at(guided, 23, 40)).toBeGreaterThan(0.05);
    for (const v of guided) expect(v >= 0 && v <= 1).toBe(true);
  });
});

describe("paint", () => {
  const stroke = (more: Partial<Stroke>): Stroke => ({ points: [[0.25, 0.5, 1], [0.75, 0.5, 1]], size: 0.2, hardness: 1, flow: 1, erase: false, ...more }); // prettier-ignore
  const painted = (w: number, h: number, ...strokes: Stroke[]): Float32Array =>
    maskOf(mask([{ kind: "paint", strokes }]), ground(w, h, []));
  const area = (m: Float32Array, w: number, h: number): number => (m.reduce((a, b) => a + b, 0) * (w / h)) / (w * h);

  it("covers the area of its stroke, in heights of the frame squared, whatever the size", () => {
    // a line of 0.5 widths of 2 : 1 is a height long: a rectangle and two half discs
    const wanted = 1 * 0.2 + Math.PI * 0.1 ** 2;
    for (const [w, h] of [
      [200, 100],
      [400, 200],
      [1000, 500],
    ] as const)
      // prettier-ignore
      expect(area(painted(w, h, stroke({})), w, h) / wanted).toBeCloseTo(1, 1);
    const fine = area(painted(1000, 500, stroke({})), 1000, 500);
    // scallops between dabs take a little
    expect(fine / wanted).toBeGreaterThan(0.985);
    expect(fine / wanted).toBeLessThan(1.005);
  });

  it("is the same picture at every size: soft, thin with pressure, laid in one and in many points", () => {
    const soft = stroke({ hardness: 0.2, flow: 0.3, points: [[0.2, 0.4, 1], [0.5, 0.6, 0.5], [0.8, 0.4, 0.2]] }); // prettier-ignore
    const [small, large] = [painted(120, 60, soft), painted(480, 240, soft)];
    for (let y = 0; y < 60; y += 3)
      for (let x = 0; x < 120; x += 3) {
        let mean = 0;
        for (let v = 0; v < 4; v++) for (let u = 0; u < 4; u++) mean += large[(4 * y + v) * 480 + 4 * x + u]! / 16;
        expect(Math.abs(mean - small[y * 120 + x]!)).toBeLessThan(0.03);
      }
    const straight = stroke({});
    const many = stroke({ points: Array.from({ length: 41 }, (_, i) => [0.25 + i / 80, 0.5, 1] as [number, number, number]) });
    expect(dabsOf(many, 2).length).toBe(dabsOf(straight, 2).length);
  });

  it("is the same where strokes before are kept, one taken back, or another begun", () => {
    const cache = new PaintCache();
    const [w, h] = [60, 30];
    const strokes = [stroke({}), stroke({ erase: true, size: 0.1 }), stroke({ hardness: 0, points: [[0.5, 0.2, 1], [0.5, 0.8, 0.5]] })]; // prettier-ignore
    const grown = { ...strokes[2]!, points: [...strokes[2]!.points, [0.8, 0.8, 1] as [number, number, number]] };
    for (const all of [
      [],
      strokes.slice(0, 1),
      strokes.slice(0, 2),
      strokes,
      [...strokes.slice(0, 2), grown],
      strokes.slice(0, 1),
      [strokes[1]!],
      strokes,
    ]) {
      const plain = new Float32Array(w * h);
      paintStrokes(all, plain, w, h);
      expect(cache.of(all, w, h)).toEqual(plain);
      cache.of(all, w, h).fill(9);
    }
  });

  it("takes away where it erases, and a click is a dab", () => {
    const [w, h] = [200, 100];
    const erased = painted(w, h, stroke({}), stroke({ erase: true }));
    // but for the pixels that the rim goes through, which both half cover
    expect(erased[50 * w + 100]).toBe(0);
    expect(erased.filter((v) => v > 0.3).length).toBe(0);
    expect(area(erased, w, h)).toBeLessThan(0.01);
    const dab = painted(w, h, stroke({ points: [[0.5, 0.5, 1]] }));
    expect(area(dab, w, h)).toBeCloseTo(Math.PI * 0.01, 3);
    const half = painted(w, h, stroke({ points: [[0.5, 0.5, 1]], flow: 0.5 }));
    expect(half[50 * w + 100]).toBeCloseTo(0.5, 5);
  });
});
