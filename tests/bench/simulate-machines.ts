/**
 * Many machines, simulated: events in the order of their time, with the product's own ledger and sizes of units, driven by what
 * benchMachines() measures. What a frame is and what machines and network are, stands here; docs/performance.md tells what comes of it.
 */
import { writeFileSync } from "node:fs";
import { stopsForLook } from "#core/budget/fleet";
import { Ledger } from "#machines/ledger";
import { roundsOf } from "#machines/rounds";
import { unitSeconds } from "#machines/sizes";
import { MOST_TILES } from "#machines/unit";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { efficiencyChart } from "./efficiency-chart";

/** What is measured, or known. */
export interface Facts {
  /** Samples a second of a thread, and by how much tiles differ (standard deviation of the logarithm). */
  pace: number;
  spread: number;
  /** Bytes of a pixel. */
  pixel: number;
  /** Seconds of a processor that the server needs for a unit, and for a byte of it. */
  perUnit: number;
  perByte: number;
  /** Seconds from the server to a worker by the queue. */
  latency: number;
  /** Seconds that a worker takes to build the scene, and the server to begin a frame. */
  scene: number;
  begin: number;
  /** Processor seconds of cleaning a pixel. */
  clean: number;
}

/** What is taken on. */
const SIZE: readonly [number, number] = [3840, 2160];
const SAMPLES = 256;
const THREADS = 8;
/** Bytes a second of the server's network, each way, and threads that clean there. */
const NETWORK = 1.1e9;
const SERVER = 8;
/** As in the product: frames that are open at once, and seconds of all machines below which another is begun. */
const OPEN = 8,
  LOW = 20;
const TILE = 32;

export interface Outcome {
  workers: number;
  frames: number;
  seconds: number;
  efficiency: number;
  /** Bytes a second that the server receives and sends, units a second, and the share of a processor that this takes. */
  received: number;
  sent: number;
  units: number;
  busy: number;
}

/** Numbers below 1 with a seed. */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** What happens, the next first. */
class Events {
  private readonly heap: { at: number; what: () => void }[] = [];
  now = 0;

  at(at: number, what: () => void): void {
    const { heap } = this;
    heap.push({ at, what });
    for (let i = heap.length - 1; i > 0;) {
      const up = (i - 1) >> 1;
      if (heap[up]!.at <= heap[i]!.at) break;
      [heap[up], heap[i]] = [heap[i]!, heap[up]!];
      i = up;
    }
  }

  /** @returns whether there was one */
  next(): boolean {
    const { heap } = this;
    const first = heap[0];
    if (!first) return false;
    const last = heap.pop()!;
    if (heap.length > 0) {
      heap[0] = last;
      for (let i = 0; ;) {
        const [l, r] = [2 * i + 1, 2 * i + 2];
        let least = i;
        if (l < heap.length && heap[l]!.at < heap[least]!.at) least = l;
        if (r < heap.length && heap[r]!.at < heap[least]!.at) least = r;
        if (least === i) break;
        [heap[least], heap[i]] = [heap[i]!, heap[least]!];
        i = least;
      }
    }
    this.now = first.at;
    first.what();
    return true;
  }
}

/** Something that does one thing after the other. */
class Line {
  private free = 0;
  busy = 0;
  constructor(private readonly events: Events) {}
  take(seconds: number, then: () => void): void {
    const from = Math.max(this.events.now, this.free);
    this.free = from + seconds;
    this.busy += seconds;
    this.events.at(this.free, then);
  }
}

