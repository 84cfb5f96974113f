/**
 * Hands units of frames to machines and takes back what they did. All that it knows is in its memory and on disk with the frames: queues
 * and machines may vanish at any time. Machines tell of themselves; one that says nothing for a while loses what it has in hand.
 */
import { createHash } from "node:crypto";
import { InputError } from "#core/errors";
import { Fleet, type Machine } from "./fleet";
import type { Post } from "./post";
import { Later, Refused } from "./refusals";
import { Shares } from "./shares";
import { AHEAD, unitSeconds } from "./sizes";
import type { Pace } from "./trial";
import type { Beat, Brief, Orders, ResultHead, Unit } from "./unit";

/** A result that was wanted. */
export interface Delivered {
  /** Begins a check of a part of it, for another machine to do again; null where there is nothing to check. */
  check: (() => Unit) | null;
}

/** A frame that has units to give. */
export interface Source {
  /** Names it. */
  readonly frame: string;
  readonly brief: { hash: string; bytes: Uint8Array; of: Brief };
  /** The render that it is of, and its priority. */
  readonly job: { id: string; priority: number };
  /** Order among the frames of its job. */
  readonly order: number;
  /** A unit of about so many thread seconds, which counts as handed out; null where there is none. */
  next(seconds: number): { unit: Unit; seconds: number } | null;
  /** One that a machine says it has: whether it may be its. */
  adopt(unit: Unit): boolean;
  giveBack(unit: Unit): void;
  /** What a unit begins with; null where it is not wanted any more. */
  input(unit: Unit): { settled: number[] | null; body: Uint8Array } | null;
  /** Takes a result: resolves once it is on disk; null where it was not wanted. @throws InputError where it is rubbish; the disk's errors */
  deliver(head: ResultHead, body: Uint8Array, speed: number): Promise<Delivered | null>;
  /** Does a check here, where no other machine is there for it. */
  decide(unit: Unit): void;
  /** A machine failed on a unit. */
  failed(unit: Unit, machine: string, reason: string): void;
  /** Thread seconds that nobody has in hand just now. */
  waits(): number;
  /** The same with all that comes after it: Infinity where more frames do. */
  left(): number;
  /** Forgets all that a machine did. */
  revoke(machine: string): void;
}

/** Thread seconds, for each thread of all machines, that a job may be ahead before a machine changes its scene. */
const SLACK = 10;
/** One unit of so many is done again by another machine, less often where they are small. */
const CHECKED = 16;
const SMALL = 200;
/** Milliseconds after which a check that no other machine takes is done here. */
const ALONE = 4000;
/** Units that a machine fails on, one after the other, before it is given no more. */
const FAILURES = 6;
/** Seconds of all machines below which another frame is begun. */
const LOW = 20;
/** Milliseconds for which a frame that stood still is waited with, so that machines bring and name what they have of it. */
const GATHER = 4000;
/** Milliseconds for which results of a frame that could not be kept, or is not open yet after a start, are asked to come again. */
const EXPECTED = 600_000;
const STARTING = 30_000;
/** Beats without a word of it after which a unit is looked for, and milliseconds after which it is given to another. */
const UNNAMED = 3;
const UNTAKEN = 20_000;

type Held = Machine<Source>;

export class Office {
  readonly fleet: Fleet<Source>;
  private readonly sources = new Map<string, Source>();
  private readonly shares = new Shares();
  private readonly begun = Date.now();
  private readonly checks: { unit: Unit; not: string; source: Source; since: number }[] = [];
  /** Frames that will be opened again, since when; and those that were, until when they are waited with. */
  private readonly expected = new Map<string, number>();
  private readonly gathering = new Map<string, number>();
  private filling = false;
  private again = false;
  private closed = false;
  private readonly ticking: ReturnType<typeof setInterval>;
  /** Bytes received and sent with units since the beginning. */
  readonly traffic = { received: 0, sent: 0, units: 0 };

  /** @param kernel hash of this machine's @param pace of its threads on the trial picture */
  constructor(
    readonly post: Post,
    readonly kernel: string,
    private readonly pace: Pace,
  ) {
    this.fleet = new Fleet(() => pace.samples);
    post.back = () => this.fill();
    this.ticking = setInterval(() => this.tick(), 1000);
  }

  /** Whether machines will soon have nothing to do: another frame may begin. */
  low(): boolean {
    const waits = [...this.sources.values()].reduce((sum, s) => sum + s.waits(), 0);
    return this.fleet.working().length > 0 && waits < LOW * this.fleet.threads();
  }

