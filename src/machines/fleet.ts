/** The machines that take part: what each said of itself and when, what it has in hand, how it has behaved. */
import type { Beat, Unit } from "./unit";

/** Milliseconds without a word after which a machine's units are handed out anew. */
export const LEASE = 12_000;
/** Milliseconds after which one that is gone is not shown any more. */
const FORGOTTEN = 600_000;
/** Milliseconds by which clocks may differ without a word. */
const CLOCKS = 60_000;
/** Faults that are told of each. */
const FAULTS = 20;

export interface InHand<S> {
  unit: Unit;
  source: S;
  /** Thread seconds that it was reckoned to take. */
  seconds: number;
  /** When it was given, by this machine's clock. */
  since: number;
  /** Beats in which its worker did not name it. */
  unnamed: number;
}

export type Standing = "works" | "drains" | "left" | "silent" | "refused" | "faulty";

export interface Machine<S> {
  name: string;
  session: string;
  host: string;
  threads: number;
  kernel: string;
  /** How many times as fast a thread of it is as one of this machine. */
  speed: number;
  standing: Standing;
  /** Why, where there is something to say. */
  words: string | null;
  says: string;
  /** Last heard of, by this machine's clock, and milliseconds that its own is ahead. */
  heard: number;
  ahead: number;
  units: Map<string, InHand<S>>;
  done: number;
  /** Thread seconds of what it has done. */
  seconds: number;
  faults: { at: number; words: string }[];
  /** Units that it failed on since it last did one. */
  failures: number;
  /** Whether one of its units was given to another to be done again. */
  checked: boolean;
  /** Whether what an earlier one of its name had is out of its queue. */
  ready: boolean;
}

export class Fleet<S> {
  readonly machines = new Map<string, Machine<S>>();

  /** @param pace samples a second of a thread of this machine on the trial picture @param now its clock */
  constructor(
    private readonly pace: () => number,
    private readonly now: () => number = Date.now,
  ) {}

  /** Takes what a machine says. @returns it; null where another of that name is here */
  hear(name: string, beat: Beat): Machine<S> | null {
    const there = this.machines.get(name);
    if (there && there.session !== beat.session && this.isHere(there)) return null;
    const known = there?.session === beat.session ? there : null;
    const machine: Machine<S> = known ?? {
      ...{ name, session: beat.session, standing: "works", words: null, units: new Map() },
      ...{ done: 0, seconds: 0, faults: there?.faults ?? [], checked: false, ready: false, failures: 0 },
      ...{ host: "", threads: 1, kernel: "", speed: 1, says: "", heard: 0, ahead: 0 },
    };
    const { host, threads, kernel, says } = beat;
    Object.assign(machine, {
      host,
      threads,
      kernel,
      says,
      heard: this.now(),
      ahead: beat.clock - this.now(),
      speed: beat.pace / this.pace(),
    });
    if (machine.standing === "silent") Object.assign(machine, { standing: "works", words: null });
    this.machines.set(name, machine);
    return machine;
  }

  /** Whether it has been heard of lately. */
  isHere(machine: Machine<S>): boolean {
    return this.now() - machine.heard < LEASE && machine.standing !== "left";
  }

  /** Those that are given units. */
  working(): Machine<S>[] {
    return [...this.machines.values()].filter((m) => m.standing === "works" && this.isHere(m));
  }

  /** Threads that work, each counted by how fast it is. */
  threads(): number {
    return this.working().reduce((sum, m) => sum + m.threads * m.speed, 0);
  }

  fault(machine: Machine<S>, words: string): void {
    machine.faults.push({ at: this.now(), words });
    if (machine.faults.length > FAULTS) machine.faults.shift();
  }

  /** Those whose time has run out, each told once; the forgotten go. */
  silent(): Machine<S>[] {
    const gone: Machine<S>[] = [];
    for (const m of this.machines.values()) {
      const quiet = this.now() - m.heard;
      if (quiet > FORGOTTEN) this.machines.delete(m.name);
      if (quiet < LEASE || m.standing === "silent" || m.standing === "left" || m.standing === "faulty") continue;
      if (m.standing === "drains") m.standing = "left";
      else {
        m.standing = "silent";
        m.words = "says nothing: what it had in hand was given to others";
        if (m.units.size > 0) this.fault(m, "fell silent with work in hand");
      }
      gone.push(m);
    }
    return gone;
  }
}

/** What there is to say of a clock. */
export function clockWords(ahead: number): string | null {
  if (Math.abs(ahead) < CLOCKS) return null;
  const minutes = Math.round(Math.abs(ahead) / 60_000);
  return `its clock is ${minutes} min ${ahead > 0 ? "ahead" : "behind"}, which changes nothing here`;
}
