/** Media of sparse grids, of nearness to an object, and soft edges of meshes. */
import { describe, expect, it } from "vitest";
import { blackBodyLuminance } from "#core/optics/blackbody";
import { passValues } from "#core/film/film";
import { distanceVolume } from "#core/scene/distance";
import { volumeAt, VolumeBuilder, type Volume } from "#core/data/volume";
import { PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { bandMean, load, pencil, render, simpson, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";

const size = 0.1;
/** A grid of f over whole index coordinates from -n to n, voxels of 0.1 m, turned into place by the file's own transform. */
function volumeOf(f: (i: number, j: number, k: number) => number, n = 20): Volume {
  const b = new VolumeBuilder(0);
  for (let k = -n; k <= n; k++)
    for (let j = -n; j <= n; j++) for (let i = -n; i <= n; i++) if (f(i, j, k) !== 0) b.set(i, j, k, f(i, j, k));
  return b.build([size, 0, 0, 0.3, 0, size, 0, -0.1, 0, 0, size, 0]);
}
const lump = volumeOf((i, j, k) => Math.max(0, 3 - (3 * Math.hypot(i, j, k)) / 15));
const slope = volumeOf((i) => 1 + i / 20);
const dark: PartialDocument = { sun: { on: false }, sky: { on: false }, assets: { puff: { uri: "puff.vdb" } } };
const resources = (volumes: Record<string, Volume>): object => ({ volumes: new Map([["puff", volumes]]) });

describe("grids", () => {
  it("density is the trilinear value under the ramp, wherever the grid is placed and turned", async () => {
    const grid = {
      asset: "puff",
      position: [1, 2, -3] as [number, number, number],
      rotation: [20, 50, -30] as [number, number, number],
      scale: 2,
      low: 0.3,
      high: 2.5,
    };
    const { kernel } = await load({ ...dark, air: [{ density: 1, grid }], film: { size: [2, 2] } }, resources({ density: lump }));
    const { placementMatrix } = await import("#core/math/affine");
    const m = placementMatrix(grid.position, grid.rotation, 2);
    let most = 0;
    for (let n = 0; n < 3000; n++) {
      const q = [0.7548776662, 0.5698402909, 0.8191725134].map((a) => ((n * a) % 1) * 44 - 22) as [number, number, number];
      const file = [size * q[0] + 0.3, size * q[1] - 0.1, size * q[2]];
      const [x, y, z] = [0, 1, 2].map(
        (r) => m[4 * r]! * file[0]! + m[4 * r + 1]! * file[1]! + m[4 * r + 2]! * file[2]! + m[4 * r + 3]!,
      ) as [number, number, number];
      const expected = Math.max(0, Math.min(1, (volumeAt(lump, ...q) - 0.3) / 2.2));
      expect(kernel.density(0, x, y, z)).toBeCloseTo(expected, 5);
      // what tracking takes as the bound is one
      if (Math.max(...q.map(Math.abs)) < 20) expect(kernel.majorant(0, x, y, z)).toBeGreaterThanOrEqual(expected - 1e-9);
      most = Math.max(most, expected);
    }
    expect(most).toBeGreaterThan(0.9);
  });

  it.each(["tracking", "stepping"] as const)("transmittance through a grid is that of its integral, by %s", async (estimator) => {
    const along = (y: number): number =>
      simpson((x) => Math.max(0, volumeAt(lump, (x - 0.3) / size, (y + 0.1) / size, 0.4)) / 3, -3, 3, 6000);
    const { kernel } = await load(
      { ...dark, air: [{ density: 2, grid: { asset: "puff" } }], render: { estimator, stepSize: 0.02 }, film: { size: [2, 2] } },
      resources({ density: lump }),
    );
    for (const y of [-0.1, 0.4, 0.9]) {
      const n = 20000;
      let sum = 0,
        squares = 0;
      for (let i = 0; i < n; i++) {
        const t = kernel.transmittance(-6, y, 0.04, 1, 0, 0, 12, 0, i);
        sum += t;
        squares += t * t;
      }
      const mean = sum / n;
      holds(
        {
          case: `grid crossed at ${y} m, ${estimator}`,
          quantity: "transmittance",
          expected: Math.exp(-2 * along(y)),
          source: "Simpson's rule over the trilinear grid",
          measured: mean,
          error: Math.sqrt(Math.max(0, squares / n - mean * mean) / n),
        },
        4,
        estimator === "stepping" ? 5e-4 : 1e-6,
      );
    }
  });

  it("a curve bends the density, its bound with it, though it rises and falls", async () => {
    const curve: [number, number][] = [[0, 0.1], [0.4, 1], [0.7, 0.2], [1, 0.6]]; // prettier-ignore
    const bent = (s: number): number => (s < 0.4 ? 0.1 + 2.25 * s : s < 0.7 ? 1 - (0.8 / 0.3) * (s - 0.4) : 0.2 + (0.4 / 0.3) * (s - 0.7));
    const at = (x: number, y: number, z: number): number =>
      bent(Math.max(0, Math.min(1, volumeAt(lump, (x - 0.3) / size, (y + 0.1) / size, z / size) / 3)));
    const { kernel } = await load(
      { ...dark, air: [{ density: 2, grid: { asset: "puff", curve } }], film: { size: [2, 2] } },
      resources({ density: lump }),
    );
    for (let n = 0; n < 3000; n++) {
      const [x, y, z] = [0.7548776662, 0.5698402909, 0.8191725134].map((a, k) => ((n * a) % 1) * 3.2 - 1.6 + [0.3, -0.1, 0][k]!) as [
        number,
        number,
        number,
      ];
      expect(kernel.density(0, x, y, z)).toBeCloseTo(at(x, y, z), 5);
      expect(kernel.majorant(0, x, y, z)).toBeGreaterThanOrEqual(at(x, y, z) - 1e-9);
    }
    let sum = 0, squares = 0; // prettier-ignore
    const n = 20000;
    for (let i = 0; i < n; i++) {
      const t = kernel.transmittance(-1.2, 0.2, 0.04, 1, 0, 0, 3, 0, i);
      sum += t;
      squares += t * t;
    }
    const expected = Math.exp(-2 * simpson((x) => at(x, 0.2, 0.04), -1.2, 1.8, 6000));
    holds(
      {
        case: "grid under a bent curve",
        quantity: "transmittance",
        expected,
        source: "Simpson's rule over the trilinear grid",
        measured: sum / n,
        error: Math.sqrt(Math.max(0, squares / n - (sum / n) ** 2) / n),
      },
      4,
      1e-5,
    );
  });

  it.each(["ramp", "colours"] as const)("a tint by %s changes what is scattered, not what passes", async (from) => {
    const even = volumeOf(() => 1);
    const mark = volumeOf((i) => 300 + 10 * i);
    // the same colours, once through a ramp of temperatures, once as the numbers of three channels
    const shareAt = (x: number, band: number): number => {
      const s = Math.max(0, Math.min(1, ((x - 0.3) / size + 20) / 40));
      return [s < 0.5 ? 0.9 - s : 0.4 + (s - 0.5), 1 - s, s < 0.5 ? 0.2 : 0.2 + 1.6 * (s - 0.5)][band]!;
    };
    const colours: [number, [number, number, number]][] = [0, 0.5, 1].map((s) => [s, [0, 1, 2].map((b) => shareAt(0.3 + size * (40 * s - 20), b)) as [number, number, number]]); // prettier-ignore
    const channel = (b: number): Volume => volumeOf((i) => shareAt(0.3 + size * i, b));
    const grid = {
      asset: "puff",
      tint: from === "ramp" ? { from, channel: "temperature", low: 100, high: 500, colours } : { from, channel: "colour" },
    };
    const input: PartialDocument = {
      ...dark,
      sun: { azimuth: 0, elevation: 90, illuminance: 1000, temperature: 6500 },
      // far below, so that sunlight along the ray is estimated as in a set
      materials: { m: {} },
      objects: [{ kind: "rectangle", material: "m", size: [4, 4], position: [0, -30, 0] }],
      air: [{ density: 0.8, scattering: [0.9, 0.7, 0.5], absorption: [0.1, 0, 0.3], anisotropy: 0, grid, region: { kind: "box", centre: [0.3, -0.1, 0], size: [3.9, 3.9, 3.9] } }],
      camera: pencil([-5, -0.1, 0], [1, 0, 0]),
      render: { airSamples: 4 },
      film: { size: [12, 12] },
    }; // prettier-ignore
    const volumes = { density: even, temperature: mark, "colour.x": channel(0), "colour.y": channel(1), "colour.z": channel(2) };
    const film = await render(input, 128, PASS_AIR | PASS_SURFACES, 0, resources(volumes));
    const { temperatureRgb } = await import("#core/optics/colour");
    [0.9, 0.7, 0.5].forEach((s, band) => {
      const e = 0.8 * (s + [0.1, 0, 0.3][band]!);
      const sun = 1000 * temperatureRgb(6500)[band]!;
      // overhead sun through half of the box
      const expected = simpson(
        (x) => (0.8 * s * shareAt(0.3 + x, band) * sun * Math.exp(-e * (x + 1.95 + 1.95))) / (4 * Math.PI),
        -1.95,
        1.95,
        2000,
      );
      const { mean, error } = bandMean(film, "air", band);
      holds(
        { case: `tint by ${from}`, quantity: `single scattering, band ${band}`, expected, source: "Simpson", measured: mean, error },
        4,
        2e-4 * expected,
      );
      const passing = bandMean(film, "transmittance", band);
      holds(
        { case: `tint by ${from}`, quantity: `transmittance, band ${band}`, expected: Math.exp(-e * 3.9), source: "closed form", measured: passing.mean, error: passing.error },
        4,
        2e-4,
      ); // prettier-ignore
    });
  });

  it("an even tint walks as the colour it makes, through many bounces", async () => {
    const even = volumeOf(() => 1);
    const [tint, scattering, absorption] = [[0.9, 0.6, 0.3], [1, 0.9, 0.8], [0, 0.2, 0.1]] as const; // prettier-ignore
    const base: PartialDocument = {
      ...dark,
      sky: { on: true, model: "gradient", luminance: 100, zenith: [1, 1, 1], horizon: [1, 1, 1] },
      sun: { on: false },
      camera: pencil([-5, -0.1, 0], [1, 0, 0]),
      render: { level: "full", airBounces: 24 },
      film: { size: [16, 16] },
    };
    const region = {
      kind: "box" as const,
      centre: [0.3, -0.1, 0] as [number, number, number],
      size: [3.9, 3.9, 3.9] as [number, number, number],
    };
    const flat = (b: number): Volume => volumeOf(() => tint[b]!);
    const volumes = { density: even, "colour.x": flat(0), "colour.y": flat(1), "colour.z": flat(2) };
    const tinted = await render(
      { ...base, air: [{ density: 1.2, scattering: [...scattering], absorption: [...absorption], anisotropy: 0.3, region, grid: { asset: "puff", tint: { from: "colours", channel: "colour" } } }] },
      256, PASS_AIR, 0, resources(volumes),
    ); // prettier-ignore
    const plain = await render(
      {
        ...base,
        air: [{ density: 1.2, scattering: scattering.map((s, k) => s * tint[k]!) as never, absorption: absorption.map((a, k) => a + scattering[k]! * (1 - tint[k]!)) as never, anisotropy: 0.3, region, grid: { asset: "puff" } }],
      },
      256, PASS_AIR, 7000, resources(volumes),
    ); // prettier-ignore
    for (let band = 0; band < 3; band++) {
      const [a, b] = [bandMean(tinted, "air", band), bandMean(plain, "air", band)];
      holds({
        case: "even tint, many bounces",
        quantity: `air, band ${band}`,
        expected: b.mean,
        source: "the same colour without a tint",
        measured: a.mean,
        error: Math.hypot(a.error, b.error),
      });
      expect(a.error).toBeLessThan(0.02 * a.mean);
    }
  });

  it("temperatures glow as black bodies do, by what the medium absorbs", async () => {
    // 1000 K at one end to 1800 K at the other, of even density
    const even = volumeOf(() => 1);
    const kelvin = volumeOf((i) => 1400 + 20 * i);
    const film = await render(
      {
        ...dark,
        air: [
          {
            density: 0.4,
            scattering: [0, 0, 0],
            absorption: [1, 0.9, 0.8],
            grid: { asset: "puff", temperature: { channel: "temperature" } },
            region: { kind: "box", centre: [0.3, -0.1, 0], size: [3.9, 3.9, 3.9] },
          },
        ],
        camera: pencil([-5, -0.1, 0], [1, 0, 0]),
        render: { airSamples: 4 },
        film: { size: [12, 12] },
      },
      256,
      PASS_AIR,
      0,
      resources({ density: even, temperature: kelvin }),
    );
    [1, 0.9, 0.8].forEach((a, band) => {
      const expected = simpson(
        (x) => 0.4 * a * blackBodyLuminance(1400 + (20 * x) / size)[band]! * Math.exp(-0.4 * a * (x + 1.95)),
        -1.95,
        1.95,
        400,
      );
      const { mean, error } = bandMean(film, "emission", band);
      // temperatures are tabled 25 K apart
      holds(
        {
          case: "soot from 1010 to 1790 K",
          quantity: `luminance, band ${band}`,
          expected,
          source: "Planck, Kirchhoff, Simpson",
          measured: mean,
          error,
        },
        4,
        0.004 * expected,
      );
    });
    expect(passValues(film, "emission")[0]).toBeGreaterThan(0);
  });

  it("a hot grid lights what stands by it", async () => {
    const hot = volumeOf((i) => 1500 + 10 * i);
    const film = await render(
      {
        ...dark,
        materials: { m: { baseColor: [0.8, 0.8, 0.8], specular: 0 } },
        objects: [{ kind: "rectangle", material: "m", position: [0, -3, 0], size: [8, 8] }],
        air: [{ density: 0.4, scattering: [0, 0, 0], absorption: [1, 1, 1], grid: { asset: "puff", temperature: {} } }],
        // from below the grid, so that the lens sees no air
        camera: { position: [0, -2.9, 0.3], target: [0, -3, 0], fieldOfView: 1 },
        render: { surfaceBounces: 0 },
        film: { size: [12, 12] },
      },
      2048,
      PASS_SURFACES,
      0,
      resources({ density: lump, temperature: hot }),
    );
    // every eighth of a voxel as a point light, dimmed by the air between
    const rho = (x: number, y: number, z: number): number => volumeAt(lump, (x - 0.3) / size, (y + 0.1) / size, z / size) / 3;
    let expected = 0;
    for (let i = -15.75; i < 16; i += 0.5)
      for (let j = -15.75; j < 16; j += 0.5)
        for (let k = -15.75; k < 16; k += 0.5) {
          const [x, y, z] = [size * i + 0.3, size * j - 0.1, size * k];
          const density = volumeAt(lump, i, j, k) / 3;
          if (density <= 0) continue;
          const d = Math.hypot(x, y + 3, z);
          let depth = 0;
          for (let s = 0.025; s < 1; s += 0.05) depth += 0.05 * d * rho(s * x, -3 + s * (y + 3), s * z);
          const light = 0.4 * density * blackBodyLuminance(Math.round(1500 + 10 * i))[0] * (size / 2) ** 3;
          expected += ((0.8 / Math.PI) * light * Math.exp(-0.4 * depth) * ((y + 3) / d)) / (d * d);
        }
    const { mean, error } = bandMean(film, "surfaces", 0);
    holds(
      { case: "hot soot above a wall", quantity: "luminance of the wall", expected, source: "sum over half voxels", measured: mean, error },
      4,
      0.004 * expected,
    );
    expect(error).toBeLessThan(0.005 * expected);
  });

  it("a grid outside its voxels is background, a veil leaves it out, and a channel that is missing is named", async () => {
    const { kernel } = await load(
      { ...dark, air: [{ density: 1, grid: { asset: "puff" } }], film: { size: [2, 2] } },
      resources({ density: slope }),
    );
    expect(kernel.density(0, 50, 0, 0)).toBe(0);
    const veil = await render(
      { ...dark, sun: { on: true }, air: [{ density: 1, grid: { asset: "puff" } }], render: { level: "veil" }, film: { size: [4, 4] } },
      4,
      undefined,
      0,
      resources({ density: slope }),
    );
    expect(Math.max(...passValues(veil, "opacity"))).toBe(0);
    await expect(
      load({ ...dark, air: [{ grid: { asset: "puff", channel: "smoke" } }], film: { size: [2, 2] } }, resources({ density: slope })),
    ).rejects.toThrow(/assets\.puff: has no channel "smoke" of numbers; it has density/);
  });
});

describe("nearness", () => {
  const ball: PartialDocument = {
    ...dark,
    materials: { m: {} },
    objects: [{ kind: "sphere", name: "ball", material: "m", position: [0.5, 1, 0], radius: 1, hidden: true }],
  };
  it("density follows the curve of the distance, and its bound is one", async () => {
    const { kernel } = await load({
      ...ball,
      air: [
        {
          density: 1,
          proximity: {
            object: "ball",
            curve: [
              [0, 0.2],
              [0.5, 1],
              [1.5, 0],
            ],
          },
        },
      ],
      film: { size: [2, 2] },
    });
    const curve = (d: number): number => (d < 0.5 ? 0.2 + 1.6 * d : d < 1.5 ? 1.5 - d : 0);
    for (let n = 0; n < 2000; n++) {
      const [x, y, z] = [0.7548776662, 0.5698402909, 0.8191725134].map((a) => ((n * a) % 1) * 6 - 3) as [number, number, number];
      const d = Math.abs(Math.hypot(x - 0.5, y - 1, z) - 1);
      const rho = kernel.density(0, x, y, z);
      // the ball is a mesh of flat triangles, its distances a grid of 9 cm: half of that at a slope of 1.6
      expect(Math.abs(rho - curve(d)), `at distance ${d}`).toBeLessThan(0.08);
      expect(kernel.majorant(0, x, y, z)).toBeGreaterThanOrEqual(rho - 1e-9);
    }
  });

  it("a mesh region has soft edges by its own distances, as a sphere has", async () => {
    const region = { kind: "mesh" as const, object: "ball" };
    const soft = await load({ ...ball, air: [{ density: 1, edge: 0.6, region }], film: { size: [2, 2] } });
    const sphere = await load({
      ...ball,
      air: [{ density: 1, edge: 0.6, region: { kind: "sphere", centre: [0.5, 1, 0], radius: 1 } }],
      film: { size: [2, 2] },
    });
    const mean = (l: typeof soft, y: number): number => {
      let sum = 0;
      for (let i = 0; i < 4000; i++) sum += l.kernel.transmittance(-3, y, 0, 1, 0, 0, 9, 0, i) / 4000;
      return sum;
    };
    for (const y of [0.3, 1, 1.6]) expect(Math.abs(mean(soft, y) - mean(sphere, y))).toBeLessThan(0.02);
  });
});

describe("distance grids", () => {
  it("hold the distance to the nearest triangle, against trying them all", async () => {
    const { squaredDistance } = await import("#core/scene/distance");
    let seed = 7;
    const random = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;
    const positions = new Float32Array(60 * 9).map(() => random() * 2);
    // small triangles about their first corners
    for (let t = 0; t < 60; t++) for (let c = 3; c < 9; c++) positions[9 * t + c] = positions[9 * t + (c % 3)]! + (random() - 0.5) * 0.8;
    const bounds = [0, 1, 2]
      .map((k) => Math.min(...positions.filter((_, i) => i % 3 === k)))
      .concat([0, 1, 2].map((k) => Math.max(...positions.filter((_, i) => i % 3 === k))));
    const v = distanceVolume(positions, bounds, 0.5);
    const cell = v.toWorld[0];
    let worst = 0;
    for (let n = 0; n < 3000; n++) {
      const i = [0, 1, 2].map((k) => Math.floor(random() * ((bounds[3 + k]! - bounds[k]! + 1) / cell - 1)));
      const p = i.map((x, k) => v.toWorld[4 * k + 3]! + cell * x);
      let least = Infinity;
      for (let t = 0; t < 60; t++) least = Math.min(least, squaredDistance(positions, 9 * t, p[0]!, p[1]!, p[2]!));
      worst = Math.max(worst, Math.abs(volumeAt(v, i[0]!, i[1]!, i[2]!) - Math.sqrt(least)));
    }
    expect(worst).toBeLessThan(0.1 * cell);
  });
});