  close(): void {
    this.closed = true;
    clearInterval(this.ticking);
  }

  /** @param goesOn whether it was at work before: machines may still have some of it in hand */
  register(source: Source, goesOn: boolean): void {
    if (!this.sources.has(source.frame) && (this.expected.delete(source.frame) || (goesOn && this.isStarting())))
      this.gathering.set(source.frame, Date.now() + GATHER);
    this.sources.set(source.frame, source);
    this.fill();
  }

  private isStarting(): boolean {
    return Date.now() - this.begun < STARTING;
  }

  /** @param returns whether it will be opened again: results of it are not lost */
  unregister(source: Source, returns: boolean): void {
    this.sources.delete(source.frame);
    this.gathering.delete(source.frame);
    if (returns) this.expected.set(source.frame, Date.now());
    // a job that rests is owed nothing for that time
    if (![...this.sources.values()].some((s) => s.job.id === source.job.id)) this.shares.forget(source.job.id);
    for (let i = this.checks.length - 1; i >= 0; i--) if (this.checks[i]!.source === source) this.checks.splice(i, 1);
    for (const machine of this.fleet.machines.values())
      for (const [id, held] of machine.units) if (held.source === source) machine.units.delete(id);
    this.fill();
  }

  /** A frame's brief by its hash. */
  briefBytes(hash: string): Uint8Array | null {
    for (const { brief } of this.sources.values()) if (brief.hash === hash) return brief.bytes;
    return null;
  }

  /** Whether a frame that is open names a file by this hash. */
  names(hash: string): boolean {
    for (const { brief } of this.sources.values()) if (brief.of.document.includes(hash)) return true;
    return false;
  }

  /** @throws Refused */
  beat(name: string, beat: Beat): Orders {
    const before = this.fleet.machines.get(name);
    const machine = this.fleet.hear(name, beat);
    // what one of this name had before is done by others
    if (machine && before && before !== machine) this.takeUnits(before);
    if (!machine) throw new Refused(`a worker named ${name} is here already`);
    if (beat.kernel !== this.kernel) {
      const words = `its kernel is another version (${beat.kernel.slice(0, 8)}, and ${this.kernel.slice(0, 8)} here): pictures would differ; update it`;
      if (machine.standing !== "refused") this.fleet.fault(machine, "another version of the kernel");
      Object.assign(machine, { standing: "refused", words });
      return { orders: "wait", words };
    }
    if (machine.standing === "refused") Object.assign(machine, { standing: "works", words: null });
    // what it still names is others' by now
    if (machine.standing === "left" || machine.standing === "faulty") return { orders: "leave", words: machine.words };
    if (beat.leaves) {
      Object.assign(machine, { standing: "left", words: "was ended" });
      this.takeAllFrom(machine);
    } else this.compare(machine, beat.units);
    if (machine.ready) this.fill();
    else void this.makeReady(machine).catch(() => undefined);
    return machine.standing === "drains" ? { orders: "drain", words: "drained from the server" } : { orders: "work", words: null };
  }

  /** Empties a machine's queue, in which units of an earlier one of its name, or of an earlier server, may lie. */
  private async makeReady(machine: Held): Promise<void> {
    await this.post.clear(machine.name);
    machine.ready = true;
    this.fill();
  }

  /** What a machine says that it has in hand, against what it was given. */
  private compare(machine: Held, units: readonly Unit[]): void {
    const named = new Set(units.map((u) => u.id));
    for (const unit of units) {
      if (machine.units.has(unit.id)) continue;
      const source = this.sources.get(unit.frame);
      if (source?.adopt(unit)) machine.units.set(unit.id, { unit, source, seconds: 0, since: Date.now(), unnamed: 0 });
    }
    for (const held of machine.units.values()) {
      if (named.has(held.unit.id)) held.unnamed = 0;
      else if (++held.unnamed >= UNNAMED) void this.lookFor(machine, held).catch(() => undefined);
    }
  }

  /** A unit that its machine does not know of: it may still lie in its queue, or be lost with it. */
  private async lookFor(machine: Held, held: { unit: Unit; source: Source; since: number; unnamed: number }): Promise<void> {
    held.unnamed = 0;
    const lies = await this.post.has(machine.name, held.unit.id);
    if (!machine.units.has(held.unit.id)) return;
    if (!lies) {
      await this.post.send(machine.name, held.unit);
      return;
    }
    const room = [...machine.units.values()].filter((u) => u.unnamed === 0).length <= machine.threads;
    if (!room || Date.now() - held.since < UNTAKEN) return;
    this.fleet.fault(machine, "does not take from its queue");
    this.takeFrom(machine, held.unit.id);
    this.fill();
  }

