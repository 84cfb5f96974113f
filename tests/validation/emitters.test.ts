/** Lights with an extent in glossy surfaces, against quadratures over their faces; and as the lens sees them. */
import { describe, expect, it } from "vitest";
import { F_SEEN } from "#core/layout/layout";
import { facetIntegral, overHemisphere } from "../support/facets";
import { bandMean, pencil, render, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";

type V3 = [number, number, number];
const dark = { sun: { on: false }, sky: { on: false } };
const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a: V3): V3 => a.map((v) => v / Math.hypot(...a)) as V3;

/** GGX with height-correlated shadowing, times the cosine of l; reflectance 1, normal +y. */
function mirrorLobe(alpha: number, v: V3, l: V3): number {
  const [cv, cl] = [v[1], l[1]];
  if (cl <= 0) return 0;
  const h = unit([v[0] + l[0], v[1] + l[1], v[2] + l[2]]);
  const lambda = (c: number): number => (Math.sqrt(1 + alpha ** 2 * (1 / (c * c) - 1)) - 1) / 2;
  const d = alpha ** 2 / (Math.PI * (h[1] ** 2 * (alpha ** 2 - 1) + 1) ** 2);
  return d / (4 * cv * (1 + lambda(cv) + lambda(cl)));
}

/** Where the light hangs, such that the mirror image of the ray down to the origin comes near it. */
const AT: V3 = [1.2, 1.25, 0.05];
/** A place of the face for (u, v) in the unit square: where it is, and its outward area (m² of the square, as a vector). */
type Face = (u: number, v: number) => { at: V3; area: V3 };
const plus = (a: V3, b: V3, k = 1): V3 => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
const towards = unit(sub([0, 0, 0], AT));
const across: V3 = unit([towards[1], -towards[0], 0]);
const other: V3 = [across[1] * towards[2] - across[2] * towards[1], across[2] * towards[0] - across[0] * towards[2], across[0] * towards[1] - across[1] * towards[0]]; // prettier-ignore

const LIGHTS: [string, object, Face][] = [
  [
    "sphere",
    { kind: "sphere", radius: 0.1 },
    (u, v) => {
      const z = 1 - 2 * u,
        s = Math.sqrt(1 - z * z),
        n: V3 = [s * Math.cos(2 * Math.PI * v), z, s * Math.sin(2 * Math.PI * v)];
      return { at: plus(AT, n, 0.1), area: n.map((c) => c * 4 * Math.PI * 0.01) as V3 };
    },
  ],
  [
    "disk",
    { kind: "disk", radius: 0.12, target: [0, 0, 0] },
    (u, v) => {
      const r = 0.12 * Math.sqrt(u);
      return {
        at: plus(plus(AT, across, r * Math.cos(2 * Math.PI * v)), other, r * Math.sin(2 * Math.PI * v)),
        area: towards.map((c) => c * Math.PI * 0.0144) as V3,
      };
    },
  ],
  [
    "tube",
    { kind: "tube", radius: 0.04, length: 0.5, direction: [0, 0, 1] },
    (u, v) => {
      const n: V3 = [Math.cos(2 * Math.PI * v), Math.sin(2 * Math.PI * v), 0];
      return { at: plus([AT[0], AT[1], AT[2] + 0.5 * (u - 0.5)], n, 0.04), area: n.map((c) => c * 2 * Math.PI * 0.04 * 0.5) as V3 };
    },
  ],
];

