import { describe, expect, it } from "vitest";
import { henyeyGreenstein } from "#core/optics/phase";
import { luminance, temperatureRgb } from "#core/optics/colour";
import { holds } from "../support/record";
import { bandMean, pencil, render, simpson, type PartialDocument } from "../support/kernel";

/**
 * Light scattered once into one ray along +x from the origin, against quadrature written here from the
 * definition: ∫ σs T(camera) p Σ E T(light) V dt. An upright square plate shadows part of the ray.
 */
const SIGMA_S = [0.08, 0.05, 0.02],
  SIGMA_A = [0.01, 0, 0.06],
  G = 0.5;
const END = 20;
const base: PartialDocument = {
  sun: { on: false },
  sky: { on: false },
  materials: { black: { baseColor: [0, 0, 0], specular: 0 } },
  // the end of the ray, and the plate: 2 × 2 m in the plane y = 2, x from 6 to 8
  objects: [
    { kind: "box", material: "black", position: [END + 0.5, 0, 0], size: [1, 1e-3, 1e-3] },
    { kind: "rectangle", material: "black", position: [7, 2, 0], size: [2, 2] },
  ],
  camera: pencil([0, 0, 0], [1, 0, 0]),
  film: { size: [24, 24] },
};
const scattering = SIGMA_S.map((s) => s / 0.1) as [number, number, number];
const absorption = SIGMA_A.map((s) => s / 0.1) as [number, number, number];
const uniform = { density: 0.1, scattering, absorption, anisotropy: G };

type V3 = [number, number, number];
const len = (v: V3): number => Math.hypot(...v);

/** Does the segment from p towards d (unit) within `far` cross the plate? */
function plateHides(p: V3, d: V3, far: number): boolean {
  if (Math.abs(d[1]) < 1e-12) return false;
  const t = (2 - p[1]) / d[1];
  if (t <= 0 || t >= far) return false;
  return Math.abs(p[0] + t * d[0] - 7) < 1 && Math.abs(p[2] + t * d[2]) < 1;
}

/** Path length inside the box |x - 10| < 6, |y| < 4, |z| < 4 of a segment; the whole length where there is no box. */
function inside(boxed: boolean, p: V3, d: V3, far: number): number {
  if (!boxed) return far;
  let [a, b] = [0, far];
  const [lo, hi] = [
    [4, -4, -4],
    [16, 4, 4],
  ];
  for (let k = 0; k < 3; k++) {
    if (Math.abs(d[k]!) < 1e-12) {
      if (p[k]! < lo[k]! || p[k]! > hi[k]!) return 0;
      continue;
    }
    const [s, t] = [(lo[k]! - p[k]!) / d[k]!, (hi[k]! - p[k]!) / d[k]!];
    a = Math.max(a, Math.min(s, t));
    b = Math.min(b, Math.max(s, t));
  }
  return Math.max(0, b - a);
}

/** Quadrature over the ray, in pieces so that shadow edges and borders fall on their ends. */
function expected(
  band: number,
  boxed: boolean,
  incoming: (x: V3) => { direction: V3; distance: number; irradiance: number },
  edges: number[],
): number {
  const st = SIGMA_S[band]! + SIGMA_A[band]!;
  const f = (t: number): number => {
    const x: V3 = [t, 0, 0];
    if (boxed && (t < 4 || t > 16)) return 0;
    const { direction, distance, irradiance } = incoming(x);
    if (plateHides(x, direction, distance)) return 0;
    const depth = inside(boxed, [0, 0, 0], [1, 0, 0], t) + inside(boxed, x, direction, distance);
    return SIGMA_S[band]! * Math.exp(-st * depth) * henyeyGreenstein(direction[0], G) * irradiance;
  };
  const cuts = [0, ...edges, ...(boxed ? [4, 16] : []), END].sort((a, b) => a - b);
  let sum = 0;
  for (let i = 0; i + 1 < cuts.length; i++) sum += simpson(f, cuts[i]! + 1e-9, cuts[i + 1]! - 1e-9, 4000);
  return sum;
}

async function compare(input: PartialDocument, want: (band: number) => number, samples = 64): Promise<void> {
  const film = await render(input, samples);
  for (const band of [0, 1, 2]) {
    const m = bandMean(film, "air", band);
    expect(m.error / m.mean).toBeLessThan(0.01);
    holds(
      {
        case: `single scattering: ${expect.getState().currentTestName?.split(" > ").pop() ?? ""}`,
        quantity: `air luminance, band ${"RGB"[band]}`,
        expected: want(band),
        source: "quadrature",
        measured: m.mean,
        error: m.error,
      },
      4,
      1e-4 * m.mean,
    );
  }
}

const POINT: V3 = [9, 3.5, 0];
const colour = temperatureRgb(4000).map((c) => c / luminance(...temperatureRgb(4000)));

function fromPoint(x: V3): { direction: V3; distance: number; irradiance: number } {
  const v: V3 = [POINT[0] - x[0], POINT[1] - x[1], POINT[2] - x[2]];
  const distance = len(v);
  return { direction: v.map((c) => c / distance) as V3, distance, irradiance: 500 / distance ** 2 };
}
// shadow edges of the plate from the point: similar triangles on the line y = 0
const pointEdges = [6, 8].map((x) => POINT[0] + ((x - POINT[0]) * 3.5) / 1.5).filter((x) => x > 0 && x < END);

