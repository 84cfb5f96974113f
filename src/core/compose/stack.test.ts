import { encode } from "fast-png";
import { describe, expect, it } from "vitest";
import { writeExr } from "../formats/exr";
import { readExrLayers } from "../formats/exr-read";
import { whiteAt } from "../optics/exposure";
import { composeRows, planOf } from "./compose";
import { composedExr, composedLight, unitOf } from "./export";
import { checkSizes, smallFrame } from "./sources";
import { frameOf, readSource } from "../formats/layers";
import { parseStack, parseStackText, STACK_LIMITS, type Stack } from "./stack";
import { newLayer, startingStack } from "./start";

const channel = (name: string, values: number[], type: "half" | "float" = "float") => ({ name, type, values: Float32Array.from(values) });
const bands = (layer: string, ...rgb: number[][]) => rgb.map((v, k) => channel(layer ? `${layer}.${"RGB"[k]}` : "RGB"[k]!, v));
const framed = (channels: ReturnType<typeof channel>[], width = 2, height = 1, more = {}) =>
  frameOf(readExrLayers(writeExr({ width, height, channels, ...more })), "a.exr");

describe("sources", () => {
  it("are the layers of a file: colours, channels of one number, and what they cover", () => {
    const channels = [
      ...bands("", [1, 2], [3, 4], [5, 6]),
      channel("A", [1, 0.5]),
      ...bands("air.key lamp", [1, 1], [1, 1], [1, 1]),
      channel("depth.Z", [4, Infinity]),
      channel("object.pillar.V", [0, 1]),
      channel("transmittance.R", [1, 1]),
      channel("transmittance.G", [1, 1]),
      channel("transmittance.B", [1, 1]),
    ];
    const f = framed(channels, 2, 1, { attributes: { "fumarium.document": "{}" } });
    // of files of other programs 1 is white
    expect(framed(channels).layers.get("")!.light).toBe(false);
    expect([...f.layers.keys()].sort()).toEqual(["", "air.key lamp", "depth", "object.pillar", "transmittance"]);
    expect([...f.layers.get("")!.alpha!]).toEqual([1, 0.5]);
    expect(f.layers.get("")!.light && f.layers.get("air.key lamp")!.light).toBe(true);
    expect(f.layers.get("transmittance")!.light).toBe(false);
    expect([...f.layers.get("depth")!.bands[0]!]).toEqual([4, Infinity]);
  });

  it("lie in their frame where a file holds a part of it", () => {
    const f = framed([...bands("", [1, 2], [1, 2], [1, 2]), channel("depth.Z", [3, 4])], 2, 1, {
      frame: { x: 1, y: 1, width: 4, height: 2 },
    });
    expect([f.width, f.height]).toEqual([4, 2]);
    expect([...f.layers.get("")!.bands[0]!]).toEqual([0, 0, 0, 0, 0, 1, 2, 0]);
    expect([...f.layers.get("depth")!.bands[0]!]).toEqual([...Array<number>(5).fill(Infinity), 3, 4, Infinity]);
  });

  it("are averaged where they are light, and looked at in the middle where they are distances", () => {
    const f = framed([...bands("", [1, 3, 5, 7], [0, 0, 0, 0], [0, 0, 0, 0]), channel("depth.Z", [1, 2, Infinity, 9])], 4, 1);
    const small = smallFrame(f, 2, 1);
    expect([...small.layers.get("")!.bands[0]!]).toEqual([2, 6]);
    expect([...small.layers.get("depth")!.bands[0]!]).toEqual([2, 9]);
  });

  it("have the light of other primaries as that of Rec. 709, and numbers that are no light as they are", () => {
    // Rec. 2020 (x, y of red, green, blue, white); its red in Rec. 709 by ITU-R BT.2407: 1.6605, −0.1246, −0.0182
    const chromaticities = [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329];
    const f = framed([...bands("", [1, 1], [0, 1], [0, 1]), ...bands("transmittance", [1, 1], [0, 1], [0, 1])], 2, 1, { chromaticities });
    const of = (layer: string, i: number) => f.layers.get(layer)!.bands.map((b) => b[i]!);
    of("", 0).forEach((v, k) => expect(v).toBeCloseTo([1.6605, -0.1246, -0.0182][k]!, 3));
    of("", 1).forEach((v) => expect(v).toBeCloseTo(1, 3));
    expect(of("transmittance", 0)).toEqual([1, 0, 0]);
  });

  it("can be a PNG, whose colours are shares of white, and not a text", () => {
    const png = encode({ width: 2, height: 1, channels: 3, depth: 8, data: Uint8Array.of(255, 0, 128, 0, 0, 0) });
    const f = readSource(png, "sky.png");
    const { light, bands: b } = f.layers.get("")!;
    // 128 of sRGB is 0.2158605 of light (IEC 61966-2-1)
    expect([light, b[0]![0], b[1]![0]]).toEqual([false, 1, 0]);
    expect(b[2]![0]).toBeCloseTo(0.2158605, 5);
    expect(() => readSource(new TextEncoder().encode("fog"), "fog.exr")).toThrow(/fog\.exr: is neither OpenEXR/);
  });

  it("must be of one size", () => {
    const [a, b] = [framed(bands("", [1, 2], [1, 2], [1, 2])), framed(bands("", [1], [1], [1]), 1, 1)];
    expect(checkSizes(new Map([["a", a]]))).toEqual({ width: 2, height: 1 });
    expect(() => checkSizes(new Map([["a", a], ["b", b]]))).toThrow(/"b" has 1 × 1 pixels, "a" 2 × 1/); // prettier-ignore
    expect(() => checkSizes(new Map())).toThrow(/no source/);
  });
});

