/** How a number answers a drag, the wheel and arrow keys: the arithmetic of a field, without its elements. */

export interface ScrubRange {
  min: number;
  max: number;
  /** Part of the range that is useful in this scene. */
  useful?: readonly [number, number];
  logarithmic?: boolean;
  /** Step of a linear field. */
  step?: number;
  whole?: boolean;
}

/** Pixels the pointer must travel before a press is a drag and not a click. */
export const DRAG_SLOP = 3;
/** Factor of one step of a logarithmic field. */
const STEP_FACTOR = 1.015;

const tidy = (v: number): number => (v === 0 ? 0 : Number(v.toPrecision(5)));

/** The nearest value that the field takes. */
export function clampTo(r: ScrubRange, v: number): number {
  const c = Math.max(r.min, Math.min(r.max, v));
  return r.whole ? Math.round(c) : c;
}

/** Value `steps` steps from another; logarithmic fields leave 0 by a thousandth of their useful range. */
export function stepped(r: ScrubRange, from: number, steps: number): number {
  const [low, high] = r.useful ?? [r.min, r.max];
  if (r.logarithmic) {
    const floor = Math.max(low, 1e-9) * 1e-3;
    return tidy(clampTo(r, Math.max(from, floor) * Math.pow(STEP_FACTOR, steps)));
  }
  const step = r.step ?? (high - low) / 200;
  return tidy(clampTo(r, Number((from + step * steps).toFixed(8))));
}

/** Where a value lies in the useful range, in per cent of the track under the number. */
export function trackPosition(r: ScrubRange, v: number): number {
  const [low, high] = r.useful ?? [r.min, r.max];
  const log = (x: number, least = 1e-12): number => Math.log(Math.max(x, least));
  const f = r.logarithmic ? (log(v) - log(low)) / (log(high, 1e-11) - log(low)) : (v - low) / (high - low);
  return Math.max(0, Math.min(1, f)) * 100;
}

/** A press on a number: a click until it has moved far enough, then a drag. */
export class Scrub {
  private moved = false;
  constructor(
    private readonly range: ScrubRange,
    private readonly x: number,
    private readonly from: number,
    private readonly onGesture: (active: boolean) => void,
  ) {}

  /** @returns the value at a pointer place; null while the press is still a click */
  move(x: number, fine: boolean): number | null {
    const dx = x - this.x;
    if (!this.moved && Math.abs(dx) < DRAG_SLOP) return null;
    if (!this.moved) this.onGesture(true);
    this.moved = true;
    return stepped(this.range, this.from, dx * (fine ? 0.1 : 1));
  }

  /** @returns whether it was a drag */
  end(): boolean {
    if (this.moved) this.onGesture(false);
    return this.moved;
  }
}