describe("single scattering equals quadrature", () => {
  for (const boxed of [false, true]) {
    const air = boxed ? { ...uniform, region: { kind: "box" as const, centre: [10, 0, 0] as V3, size: [12, 8, 8] as V3 } } : uniform;
    const where = boxed ? "camera outside a box of air" : "camera inside boundless air";

    it(`point light behind a plate, ${where}`, async () => {
      const lights = [{ kind: "point" as const, position: POINT, intensity: 500, temperature: 4000 }];
      await compare({ ...base, lights, air: [air] }, (band) => colour[band]! * expected(band, boxed, fromPoint, pointEdges));
    });

    it(`spot light with a soft edge, ${where}`, async () => {
      const lights = [
        { kind: "spot" as const, position: POINT, target: [8, 0, 0] as V3, intensity: 500, temperature: 4000, cone: 80, softness: 0.5 },
      ];
      const axis: V3 = [-1, -3.5, 0].map((c) => c / len([1, 3.5, 0])) as V3;
      const [inner, outer] = [Math.cos((20 * Math.PI) / 180), Math.cos((40 * Math.PI) / 180)];
      const spot = (x: V3): ReturnType<typeof fromPoint> => {
        const p = fromPoint(x);
        const c = -(p.direction[0] * axis[0] + p.direction[1] * axis[1]);
        const t = Math.max(0, Math.min(1, (c - outer) / (inner - outer)));
        return { ...p, irradiance: p.irradiance * t * t * (3 - 2 * t) };
      };
      const tilt = Math.atan2(1, 3.5);
      const edges = [20, 40]
        .flatMap((a) => [1, -1].map((s) => POINT[0] - 3.5 * Math.tan(tilt + (s * a * Math.PI) / 180)))
        .filter((x) => x > 0 && x < END);
      await compare({ ...base, lights, air: [air] }, (band) => colour[band]! * expected(band, boxed, spot, [...pointEdges, ...edges]));
    });

    it(`sun past a plate, ${where}`, async () => {
      // parallel light: azimuth 90 looks along +x; the disk is made tiny so that edges are sharp
      const sun = { azimuth: 90, elevation: 50, illuminance: 1000, temperature: 4000, angularDiameter: 0.01 };
      const e = (50 * Math.PI) / 180;
      const direction: V3 = [Math.cos(e), Math.sin(e), 0];
      const shift = 2 / Math.tan(e);
      const far = boxed ? 1e3 : 0;
      // boundless air would swallow the sun, so it thins out upwards there
      if (boxed) {
        await compare(
          { ...base, sun, air: [air] },
          (band) => colour[band]! * expected(band, true, () => ({ direction, distance: far, irradiance: 1000 }), [6 - shift, 8 - shift]),
        );
        return;
      }
      const H = 5;
      const want = (band: number): number => {
        const st = SIGMA_S[band]! + SIGMA_A[band]!;
        const f = (t: number): number =>
          plateHides([t, 0, 0], direction, 1e9)
            ? 0
            : SIGMA_S[band]! * Math.exp(-st * (t + H / Math.sin(e))) * henyeyGreenstein(direction[0], G) * 1000;
        const cuts = [0, 6 - shift, 8 - shift, END];
        return colour[band]! * [0, 1, 2].reduce((sum, i) => sum + simpson(f, cuts[i]! + 1e-9, cuts[i + 1]! - 1e-9, 4000), 0);
      };
      await compare({ ...base, sun, air: [{ ...air, height: { level: 0, scale: H } }] }, want);
    });
  }

  it("sky alone: uniform radiance scattered by a thin box", async () => {
    const sky = { luminance: 100, zenith: [1, 1, 1] as V3, horizon: [1, 1, 1] as V3 };
    const { objects: _, ...open } = base;
    const air = { ...uniform, anisotropy: 0, region: { kind: "box" as const, centre: [10, 0, 0] as V3, size: [2, 2, 2] as V3 } };
    // ∫ over directions by midpoint quadrature on the sphere at points of the ray
    const want = (band: number): number => {
      const st = SIGMA_S[band]! + SIGMA_A[band]!;
      const out = (x: V3, d: V3): number => {
        let t = Infinity;
        for (let k = 0; k < 3; k++) {
          const [lo, hi] = k === 0 ? [9, 11] : [-1, 1];
          if (Math.abs(d[k]!) > 1e-12) t = Math.min(t, Math.max((lo - x[k]!) / d[k]!, (hi - x[k]!) / d[k]!));
        }
        return t;
      };
      const mean = (x: V3): number => {
        let sum = 0;
        const n = 160;
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++) {
            const c = -1 + (2 * (i + 0.5)) / n,
              s = Math.sqrt(1 - c * c),
              a = (2 * Math.PI * (j + 0.5)) / n;
            sum += Math.exp(-st * out(x, [c, s * Math.cos(a), s * Math.sin(a)]));
          }
        return (100 * sum) / (n * n);
      };
      return simpson((t) => SIGMA_S[band]! * Math.exp(-st * (t - 9)) * mean([t, 0, 0]), 9, 11, 40);
    };
    await compare({ ...open, sky, air: [air] }, want);
  });
});
