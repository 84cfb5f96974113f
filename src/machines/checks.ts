/** Units that are done twice: what each began with and what came of it, until another machine has said the same or not. */
import { unitOf, type Unit } from "./unit";

export interface Doubt {
  check: Unit;
  /** Whose result it is. */
  by: string;
  settled: number;
  /** What the tile had before, and after; before: null where it was empty. */
  before: Float32Array | null;
  after: Float32Array;
}

/** The same numbers, bit for bit. */
export function same(a: Float32Array, b: Float32Array): boolean {
  return Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(Buffer.from(b.buffer, b.byteOffset, b.byteLength));
}

export class Checks {
  private readonly open = new Map<string, Doubt>();
  /** Told when none is open any more. */
  private decided: () => void = () => undefined;

  /** Begins a check of a unit's last tile. @returns what another machine is to do */
  begin(unit: Unit, doubt: Omit<Doubt, "check">): Unit {
    const check = unitOf({ ...unit, tiles: [unit.tiles.at(-1)!], check: true });
    this.open.set(check.id, { ...doubt, check });
    return check;
  }

  of(check: Unit): Doubt | null {
    return this.open.get(check.id) ?? null;
  }

  end(check: Unit): void {
    this.open.delete(check.id);
    if (this.open.size === 0) this.decided();
  }

  /** Those whose result was by a machine that is not believed any more are done with. */
  drop(by: string): void {
    for (const doubt of [...this.open.values()]) if (doubt.by === by) this.end(doubt.check);
  }

  /** Resolves once all are decided. */
  async settled(): Promise<void> {
    if (this.open.size > 0) await new Promise<void>((done) => (this.decided = done));
  }
}
