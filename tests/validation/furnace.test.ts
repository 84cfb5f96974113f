import { describe, expect, it } from "vitest";
import type { Film } from "#core/film/film";
import { holds } from "../support/record";
import { bandMean, pencil, pixelErrors, render, simpson, type PartialDocument } from "../support/kernel";

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

  it("a rough metal seen head on reflects what quadrature of its microfacets gives", async () => {
    for (const roughness of [0.3, 0.6]) {
      const alpha = roughness * roughness;
      // view along the normal: ∫ D(h) G2 / 4 dω, with the masking of the view equal to 1
      const reflected = simpson(
        (c) => {
          const h2 = (1 + c) / 2;
          const q = h2 * (alpha * alpha - 1) + 1;
          const shadowing = 1 / (1 + 0.5 * (Math.sqrt(1 + (alpha * alpha * (1 - c * c)) / (c * c)) - 1));
          return ((alpha * alpha) / (Math.PI * q * q)) * (shadowing / 4) * 2 * Math.PI;
        },
        1e-9,
        1,
        20000,
      );
      const film = await render(
        {
          ...furnace,
          camera: pencil([0, 0, 5], [0, 0, -1]),
          materials: { m: { baseColor: [1, 1, 1], metallic: 1, roughness } },
          objects: [{ kind: "rectangle", material: "m", size: [20, 20], rotation: [90, 0, 0] }],
        },
        64,
      );
      const m = bandMean(film, "beauty", 1);
      expect(m.error).toBeLessThan(0.002);
      expect(Math.abs(m.mean - reflected)).toBeLessThan(4 * m.error + 1e-4);
    }
  });
});
