/** Renders documents with one kernel in this thread: small, exact, and free of scheduling. */
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument, SceneDocumentInput } from "#core/document/schema";
import { passValues, type Film } from "#core/film/film";
import type { PassName, ScalarPass } from "#core/film/passes";
import { instantiateKernel, kernelMemory, type KernelExports } from "#core/kernel/kernel";
import { compileScene } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import type { MemoryPlan, Resources } from "#core/scene/compiled";
import { writeParameters } from "#core/scene/parameters";
import { CONTROL, PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";

/** The kernel over plain memory, as it is built. */
export const wasm = (): WebAssembly.Module =>
  new WebAssembly.Module(readFileSync(fileURLToPath(new URL("../../build/kernel/kernel.plain.wasm", import.meta.url))));

export type PartialDocument = Omit<SceneDocumentInput, "fumarium">;

export interface Loaded {
  doc: SceneDocument;
  kernel: KernelExports;
  memory: WebAssembly.Memory;
  filmAt: number;
  plan: MemoryPlan;
}

/** A kernel with the document's scene in its memory, ready for single computations. */
export async function load(input: PartialDocument, resources: Partial<Resources> = {}): Promise<Loaded> {
  const doc = parseDocument({ fumarium: 2, ...input });
  const [width, height] = doc.film.size;
  const geometry = compileScene(doc, { models: new Map(), ...resources });
  const plan = planMemory(geometry, width * height, doc);
  const memory = kernelMemory(plan.end, false);
  writeGeometry(memory.buffer, geometry, plan);
  writeParameters(memory.buffer, doc, geometry, plan, width, height);
  new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
  const kernel = await instantiateKernel(wasm(), memory);
  kernel.begin(1);
  return { doc, kernel, memory, filmAt: plan.film, plan };
}

/** Renders `samples` samples of every pixel. */
export async function render(
  input: PartialDocument,
  samples: number,
  passes = PASS_AIR | PASS_SURFACES,
  first = 0,
  resources: Partial<Resources> = {},
): Promise<Film> {
  const { doc, kernel, memory, filmAt, plan } = await load(input, resources);
  const [width, height] = doc.film.size;
  for (const pass of [passes & ~PASS_CLEAR, passes & PASS_CLEAR])
    if (pass) kernel.renderTile(0, 0, width, height, 0, 0, 1, 0, first, first + samples, pass);
  if (kernel.invalidSamples() !== 0) throw new Error(`${kernel.invalidSamples()} samples were not finite`);
  const data = new Float32Array(memory.buffer.slice(filmAt, filmAt + 4 * width * height * plan.stride));
  return { data, stride: plan.stride, width, height, crop: [0, 0, width, height], ...plan.extras };
}

/** Mean over pixels of one band of a pass, with its standard error taken across pixels. */
export function bandMean(film: Film, pass: Exclude<PassName, ScalarPass>, band: number): { mean: number; error: number } {
  const v = passValues(film, pass);
  const n = v.length / 3;
  let sum = 0,
    squares = 0;
  for (let i = 0; i < n; i++) {
    sum += v[3 * i + band]!;
    squares += v[3 * i + band]! ** 2;
  }
  const mean = sum / n;
  return { mean, error: Math.sqrt(Math.max(0, squares / n - mean * mean) / (n - 1)) };
}

/** Per pixel luminance mean and standard error of the beauty. */
export function pixelErrors(film: Film): { mean: number; error: number }[] {
  return Array.from({ length: film.width * film.height }, (_, i) => {
    const p = i * film.stride;
    const d = film.data;
    const n = d[p + 12]!;
    const mean = (0.2126 * (d[p]! + d[p + 3]!) + 0.7152 * (d[p + 1]! + d[p + 4]!) + 0.0722 * (d[p + 2]! + d[p + 5]!)) / n;
    return { mean, error: Math.sqrt(Math.max(0, d[p + 11]! / n - mean * mean) / (n - 1)) };
  });
}

/** All pixels look along +x through the same ray (an orthographic frame of almost no size), so that pixels are repetitions. */
export function pencil(origin: [number, number, number], direction: [number, number, number]): PartialDocument["camera"] {
  return {
    kind: "orthographic",
    position: origin,
    target: [origin[0] + direction[0], origin[1] + direction[1], origin[2] + direction[2]],
    height: 1e-6,
  };
}

/** Composite Simpson quadrature of f on [a, b] with n (even) intervals. */
export function simpson(f: (x: number) => number, a: number, b: number, n = 2000): number {
  const h = (b - a) / n;
  let sum = f(a) + f(b);
  for (let i = 1; i < n; i++) sum += f(a + i * h) * (i % 2 ? 4 : 2);
  return (sum * h) / 3;
}
