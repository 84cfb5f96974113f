/** At low sample counts what is left of noise is spread fine-grained over neighbouring pixels. */
import { expect, it } from "vitest";
import { passValues } from "#core/film/film";
import { PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { pencil, render, type PartialDocument } from "../support/kernel";

/** Variance of means over blocks of 4 × 4 pixels, against that of white noise of the same variance. */
function coarseness(v: Float32Array, side: number): number {
  const at = (x: number, y: number): number => v[3 * (y * side + x)]!;
  let mean = 0;
  for (let i = 0; i < side * side; i++) mean += v[3 * i]! / (side * side);
  let all = 0,
    blocks = 0;
  for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) all += (at(x, y) - mean) ** 2 / side ** 2;
  for (let by = 0; by < side; by += 4)
    for (let bx = 0; bx < side; bx += 4) {
      let sum = 0;
      for (let k = 0; k < 16; k++) sum += at(bx + (k & 3), by + (k >> 2)) - mean;
      blocks += (sum / 16) ** 2 / (side / 4) ** 2;
    }
  return (16 * blocks) / all;
}

const scenes: [string, PartialDocument, number][] = [
  [
    "a lamp in haze",
    { sky: { on: false }, sun: { on: false }, lights: [{ kind: "point", position: [0, 1, -5], intensity: 100 }], air: [{ density: 0.1 }] },
    PASS_AIR,
  ],
  [
    "a wall under a wide lamp",
    {
      sky: { on: false },
      sun: { on: false },
      materials: { m: { specular: 0 } },
      objects: [{ kind: "rectangle", material: "m", position: [0, 0, -4], size: [9, 9], rotation: [90, 0, 0] }],
      lights: [{ kind: "rectangle", position: [2, 2, -2], target: [0, 0, -4], size: [2, 2], intensity: 100 }],
    },
    PASS_SURFACES,
  ],
];

it.each(scenes)("%s: block means vary far less than white noise", async (_, scene, passes) => {
  const air = passes === PASS_AIR;
  // a surface asks its lamps four times a sample: one sample there is as four in the air
  for (const samples of air ? [1, 4] : [1]) {
    const film = await render(
      { ...scene, camera: pencil([0, 0.3, 0], [0, 0, -1]), render: { airSamples: 1, surfaceBounces: 0 }, film: { size: [64, 64] } },
      samples,
      passes,
    );
    expect(coarseness(passValues(film, air ? "air" : "surfaces"), 64), `${samples} samples`).toBeLessThan(samples === 1 && air ? 0.5 : 0.7);
  }
});
