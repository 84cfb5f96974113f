/** Rays that leave a surface: they do not meet it again, and miss nothing that lies close above it. */
import { describe, expect, it } from "vitest";
import { luminance } from "#core/optics/colour";
import { PASS_SURFACES } from "#core/layout/layout";
import { bandMean, render, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";

const sunny = (elevation: number): PartialDocument => ({
  sky: { on: false },
  sun: { azimuth: 90, elevation, illuminance: 1000, temperature: 6500, angularDiameter: 0.01 },
  render: { surfaceBounces: 0 },
  film: { size: [24, 24] },
});

describe("a surface in the sun", () => {
  it("is whole, however large it is, wherever it lies, however far the lens and however low the sun", async () => {
    for (const size of [0.01, 1, 100, 10_000])
      for (const at of [0, 100, 10_000])
        for (const far of [0.5, 20, 2000])
          for (const elevation of [4, 60]) {
            // a narrow frame in the middle of it, from aslant; no lens is narrower than a tenth of a degree
            const frame = (180 / Math.PI) * ((0.2 * size) / far);
            if (frame < 0.1) continue;
            const [x, y, z] = [at + 0.1 * size, 0.3 * at, -0.7 * at];
            const film = await render(
              {
                ...sunny(elevation),
                materials: { m: { baseColor: [1, 1, 1], specular: 0 } },
                objects: [{ kind: "rectangle", material: "m", size: [size, size], position: [at, 0.3 * at, -0.7 * at] }],
                camera: {
                  position: [x, y + 0.8 * far, z + 0.6 * far],
                  target: [x, y, z],
                  fieldOfView: Math.min(40, frame),
                },
              },
              4,
              PASS_SURFACES,
            );
            holds(
              {
                case: `a square of ${size} m, ${at} m away, seen from ${far} m, sun at ${elevation}°`,
                quantity: "share of it that is lit as it should be",
                expected: 1,
                source: "Lambert's cosine law",
                measured:
                  (luminance(...([0, 1, 2].map((k) => bandMean(film, "surfaces", k).mean) as [number, number, number])) * Math.PI) /
                  (1000 * Math.sin((elevation * Math.PI) / 180)),
                error: 0,
              },
              0,
              2e-3,
            );
          }
  });

  it("is dark under what lies seven millimetres above it, though the set reaches to 20 kilometres", async () => {
    const under = async (height: number): Promise<number> =>
      bandMean(
        await render(
          {
            ...sunny(89.9),
            materials: { m: { baseColor: [0.8, 0.8, 0.8], specular: 0 } },
            objects: [
              { kind: "rectangle", material: "m", size: [30, 30] },
              { kind: "box", material: "m", position: [0, height + 0.005, 0], size: [1, 0.01, 1] },
              { kind: "box", material: "m", position: [15_000, 0, -12_000], size: [400, 900, 400] },
            ],
            // the lens lies in the gap and sees the ground under the board alone
            camera: { position: [0, 0.4 * height, 0.1], target: [0, 0, 0], fieldOfView: 2 },
          },
          16,
          PASS_SURFACES,
        ),
        "surfaces",
        1,
      ).mean;
    expect(await under(0.007)).toBe(0);
    expect(await under(0.07)).toBe(0);
  });
});
