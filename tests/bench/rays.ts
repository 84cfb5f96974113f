/**
 * Rays per second of the kernel against three-mesh-bvh (SAH) on the same 200 k triangles and the same
 * rays. Prints ratios within one run; checks that both find the same hits.
 */
import { readFileSync } from "node:fs";
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from "three";
import { MeshBVH, SAH } from "three-mesh-bvh";
import { compileGeometry } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { SceneGeometry } from "#core/data/geometry";
import { instantiateKernel, kernelMemory, type KernelExports } from "#core/kernel/kernel";
import * as L from "#core/layout/layout";
import { sealIntegers } from "#core/layout/integers";

/** Deterministic random numbers in [0, 1) (mulberry32). */
export function seeded(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** The bench's own scene: a rolling floor under a thicket of thin crooked blades, about 200 k triangles. */
export function thicket(triangles = 200_000): Float32Array {
  const random = seeded(7);
  const out = new Float32Array(9 * triangles);
  let n = 0;
  const put = (...v: number[]): void => {
    if (n < triangles) out.set(v, 9 * n++);
  };
  const h = (x: number, z: number): number => 0.6 * Math.sin(x * 0.7) * Math.cos(z * 0.5);
  const cells = 160,
    size = 20 / cells;
  for (let i = 0; i < cells; i++)
    for (let j = 0; j < cells; j++) {
      const [x, z] = [-10 + i * size, -10 + j * size];
      put(x, h(x, z), z, x, h(x, z + size), z + size, x + size, h(x + size, z), z);
      put(x + size, h(x + size, z), z, x, h(x, z + size), z + size, x + size, h(x + size, z + size), z + size);
    }
  while (n < triangles) {
    let [x, z] = [-10 + 20 * random(), -10 + 20 * random()];
    let y = h(x, z);
    const a = 2 * Math.PI * random(),
      w = 0.01 + 0.03 * random();
    let [dx, dz] = [0.1 * (random() - 0.5), 0.1 * (random() - 0.5)];
    for (let s = 0; s < 8; s++) {
      const [nx, ny, nz] = [x + dx, y + 0.15 + 0.1 * random(), z + dz];
      const [ox, oz] = [Math.cos(a) * w, Math.sin(a) * w];
      put(x - ox, y, z - oz, x + ox, y, z + oz, nx - ox, ny, nz - oz);
      put(nx - ox, ny, nz - oz, x + ox, y, z + oz, nx + ox, ny, nz + oz);
      [x, y, z] = [nx, ny, nz];
      dx += 0.05 * (random() - 0.5);
      dz += 0.05 * (random() - 0.5);
    }
  }
  return out;
}

/** Camera-like, then incoherent rays through the scene. 8 floats each: origin, far, direction, spare. */
export function rays(count: number, coherent: boolean): Float32Array {
  const random = seeded(coherent ? 1 : 2);
  const out = new Float32Array(8 * count);
  const side = Math.floor(Math.sqrt(count));
  for (let i = 0; i < count; i++) {
    let o: number[], d: number[];
    if (coherent) {
      o = [0, 1.2, 11];
      d = [((i % side) / side - 0.5) * 1.2, (Math.floor(i / side) / side - 0.5) * 0.7, -1];
    } else {
      o = [-9 + 18 * random(), 0.3 + 2 * random(), -9 + 18 * random()];
      d = [random() - 0.5, random() - 0.5, random() - 0.5];
    }
    const l = Math.hypot(...d);
    out.set([...o, 1e30, ...d.map((v) => v / l), 0], 8 * i);
  }
  return out;
}

/** A kernel over triangles (9 floats each), with room for rays at `from` and hits at `to`. */
export async function kernelOver(
  positions: Float32Array,
  count: number,
): Promise<{ kernel: KernelExports; memory: WebAssembly.Memory; from: number; to: number }> {
  return kernelOfGeometry(compileGeometry(bare(positions)), count);
}

/** Triangles (9 floats each) of no material. */
export const bare = (positions: Float32Array): SceneGeometry => ({
  positions,
  normals: new Float32Array(positions.length),
  material: new Int32Array(positions.length / 9),
  object: new Int32Array(positions.length / 9),
  materials: [],
});

/** A kernel over a compiled geometry, with room for rays at `from` and hits at `to`. */
export async function kernelOfGeometry(geometry: CompiledGeometry, count: number): ReturnType<typeof kernelOver> {
  const plan = planMemory(geometry, 0);
  const from = plan.end,
    to = from + 32 * count;
  const memory = kernelMemory(to + 8 * count, true);
  writeGeometry(memory.buffer, geometry, plan);
  const p = new Float64Array(memory.buffer, L.PARAMS, L.PARAM_COUNT);
  p[L.P_NODES] = plan.nodes;
  p[L.P_LEAVES] = plan.leaves;
  p[L.P_ROOT] = geometry.bvh.root;
  p[L.P_INSTANCES] = plan.places;
  sealIntegers(p, "parameters");
  const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.shared.wasm")), memory);
  return { kernel, memory, from, to };
}

export async function benchRays(): Promise<{ closest: number; any: number; mismatch: number }> {
  const positions = thicket();
  const count = 200_000;
  const { kernel, memory, from, to } = await kernelOver(positions, count);
  const buffer = new BufferGeometry();
  buffer.setAttribute("position", new BufferAttribute(positions, 3));
  const tree = new MeshBVH(buffer, { strategy: SAH, targetLeafSize: 10 });
  const ray = new Ray();

  const result = { closest: Infinity, any: Infinity, mismatch: 0 };
  for (const coherent of [true, false]) {
    const set = rays(count, coherent);
    new Float32Array(memory.buffer, from, set.length).set(set);
    const hits = new Float32Array(memory.buffer, to, 2 * count);
    /** Best times of both, taken in turn so that what else the machine does falls on both. */
    const race = (a: () => void, b: () => void): [number, number] => {
      const best: [number, number] = [Infinity, Infinity];
      for (let i = 0; i < 5; i++)
        [a, b].forEach((work, k) => {
          const t = performance.now();
          work();
          best[k] = Math.min(best[k]!, performance.now() - t);
        });
      return best;
    };
    for (const any of [false, true]) {
      const theirs = new Float32Array(count);
      const library = (query: () => unknown, of: (hit: unknown) => number) => (): void => {
        for (let i = 0; i < count; i++) {
          const r = 8 * i;
          ray.origin.set(set[r]!, set[r + 1]!, set[r + 2]);
          ray.direction.set(set[r + 4]!, set[r + 5]!, set[r + 6]);
          theirs[i] = of(query());
        }
      };
      const first = library(
        () => tree.raycastFirst(ray, DoubleSide),
        (hit) => (any ? (hit ? 1 : 0) : hit ? (hit as { distance: number }).distance : 1e30),
      );
      const kernelRays = (): void => kernel.traceRays(from, to, count, any ? 1 : 0);
      const [ours, byFirst] = race(kernelRays, first);
      let other = byFirst;
      if (any) {
        // the library has no query of its own for "any hit": its early-out shapecast, or the first hit, whichever is faster
        const early = library(
          () =>
            tree.shapecast({
              intersectsBounds: (box) => ray.intersectsBox(box),
              intersectsTriangle: (t) => ray.intersectTriangle(t.a, t.b, t.c, false, target) !== null,
            }),
          (hit) => (hit ? 1 : 0),
        );
        other = Math.min(other, race(kernelRays, early)[1]);
      }
      let different = 0;
      for (let i = 0; i < count; i++) {
        const [a, b] = [hits[2 * i]!, theirs[i]!];
        if (Math.abs(a - b) > 1e-3 * Math.max(1, Math.min(a, b))) different++;
      }
      const ratio = other / ours;
      result[any ? "any" : "closest"] = Math.min(result[any ? "any" : "closest"], ratio);
      result.mismatch = Math.max(result.mismatch, different / count);
      console.log(
        `${coherent ? "camera    " : "incoherent"} ${any ? "any hit    " : "closest hit"}  kernel ${(count / ours / 1000).toFixed(2)} M rays/s  ` +
          `three-mesh-bvh ${(count / other / 1000).toFixed(2)} M rays/s  ratio ${ratio.toFixed(1)}  different hits ${different} of ${count}`,
      );
    }
  }
  return result;
}

const target = new Vector3();
