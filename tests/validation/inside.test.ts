import { describe, expect, it } from "vitest";
import { bandMean, pencil, render, type PartialDocument } from "../support/kernel";

/** Air inside solid glass: the border refracts, the medium fills the object's mesh. */
const furnace: PartialDocument = {
  sun: { on: false },
  sky: { luminance: 1, zenith: [1, 1, 1], horizon: [1, 1, 1] },
  render: { level: "full", airBounces: 1000, surfaceBounces: 1000, airSamples: 1 },
  film: { size: [16, 16] },
};
const glass = { glass: { transmission: 1, solid: true, roughness: 0 } };

describe("a medium inside glass", () => {
  it.each([
    ["thin", 0.3, 0],
    ["thick, forward", 2, 0.7],
  ])("that absorbs nothing loses nothing: a ball of murky glass in a white furnace, %s", async (_, density, anisotropy) => {
    const film = await render(
      {
        ...furnace,
        camera: { position: [0, 0.3, 6], target: [0, 0, 0], fieldOfView: 30 },
        materials: glass,
        objects: [{ kind: "sphere", name: "ball", material: "glass", radius: 1.4 }],
        air: [{ density, anisotropy, region: { kind: "mesh", object: "ball" } }],
      },
      256,
    );
    const m = bandMean(film, "beauty", 1);
    expect(Math.abs(m.mean - 1)).toBeLessThan(3.5 * m.error + 2e-3);
  });

  it("that only absorbs leaves what Beer's law does along the refracted way", async () => {
    for (const cos of [1, 0.5]) {
      const film = await render(
        {
          ...furnace,
          camera: pencil([0, 5 * cos, 5 * Math.sqrt(1 - cos * cos)], [0, -cos, -Math.sqrt(1 - cos * cos)]),
          materials: glass,
          objects: [{ kind: "box", name: "slab", material: "glass", size: [400, 1, 400] }],
          air: [{ density: 0.5, scattering: [0, 0, 0], absorption: [1, 1, 1], region: { kind: "mesh", object: "slab" } }],
          film: { size: [32, 32] },
        },
        64,
      );
      const t = Math.sqrt(1 - (1 - cos * cos) / 1.5 ** 2);
      const left = Math.exp(-0.5 / t);
      // either polarisation: of what enters, each way across keeps `left`, each border sends r back in
      const each = [(cos - 1.5 * t) / (cos + 1.5 * t), (t - 1.5 * cos) / (t + 1.5 * cos)].map((a) => a * a);
      // the kernel's Fresnel is the mean of both at every border
      const r = (each[0]! + each[1]!) / 2;
      const want = r + ((1 - r) ** 2 * left) / (1 - r * left);
      const m = bandMean(film, "beauty", 1);
      expect(Math.abs(m.mean - want)).toBeLessThan(4 * m.error + 1e-3);
    }
  });
});
