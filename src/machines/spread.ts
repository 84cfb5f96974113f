/**
 * Runs a frame on many machines: rounds of units, whose results are put into one film here. The film is that of this machine's own engine,
 * bit for bit: a tile takes its stages in their order wherever it is, and what looks at more than a tile is done here.
 */
import { createHash } from "node:crypto";
import { stopsForLook } from "#core/budget/fleet";
import { InputError } from "#core/errors";
import type { Film } from "#core/film/film";
import { PASS_CLEAR, PASS_JOIN } from "#core/layout/layout";
import { planMemory } from "#core/scene/memory";
import type { Counts, RunRequest, RunResult } from "#engine/engine";
import type { Stage } from "#engine/schedule";
import { readTile, tileLength, tilesOf, writeTile } from "#engine/tiles";
import type { RunOf, Runner } from "#finals/runner";
import type { Workshop } from "#finals/workshop";
import { Checks, same, type Doubt } from "./checks";
import { Ledger } from "./ledger";
import type { Delivered, Office, Source } from "./office";
import { Later } from "./refusals";
import { roundsOf, unjoined, type Round } from "./rounds";
import { areNumbers, floatsOf, MOST_TILES, unitOf, type Brief, type ResultHead, type Spent, type Unit } from "./unit";

/** What was wrong cannot be taken out of the film: the frame begins anew. */
export class BeginAnew extends Error {}

/** Times that units with a tile fail before their frame does, on as many machines or all that there are. */
const FAILURES = 3;

/** Milliseconds between times at which it is told how far a frame is. */
const TOLD = 1000;

export interface SpreadOf {
  job: Source["job"];
  order: number;
  /** Thread seconds that the frame is thought to take, or each of its tiles; null: unknown. */
  expected: number | Float64Array | null;
  /** Whether more frames come after it. */
  more: () => boolean;
}

/** How a run ends before it is done. */
type Ending = { outcome: "time" | "cancelled" } | { error: Error };

export class Spread implements Runner, Source {
  frame = "";
  brief!: Source["brief"];
  private growing: Film | null = null;
  private ledger!: Ledger;
  private round: Round = { from: 0, to: 0, join: null, stops: [] };
  private settled: Uint32Array | null = null;
  private of!: RunOf;
  private request!: RunRequest;
  private readonly checks = new Checks();
  private counts: Counts = { rays: 0, lookups: 0, invalid: 0, seconds: 0 };
  private readonly spentOn = new Map<number, Spent>();
  private spent = 0;
  private held = false;
  private ending = false;
  private ended: Ending | null = null;
  /** Whether what looks at the whole film has been done: it cannot be taken back. */
  private beyond = false;
  private readonly looking = new AbortController();
  private change: () => void = () => undefined;
  /** By tile: how often its units failed, and where. */
  private readonly failures = new Map<number, { times: number; machines: Set<string> }>();

  constructor(
    private readonly office: Office,
    private readonly workshop: Workshop,
    private readonly spread: SpreadOf,
  ) {}

  get job(): Source["job"] {
    return this.spread.job;
  }
  get order(): number {
    return this.spread.order;
  }

  readonly eager = true;

  // —— the run, as the frame's renderer sees it

