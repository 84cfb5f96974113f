/** Triangles in many places kept once, against the same written out at each: memory, time to build, rays a second. Ratios within one run. */
import { placementMatrix, type Affine } from "#core/math/affine";
import { compileGeometry } from "#core/scene/compile";
import type { CompiledGeometry } from "#core/scene/compiled";
import { emptyGeometry, placeMesh, type SceneGeometry } from "#core/data/geometry";
import { bare, kernelOfGeometry, rays, seeded, thicket } from "./rays";

/** A clump two metres across, from the middle of the thicket. */
function clump(): Float32Array {
  const all = thicket();
  const kept: number[] = [];
  for (let i = 0; i < all.length; i += 9)
    if (Math.abs(all[i]!) < 1 && Math.abs(all[i + 2]!) < 1 && all[i + 1]! > 0.05) kept.push(...all.subarray(i, i + 9));
  return new Float32Array(kept);
}

/** Clumps on a square, turned and of several sizes: pressed together, or beside each other. */
function places(count: number, apart: boolean): Affine[] {
  const random = seeded(3);
  const side = Math.ceil(Math.sqrt(count));
  return Array.from({ length: count }, (_, i) => {
    const [x, z] = apart ? [(i % side) - side / 2, Math.floor(i / side) - side / 2] : [20 * random() - 10, 20 * random() - 10];
    const size = apart ? 0.4 : 0.5 + random();
    return placementMatrix([x, 0.3 * random(), z], [0, 360 * random(), 0], size);
  });
}

function shared(one: Float32Array, at: readonly Affine[]): SceneGeometry {
  return { ...bare(one), shared: [{ first: 0, count: one.length / 9, places: at.map((matrix) => ({ matrix, object: 0 })) }] };
}
function expanded(one: Float32Array, at: readonly Affine[]): SceneGeometry {
  const count = one.length / 9;
  const out = emptyGeometry(count * at.length);
  at.forEach((m, i) => placeMesh(bare(one), 0, count, m, out, i * count, () => 0, 0));
  return out;
}

const bytes = (g: CompiledGeometry): number =>
  g.bvh.nodes.byteLength + g.bvh.leaves.byteLength + g.triangles.byteLength + g.places.byteLength;

export async function benchShared(): Promise<void> {
  const one = clump();
  const count = 100_000;
  const build = (make: () => SceneGeometry): { geometry: CompiledGeometry; seconds: number } => {
    const made = make();
    const t = performance.now();
    const geometry = compileGeometry(made);
    return { geometry, seconds: (performance.now() - t) / 1000 };
  };
  for (const apart of [true, false]) {
    const how = apart ? "side by side" : "pressed together";
    const few = places(Math.round(1e6 / (one.length / 9)), apart);
    const a = build(() => shared(one, few)),
      b = build(() => expanded(one, few));
    console.log(
      `shared, ${how}: ${b.geometry.triangleCount} triangles as ${one.length / 9} in ${few.length} places: ${(bytes(a.geometry) / 1e6).toFixed(1)} MB ` +
        `instead of ${(bytes(b.geometry) / 1e6).toFixed(1)} (ratio ${(bytes(a.geometry) / bytes(b.geometry)).toFixed(3)}), built in ×${(a.seconds / b.seconds).toFixed(3)} of the time`,
    );
    const kernels = [await kernelOfGeometry(a.geometry, count), await kernelOfGeometry(b.geometry, count)];
    for (const coherent of [true, false]) {
      const set = rays(count, coherent);
      for (const { memory, from } of kernels) new Float32Array(memory.buffer, from, set.length).set(set);
      for (const any of [0, 1]) {
        const best = [Infinity, Infinity];
        for (let round = 0; round < 6; round++)
          kernels.forEach(({ kernel, from, to }, k) => {
            const t = performance.now();
            kernel.traceRays(from, to, count, any);
            best[k] = Math.min(best[k]!, performance.now() - t);
          });
        const [x, y] = kernels.map(({ memory, to }) => new Float32Array(memory.buffer, to, 2 * count));
        let different = 0;
        for (let i = 0; i < count; i++) if (Math.abs(Math.min(x![2 * i]!, 1e3) - Math.min(y![2 * i]!, 1e3)) > 1e-3) different++;
        console.log(
          `shared, ${how}: ${coherent ? "camera" : "incoherent"} rays, ${any ? "any" : "closest"} hit: ×${(best[1]! / best[0]!).toFixed(2)} the rays a second of the same written out; ` +
            `${different} of ${count} end elsewhere`,
        );
      }
    }
  }
  const many = build(() => shared(one, places(10_000, true)));
  const { kernel, memory, from, to } = await kernelOfGeometry(many.geometry, count);
  new Float32Array(memory.buffer, from, 8 * count).set(rays(count, true));
  const t = performance.now();
  kernel.traceRays(from, to, count, 0);
  console.log(
    `shared: ${many.geometry.shownTriangles} triangles in 10000 places side by side: ${(bytes(many.geometry) / 1e6).toFixed(1)} MB, built in ${many.seconds.toFixed(2)} s, ` +
      `${(count / (performance.now() - t) / 1000).toFixed(2)} M camera rays/s`,
  );
}
