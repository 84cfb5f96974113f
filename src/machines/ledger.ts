/** The books of a frame: which tile has which stages, who has which in hand, and what each may take. Nothing is counted twice. */
import { costOf, type Stage } from "#engine/schedule";
import type { Round } from "./rounds";

/** Tiles that are given out first, while nothing is known of what one takes. */
const FIRST = 2;
/** Thread seconds that a tile counts for as long. */
const UNKNOWN = 5;

export class Ledger {
  /** Who has a tile in hand: the unit's number. */
  private readonly out = new Map<number, string>();
  /** Cost of the first n stages of a tile, in samples. */
  private readonly upTo: number[];
  /** Seconds that a sample of a tile takes a thread, as far as it is known; 0: not. */
  private readonly pace: Float64Array;
  private known = { seconds: 0, cost: 0 };
  /** Who took part in each tile. */
  private readonly hands: Set<string>[];
  /** Tiles in the order in which they are handed out, and the place of each in it. */
  private readonly order: Uint32Array;
  private readonly places: Uint32Array;
  /** Stages to which the present round goes, and how many of its tiles nobody has in hand. */
  private to = 0;
  private waiting = 0;
  /** Thread seconds that are left, and for how many changes that still counts. */
  private reckoned = { left: 0, changes: 0 };
  /** The stop of the round that tiles are handed out to, and the first tile that may wait for it. */
  private stop = 0;
  private cursor = 0;

  /** @param taken stages that each tile has: kept up by this @param expected thread seconds that a tile takes in all; null: unknown */
  constructor(
    readonly taken: Uint16Array,
    stages: readonly Stage[],
    expected: Float64Array | number | null,
  ) {
    this.upTo = [0];
    for (const stage of stages) this.upTo.push(this.upTo.at(-1)! + costOf(stage));
    const all = Math.max(1e-9, this.upTo.at(-1)!);
    this.pace = new Float64Array(taken.length);
    if (typeof expected === "number") this.pace.fill(expected / all);
    else if (expected) this.pace.set(expected.map((s) => s / all));
    this.hands = Array.from(taken, () => new Set<string>());
    this.order = Uint32Array.from(taken, (_, i) => i);
    this.places = this.order.slice();
  }

  /** Thread seconds of a stretch of stages of a tile; null where nothing is known yet. */
  private secondsOf(tile: number, from: number, to: number): number | null {
    const { seconds, cost } = this.known;
    const pace = this.pace[tile]! > 0 ? this.pace[tile]! : cost > 0 ? seconds / cost : null;
    return pace === null ? null : pace * (this.upTo[to]! - this.upTo[from]!);
  }

  /** Tiles for a unit of about so many thread seconds, of the first stop that has any; null where none waits. */
  next({ stops }: Round, seconds: number, most: number): { tiles: number[]; from: number; to: number; seconds: number } | null {
    for (;;) {
      const some = this.nextTo(stops[this.stop]!, seconds, most);
      if (some || this.stop === stops.length - 1) return some;
      this.stop++;
      this.cursor = 0;
      this.sort();
    }
  }

  private nextTo(to: number, seconds: number, most: number): { tiles: number[]; from: number; to: number; seconds: number } | null {
    const tiles: number[] = [];
    let from = 0,
      sum = 0,
      skipped = -1;
    const { length } = this.taken;
    for (let place = this.cursor; place < length; place++) {
      const i = this.order[place]!;
      if (this.taken[i]! >= to || this.out.has(i)) continue;
      if (tiles.length > 0 && this.taken[i] !== from) {
        if (skipped < 0) skipped = place;
        continue;
      }
      const own = this.secondsOf(i, this.taken[i]!, to);
      // the tile by which a unit comes over its size is left, unless it is nearer so
      if (tiles.length > 0 && own !== null && sum + own / 2 > seconds) {
        if (skipped < 0) skipped = place;
        break;
      }
      from = this.taken[i]!;
      tiles.push(i);
      sum += own ?? 0;
      if (tiles.length >= (own === null ? FIRST : most)) break;
    }
    if (tiles.length === 0) return null;
    this.cursor = skipped >= 0 ? skipped : this.places[tiles.at(-1)!]! + 1;
    return { tiles, from, to, seconds: sum };
  }