  async start(request: RunRequest, of: RunOf): Promise<RunResult> {
    this.of = of;
    this.request = request;
    const { document, width, height, stages, resume } = request;
    const { crop, stride } = of.plan.identity;
    const { tiles } = tilesOf(crop);
    const { extras } = planMemory(of.geometry, width * height, document);
    const data = new Float32Array(new SharedArrayBuffer(4 * width * height * stride));
    const film: Film = { data, stride, width, height, crop, frame: null, ...extras };
    const taken = new Uint16Array(tiles);
    if (resume) {
      data.set(resume.data);
      taken.set(resume.taken);
      this.counts = { ...resume.counts };
    }
    this.growing = film;
    this.frame = of.plan.identity.key;
    this.brief = briefOf(of);
    const { expected } = this.spread;
    this.ledger = new Ledger(taken, stages, typeof expected === "number" ? expected / tiles : expected?.length === tiles ? expected : null);
    const { noiseThreshold, minSamples } = document.render;
    const judged = request.judge !== undefined && request.judge !== null;
    const rounds = roundsOf(stages, {
      judgedFrom: judged ? minSamples : null,
      adaptive: noiseThreshold !== null,
      limited: request.timeLimit !== undefined,
      looks: this.stopsForLook(4 * stride * (crop[2] - crop[0]) * (crop[3] - crop[1])),
    });
    const timer =
      request.timeLimit === undefined ? undefined : setTimeout(() => this.endNow(), Math.min(2 ** 31 - 1, 1000 * request.timeLimit));
    try {
      for (const round of rounds) if (await this.takeRound(round)) break;
      await this.sure(rounds.at(-1)!);
      // an earlier end leaves the air of its last samples unjoined
      const join = stages.findLastIndex((s) => s.passes & PASS_JOIN);
      if (this.outcome() === "time" && join >= 0) await this.join(join);
      await this.keep();
      if (this.ended && "error" in this.ended) throw this.ended.error;
    } finally {
      clearTimeout(timer);
      this.office.unregister(this, this.troubled);
    }
    return {
      outcome: this.outcome() ?? "done",
      film,
      ...this.counts,
      work: { seconds: this.spent, rays: this.counts.rays, lookups: this.counts.lookups },
    };
  }

  /** Whether it takes all machines together so long that a first look is worth what it sends. */
  private stopsForLook(bytes: number): boolean {
    const { expected } = this.spread;
    if (expected === null) return true;
    const seconds = typeof expected === "number" ? expected : expected.reduce((a, s) => a + s, 0);
    return stopsForLook(seconds / Math.max(1, this.office.fleet.threads()), bytes);
  }

  /** Waits for what is done again; a machine that was wrong leaves tiles that are to be taken anew. */
  private async sure(last: Round): Promise<void> {
    for (;;) {
      if (!this.ended || this.outcome() === "time") await this.checks.settled();
      if (this.ended || this.ledger.isDone(last)) return;
      await this.takeRound(last);
    }
  }

  private outcome(): "time" | "cancelled" | null {
    return this.ended && "outcome" in this.ended ? this.ended.outcome : null;
  }

  /** @returns whether the run ends with it */
  private async takeRound(round: Round): Promise<boolean> {
    const { judge, stages } = this.request;
    const film = this.growing!;
    // a tile that a machine's fall has emptied takes earlier rounds again by itself, as long as nothing looked at the whole
    for (;;) {
      if (await this.resting()) return true;
      const stage = stages.slice(round.from, round.to).find((s) => !(s.passes & (PASS_CLEAR | PASS_JOIN)));
      this.settled = judge && stage && !this.ledger.isDone(round) ? await this.judged(judge, film, stage) : null;
      if (this.settled) this.beyond = true;
      this.round = round;
      this.ledger.begin(round);
      this.office.register(this, this.request.resume != null);
      await this.until(() => this.ended !== null || this.held || this.ledger.isDone(round) || (this.ending && this.hasLook()));
      if (this.held && !this.ended) continue;
      break;
    }
    if (this.ended) return true;
    if (this.ending && this.hasLook() && !this.ledger.isDone(round)) {
      this.ended = { outcome: "time" };
      return true;
    }
    // a frame that is gone on with may be past it: then tiles have different samples, and the air of a joint counts
    if (round.join !== null && (round.join < round.to || this.ledger.taken.some((n) => n === round.join))) {
      // what is joined over the edges of tiles has to be right
      await this.checks.settled();
      if (this.ended) return true;
      if (!this.ledger.isDone(round)) return this.takeRound(round);
      await this.join(round.join);
    }
    if (this.ending && round.to < stages.length) {
      this.ended = { outcome: "time" };
      return true;
    }
    return false;
  }

