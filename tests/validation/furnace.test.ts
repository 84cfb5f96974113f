import { describe, expect, it } from "vitest";
import type { Film } from "#core/film/film";
import { holds } from "../support/record";
import { facetIntegral, overHemisphere } from "../support/facets";
import { bandMean, pencil, pixelErrors, render, type PartialDocument } from "../support/kernel";

/** Uniform surroundings of radiance 1, nothing absorbs: every pixel must be 1. */
const furnace: PartialDocument = {
  sun: { on: false },
  sky: { luminance: 1, zenith: [1, 1, 1], horizon: [1, 1, 1] },
  camera: { position: [0, 0, 6], target: [0, 0, 0], fieldOfView: 50 },
  render: { level: "full", airBounces: 1000, surfaceBounces: 1000, airSamples: 1 },
  film: { size: [24, 24] },
};
const box = { kind: "box" as const, centre: [0, 0, 0] as [number, number, number], size: [4, 4, 4] as [number, number, number] };
const white = { white: { baseColor: [1, 1, 1] as [number, number, number], specular: 0 } };

/** Every pixel within 5 of its standard errors (576 of them), and the mean of the frame within 3.5 of its own. */
function expectOne(film: Film): void {
  for (const p of pixelErrors(film)) expect(Math.abs(p.mean - 1)).toBeLessThan(5 * p.error + 1e-4);
  for (const band of [0, 1, 2]) {
    const m = bandMean(film, "beauty", band);
    expect(m.error).toBeLessThan(0.01);
    holds(
      {
        case: `white furnace: ${expect.getState().currentTestName?.split(" > ").pop() ?? ""}`,
        quantity: `mean of band ${"RGB"[band]}`,
        expected: 1,
        source: "energy",
        measured: m.mean,
        error: m.error,
      },
      3.5,
      2e-5,
    );
  }
}

describe("white furnace", () => {
  for (const [name, density, g] of [
    ["thin", 0.1, 0],
    ["forward", 0.5, 0.8],
    ["thick, backward", 1.5, -0.5],
  ] as const)
    it(`uniform air in a box, ${name}`, async () => {
      expectOne(await render({ ...furnace, air: [{ density, anisotropy: g, region: box }] }, 96));
    });

  it("colours of very different density stay white and free of bias", async () => {
    expectOne(await render({ ...furnace, air: [{ density: 1, scattering: [1, 0.2, 0], anisotropy: 0.3, region: box }] }, 192));
  });

  it("air with break-up and height falloff, tracked", async () => {
    const air = { density: 1.2, anisotropy: 0.5, region: box, height: { level: -1, scale: 1.5 }, noise: { size: 1.5, octaves: 3 } };
    expectOne(await render({ ...furnace, air: [air] }, 128));
  });

  it("white surfaces without air", async () => {
    expectOne(
      await render(
        {
          ...furnace,
          materials: white,
          objects: [
            { kind: "sphere", material: "white", radius: 1.5 },
            { kind: "box", material: "white", position: [0, -2, 0], size: [6, 0.5, 6] },
          ],
        },
        64,
      ),
    );
  });

  it("white surfaces in white air, the camera inside it", async () => {
    expectOne(
      await render(
        {
          ...furnace,
          camera: { position: [0, 0.2, 1.8], target: [0, 0, 0], fieldOfView: 70 },
          materials: white,
          objects: [
            { kind: "sphere", material: "white", radius: 1 },
            { kind: "rectangle", material: "white", position: [0, -1.2, 0], size: [3, 3] },
          ],
          air: [{ density: 0.6, anisotropy: 0.4, region: box }],
        },
        128,
      ),
    );
  });

  it("a translucent leaf passes on what it does not reflect", async () => {
    const leaf = { leaf: { baseColor: [1, 1, 1] as [number, number, number], specular: 0, diffuseTransmission: 0.4 } };
    expectOne(
      await render(
        { ...furnace, materials: leaf, objects: [{ kind: "rectangle", material: "leaf", size: [3, 3], rotation: [60, 20, 0] }] },
        64,
      ),
    );
  });

  /** Radiance of a plane of a material in the furnace, seen at a cosine. */
  const plane = async (material: object, cos: number, samples: number): Promise<{ mean: number; error: number }> => {
    const film = await render(
      {
        ...furnace,
        camera: pencil([0, 5 * cos, 5 * Math.sqrt(1 - cos * cos)], [0, -cos, -Math.sqrt(1 - cos * cos)]),
        materials: { m: { baseColor: [1, 1, 1], ...material } } as never,
        objects: [{ kind: "rectangle", material: "m", size: [400, 400] }],
      },
      samples,
    );
    return bandMean(film, "beauty", 1);
  };
  const COSINES = [0.02, 0.1, 0.3, 0.6, 1];
  const ROUGHNESSES = [0.05, 0.2, 0.5, 1];

  for (const [name, material, tolerance] of [
    ["a white dielectric gives back what it gets: facets and body share it", {}, 0.005],
    ["a white metal gives back what it gets, however rough", { metallic: 1 }, 0.005],
    ["half metal, half matt", { metallic: 0.5 }, 0.005],
    ["a body of index 2.4 under facets of half strength", { ior: 2.4, specular: 0.5 }, 0.005],
    ["a translucent body under facets", { diffuseTransmission: 0.4 }, 0.005],
    ["clear rough panes", { transmission: 1 }, 0.005],
  ] as const)
    it(name, async () => {
      for (const roughness of ROUGHNESSES)
        for (const cos of COSINES) {
          const m = await plane({ roughness, ...material }, cos, 64);
          const at = `roughness ${roughness}, cosine ${cos}`;
          expect(m.error, at).toBeLessThan(0.006);
          expect(Math.abs(m.mean - 1), `${at}: ${m.mean}`).toBeLessThan(tolerance + 4 * m.error);
        }
    });

  it("a rough grey metal gives back what quadrature of its facets and of what they lose gives", async () => {
    for (const roughness of [0.5, 0.8])
      for (const cos of [0.3, 1]) {
        const alpha = roughness * roughness;
        const f0 = 0.5;
        const lost = (c: number): number => 1 - facetIntegral(alpha, c, () => 1, 160);
        const mean = 1 - overHemisphere(lost);
        // Kulla and Conty 2017: what is lost comes back after several bounces at the mean reflectance
        const average = f0 + (1 - f0) / 21;
        const many = (average * average * mean) / (1 - average * (1 - mean));
        const expected = facetIntegral(alpha, cos, (vh) => f0 + (1 - f0) * (1 - vh) ** 5) + many * lost(cos);
        const m = await plane({ baseColor: [f0, f0, f0], metallic: 1, roughness }, cos, 256);
        holds(
          {
            case: `grey metal, roughness ${roughness}, cosine ${cos}`,
            quantity: "radiance in a white furnace",
            expected,
            source: "quadrature over outgoing directions",
            measured: m.mean,
            error: m.error,
          },
          4,
          1e-3,
        );
      }
  });
});