  /** A round begins, or goes on. */
  begin({ to }: Round): void {
    this.to = to;
    this.waiting = this.taken.reduce((n, t, i) => n + (t < to && !this.out.has(i) ? 1 : 0), 0);
    this.again();
    this.sort();
  }

  /** Does something to a tile; whether it waits is counted. */
  private changed(tile: number, change: () => void): void {
    const waits = (): number => (this.taken[tile]! < this.to && !this.out.has(tile) ? 1 : 0);
    const before = waits();
    change();
    this.waiting += waits() - before;
    this.reckoned.changes--;
  }

  hand(unit: string, tiles: readonly number[]): void {
    for (const tile of tiles) this.changed(tile, () => this.out.set(tile, unit));
  }

  /** Whether tiles wait at just these stages, and nobody has them. */
  isFree(tiles: readonly number[], from: number): boolean {
    return tiles.every((tile) => tile < this.taken.length && this.taken[tile] === from && !this.out.has(tile));
  }

  /** What somebody has is to be done by others. */
  giveBack(unit: string, tiles: readonly number[]): void {
    for (const tile of tiles) {
      if (this.out.get(tile) !== unit) continue;
      this.changed(tile, () => this.out.delete(tile));
      this.again();
    }
  }

  /** Whether a tile still has just the stages that a result begins with. */
  wants(tile: number, from: number): boolean {
    return tile < this.taken.length && this.taken[tile] === from;
  }

  /** A tile has its stages now. @param seconds that a thread of this machine would have taken */
  took(tile: number, from: number, to: number, seconds: number, by: string): void {
    this.changed(tile, () => {
      this.taken[tile] = to;
      this.out.delete(tile);
    });
    // it waits for its next stop
    this.cursor = Math.min(this.cursor, this.places[tile]!);
    this.hands[tile]!.add(by);
    const cost = this.upTo[to]! - this.upTo[from]!;
    if (!(cost > 0)) return;
    this.pace[tile] = seconds / cost;
    this.known.seconds += seconds;
    this.known.cost += cost;
  }

  /** Begins a tile anew. */
  reset(tile: number): void {
    this.changed(tile, () => {
      this.taken[tile] = 0;
      this.out.delete(tile);
    });
    this.hands[tile]!.clear();
    this.again();
  }

  /** Tiles that somebody took part in. */
  touchedBy(name: string): number[] {
    return this.hands.flatMap((who, tile) => (who.has(name) ? [tile] : []));
  }

  /** Every tile may wait: some came back. */
  private again(): void {
    this.cursor = 0;
    this.stop = 0;
  }

  /** Those that take longest come first, as far as that is known: what is left at the end is short. */
  private sort(): void {
    this.order.sort((a, b) => this.pace[b]! - this.pace[a]! || a - b);
    this.order.forEach((tile, place) => (this.places[tile] = place));
  }

  isDone({ to }: Round): boolean {
    return this.taken.every((n) => n >= to);
  }

  /** Whether the round has tiles that nobody has in hand. */
  hasWaiting(): boolean {
    return this.waiting > 0;
  }

  /** Thread seconds of all that is to be done yet and nobody has in hand, those of later rounds too: about, since it is asked for each unit. */
  left(): number {
    if (this.reckoned.changes > 0) return this.reckoned.left;
    const end = this.upTo.length - 1;
    let left = 0;
    for (let i = 0; i < this.taken.length; i++) if (!this.out.has(i)) left += this.secondsOf(i, this.taken[i]!, end) ?? UNKNOWN;
    this.reckoned = { left, changes: this.taken.length >> 6 };
    return left;
  }

  /** Share of all samples that is done. */
  share(): number {
    const all = this.upTo.at(-1)! * this.taken.length;
    return all > 0 ? this.taken.reduce((sum, n) => sum + this.upTo[n]!, 0) / all : 1;
  }

  /** Thread seconds that each tile takes in all, as far as it is known. */
  expected(): Float64Array {
    return this.pace.map((p) => p * this.upTo.at(-1)!);
  }
}