  /** What a judge says; nothing where the run ends meanwhile. */
  private async judged(judge: NonNullable<RunRequest["judge"]>, film: Film, stage: Stage): Promise<Uint32Array | null> {
    try {
      return await judge(film, stage, this.looking.signal);
    } catch (error) {
      if (!this.looking.signal.aborted) throw error;
      return null;
    }
  }

  /** Whether every tile has something to show. */
  private hasLook(): boolean {
    return this.ledger.taken.every((n) => n > 0);
  }

  /** Joins the air of all tiles. */
  private async join(index: number): Promise<void> {
    const film = this.growing!;
    const { document, width, height, stages } = this.request;
    const { taken } = this.ledger;
    const stage = stages[index]!;
    const joined = await this.workshop.alone(this.of.geometry, async (engine) => {
      const counts = { rays: 0, lookups: 0, invalid: 0, seconds: 0 };
      const resume = { data: film.data, taken: new Uint16Array(taken.length), counts };
      return engine.start({ document, width, height, stages: [stage], resume });
    });
    film.data.set(joined.film.data);
    for (let i = 0; i < taken.length; i++) if (taken[i] === index) taken[i] = index + 1;
    this.beyond = true;
    await this.keep();
  }

  /** Waits while it is held. @returns whether the run was ended */
  private async resting(): Promise<boolean> {
    if (this.held) await this.until(() => !this.held || this.ended !== null);
    return this.ended !== null;
  }

  private async until(holds: () => boolean): Promise<void> {
    while (!holds()) await new Promise<void>((go) => (this.change = go));
  }

  pause(): void {
    this.held = true;
    void this.keep().catch(() => undefined);
    this.change();
  }

  endNow(): void {
    this.ending = true;
    this.change();
  }

  async cancel(): Promise<void> {
    this.ended ??= { outcome: "cancelled" };
    this.change();
    // results that are being kept are answered
    this.looking.abort();
    await this.keeping.catch(() => undefined);
  }

  share(): number {
    return this.growing ? this.ledger.share() : 0;
  }

  useWorkers(): void {
    // how many take part is the machines' own affair
  }

  film(): Film | null {
    return this.growing;
  }

  seconds(): number {
    return this.counts.seconds;
  }

  elsewhere(): number {
    return this.spent;
  }

  /** Thread seconds that each tile takes in all, as found here. */
  found(): Float64Array {
    return this.ledger.expected();
  }

  // —— units, as the office sees it

  next(seconds: number): { unit: Unit; seconds: number } | null {
    if (this.held || this.ended || (this.ending && this.hasLook())) return null;
    const some = this.ledger.next(this.round, seconds, MOST_TILES);
    if (!some) return null;
    const unit = unitOf({
      ...{ frame: this.frame, brief: this.brief.hash, check: false },
      tiles: some.tiles,
      from: some.from,
      to: some.to,
    });
    this.ledger.hand(unit.id, unit.tiles);
    return { unit, seconds: some.seconds };
  }

  waits(): number {
    if (this.held || this.ended || (this.ending && this.hasLook())) return 0;
    return this.ledger.left();
  }

  left(): number {
    if (!this.ledger.hasWaiting()) return 0;
    const waits = this.waits();
    return waits > 0 && this.spread.more() ? Infinity : waits;
  }

  adopt(unit: Unit): boolean {
    if (unit.check) return this.checks.of(unit) !== null;
    if (this.ended || !this.round.stops.includes(unit.to) || !this.ledger.isFree(unit.tiles, unit.from)) return false;
    this.ledger.hand(unit.id, unit.tiles);
    return true;
  }

  giveBack(unit: Unit): void {
    this.ledger.giveBack(unit.id, unit.tiles);
  }