  /** Lets a machine end when its units are done, or at once. @returns whether there is one of that name */
  dismiss(name: string, how: "drain" | "remove"): boolean {
    const machine = this.fleet.machines.get(name);
    if (!machine) return false;
    if (how === "drain" && machine.standing === "works") machine.standing = "drains";
    if (how === "remove") {
      Object.assign(machine, { standing: "left", words: "removed" });
      this.takeAllFrom(machine);
      this.fill();
    }
    return true;
  }

  private takeFrom(machine: Held, id: string): void {
    const held = machine.units.get(id);
    if (!held) return;
    machine.units.delete(id);
    if (held.unit.check) this.checks.push({ unit: held.unit, not: machine.name, source: held.source, since: Date.now() });
    else held.source.giveBack(held.unit);
    this.shares.count(held.source.job.id, -held.seconds);
  }

  private takeUnits(machine: Held): void {
    for (const id of [...machine.units.keys()]) this.takeFrom(machine, id);
  }

  private takeAllFrom(machine: Held): void {
    this.takeUnits(machine);
    void this.post.clear(machine.name).catch(() => undefined);
  }

  /** The machine of a request. @throws Refused */
  private of(worker: string, session: string): Held {
    const machine = this.fleet.machines.get(worker);
    if (!machine) throw new Later("the server does not know this worker yet");
    if (machine.session !== session || machine.standing === "left" || machine.standing === "faulty" || machine.standing === "refused")
      throw new Refused(machine.words ?? `another worker named ${worker} is here`);
    return machine;
  }

  /** What a unit begins with; null where it is wanted no more. @throws Refused, Later */
  input(unit: Unit, worker: string, session: string): { settled: number[] | null; body: Uint8Array } | null {
    const machine = this.of(worker, session);
    const source = this.sources.get(unit.frame);
    if (!machine.units.has(unit.id)) {
      if (!source?.adopt(unit)) return null;
      machine.units.set(unit.id, { unit, source, seconds: 0, since: Date.now(), unnamed: 0 });
    }
    const input = source?.input(unit) ?? null;
    if (input) this.traffic.sent += input.body.length;
    else this.letGo(machine, unit.id);
    return input;
  }

  /** A unit is wanted no more: its machine has room for another. */
  private letGo(machine: Held, id: string): void {
    const held = machine.units.get(id);
    if (!held) return;
    machine.units.delete(id);
    if (!held.unit.check) held.source.giveBack(held.unit);
    this.shares.count(held.source.job.id, -held.seconds);
    this.fill();
  }

  /** Takes a result; resolves once it is safe. @returns whether it was wanted @throws Refused, Later, InputError, the disk's errors */
  async deliver(head: ResultHead, body: Uint8Array): Promise<boolean> {
    const { unit } = head;
    const machine = this.of(head.worker, head.session);
    if (head.kernel !== this.kernel) throw new Refused("its kernel is another version");
    const source = this.sources.get(unit.frame);
    if (!source) {
      const since = this.expected.get(unit.frame);
      if (this.isStarting() || (since !== undefined && Date.now() - since < EXPECTED)) throw new Later("its frame is not open yet");
      machine.units.delete(unit.id);
      return false;
    }
    this.traffic.received += body.length;
    this.traffic.units++;
    try {
      const delivered = await source.deliver(head, body, machine.speed);
      machine.units.delete(unit.id);
      if (delivered) {
        machine.done++;
        machine.failures = 0;
        machine.seconds += head.tiles.reduce((s, t) => s + t.seconds, 0);
        if (delivered.check) this.mayCheck(machine, source, unit, delivered.check);
      }
      return delivered !== null;
    } catch (error) {
      if (error instanceof InputError) {
        this.fleet.fault(machine, error.message);
        this.takeFrom(machine, unit.id);
      }
      throw error;
    } finally {
      this.fill();
    }
  }

  failed(unit: Unit, worker: string, session: string, reason: string): void {
    const machine = this.of(worker, session);
    this.fleet.fault(machine, reason);
    this.takeFrom(machine, unit.id);
    if (++machine.failures >= FAILURES) {
      Object.assign(machine, { standing: "faulty", words: `failed on ${FAILURES} units one after the other` });
      this.takeAllFrom(machine);
    }
    this.sources.get(unit.frame)?.failed(unit, worker, reason);
    this.fill();
  }

