/** Solves the open medium for pins: one question at a time, and of those that come meanwhile only the last. */
import { seenPin, withSolved, type SeenPin, type Solution, type Solved } from "#core/air/pins";
import type { Pin } from "#core/document/air";
import type { SceneDocument } from "#core/document/schema";
import type { BenchStore } from "./store";
import { withMedium } from "./store";
import type { Session } from "./session";

interface Question {
  index: number;
  pins: Pin[];
  which: Solved[];
  /** The document right after the edit that asks for it, which the solution is then one step with; null where it is a step of its own. */
  of: SceneDocument | null;
  /** Told the pins that are before the lens, and what they keep now. */
  done(seen: SeenPin[], solution: Solution): void;
}

export class Solver {
  private next: Question | null = null;
  private busy = false;

  constructor(
    private readonly session: Session,
    private readonly store: BenchStore,
    private readonly failed: (message: string) => void,
  ) {}

  ask(question: Question): void {
    this.next = question;
    void this.work();
  }

  private async work(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    try {
      while (this.next) {
        const q = this.next;
        this.next = null;
        const doc: SceneDocument = this.store.getState().document;
        if (!doc.air[q.index] || q.pins.length === 0) continue;
        const seen = q.pins.flatMap((pin) => seenPin(doc, pin) ?? []);
        if (seen.length === 0) throw new Error("No pin is before the lens.");
        const worker = await this.session.section.asked();
        const solution = await worker.solve(doc, q.index, seen, q.which);
        const solved = (d: SceneDocument): SceneDocument => {
          const now = d.air[q.index];
          return now ? withMedium(d, q.index, withSolved(now, solution.medium, q.which)) : d;
        };
        if (this.store.getState().document === q.of) this.store.amend(solved);
        else this.store.getState().set(solved);
        q.done(seen, solution);
      }
    } catch (error) {
      this.failed((error as Error).message);
    } finally {
      this.busy = false;
    }
  }
}
