/** The balance of light groups against renders with changed lights. */
import { describe, expect, it } from "vitest";
import { balanceSchema, type Balance } from "#core/document/balance";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { Film } from "#core/film/film";
import { lightOf } from "#core/film/light";
import { applyBalance } from "#core/scene/apply-balance";
import { render } from "../support/kernel";

const document = (level: "veil" | "shafts" | "full", balance: unknown, surfaceBounces = 1): SceneDocument =>
  parseDocument({
    fumarium: 2,
    sun: { azimuth: 40, elevation: 35, illuminance: 2000 },
    moon: { on: true, azimuth: 200, elevation: 50, illuminance: 900 },
    sky: { luminance: 300 },
    materials: { wall: { baseColor: [0.6, 0.5, 0.4] }, lamp: { baseColor: [0, 0, 0], emission: [400, 300, 200] } },
    objects: [
      { kind: "rectangle", name: "ground", material: "wall", size: [40, 40] },
      { kind: "sphere", name: "globe", material: "lamp", position: [1, 1, -4], radius: 0.4 },
    ],
    lights: [
      { kind: "point", name: "left", position: [-2, 2, -4], intensity: 600 },
      { kind: "point", name: "right", position: [2, 2, -4], intensity: 300, group: "pair" },
      { kind: "spot", name: "back", position: [2, 3, -8], target: [0, 0, -4], intensity: 900, group: "pair", air: 0.5 },
    ],
    air: [
      { density: 0.08 },
      {
        name: "ember",
        density: 0.3,
        region: { kind: "sphere", centre: [0, 1, -5], radius: 1 },
        emission: { colour: [1, 0.5, 0.2], strength: 50 },
      },
    ],
    camera: { position: [0, 1.5, 3], target: [0, 1, -4], fieldOfView: 60 },
    render: { level, surfaceBounces, airBounces: 4, airSamples: 3 },
    film: { size: [32, 22], balance },
  });

const EMISSIVE = [
  { name: "wall", emission: [0, 0, 0] },
  { name: "lamp", emission: [400, 300, 200] },
];
const both = (stops: number, colour = [1, 1, 1]) => ({ air: { stops, colour }, surfaces: { stops, colour } });

/** Means of bands of a side and their errors: pixels of different samples are independent, and so are two renders. */
function expectSame(a: Film, balance: Balance, b: Film): void {
  for (const side of ["air", "surfaces"] as const) {
    const [one, other] = [lightOf(a, side, balance), lightOf(b, side, b.lights.length > 0 ? {} : undefined)];
    for (let band = 0; band < 3; band++) {
      const d = Array.from({ length: one.length / 3 }, (_, i) => one[3 * i + band]! - other[3 * i + band]!);
      const mean = d.reduce((x, y) => x + y) / d.length;
      const level = other.reduce((x, v, i) => (i % 3 === band ? x + v : x), 0) / d.length;
      const error = Math.sqrt(d.reduce((x, v) => x + (v - mean) ** 2, 0)) / d.length;
      expect(Math.abs(mean), `${side}, band ${band}, of ${level}`).toBeLessThan(4 * error + 1e-9);
      // what would pass all the same is no more than this
      expect(4 * error, `${side}, band ${band}`).toBeLessThan(0.08 * level);
    }
  }
}

describe("a balance applied to the lights", () => {
  it.each(["veil", "shafts", "full"] as const)("gives the same picture, level %s", async (level) => {
    const balanced = document(level, {
      sun: both(-1, [1, 0.8, 0.5]),
      sky: both(1.5, [0.7, 0.8, 1]),
      moon: { muted: true },
      left: both(1, [1, 0.5, 0.3]),
      pair: both(-0.5),
      "air emission": both(2),
      "emissive surfaces": both(0.7),
    });
    const { document: next, left } = applyBalance(balanced, EMISSIVE);
    expect(left).toEqual([]);
    expect(next.film.balance).toEqual({});
    const a = await render(balanced, 192);
    const b = await render({ ...next, render: { ...next.render, seed: 7 } }, 192);
    expectSame(a, balanced.film.balance, b);
  });

  it("gives the same picture where air and surfaces differ, as far as light goes from a light to one of them alone", async () => {
    const sides = (air: number, surfaces: number) => ({ air: { stops: air }, surfaces: { stops: surfaces } });
    const balanced = document("shafts", { sun: sides(1, -1), left: sides(-2, 1), pair: sides(1, 0), sky: sides(0, 1) }, 0);
    const { document: next, left } = applyBalance(balanced, EMISSIVE);
    expect(left).toEqual([]);
    const a = await render(balanced, 192);
    const b = await render({ ...next, render: { ...next.render, seed: 7 } }, 192);
    expectSame(a, balanced.film.balance, b);
  });

  it("solo leaves what is soloed alone, and is applied as lights that are off", async () => {
    const balanced = document("shafts", { left: { solo: true } });
    const { document: next } = applyBalance(balanced, EMISSIVE);
    expect([next.sun.on, next.moon.on, next.sky.on, ...next.lights.map((l) => l.on)]).toEqual([false, false, false, true, false, false]);
    expectSame(await render(balanced, 192), balanced.film.balance, await render({ ...next, render: { ...next.render, seed: 7 } }, 192));
  });

  it("says which groups cannot have what is asked of them, and leaves those balanced", () => {
    const balance = balanceSchema.parse({
      left: { air: { colour: [1, 0, 0] }, surfaces: { colour: [0, 0, 1] } },
      sun: both(20),
      pair: both(1),
      "air emission": { air: { stops: 1 } },
    });
    const given = document("shafts", balance);
    const { document: next, left } = applyBalance(given, EMISSIVE);
    expect(left.map((l) => l.group)).toEqual(["sun", "air emission", "left"]);
    expect(Object.keys(next.film.balance).sort()).toEqual(["air emission", "left", "sun"]);
    expect(next.lights.map((l) => l.stops)).toEqual([0, 1, 1]);
    expect(next.sun).toEqual(given.sun);
    // a material that belongs to a model
    const model = [...EMISSIVE, { name: "lamp", emission: [7, 7, 7] }];
    expect(applyBalance(document("shafts", { "emissive surfaces": both(1) }), model).left[0]!.why).toMatch("models");
  });
});
