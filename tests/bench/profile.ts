/**
 * Where the time of a sample goes: the kernel's functions by group, one thread, from the profiler of the engine that runs it. A function
 * that was compiled into its caller counts there.
 */
import { readFileSync } from "node:fs";
import { Session, type Profiler } from "node:inspector";
import { instantiateKernel, kernelMemory, type KernelExports } from "#core/kernel/kernel";
import { CONTROL } from "#core/layout/layout";
import { compileScene } from "#core/scene/compile";
import type { Resources } from "#core/scene/compiled";
import { planMemory, writeGeometry } from "#core/scene/memory";
import { writeParameters } from "#core/scene/parameters";
import { readResources } from "#core/scene/assets";
import { MEDIUM_PASSES, TILE } from "#engine/schedule";
import { DEMO_SETS, type DemoSet } from "../../demo/index";

const [WIDTH, HEIGHT] = [656, 368];
const SAMPLES = 2;

/** Groups of the table, each with the files (and functions of the standard library) that belong to it. */
const GROUPS: readonly (readonly [name: string, belongs: RegExp])[] = [
  ["traversal", /\/(bvh|any-hit-filter)\//],
  ["light choice", /\/(light-sampling|proximity|closest-approach)\//],
  ["functions", /~lib\//],
  ["lights, sky", /\/(lights|direct|sky|emitters|gobo|profiles?)\//],
  ["media", /\/(segments|transmit|collision|forced|region|density|majorants|scatterers|tint|temperature|phase[^/]*|volume)\/|\/optics\//],
  ["sun's estimate", /\/sun-variate\//],
  ["noise", /\/noise\//],
  ["random numbers", /\/random\//],
  ["surfaces", /\/(surface|bsdf|hit-frame|microfacets|textures?)\//],
  ["paths, film", /\/(path|walk|accumulate|index|state)\//],
];

/** Self time by function name. */
type Times = Map<string, number>;

async function profiled(work: () => void): Promise<Times> {
  const session = new Session();
  session.connect();
  const post = <T>(method: string, params: object = {}): Promise<T> =>
    new Promise((done, fail) => session.post(method, params, (error, result) => (error ? fail(error) : done(result as T))));
  await post("Profiler.enable");
  await post("Profiler.setSamplingInterval", { interval: 500 });
  await post("Profiler.start");
  work();
  const { profile } = await post<Profiler.StopReturnType>("Profiler.stop");
  session.disconnect();
  const names = new Map(profile.nodes.map((n) => [n.id, n.callFrame.functionName]));
  const times: Times = new Map();
  const deltas = profile.timeDeltas ?? [];
  profile.samples?.forEach((id, i) => {
    const name = names.get(id) ?? "";
    times.set(name, (times.get(name) ?? 0) + (deltas[i] ?? 0) / 1000);
  });
  return times;
}

interface Ready {
  kernel: KernelExports;
  render(first: number, end: number): void;
}

/** Models and pictures of a demo set. */
export async function demoResources(set: DemoSet): Promise<Resources> {
  const files = await set.build();
  const doc = set.document();
  return readResources(doc, (name) => Promise.resolve(files[doc.assets[name]?.uri ?? ""]?.bytes ?? new Uint8Array()));
}

async function ready(set: DemoSet): Promise<Ready> {
  const doc = set.document();
  const geometry = compileScene(doc, await demoResources(set));
  const plan = planMemory(geometry, WIDTH * HEIGHT, doc);
  const memory = kernelMemory(plan.end + 1_000_000, false);
  writeGeometry(memory.buffer, geometry, plan);
  writeParameters(memory.buffer, doc, geometry, plan, WIDTH, HEIGHT);
  new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
  const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.named.wasm")), memory);
  kernel.begin(1);
  const render = (first: number, end: number): void => {
    for (let y = 0; y < HEIGHT; y += TILE)
      for (let x = 0; x < WIDTH; x += TILE)
        kernel.renderTile(x, y, Math.min(WIDTH, x + TILE), Math.min(HEIGHT, y + TILE), 0, 0, 1, 0, first, end, MEDIUM_PASSES);
  };
  return { kernel, render };
}

/** @param only the sets to look at; all where there are none @param list how many functions to name below the table */
export async function benchProfile(only: readonly string[], list = 0): Promise<void> {
  console.log(`| set | samples/s | rays/s | ${GROUPS.map(([name]) => name).join(" | ")} | rest |`);
  for (const set of DEMO_SETS) {
    if (only.length && !only.includes(set.id)) continue;
    const { kernel, render } = await ready(set);
    render(0, 2); // until the engine has compiled it well, and maps and cells that are looked at once are known
    const before = kernel.rays();
    const from = performance.now();
    const times = await profiled(() => render(2, 2 + SAMPLES));
    const seconds = (performance.now() - from) / 1000;
    const inKernel = [...times].filter(([name]) => name.includes("/"));
    const total = inKernel.reduce((sum, [, t]) => sum + t, 0);
    const groups = GROUPS.map(() => 0);
    let rest = 0;
    for (const [name, t] of inKernel) {
      const g = GROUPS.findIndex(([, belongs]) => belongs.test(name));
      if (g < 0) rest += t;
      else groups[g]! += t;
    }
    const share = (t: number): string => `${((100 * t) / total).toFixed(1)} %`;
    const perSecond = (WIDTH * HEIGHT * SAMPLES) / seconds;
    console.log(
      `| ${set.id} | ${(perSecond / 1000).toFixed(1)} k | ${((kernel.rays() - before) / seconds / 1e6).toFixed(2)} M | ${groups.map(share).join(" | ")} | ${share(rest)} |`,
    );
    for (const [name, t] of inKernel.sort((a, b) => b[1] - a[1]).slice(0, list))
      console.log(`    ${share(t).padStart(7)}  ${name.replace("src/core/kernel/assembly/", "")}`);
  }
}