describe("lights in a polished plate", () => {
  // the lens looks down at 45° on a metal that mirrors all
  const view: V3 = unit([-1, 1, 0]);
  const scene = (roughness: number, surfaceBounces: number, light: object): PartialDocument => ({
    ...dark,
    camera: pencil([-3, 3, 0], [1, -1, 0]),
    materials: { metal: { baseColor: [1, 1, 1], metallic: 1, roughness } },
    objects: [{ kind: "box", material: "metal", size: [20, 1, 20], position: [0, -0.5, 0] }],
    lights: [{ position: AT, unit: "cd/m2", intensity: 1000, temperature: 6500, ...light } as never],
    render: { level: "shafts", surfaceBounces },
    film: { size: [16, 16] },
  });
  for (const [name, light, face] of LIGHTS)
    for (const roughness of [0.1, 0.3, 0.6])
      it.each([0, 1])(`a ${name}, roughness ${roughness}, %d bounces left`, async (bounces) => {
        const n = 400;
        // what leaves facets after several bounces (Kulla and Conty 2017); the light is small, so one cosine speaks for it
        const loss = (c: number): number => 1 - facetIntegral(roughness ** 2, c, () => 1, 120);
        const many = (loss(view[1]) * loss(unit(AT)[1])) / (Math.PI * overHemisphere(loss, 24));
        let expected = 0;
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++) {
            const { at, area } = face((i + 0.5) / n, (j + 0.5) / n);
            const d2 = dot(at, at),
              l = unit(at);
            const facing = -dot(area, l);
            if (facing > 0) expected += (1000 * (mirrorLobe(roughness ** 2, view, l) + many * l[1]) * facing) / d2 / (n * n);
          }
        const film = await render(scene(roughness, bounces, light), 256);
        const m = bandMean(film, "beauty", 1);
        // either way of sampling alone would take thousands of times as many samples at one of the roughnesses
        expect(m.error / m.mean).toBeLessThan(0.02);
        holds(
          {
            case: `${name} in a plate of roughness ${roughness}, ${bounces} bounces`,
            quantity: "luminance",
            expected,
            source: "area quadrature of the GGX lobe",
            measured: m.mean,
            error: m.error,
          },
          4,
          // tables of what facets lose
          0.004 * expected,
        );
      });
});

describe("lights that the lens sees", () => {
  const ball = { kind: "sphere", position: [0, 0, 0], radius: 0.5, unit: "cd/m2", intensity: 700, temperature: 6500 };
  const look = (light: object, rest: PartialDocument = {}): PartialDocument => ({
    ...dark,
    camera: pencil([-4, 0.2, 0], [1, 0, 0]),
    lights: [light as never],
    film: { size: [8, 8] },
    ...rest,
  });

  it("have their luminance, and are held out of what a clean-up takes for noise", async () => {
    const film = await render(look({ ...ball, visible: true }), 16);
    const m = bandMean(film, "beauty", 1);
    expect(m.mean).toBeCloseTo(700, 2);
    expect(film.data[F_SEEN + 1]! / 16).toBeCloseTo(700, 2);
    expect(bandMean(await render(look(ball), 16), "beauty", 1).mean).toBe(0);
  });

  it("are attenuated by the air before them, and hidden by what stands before them", async () => {
    const air = [{ density: 0.1, scattering: [0, 0, 0] as V3, absorption: [1, 1, 1] as V3 }];
    const distance = 4 - Math.sqrt(0.25 - 0.04);
    const m = bandMean(await render(look({ ...ball, visible: true }, { air: air }), 16), "surfaces", 1);
    expect(m.mean).toBeCloseTo(700 * Math.exp(-0.1 * distance), 2);
    const wall = {
      materials: { matt: {} },
      objects: [{ kind: "box" as const, material: "matt", size: [0.1, 2, 2] as V3, position: [-2, 0, 0] as V3 }],
    };
    expect(bandMean(await render(look({ ...ball, visible: true }, wall), 16), "beauty", 1).mean).toBeLessThan(100);
  });

  it.each([
    ["a disk from its front", { kind: "disk", target: [-4, 0.2, 0], radius: 0.5 }, 700],
    ["a disk from its back", { kind: "disk", target: [4, 0, 0], radius: 0.5 }, 0],
    ["a disk of two sides from its back", { kind: "disk", target: [4, 0, 0], radius: 0.5, bothSides: true }, 700],
    ["a rectangle beside the ray", { kind: "rectangle", target: [-4, 0, 0], size: [0.3, 0.3] }, 0],
    ["a tube", { kind: "tube", direction: [0, 1, 0], length: 2, radius: 0.1 }, 700],
    ["a tube's open end", { kind: "tube", direction: [1, 0, 0], length: 2, radius: 0.3 }, 0],
  ] as const)("%s", async (_, light, luminance) => {
    const film = await render(look({ position: [0, 0, 0], unit: "cd/m2", intensity: 700, temperature: 6500, ...light, visible: true }), 4);
    expect(bandMean(film, "beauty", 1).mean).toBeCloseTo(luminance, 1);
  });
});
