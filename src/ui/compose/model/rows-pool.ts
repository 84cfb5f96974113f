/** Bands of rows by several workers, where the page has memory that they share; else by this one. */
import { wrap, type Remote } from "comlink";
import { composeRows, type Plan } from "#core/compose/compose";
import type { ComposeBand } from "#core/compose/export";
import type { RowsWorker } from "./rows-worker";

const MOST = 16;
export const sharing = (): boolean => globalThis.crossOriginIsolated === true && typeof SharedArrayBuffer !== "undefined";

/** The same numbers where other threads can read them. */
export function shared(plane: Float32Array): Float32Array {
  if (!sharing() || plane.buffer instanceof SharedArrayBuffer) return plane;
  const out = new Float32Array(new SharedArrayBuffer(4 * plane.length));
  out.set(plane);
  return out;
}

/** A plan whose planes, masks and factors are shared. */
const sharedPlan = (plan: Plan): Plan => ({
  ...plan,
  steps: plan.steps.map((s) => (s.step !== "begin" && s.mask ? { ...s, mask: shared(s.mask) } : s)),
  thicker: plan.thicker && { left: plan.thicker.left.map(shared), factors: shared(plan.thicker.factors) },
});

export class RowsPool {
  private readonly raw: Worker[] = [];
  private readonly idle: Remote<RowsWorker>[] = [];
  private readonly waiting: ((w: Remote<RowsWorker>) => void)[] = [];

  private constructor(private readonly plan: Plan) {}

  static async of(plan: Plan): Promise<RowsPool> {
    const pool = new RowsPool(sharing() ? sharedPlan(plan) : plan);
    if (!sharing()) return pool;
    for (let i = 0; i < Math.min(MOST, navigator.hardwareConcurrency || 2); i++) {
      const raw = new Worker(new URL("./rows-worker.ts", import.meta.url), { type: "module" });
      const worker = wrap<RowsWorker>(raw);
      await worker.take(pool.plan);
      pool.raw.push(raw);
      pool.idle.push(worker);
    }
    return pool;
  }

  /** How many bands may be asked for at a time. */
  get width(): number {
    return Math.max(1, this.raw.length);
  }

  readonly band: ComposeBand = async (y0, y1) => {
    if (this.raw.length === 0) return composeRows(this.plan, y0, y1);
    const worker = this.idle.pop() ?? (await new Promise<Remote<RowsWorker>>((take) => this.waiting.push(take)));
    try {
      return await worker.rows(y0, y1);
    } finally {
      const next = this.waiting.shift();
      if (next) next(worker);
      else this.idle.push(worker);
    }
  };

  dispose(): void {
    for (const raw of this.raw) raw.terminate();
  }
}