  input(unit: Unit): { settled: number[] | null; body: Uint8Array } | null {
    if (unit.check) {
      const doubt = this.checks.of(unit);
      return doubt && { settled: [doubt.settled], body: bytesOf(doubt.before ?? new Float32Array(0)) };
    }
    if (this.ended || !unit.tiles.some((tile) => this.ledger.wants(tile, unit.from))) return null;
    const settled = this.settled && unit.tiles.map((tile) => this.settled![tile]!);
    if (unit.from === 0) return { settled, body: new Uint8Array() };
    const film = this.growing!;
    const values = new Float32Array(unit.tiles.reduce((n, tile) => n + tileLength(film, tile), 0));
    let at = 0;
    for (const tile of unit.tiles) at += readTile(film, tile, values.subarray(at));
    return { settled, body: bytesOf(values) };
  }

  async deliver(head: ResultHead, body: Uint8Array, speed: number): Promise<Delivered | null> {
    const { unit, worker } = head;
    const film = this.growing!;
    const what = `unit ${unit.id.slice(0, 8)} of ${worker}`;
    if (head.tiles.length !== unit.tiles.length) throw new InputError(`${what}: says what ${head.tiles.length} of its tiles took`);
    const { tiles } = tilesOf(film.crop);
    if (unit.tiles.some((tile) => tile >= tiles)) throw new InputError(`${what}: has a tile that is none of the frame's`);
    const values = floatsOf(
      body,
      unit.tiles.reduce((n, tile) => n + tileLength(film, tile), 0),
      what,
    );
    if (!areNumbers(values)) throw new InputError(`${what}: has numbers that are none`);
    // what is in memory alone is not there: it is to come again once it can be kept
    if (this.troubled) throw new Later("it cannot be kept now");
    if (unit.check) return this.checked(unit, worker, values);
    if (this.ended || unit.to > this.request.stages.length || unit.to <= unit.from) return null;
    let from = 0,
      wanted = false;
    let check: Delivered["check"] = null;
    for (const [i, tile] of unit.tiles.entries()) {
      const own = values.subarray(from, (from += tileLength(film, tile)));
      // another machine has brought it meanwhile, or its round is another one
      if (!this.round.stops.includes(unit.to) || !this.ledger.wants(tile, unit.from)) continue;
      wanted = true;
      if (i === unit.tiles.length - 1) {
        const before = unit.from === 0 ? null : new Float32Array(tileLength(film, tile));
        if (before) readTile(film, tile, before);
        const settled = this.settled?.[tile] ?? 0;
        // few units are checked: only then is a copy of it kept
        check = () => this.checks.begin(unit, { by: worker, settled, before, after: own.slice() });
      }
      writeTile(film, tile, own);
      const spent = head.tiles[i]!;
      this.ledger.took(tile, unit.from, unit.to, spent.seconds * speed, worker);
      this.count(tile, spent, 1);
      this.spent += spent.seconds * speed;
      this.counts.seconds += (spent.seconds * speed) / Math.max(1, this.office.fleet.threads());
    }
    if (!wanted) return null;
    await this.keep();
    this.change();
    return { check };
  }

  /** Counts what a tile took, or takes it off again. */
  private count(tile: number, spent: Spent, sign: 1 | -1): void {
    const known = this.spentOn.get(tile) ?? { rays: 0, lookups: 0, invalid: 0, seconds: 0 };
    for (const key of ["rays", "lookups", "invalid"] as const) {
      this.counts[key] += sign * spent[key];
      known[key] += sign * spent[key];
    }
    this.spentOn.set(tile, known);
  }

  /** Resolves once what has come until now is on disk: what comes while something is written is written together after it. */
  private keep(): Promise<void> {
    this.following ??= this.keeping
      .catch(() => undefined)
      .then(() => {
        this.following = null;
        return (this.keeping = this.keepNow());
      });
    return this.following;
  }
  private keeping: Promise<void> = Promise.resolve();
  private following: Promise<void> | null = null;
  private toldAt = -Infinity;

