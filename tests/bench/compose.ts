/** Composition at 4096 × 2160 in single precision: how long the parts of an export take, and what the air, masks and feather cost against plain layers. */
import { planOf, composeRows } from "#core/compose/compose";
import { developmentOf, finishedLight } from "#core/compose/export";
import type { Frame, Planes } from "#core/formats/layers";
import type { Layer, Stack } from "#core/compose/stack";
import { newLayer, startingStack } from "#core/compose/start";

const [WIDTH, HEIGHT] = [4096, 2160];

/** A frame with the passes of a final: numbers that vary, of no picture. */
function frame(): Frame {
  const n = WIDTH * HEIGHT;
  const plane = (of: (i: number) => number): Float32Array => Float32Array.from({ length: n }, (_, i) => of(i));
  const colours = (name: string, light: boolean, scale: number): Planes => ({
    ...{ name, light, alpha: null },
    bands: [0, 1, 2].map((k) => plane((i) => scale * (0.5 + 0.5 * Math.sin(i * 0.001 * (k + 1))))),
  });
  const one = (name: string, of: (i: number) => number): Planes => ({ name, light: false, alpha: null, bands: [plane(of)] });
  const all = [
    colours("air", true, 400),
    colours("surfaces", true, 900),
    colours("transmittance", false, 1),
    one("distance", (i) => 2 + 60 * ((i % WIDTH) / WIDTH) * (0.5 + 0.5 * Math.sin(i / WIDTH / 50))),
    one("height", (i) => 8 * (1 - i / n)),
  ];
  return { width: WIDTH, height: HEIGHT, attributes: {}, layers: new Map(all.map((p) => [p.name, p])) };
}

export function benchCompose(): void {
  const frames = new Map([["a", frame()]]);
  const plain = startingStack("bench", { a: { name: "a", sha256: null, file: null } }, frames);
  const mask = (more: object): NonNullable<Layer["mask"]> => ({
    ...{
      parts: [{ kind: "distance" as const, from: 5, to: 40, curve: null, join: "and" as const, invert: false }],
      invert: false,
      feather: 0,
      guided: true,
    },
    ...more,
  });
  const strokes = Array.from({ length: 200 }, (_, i) => ({
    ...{ size: 0.06, hardness: 0.5, flow: 0.4, erase: i % 5 === 4 },
    points: Array.from({ length: 40 }, (__, k): [number, number, number] => [0.1 + 0.02 * k, 0.1 + 0.004 * i + 0.01 * Math.sin(k), 1]),
  }));
  const withMask = (m: Layer["mask"]): Stack => ({ ...plain, layers: plain.layers.map((l, i) => (i === 1 ? { ...l, mask: m } : l)) });
  const cases: [string, Stack][] = [
    ["surfaces and air", plain],
    ["with a mask by distance", withMask(mask({}))],
    ["with that mask feathered along edges", withMask(mask({ feather: 0.02 }))],
    ["with 200 painted strokes", withMask(mask({ parts: [{ kind: "paint", strokes, join: "and" as const, invert: false }] }))],
    ["air twice as thick", { ...plain, air: { density: 2, by: [] } }],
    ["eight more colours over it", { ...plain, layers: [...plain.layers, ...Array.from({ length: 8 }, (_, i) => newLayer(`c${i}`, "c", { kind: "colour", colour: [0.1, 0.1, 0.1] }, { blend: "screen", opacity: 0.5 }))] }], // prettier-ignore
  ];
  let base = 0;
  for (const [words, stack] of cases) {
    const begun = performance.now();
    const plan = planOf(stack, frames, WIDTH, HEIGHT);
    const planned = performance.now();
    for (let y = 0; y < HEIGHT; y += 64) composeRows(plan, y, Math.min(HEIGHT, y + 64));
    const all = performance.now() - begun;
    base ||= all;
    console.log(
      `${words}: masks ${((planned - begun) / 1000).toFixed(2)} s, rows ${((all - planned + begun) / 1000).toFixed(2)} s, ×${(all / base).toFixed(2)}`,
    );
  }
  const light = composeRows(planOf(plain, frames, WIDTH, HEIGHT), 0, HEIGHT);
  const begun = performance.now();
  finishedLight(light, WIDTH, HEIGHT, developmentOf(plain), 8);
  console.log(
    `finished to 8 bits: ${((performance.now() - begun) / 1000).toFixed(2)} s, ×${((performance.now() - begun) / base).toFixed(2)}`,
  );
}
