import { describe, expect, it } from "vitest";
import { whiteAt } from "../optics/exposure";
import { BLENDS, type Blend, type Layer, type Stack } from "./stack";
import { composeRows, planOf } from "./compose";
import type { Frame, Planes } from "../formats/layers";
import { newLayer, startingStack } from "./start";

const EV = 3;
const WHITE = whiteAt(EV);

/** A frame of two pixels in a row; light as shares of white. */
function frame(layers: Record<string, readonly (readonly [number, number, number])[]>, more: Record<string, Planes> = {}): Frame {
  const planes = Object.entries(layers).map(([name, pixels]): [string, Planes] => {
    const light = name !== "transmittance";
    return [
      name,
      {
        name,
        light,
        alpha: null,
        bands: [0, 1, 2].map((k) => Float32Array.from(pixels, (p) => (light ? WHITE : 1) * p[k as 0 | 1 | 2])),
      },
    ];
  });
  return { width: 2, height: 1, attributes: {}, layers: new Map([...planes, ...Object.entries(more)]) };
}

const colour = (id: string, c: [number, number, number], more: Partial<Layer> = {}): Layer =>
  newLayer(id, id, { kind: "colour", colour: c }, more);
const stackOf = (layers: Layer[], f: Frame, more: Partial<Stack> = {}): Stack => ({
  ...startingStack("test", { a: { name: "a.exr", sha256: null, file: null } }, new Map([["a", f]])),
  white: EV,
  layers,
  ...more,
});
const EMPTY = frame({
  "": [
    [0, 0, 0],
    [0, 0, 0],
  ],
});
const composed = (stack: Stack, f: Frame = EMPTY): number[] =>
  [...composeRows(planOf(stack, new Map([["a", f]]), f.width, f.height), 0, f.height)].map((v) => Number(v.toFixed(5)));

describe("blends", () => {
  // by hand, of 0.25 below and 0.5 laid, and of 2 below and 0.5 laid
  const TABLE: Record<Blend, readonly [number, number]> = {
    over: [0.5, 0.5],
    add: [0.75, 2.5],
    screen: [0.625, 2],
    multiply: [0.125, 1],
    maximum: [0.5, 2],
    difference: [0.25, 1.5],
  };
  it.each(BLENDS)("%s is what its formula says, of light above white too", (blend) => {
    const laid = composed(stackOf([colour("below", [0.25, 2, 0]), colour("above", [0.5, 0.5, 0.5], { blend })], EMPTY));
    expect(laid.slice(0, 2)).toEqual(TABLE[blend]);
  });

  it("count by opacity, gain and tint", () => {
    const above = colour("above", [0.5, 0.5, 0.5], { opacity: 0.25, gain: 1, tint: [1, 0.5, 2] });
    // 2 · 0.5 · tint, a quarter of the way from 0.2
    expect(composed(stackOf([colour("below", [0.2, 0.2, 0.2]), above], EMPTY)).slice(0, 3)).toEqual([0.4, 0.275, 0.65]);
  });

  it("have no step where screen passes white", () => {
    const of = (b: number, l: number): number =>
      composed(stackOf([colour("below", [b, b, b]), colour("above", [l, l, l], { blend: "screen" })], EMPTY))[0]!;
    for (const b of [0.3, 0.99999, 1, 1.00001, 3]) expect(Math.abs(of(b, 0.99999) - of(b, 1.00001))).toBeLessThan(3e-5);
  });
});