describe("the stack document", () => {
  const f = framed([...bands("air", [1, 2], [3, 4], [5, 6]), ...bands("surfaces", [1, 2], [3, 4], [5, 6])]);
  const stack: Stack = startingStack("fog", { a: { name: "a.exr", sha256: null, file: "a.exr" } }, new Map([["a", f]]));

  it("comes back from text as it was, with all kinds of masks and strokes", () => {
    const rich: Stack = parseStack({
      ...stack,
      layers: [
        ...stack.layers,
        newLayer("g", "group", { kind: "group" }, {
          layers: [
            newLayer("c", "warm", { kind: "colour", colour: [1, 0.5, 0.2] }, {
              blend: "screen",
              mask: {
                invert: false,
                feather: 0.02,
                guided: true,
                parts: [
                  { kind: "distance", from: 3, to: 40, curve: [[0, 0], [1, 0.5]], join: "and", invert: false },
                  { kind: "matte", source: "a", layer: "object.pillar", join: "without", invert: true },
                  { kind: "paint", strokes: [{ points: [[0.1, 0.2, 0.5]], size: 0.1, hardness: 0.5, flow: 0.2, erase: true }], join: "or", invert: false },
                ],
              },
            }),
          ],
        }),
      ],
    }); // prettier-ignore
    expect(parseStackText(JSON.stringify(rich))).toEqual(rich);
  });

  it.each<[string, object, RegExp]>([
    ["another format", { fumariumStack: 9 }, /fumariumStack/],
    ["an unknown field", { fog: 1 }, /fog: unknown field/],
    ["a blend that is none", { layers: [{ ...stack.layers[0], blend: "burn" }] }, /layers\[0\]\.blend/],
    ["an id twice", { layers: [stack.layers[0], stack.layers[0]] }, /"surfaces" is the id of two layers/],
    ["a source that is none", { sources: {} }, /source "a", which there is not/],
    [
      "a matte of a source that is none",
      { layers: [{ ...stack.layers[0], mask: { parts: [{ kind: "matte", source: "z", layer: "x" }] } }] },
      /mask of "surfaces" is of the source "z"/,
    ],
    ["layers in what is no group", { layers: [{ ...stack.layers[0], layers: [newLayer("x", "x", { kind: "group" })] }] }, /no group/],
    [
      "places that do not rise",
      {
        air: {
          by: [
            [5, 1],
            [5, 2],
          ],
        },
      },
      /places must rise/,
    ],
    ["numbers that are none", { white: NaN }, /white/],
  ])("is refused with %s", (_, change, says) => {
    expect(() => parseStack({ ...stack, ...change })).toThrow(says);
  });

  it("is refused where it is too deep, or has too many layers", () => {
    const nested = (n: number): object => ({ ...newLayer(`g${n}`, "g", { kind: "group" }), layers: n > 0 ? [nested(n - 1)] : [] });
    expect(() => parseStack({ ...stack, layers: [nested(STACK_LIMITS.depth)] })).toThrow(/deep/);
    const many = Array.from({ length: 60 }, (_, i) => newLayer(`c${i}`, "c", { kind: "colour", colour: [1, 1, 1] }));
    const more = many.map((l) => ({ ...l, id: `d${l.id}` }));
    expect(() => parseStack({ ...stack, layers: [...many, { ...newLayer("g", "g", { kind: "group" }), layers: more }] })).toThrow(
      /121, more than 64/,
    );
  });
});

describe("a stack of a picture made elsewhere and the air of its scene", () => {
  const plate = framed(bands("", [0.1, 3.7], [0.2, 0.7], [1.3, 0.05]));
  const airOf = (t: number, light: number) =>
    framed(
      [
        ...bands("", [0, 0], [0, 0], [0, 0]),
        ...["air", "surfaces"].flatMap((l) => bands(l, [light, light], [light, light], [light, light])),
        ...bands("transmittance", [t, t], [t, t], [t, t]),
      ],
      2,
      1,
      { attributes: { "fumarium.document": "{}" } },
    );
  const stackOf = (air: ReturnType<typeof framed>) => {
    const frames = new Map([["plate", plate], ["air", air]]); // prettier-ignore
    const source = (name: string) => ({ name, sha256: null, file: name });
    return { frames, stack: startingStack("p", { plate: source("plate.exr"), air: source("air.exr") }, frames) };
  };

  it("begins with what comes through the air, and its own light; without air it is the picture, bit for bit", async () => {
    const { frames, stack } = stackOf(airOf(1, 0));
    expect(stack.layers.map((l) => [l.name, l.blend])).toEqual([["picture", "over"], ["transmittance", "multiply"], ["air", "add"]]); // prettier-ignore
    const plan = planOf(stack, frames, 2, 1);
    const unit = unitOf(stack, frames);
    const image = composedExr(stack, plan, await composedLight(plan, unit), unit, { type: "float" });
    for (const [k, band] of [..."RGB"].entries())
      expect(image.channels.find((c) => c.name === band)!.values).toEqual(plate.layers.get("")!.bands[k]);
  });

  it("is dimmed and lit by the air, light in cd/m² counting as shares of the stack's white", () => {
    const { frames, stack } = stackOf(airOf(0.5, 0.2 * whiteAt(0)));
    const rows = composeRows(planOf(stack, frames, 2, 1), 0, 1);
    expect(rows[0]).toBeCloseTo(0.5 * 0.1 + 0.2, 6);
    expect(rows[3]).toBeCloseTo(0.5 * 3.7 + 0.2, 6);
  });
});
