/** The kernel's elementary functions against those of the platform. */
import { beforeAll, describe, expect, it } from "vitest";
import { instantiateKernel, kernelMemory, type KernelExports } from "#core/kernel/kernel";
import { wasm } from "../support/kernel";
import { holds } from "../support/record";

let kernel: KernelExports;
beforeAll(async () => {
  kernel = await instantiateKernel(wasm(), kernelMemory(0, false));
});

/** In the order of the kernel's numbers: name, what it should be, where it is asked, relative error it may have. */
const FUNCTIONS: readonly [string, (x: number) => number, (t: number) => number, number][] = [
  ["exp", Math.exp, (t) => -745 + 1450 * t, 3e-13],
  ["expm1", Math.expm1, (t) => (t < 0.5 ? -1 : 1) * 10 ** (-18 + 40 * Math.abs(t - 0.5)), 6e-13],
  ["log", Math.log, (t) => 10 ** (-300 + 600 * t), 5e-15],
  ["log1p", Math.log1p, (t) => (t < 0.5 ? -(10 ** (-18 + 35.9 * t)) : 10 ** (-18 + 60 * (t - 0.5))), 2e-14],
  ["sin", Math.sin, (t) => -40 + 80 * t, 5e-14],
  ["cos", Math.cos, (t) => -40 + 80 * t, 5e-14],
  ["tan", Math.tan, (t) => -1.57079 + 3.14158 * t, 5e-14],
  ["atan", Math.atan, (t) => (t < 0.5 ? -1 : 1) * 10 ** (-12 + 48 * Math.abs(t - 0.5)), 3e-15],
];

describe("elementary functions", () => {
  it.each(FUNCTIONS.map((f, which) => ({ name: f[0], f, which })))(
    "$name is that of the platform",
    ({ name, f: [, truth, at, may], which }) => {
      let worst = 0;
      const n = 300_000;
      for (let i = 0; i <= n; i++) {
        const x = at(i / n),
          is = kernel.elementary(which, x, 0),
          should = truth(x);
        if (!Number.isFinite(should) || Math.abs(should) < 1e-307) {
          if (Number.isFinite(should)) expect(Math.abs(is - should)).toBeLessThan(3e-307);
          else expect(is).toBe(should);
          continue;
        }
        // near a root an angle of many turns has lost digits before it comes here
        const e = Math.abs(is - should) / Math.max(Math.abs(should), which === 4 || which === 5 ? 1e-3 : 0);
        // one that is no number stays
        worst = Math.max(worst, e);
      }
      holds(
        {
          case: "elementary functions",
          quantity: `${name}, largest relative error`,
          expected: 0,
          source: "the platform's Math",
          measured: worst,
          error: 0,
        },
        0,
        may,
      );
    },
  );

  it("angles of points lie in all quadrants, on the axes too", () => {
    for (const [y, x] of [
      [0, 1],
      [0, -1],
      [-0, -1],
      [1, 0],
      [-1, 0],
      [0, 0],
      [1e-200, 1e-200],
      [3, -1e-9],
      [-2, 5],
      [Infinity, 1],
      [NaN, 1],
    ] as const) {
      const is = kernel.elementary(8, x, y),
        should = Math.atan2(y, x);
      if (Number.isNaN(should)) expect(is).toBeNaN();
      else expect(is).toBeCloseTo(should, 13);
    }
    for (let i = 0; i < 1000; i++) {
      const a = (i / 1000) * 6.28 - 3.14;
      expect(kernel.elementary(8, 3 * Math.cos(a), 3 * Math.sin(a))).toBeCloseTo(a, 13);
    }
  });

  it.each([
    ["exp", 0, [NaN, Infinity, -Infinity, 0, -0, 1e9, -1e9], [NaN, Infinity, 0, 1, 1, Infinity, 0]],
    ["log", 2, [NaN, Infinity, 0, -1, 5e-324], [NaN, Infinity, -Infinity, NaN, Math.log(5e-324)]],
    ["log1p", 3, [NaN, Infinity, -1, -2, 0], [NaN, Infinity, -Infinity, NaN, 0]],
    ["atan", 7, [NaN, Infinity, -Infinity, 0], [NaN, Math.PI / 2, -Math.PI / 2, 0]],
  ] as const)("%s of what is no common number", (_, which, given, should) => {
    given.forEach((x, i) => {
      const is = kernel.elementary(which, x, 0);
      if (Number.isNaN(should[i])) expect(is).toBeNaN();
      else if (Number.isFinite(should[i])) expect(is).toBeCloseTo(should[i]!, 12);
      else expect(is).toBe(should[i]);
    });
  });
});
