/**
 * How much a drawing shows, by the time its last pictures took: little while it moves, more once it rests. A picture is
 * begun only when the one before it is finished, so that pictures never queue up behind the hand.
 */

/** Triangles of the first picture, before anything is known of the machine. */
const FIRST = 100_000;
/** Triangles that are always drawn, as far as there are so many. */
export const MIN_DETAIL = 10_000;
/** What the triangles of a picture may take while the drawing moves, and once it rests, ms. */
const MOVING = 30;
const RESTING = 700;
/** How long nothing has moved before the drawing counts as resting, ms. */
export const REST_AFTER = 160;
/** How much more or less is drawn from one picture to the next, at most. */
const MAX_CHANGE = 3;
/** Pictures after which a time is forgotten: the machine may be busier or freer by now. */
const FORGOTTEN = 25;
/** How much less a time counts with each later picture, and what a picture of nothing is taken to count. */
const AGES = 0.85;
const PRIOR = 0.02;

/** What pictures of about a number of triangles took. */
interface Taken {
  triangles: number;
  milliseconds: number;
  picture: number;
}

export class Pace {
  private moving = FIRST;
  private resting = FIRST;
  private allowed = 0;
  private pictures = 0;
  /** The last time of each power of two of triangles, so that many pictures of one size do not hide what another tells. */
  private readonly times = new Map<number, Taken>();

  /** Triangles that a picture may show. */
  budget(resting: boolean): number {
    return resting ? Math.max(this.resting, this.moving) : this.moving;
  }

  /** Says that a picture with a budget showed so many triangles and was finished after some ms. */
  took(budget: number, triangles: number, milliseconds: number): void {
    // the first picture waits for shaders: it tells nothing, and another follows it
    if (this.pictures++ === 0) return;
    this.allowed = budget;
    this.times.set(Math.round(Math.log2(triangles + 1)), { triangles, milliseconds, picture: this.pictures });
    for (const [size, t] of this.times) if (this.pictures - t.picture > FORGOTTEN) this.times.delete(size);
    const each = this.timeOfTriangle();
    const within = (was: number, fits: number): number => Math.max(MIN_DETAIL, Math.min(fits, was * MAX_CHANGE), was / MAX_CHANGE);
    this.moving = within(this.moving, MOVING / each);
    this.resting = within(this.resting, RESTING / each);
  }

  /** Whether the drawing at rest would show clearly more than its last picture does. @param all triangles of the set */
  more(all: number): boolean {
    return Math.min(all, this.budget(true)) > 1.2 * this.allowed;
  }

  /** Slope of a straight line through the times, ms: a picture also takes what it takes for nothing. */
  private timeOfTriangle(): number {
    const points = [...this.times.values()].map((t) => ({ ...t, weight: AGES ** (this.pictures - t.picture) }));
    // that nothing takes next to nothing is believed until pictures say more
    points.push({ triangles: 0, milliseconds: 1, picture: 0, weight: PRIOR });
    const mean = (of: (p: (typeof points)[0]) => number): number =>
      points.reduce((a, p) => a + p.weight * of(p), 0) / points.reduce((a, p) => a + p.weight, 0);
    const [n, t] = [mean((p) => p.triangles), mean((p) => p.milliseconds)];
    const spread = mean((p) => (p.triangles - n) ** 2);
    return Math.max(1e-7, mean((p) => (p.triangles - n) * (p.milliseconds - t)) / Math.max(1, spread));
  }
}