  /** A machine was found to be wrong: it leaves, and all that it did in frames that are open is forgotten. */
  distrust(name: string, words: string): void {
    const machine = this.fleet.machines.get(name);
    if (machine) {
      this.fleet.fault(machine, words);
      Object.assign(machine, { standing: "faulty", words });
      this.takeAllFrom(machine);
    }
    for (const source of this.sources.values()) source.revoke(name);
    this.fill();
  }

  /** Lets some of what was done be done again by another: the first unit of each machine, then one of many, by its number. */
  private mayCheck(machine: Held, source: Source, unit: Unit, check: () => Unit): void {
    const seed = createHash("sha256").update(unit.id).digest().readUInt32LE(0) / 2 ** 32;
    if (machine.checked && seed >= Math.min(1 / CHECKED, unit.tiles.length / SMALL)) return;
    machine.checked = true;
    this.checks.push({ unit: check(), not: machine.name, source, since: Date.now() });
  }

  /** A check that no other machine is there for. */
  private takeCheck(): { unit: Unit; source: Source } | null {
    const others = (not: string): boolean => this.fleet.working().some((m) => m.name !== not);
    const at = this.checks.findIndex(({ not, since }) => !others(not) && Date.now() - since > ALONE);
    return at < 0 ? null : this.checks.splice(at, 1)[0]!;
  }

  private tick(): void {
    this.pace.rest(this.sources.size === 0);
    for (const machine of this.fleet.silent()) this.takeAllFrom(machine);
    for (let check = this.takeCheck(); check; check = this.takeCheck()) check.source.decide(check.unit);
    this.fill();
  }

  /** Gives machines what they have room for. */
  fill(): void {
    this.again = true;
    if (!this.filling) void this.fillAll();
  }

  /** One at a time: what is wished meanwhile is done after it. */
  private async fillAll(): Promise<void> {
    this.filling = true;
    while (this.again && !this.closed) {
      this.again = false;
      await this.handOut().catch(() => undefined);
    }
    // at once, so that no wish falls between the last look and this
    this.filling = false;
  }

  private async handOut(): Promise<void> {
    if (this.post.trouble !== null) return;
    const machines = this.fleet.working().filter((m) => m.ready);
    const threads = this.fleet.threads();
    const sending: Promise<void>[] = [];
    for (;;) {
      // the one that has least for its threads
      const [machine] = machines
        .filter((m) => m.units.size < m.threads + AHEAD)
        .sort((a, b) => a.units.size / a.threads - b.units.size / b.threads);
      if (!machine) break;
      const given = this.nextFor(machine, threads);
      if (!given) {
        machines.splice(machines.indexOf(machine), 1);
        continue;
      }
      machine.units.set(given.unit.id, { ...given, since: Date.now(), unnamed: 0 });
      this.shares.count(given.source.job.id, given.seconds);
      sending.push(
        this.post.send(machine.name, given.unit).catch(() => {
          this.takeFrom(machine, given.unit.id);
        }),
      );
    }
    await Promise.all(sending);
  }

  private nextFor(machine: Held, threads: number): { unit: Unit; source: Source; seconds: number } | null {
    const at = this.checks.findIndex(({ not }) => not !== machine.name);
    if (at >= 0) {
      const [{ unit, source }] = this.checks.splice(at, 1) as [(typeof this.checks)[number]];
      return { unit, source, seconds: 0 };
    }
    const sources = [...this.sources.values()]
      .filter((s) => Date.now() >= (this.gathering.get(s.frame) ?? 0))
      .sort((a, b) => a.order - b.order);
    const left = sources.map((s) => ({ source: s, left: s.left() })).filter((s) => s.left > 0);
    const all = left.reduce((sum, s) => sum + s.left, 0);
    const present = [...machine.units.values()].at(-1)?.source ?? null;
    const jobs = [...new Map(left.map(({ source }) => [source.job.id, source.job])).values()];
    while (jobs.length > 0) {
      const job = this.shares.choose(jobs, present?.job.id ?? null, SLACK * threads);
      if (!job) return null;
      const own = left.map((s) => s.source).filter((s) => s.job.id === job.id);
      for (const source of [...own.filter((s) => s === present), ...own.filter((s) => s !== present)]) {
        const given = source.next(machine.speed * unitSeconds(all, threads));
        if (given) return { ...given, source };
      }
      jobs.splice(jobs.indexOf(job), 1);
    }
    return null;
  }
}