describe("a stack", () => {
  const air = [
    [0.5, 0.25, 0.125],
    [0, 0.5, 3],
  ] as const;
  const surfaces = [
    [0.25, 0.5, 0.75],
    [1, 0, 0.125],
  ] as const;
  const f = frame({ "": [[0, 0, 0], [0, 0, 0]], air, surfaces }); // prettier-ignore

  it("begins as surfaces and air, whose sum is the beauty", () => {
    const stack = startingStack("test", { a: { name: "a.exr", sha256: null, file: null } }, new Map([["a", f]]));
    expect(stack.layers.map((l) => [l.name, l.blend])).toEqual([
      ["surfaces", "over"],
      ["air", "add"],
    ]);
    expect(composed({ ...stack, white: EV }, f)).toEqual([0.75, 0.75, 0.875, 1, 0.5, 3.125]);
  });

  it("leaves out what is muted, and beside a solo what is not it", () => {
    const all = [
      colour("one", [1, 0, 0], { blend: "add" }),
      colour("two", [0, 1, 0], { blend: "add" }),
      colour("three", [0, 0, 1], { blend: "add" }),
    ];
    const with_ = (i: number, more: Partial<Layer>) =>
      composed(
        stackOf(
          all.map((l, k) => (k === i ? { ...l, ...more } : l)),
          EMPTY,
        ),
      ).slice(0, 3);
    expect(with_(1, { on: false })).toEqual([1, 0, 1]);
    expect(with_(1, { solo: true })).toEqual([0, 1, 0]);
    // what is muted is no solo
    expect(with_(1, { solo: true, on: false })).toEqual([1, 0, 1]);
  });

  it("puts a group together over black, then lays it as one", () => {
    const inside = [colour("in 1", [0.5, 0.5, 0.5]), colour("in 2", [0.25, 0, 0], { blend: "add" })];
    const group = newLayer("group", "group", { kind: "group" }, { layers: inside, blend: "multiply", opacity: 0.5 });
    // 0.4 × (0.75, 0.5, 0.5), half way from 0.4
    expect(composed(stackOf([colour("below", [0.4, 0.4, 0.4]), group], EMPTY)).slice(0, 3)).toEqual([0.35, 0.3, 0.3]);
  });

  it("lays a picture by its own channel A as it is multiplied with it", () => {
    const half = frame({}, { "": { name: "", light: true, alpha: Float32Array.of(0.5, 0), bands: [0, 1, 2].map(() => Float32Array.of(0.25 * WHITE, 0.25 * WHITE)) } }); // prettier-ignore
    const picture = (alpha: boolean) => newLayer("p", "p", { kind: "pass", source: "a", layer: "", role: null, alpha });
    // 0.25 + 0.5 · 0.8, and light that covers nothing is added
    expect(composed(stackOf([colour("below", [0.8, 0.8, 0.8]), picture(true)], half), half)).toEqual([0.65, 0.65, 0.65, 1.05, 1.05, 1.05]);
    expect(composed(stackOf([colour("below", [0.8, 0.8, 0.8]), picture(false)], half), half)).toEqual([0.25, 0.25, 0.25, 0.25, 0.25, 0.25]);
  });

  it("bends a layer's brightest band by its curve and keeps the hue", () => {
    // √(n / (1 + n)) = 0.5 at n = 1/3; the curve lifts it to 0.6, n = 0.36 / 0.64
    const curve: [number, number][] = [[0, 0], [0.5, 0.6], [1, 1]]; // prettier-ignore
    const n = 1 / 3,
      to = 0.36 / 0.64;
    const got = composed(stackOf([colour("c", [n, n / 2, 0], { curve })], EMPTY));
    expect(got[0]).toBeCloseTo(to, 4);
    expect(got[1]).toBeCloseTo(to / 2, 4);
    const straight = composed(stackOf([colour("c", [7, 3.5, 0], { curve: [[0, 0], [1, 1]] })], EMPTY)); // prettier-ignore
    expect(straight[0]).toBeCloseTo(7, 3);
  });

  it("ramps between two places, right angles being the picture's", () => {
    const ramp = newLayer("r", "r", { kind: "ramp", from: [0, 0, 0], to: [1, 2, 4], a: [0, 0], b: [1, 0] });
    expect(composed(stackOf([ramp], EMPTY))).toEqual([0.25, 0.5, 1, 0.75, 1.5, 3]);
  });

  it("says which layer a source lacks", () => {
    const missing = newLayer("m", "fog", { kind: "pass", source: "a", layer: "air.sun", role: null, alpha: false });
    expect(() => composed(stackOf([missing], EMPTY))).toThrow(/"fog": the layer "air.sun" is not in "a"/);
  });
});

describe("thicker and thinner air", () => {
  // evenly lit air: what is rendered at σ, and at k σ, has closed forms by band
  const SIGMA = [0.02, 0.03, 0.05] as const,
    DISTANCES = [4, 60] as const,
    SURFACE = 0.6,
    AIR = 0.9;
  const at = (k: number) => {
    const t = (band: number, d: number) => Math.exp(-SIGMA[band as 0 | 1 | 2] * k * d);
    const bands = (of: (band: number, d: number) => number) => DISTANCES.map((d) => [of(0, d), of(1, d), of(2, d)] as const);
    return frame(
      {
        "": bands(() => 0),
        surfaces: bands((b, d) => SURFACE * t(b, d)),
        air: bands((b, d) => AIR * (1 - t(b, d))),
        transmittance: bands(t),
      },
      { distance: { name: "distance", light: false, alpha: null, bands: [Float32Array.from(DISTANCES)] } },
    );
  };
  const stack = (k: number, by: [number, number][] = []): Stack => ({
    ...startingStack("t", { a: { name: "a", sha256: null, file: null } }, new Map([["a", at(1)]])),
    white: EV,
    air: { density: k, by },
  });

  it.each([0, 0.25, 0.5, 2, 3])("is what it would be rendered as in evenly lit air, ×%s", (k) => {
    const wanted = composed(stack(1), at(k));
    composed(stack(k), at(1)).forEach((v, i) => expect(v).toBeCloseTo(wanted[i]!, 4));
  });

  it("goes by distance where that is said", () => {
    // as it was up to 10 m, twice as thick from 50 m on
    const got = composed(stack(1, [[10, 1], [50, 2]]), at(1)); // prettier-ignore
    const [one, two] = [composed(stack(1), at(1)), composed(stack(1), at(2))];
    got.slice(0, 3).forEach((v, i) => expect(v).toBeCloseTo(one[i]!, 4));
    got.slice(3).forEach((v, i) => expect(v).toBeCloseTo(two[3 + i]!, 4));
  });

  it("needs transmittance, and says so", () => {
    const f = frame({ air: [[1, 1, 1], [1, 1, 1]], surfaces: [[1, 1, 1], [1, 1, 1]] }); // prettier-ignore
    const s = startingStack("t", { a: { name: "a", sha256: null, file: null } }, new Map([["a", f]]));
    expect(() => composed({ ...s, air: { density: 2, by: [] } }, f)).toThrow(/transmittance/);
  });
});
