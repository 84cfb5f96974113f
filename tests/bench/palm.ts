/** Paths per second of the kernel on the palm house: camera ray plus one shadowed air sample, one thread. */
import { readFileSync } from "node:fs";
import { instantiateKernel, kernelMemory } from "#core/kernel/kernel";
import { readModel } from "#core/formats/gltf";
import { compileScene } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import type { CompiledGeometry } from "#core/scene/compiled";
import { writeParameters } from "#core/scene/parameters";
import { CONTROL, PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import * as L from "#core/layout/layout";
import { buildPalmHouse, palmHouseDocument } from "../../demo/palm-house";

export async function palmScene(): Promise<CompiledGeometry> {
  const { mesh } = await readModel(await buildPalmHouse().glb("palm house"));
  const doc = palmHouseDocument();
  return compileScene(doc, { models: new Map([["palm-house", mesh]]) });
}

export async function benchPalm(geometry: CompiledGeometry): Promise<void> {
  const doc = palmHouseDocument();
  const [width, height] = [640, 360];
  const plan = planMemory(geometry, width * height, doc);
  const memory = kernelMemory(plan.end + 1_000_000, true);
  writeGeometry(memory.buffer, geometry, plan);
  const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.shared.wasm")), memory);
  const run = (name: string, change: (d: typeof doc) => void, passes: number, samples = 1): number => {
    const d = structuredClone(doc);
    d.render.airSamples = 1;
    change(d);
    const plan = planMemory(geometry, width * height, d);
    writeParameters(memory.buffer, d, geometry, plan, width, height);
    new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
    let best = Infinity,
      rays = 0;
    for (let i = 0; i < 3; i++) {
      kernel.begin(1);
      const t = performance.now();
      kernel.renderTile(0, 0, width, height, 0, 0, 1, 0, 0, samples, passes);
      best = Math.min(best, performance.now() - t);
      rays = kernel.rays();
    }
    const paths = width * height * samples;

    console.log(
      `${name.padEnd(46)} ${(paths / best / 1000).toFixed(2)} M paths/s  ${(rays / best / 1000).toFixed(2)} M rays/s  ${(rays / paths).toFixed(2)} rays a path`,
    );
    return paths / best / 1000;
  };
  console.log(
    `palm house: ${geometry.triangleCount} triangles, ${geometry.bvh.nodes.byteLength / L.NODE_SIZE} nodes, ${geometry.bvh.leaves.byteLength / L.BLOCK_SIZE} blocks`,
  );
  run(
    "camera ray and one shadowed air sample (sun)",
    (d) => {
      d.sky.on = false;
    },
    PASS_AIR,
  );
  run("the same, sun and sky", () => undefined, PASS_AIR);
  run(
    "camera ray alone",
    (d) => {
      d.air = [];
      d.sun.on = false;
      d.sky.on = false;
    },
    PASS_AIR,
  );
  run(
    "surfaces, direct light",
    (d) => {
      d.render.surfaceBounces = 0;
    },
    PASS_SURFACES,
  );
  run(
    "surfaces, two bounces",
    (d) => {
      d.render.surfaceBounces = 2;
    },
    PASS_SURFACES,
  );
  run(
    "clear air, two bounces",
    (d) => {
      d.render.surfaceBounces = 2;
    },
    PASS_CLEAR,
  );
  run(
    "full, six air bounces",
    (d) => {
      d.render.level = "full";
    },
    PASS_AIR,
  );
}
