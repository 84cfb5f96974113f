/** What a sample costs as the work grows: triangles, lights, media, optical depth. Ratios to the first of each row, one thread. Draws docs/growth.svg. */
import { readFileSync, writeFileSync } from "node:fs";
import { parseDocument } from "#core/document/parse";
import type { SceneDocumentInput } from "#core/document/schema";
import { instantiateKernel, kernelMemory } from "#core/kernel/kernel";
import { compileScene } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import { writeParameters } from "#core/scene/parameters";
import { CONTROL, PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { chart, type Series } from "./chart";

type Scene = Omit<SceneDocumentInput, "fumarium">;
type V3 = [number, number, number];
const [width, height] = [96, 54];

async function cost(scene: Scene): Promise<{ seconds: number; triangles: number; build: number; bytes: number }> {
  const doc = parseDocument({ fumarium: 2, render: { airSamples: 1 }, ...scene, film: { size: [width, height] } });
  const from = performance.now();
  const geometry = compileScene(doc, { models: new Map() });
  const build = (performance.now() - from) / 1000;
  const plan = planMemory(geometry, width * height, doc);
  const memory = kernelMemory(plan.end, true);
  writeGeometry(memory.buffer, geometry, plan);
  writeParameters(memory.buffer, doc, geometry, plan, width, height);
  new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
  const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.shared.wasm")), memory);
  let best = Infinity;
  for (let round = 0; round < 4; round++) {
    kernel.begin(1);
    const t = performance.now();
    kernel.renderTile(0, 0, width, height, 0, 0, 1, 0, 0, 4, PASS_AIR | PASS_SURFACES);
    best = Math.min(best, performance.now() - t);
  }
  const bytes = geometry.bvh.nodes.byteLength + geometry.bvh.leaves.byteLength + geometry.triangles.byteLength;
  return { seconds: best / 1000 / 4 / width / height, triangles: geometry.triangleCount, build, bytes };
}

const spread = (i: number, r: number): V3 => [
  ((i * 0.7548776662) % 1) * 2 * r - r,
  ((i * 0.5698402909) % 1) * 4,
  ((i * 0.8191725134) % 1) * 2 * r - r,
];

export async function benchGrowth(): Promise<void> {
  const rows: [string, number[], (n: number) => Scene][] = [
    [
      "triangles (spheres)",
      [2, 16, 125],
      (n) => ({
        materials: { m: {} },
        objects: Array.from({ length: n }, (_, i) => ({ kind: "sphere" as const, material: "m", position: spread(i, 8), radius: 0.4 })),
        camera: { position: [0, 2, 14], target: [0, 2, 0] },
        air: [{ density: 0.02 }],
      }),
    ],
    [
      "lights",
      [1, 10, 100, 1000],
      (n) => ({
        sun: { on: false },
        sky: { on: false },
        materials: { m: {} },
        objects: [{ kind: "rectangle", material: "m", size: [40, 40] }],
        lights: Array.from({ length: n }, (_, i) => ({
          kind: "point" as const,
          position: spread(i, 15).map((v, k) => v + (k === 1 ? 0.5 : 0)) as V3,
          intensity: 100,
        })),
        camera: { position: [0, 2, 14], target: [0, 1, 0] },
        air: [{ density: 0.03 }],
      }),
    ],
    [
      "media",
      [1, 2, 4, 8, 16, 32],
      (n) => ({
        materials: { m: {} },
        objects: [{ kind: "rectangle", material: "m", size: [40, 40] }],
        camera: { position: [0, 2, 14], target: [0, 1, 0] },
        air: Array.from({ length: n }, (_, i) => ({ density: 0.05, region: { kind: "sphere" as const, centre: spread(i, 6), radius: 3 } })),
      }),
    ],
    [
      "optical depth, full",
      [0.1, 1, 10, 100],
      (n) => ({
        camera: { position: [0, 0, 6], target: [0, 0, 0] },
        render: { level: "full", airBounces: 1000, airSamples: 1 },
        air: [{ density: n / 2, anisotropy: 0, region: { kind: "box", centre: [0, 0, 0], size: [2, 2, 2] } }],
      }),
    ],
  ];
  const series: Series[] = [];
  for (const [name, counts, scene] of rows) {
    let first = 0;
    const points: Series["points"] = [];
    series.push({ name, points });
    for (const n of counts) {
      const c = await cost(scene(n));
      first ||= c.seconds;
      points.push({ n, cost: c.seconds });
      const built = name.startsWith("triangles")
        ? `  ${c.triangles} triangles, built in ${c.build.toFixed(2)} s, ${(c.bytes / c.triangles).toFixed(0)} bytes a triangle`
        : "";
      console.log(
        `${name.padEnd(22)} ${String(n).padStart(5)}  ${(c.seconds * 1e6).toFixed(2).padStart(8)} µs a sample  ×${(c.seconds / first).toFixed(2)}${built}`,
      );
    }
  }
  const file = "docs/growth.svg";
  writeFileSync(file, chart(series));
  console.log(`charted in ${file}`);
}
