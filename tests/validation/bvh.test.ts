import { describe, expect, it } from "vitest";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { instantiateKernel, kernelMemory } from "#core/kernel/kernel";
import { compileGeometry } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import * as L from "#core/layout/layout";
import { seeded } from "../bench/rays";
import { sealIntegers } from "#core/layout/integers";

/** Nearest hit by trying every triangle in double precision. */
function brute(p: Float32Array, o: number[], d: number[]): number {
  let best = Infinity;
  for (let i = 0; i < p.length; i += 9) {
    const e1 = [0, 1, 2].map((k) => p[i + 3 + k]! - p[i + k]!),
      e2 = [0, 1, 2].map((k) => p[i + 6 + k]! - p[i + k]!);
    const q = [d[1]! * e2[2]! - d[2]! * e2[1]!, d[2]! * e2[0]! - d[0]! * e2[2]!, d[0]! * e2[1]! - d[1]! * e2[0]!];
    const det = e1[0]! * q[0]! + e1[1]! * q[1]! + e1[2]! * q[2]!;
    if (det === 0) continue;
    const s = [0, 1, 2].map((k) => o[k]! - p[i + k]!);
    const u = (s[0]! * q[0]! + s[1]! * q[1]! + s[2]! * q[2]!) / det;
    const r = [s[1]! * e1[2]! - s[2]! * e1[1]!, s[2]! * e1[0]! - s[0]! * e1[2]!, s[0]! * e1[1]! - s[1]! * e1[0]!];
    const v = (d[0]! * r[0]! + d[1]! * r[1]! + d[2]! * r[2]!) / det;
    const t = (e2[0]! * r[0]! + e2[1]! * r[1]! + e2[2]! * r[2]!) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && t > 0 && t < best) best = t;
  }
  return best;
}

describe("the BVH", () => {
  it.each([
    ["no triangle", 0, 1],
    ["one triangle", 1, 1],
    ["five", 5, 1],
    ["many small ones", 3000, 0.1],
    ["many long thin ones", 2000, 4],
    ["all in one place", 200, 0],
  ])("with %s finds what trying them all finds", async (_, count, size) => {
    const random = seeded(count + 3);
    const positions = new Float32Array(9 * count);
    for (let i = 0; i < count; i++) {
      const c = size === 0 ? [0.2, 0.3, 0.4] : [random() * 4 - 2, random() * 4 - 2, random() * 4 - 2];
      const a = [0, 1, 2].map(() => (random() - 0.5) * (size || 1)),
        b = [0, 1, 2].map(() => (random() - 0.5) * (size > 1 ? 0.1 : size || 1));
      positions.set([...c, ...c.map((v, k) => v + a[k]!), ...c.map((v, k) => v + b[k]!)], 9 * i);
    }
    const geometry = compileGeometry({
      positions,
      normals: new Float32Array(9 * count),
      material: new Int32Array(count),
      object: new Int32Array(count),
      materials: [],
    });
    const plan = planMemory(geometry, 0);
    const rays = 400;
    const memory = kernelMemory(plan.end + 40 * rays, false);
    writeGeometry(memory.buffer, geometry, plan);
    const p = new Float64Array(memory.buffer, L.PARAMS, L.PARAM_COUNT);
    [p[L.P_NODES], p[L.P_LEAVES], p[L.P_ROOT]] = [plan.nodes, plan.leaves, geometry.bvh.root];
    sealIntegers(p, "parameters");
    const kernel = await instantiateKernel(
      new WebAssembly.Module(readFileSync(fileURLToPath(new URL("../../build/kernel/kernel.plain.wasm", import.meta.url)))),
      memory,
    );
    const set = new Float32Array(memory.buffer, plan.end, 8 * rays);
    for (let i = 0; i < rays; i++) {
      // some along an axis, where a direction component is zero
      const d = i % 10 === 0 ? [0, 0, 0].map((_v, k) => (k === (i / 10) % 3 ? 1 : 0)) : [random() - 0.5, random() - 0.5, random() - 0.5];
      const l = Math.hypot(...d);
      set.set([random() * 8 - 4, random() * 8 - 4, random() * 8 - 4, 1e30, ...d.map((v) => v / l), 0], 8 * i);
    }
    const out = new Float32Array(memory.buffer, plan.end + 32 * rays, 2 * rays);
    kernel.traceRays(plan.end, plan.end + 32 * rays, rays, 0);
    const closest = out.slice();
    kernel.traceRays(plan.end, plan.end + 32 * rays, rays, 1);
    let wrong = 0,
      hits = 0;
    for (let i = 0; i < rays; i++) {
      const want = brute(positions, [...set.subarray(8 * i, 8 * i + 3)], [...set.subarray(8 * i + 4, 8 * i + 7)]);
      const got = closest[2 * i]! > 1e29 ? Infinity : closest[2 * i]!;
      if (want < Infinity) hits++;
      // single precision may lose a ray that grazes an edge; no more than one in four hundred
      if (want === Infinity ? got !== Infinity : Math.abs(got - want) > 1e-4 * Math.max(1, want)) wrong++;
      expect(out[2 * i] === 1).toBe(got !== Infinity);
    }
    expect(wrong).toBeLessThanOrEqual(1);
    if (count > 1000) expect(hits).toBeGreaterThan(3);
  });
});