  private async keepNow(): Promise<void> {
    const { checkpoint, stages, onStage } = this.request;
    checkpoint?.keep(this.growing!, this.ledger.taken, this.counts);
    // results may come many a second, and the film is looked at less often
    if (performance.now() - this.toldAt >= TOLD) {
      this.toldAt = performance.now();
      onStage?.({
        ...{ share: this.share(), seconds: this.counts.seconds, secondsLeft: null, stage: this.round.from, stages: stages.length },
        work: { seconds: this.spent, rays: this.counts.rays, lookups: this.counts.lookups },
      });
    }
    try {
      await this.of.safe();
    } catch (error) {
      this.troubled = true;
      throw error;
    }
  }
  /** Whether what came could not be kept: it comes again. */
  private troubled = false;

  /** Another machine has done a unit again. */
  private async checked(unit: Unit, by: string, values: Float32Array): Promise<Delivered | null> {
    const doubt = this.checks.of(unit);
    if (!doubt) return null;
    if (!same(doubt.after, values)) await this.arbitrate(doubt, { by, values });
    this.checks.end(unit);
    this.change();
    return { check: null };
  }

  decide(unit: Unit): void {
    const doubt = this.checks.of(unit);
    if (!doubt) return;
    this.arbitrate(doubt, null)
      .catch((error: unknown) => this.fail(error as Error))
      .finally(() => {
        this.checks.end(unit);
        this.change();
      });
  }

  /** Does a tile here, and tells whose numbers are wrong. */
  private async arbitrate(doubt: Doubt, other: { by: string; values: Float32Array } | null): Promise<void> {
    const { check } = doubt;
    const [tile] = check.tiles as [number];
    const { document, width, height, stages } = this.request;
    const right = await this.workshop.alone(this.of.geometry, async (engine) => {
      const run = await engine.open({ document, width, height });
      try {
        writeTile(run.film, tile, doubt.before);
        await run.take(tile, unjoined(stages.slice(check.from, check.to)), doubt.settled);
        const own = new Float32Array(tileLength(run.film, tile));
        readTile(run.film, tile, own);
        return own;
      } finally {
        await run.close();
      }
    });
    const wrong = "gave a unit that this machine and another find to be wrong: all that it did in frames at work is done again";
    if (!same(doubt.after, right)) this.office.distrust(doubt.by, wrong);
    if (other && !same(other.values, right)) this.office.distrust(other.by, wrong);
  }

  failed(unit: Unit, machine: string, reason: string): void {
    const [tile] = unit.tiles as [number];
    const known = this.failures.get(tile) ?? { times: 0, machines: new Set<string>() };
    known.times++;
    known.machines.add(machine);
    this.failures.set(tile, known);
    const others = this.office.fleet.working().some((m) => !known.machines.has(m.name));
    if (known.times >= FAILURES && (known.machines.size >= FAILURES || !others))
      this.fail(new InputError(`${[...known.machines].join(", ")} failed on a part of it: ${reason}`));
  }

  revoke(machine: string): void {
    this.checks.drop(machine);
    const tiles = this.ledger.touchedBy(machine);
    if (tiles.length === 0) return;
    if (this.beyond) {
      this.fail(new BeginAnew(`the frame begins anew: ${machine} gave wrong numbers`));
      return;
    }
    for (const tile of tiles) {
      writeTile(this.growing!, tile, null);
      this.ledger.reset(tile);
      const spent = this.spentOn.get(tile);
      if (spent) this.count(tile, { ...spent }, -1);
    }
    this.of.forget(tiles);
    this.change();
  }

  private fail(error: Error): void {
    this.ended = { error };
    this.change();
  }
}

const bytesOf = (values: Float32Array): Uint8Array => new Uint8Array(values.buffer, values.byteOffset, values.byteLength);

function briefOf({ work }: RunOf): Source["brief"] {
  const { document, passes, firstSample, strengths } = work;
  const of: Brief = {
    document: JSON.stringify(document),
    passes: [...passes],
    firstSample: firstSample ?? 0,
    strengths: strengths && { ...strengths },
  };
  const bytes = Buffer.from(JSON.stringify(of));
  return { hash: createHash("sha256").update(bytes).digest("hex"), bytes, of };
}
