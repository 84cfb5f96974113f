/** The compiled kernel as typed calls, and its memories. */
import { MAX_PAGES, MIN_PAGES, PAGE_BYTES } from "../layout/memory";

/** A place and a direction; a place and two. */
type P6 = [number, number, number, number, number, number];
type P9 = [...P6, number, number, number];

/** The compiled kernel as typed calls. One instance per worker over one memory. */
export interface KernelExports {
  bindWorker(index: number): void;
  /** Switches ways of working off, for benchmarks: 1 choice of lights, 2 equiangular distances, 4 local bounds. */
  setAblation(bits: number): void;
  begin(run: number): void;
  rays(): number;
  lookups(): number;
  invalidSamples(): number;
  /** Bytes that the kernel keeps for itself at the beginning of its memory. */
  staticEnd(): number;
  renderTile(
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    originX: number,
    originY: number,
    stride: number,
    done: number,
    first: number,
    end: number,
    passes: number,
    /** Blocks of the tile that get no more samples, where others than the kernel judge them (engine/settled.ts). */
    settled?: number,
  ): number;
  /** Joins the air of a tile to its surfaces, where it is sampled at every few pixels of the crop alone. */
  joinTile(
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    ...crop: [left: number, top: number, right: number, bottom: number, every: number]
  ): void;
  traceRays(from: number, to: number, count: number, any: number): void;
  partMet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, to: number): void;
  transmittance(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tmax: number, band: number, index: number): number;
  walkDistance(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tmax: number, index: number): number;
  walkWeight(band: number): number;
  density(medium: number, x: number, y: number, z: number): number;
  majorant(medium: number, x: number, y: number, z: number): number;
  noiseAt(medium: number, x: number, y: number, z: number): number;
  phase(medium: number, cos: number): number;
  phaseSample(medium: number, index: number): number;
  lightAt(light: number, x: number, y: number, z: number, u: number, v: number, value: number): number;
  veilAt(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tHit: number, band: number): number;
  skyAt(dx: number, dy: number, dz: number, band: number): number;
  skySample(u: number, v: number, axis: number): number;
  sectionField(...plane: [...P9, nx: number, ny: number, to: number]): void;
  sectionLit(light: number, ...plane: [...P9, nx: number, ny: number, sample: number, to: number]): void;
  sectionDepths(...ray: [...P6, far: number, n: number, open: number, to: number]): void;
  sectionGains(light: number, ...ray: [...P6, far: number, n: number, open: number, samples: number, depths: number, to: number]): void;
  sectionCut(...plane: [...P9, width: number, height: number, to: number, max: number]): number;
  sectionSunMap(fromRow: number, toRow: number): void;
  elementary(which: number, x: number, y: number): number;
  sequencePoint(seed: number, x: number, y: number, index: number, dimension: number, axis: number): number;
}

/** Memory of at least `bytes`, shared between workers where asked. */
export function kernelMemory(bytes: number, shared: boolean): WebAssembly.Memory {
  const pages = Math.max(MIN_PAGES, Math.ceil(bytes / PAGE_BYTES));
  return new WebAssembly.Memory(shared ? { initial: pages, maximum: MAX_PAGES, shared: true } : { initial: pages, maximum: MAX_PAGES });
}

/** Grows a memory to at least `bytes`; old views of shared memory stay valid, others do not. */
export function growMemory(memory: WebAssembly.Memory, bytes: number): void {
  const missing = Math.ceil((bytes - memory.buffer.byteLength) / PAGE_BYTES);
  if (missing > 0) memory.grow(missing);
}

/** Instantiates the kernel for worker `index` over `memory`. */
export async function instantiateKernel(module: WebAssembly.Module, memory: WebAssembly.Memory, index = 0): Promise<KernelExports> {
  const instance = await WebAssembly.instantiate(module, { env: { memory } });
  const kernel = instance.exports as unknown as KernelExports;
  kernel.bindWorker(index);
  return kernel;
}