/** @param clean whether frames are cleaned, by the server */
export function simulated(f: Facts, workers: number, frames: number, clean: boolean, seed = 1): Outcome {
  const random = chance(seed);
  const events = new Events();
  const [network, back, server, cleaner] = [new Line(events), new Line(events), new Line(events), new Line(events)];
  const [columns, rows] = SIZE.map((n) => Math.ceil(n / TILE)) as [number, number];
  const tiles = columns * rows;
  const bytes = TILE * TILE * f.pixel;
  const stages = finalSchedule(0, SAMPLES, MEDIUM_PASSES);
  const pixels = SIZE[0] * SIZE[1];
  const looks = stopsForLook((pixels * SAMPLES) / (f.pace * workers * THREADS), pixels * f.pixel);
  const [round] = roundsOf(stages, { judgedFrom: null, adaptive: false, limited: false, looks }) as [ReturnType<typeof roundsOf>[number]];
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  /** Thread seconds that a tile takes in all. */
  const takes = Float64Array.from(
    { length: tiles },
    () => ((TILE * TILE * SAMPLES) / f.pace) * Math.exp(f.spread * normal() - f.spread ** 2 / 2),
  );
  const costs = stages.map((s) => s.end - s.first);
  const share = (from: number, to: number): number => costs.slice(from, to).reduce((a, c) => a + c, 0) / SAMPLES;
  const threads = workers * THREADS;

  interface Open {
    ledger: Ledger;
    left: number;
  }
  interface Worker {
    held: number;
    free: number;
    waiting: (() => void)[];
    built: boolean;
    at: Open | null;
  }
  const open: Open[] = [];
  let begun = 0,
    done = 0,
    beginning = 0,
    expected: Float64Array | null = null;
  let received = 0,
    sent = 0,
    units = 0,
    worked = 0;
  const all = Array.from({ length: workers }, (): Worker => ({ held: 0, free: THREADS, waiting: [], built: false, at: null }));

  /** Those that have nothing. */
  const idle = new Set<Worker>();

  const beginFrames = (): void => {
    const left = open.reduce((s, o) => s + o.ledger.left(), 0);
    while (begun < frames && open.length + beginning < OPEN && (open.length + beginning === 0 || left < LOW * threads)) {
      begun++;
      beginning++;
      server.take(f.begin, () => {
        beginning--;
        const ledger = new Ledger(new Uint16Array(tiles), stages, expected);
        ledger.begin(round);
        open.push({ ledger, left: tiles * round.stops.length });
        fill(all);
      });
      if (open.length > 0) break;
    }
  };

  /** Gives workers what they have room for. */
  const fill = (which: readonly Worker[]): void => {
    for (const w of which)
      while (w.held < THREADS + 1) {
        const left = begun < frames ? Infinity : open.reduce((s, o) => s + o.ledger.left(), 0);
        const size = unitSeconds(left, threads);
        let given: ReturnType<Ledger["next"]> = null;
        let of: Open | null = null;
        for (const o of w.at && open.includes(w.at) ? [w.at, ...open.filter((x) => x !== w.at)] : open) {
          given = o.ledger.next(round, size, MOST_TILES);
          of = o;
          if (given) break;
        }
        if (!given || !of) {
          if (w.held === 0) idle.add(w);
          break;
        }
        idle.delete(w);
        hand(w, of, given);
      }
    beginFrames();
  };

  const hand = (w: Worker, of: Open, unit: NonNullable<ReturnType<Ledger["next"]>>): void => {
    const id = String(units++);
    of.ledger.hand(id, unit.tiles);
    w.held++;
    const moved = w.at !== of;
    w.at = of;
    const input = unit.from > 0 ? unit.tiles.length * bytes : 0;
    sent += input;
    const part = share(unit.from, unit.to);
    const seconds = unit.tiles.map((t) => takes[t]! * part);
    const sum = seconds.reduce((a, s) => a + s, 0);
    const work = (): void => {
      w.free--;
      worked += sum;
      events.at(events.now + sum, () => {
        w.free++;
        w.waiting.shift()?.();
        deliver();
      });
    };
    const deliver = (): void => {
      const size = unit.tiles.length * bytes;
      received += size;
      network.take(size / NETWORK, () =>
        server.take(f.perUnit + size * f.perByte, () => {
          unit.tiles.forEach((t, i) => of.ledger.took(t, unit.from, unit.to, seconds[i]!, "w"));
          of.left -= unit.tiles.length;
          w.held--;
          if (of.left === 0) finish(of);
          fill([w]);
          // what is at its next stop may be what another waits for
          if (idle.size > 0) fill([...idle].slice(0, unit.tiles.length));
        }),
      );
    };
    // scene and film of a frame are made ready once, by one thread, while others of it wait
    const ready = w.built ? (moved ? f.begin : 0) : f.scene;
    w.built = true;
    server.take(f.perUnit + input * f.perByte, () =>
      back.take(input / NETWORK, () =>
        events.at(events.now + f.latency + ready, () => {
          if (w.free > 0) work();
          else w.waiting.push(work);
        }),
      ),
    );
  };

  const finish = (of: Open): void => {
    expected = of.ledger.expected();
    const ended = (): void => {
      open.splice(open.indexOf(of), 1);
      done++;
      beginFrames();
    };
    // a frame that is cleaned is open until it is
    if (clean) cleaner.take((f.clean * SIZE[0] * SIZE[1]) / SERVER, ended);
    else ended();
  };

  beginFrames();
  while (done < frames && events.next());
  const seconds = events.now;
  return {
    ...{ workers, frames, seconds, efficiency: worked / (threads * seconds) },
    ...{ received: received / seconds, sent: sent / seconds, units: units / seconds, busy: server.busy / seconds },
  };
}

/** Prints a table, and draws the chart where a file is named. */
export function simulateMachines(facts: Facts, file: string | null): void {
  const counts = [10, 30, 100, 300, 1000];
  // of 200 frames as many as show how it goes on: what begins and ends it weighs more in them
  const many = (n: number): number => Math.max(6, Math.min(16, Math.round(n / 40)));
  const cases = [
    { name: "one frame", frames: () => 1, clean: false },
    { name: "200 frames", frames: many, clean: false },
    { name: "200 frames, cleaned by the server", frames: many, clean: true },
  ];
  const series = cases.map(({ name, frames, clean }) => ({ name, points: counts.map((n) => simulated(facts, n, frames(n), clean)) }));
  console.log(
    `simulated: 4K (${SIZE.join(" × ")}), ${SAMPLES} samples at ${facts.pace.toFixed(0)} a second, workers of ${THREADS} threads, network of ${(NETWORK * 8) / 1e9} Gbit/s`,
  );
  for (const { name, points } of series)
    for (const o of points)
      console.log(
        `${name} (${o.frames}), ${o.workers} workers: ${(o.seconds / 60).toFixed(1)} min, efficiency ${o.efficiency.toFixed(3)}; the server receives ${(o.received / 1e6).toFixed(1)} and sends ${(o.sent / 1e6).toFixed(1)} MB/s, ${o.units.toFixed(1)} units/s, ${(100 * o.busy).toFixed(1)} % of a processor`,
      );
  if (file)
    writeFileSync(
      file,
      efficiencyChart(series.map(({ name, points }) => ({ name, points: points.map((p) => ({ n: p.workers, share: p.efficiency })) }))),
    );
}
