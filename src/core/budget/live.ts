/** The price of a final while its picture is looked at: from each look at the live film, narrower as samples come. */
import { NINETIETH, forecastOf, fallOf, type Forecast, type ForecastTarget, type LookedBlocks, type Rate } from "./forecast";

/** What the workers had spent on the frame when a film was looked at. */
export interface Spent {
  seconds: number;
  rays: number;
}

/** Processor seconds of a frame with the bounds between which they lie in eight cases of ten. */
export interface Price {
  seconds: number;
  low: number;
  high: number;
  /** Samples a pixel, mean, and the share of pixels that will not come below the threshold. */
  samples: number;
  unreached: number;
  /** Samples a pixel of the look; below two where errors are those of the picture before. */
  looked: number;
}

/** What a frame takes besides its samples, processor seconds. */
export interface Besides {
  scene: number;
  clean: number;
}

/** What finals of this machine took against what was said of them, and its relative standard error. */
export interface Learned {
  factor: number;
  doubt: number;
  /** What takes the place of the doubt about a rate: as unsteady as this machine was found to be. */
  steady: number;
}

/** Relative standard error of a rate however long it was measured, and what is added for one sample a pixel. */
const RATE_DOUBT = 0.1,
  ONE_SAMPLE = 0.25;
/** … of the samples where those of the picture before are taken for this one's. */
const BORROWED = 0.5;
/** Samples from which on the rate counts: before them maps and tables are filled. */
const SETTLED = 2;
/** Share of the pixels that must have two samples for errors to be told by them. */
const MOSTLY = 0.9;
/** One look at a live film: how noisy its blocks are as rendered, and where it is cleaned as cleaned. */
export interface LiveLook {
  rendered: LookedBlocks;
  cleaned: LookedBlocks | null;
}

/** A final that a price is asked for. */
export interface PricedFinal extends Omit<ForecastTarget, "falls"> {
  /** Which picture the threshold is for. */
  of: "rendered" | "cleaned";
}

/** Follows the looks at one run after the other. */
export class LivePrice {
  private run: unknown = null;
  private spent: Spent = { seconds: 0, rays: 0 };
  private mark: { spent: Spent; samples: number } | null = null;
  private latest: LookedBlocks | null = null;
  /** Blocks whose errors are known: of the present run as soon as there are some, until then of the one before. */
  private known: Record<"rendered" | "cleaned", Known | null> = { rendered: null, cleaned: null };

  /** @param run another one where the film began anew */
  look(run: unknown, { rendered, cleaned }: LiveLook, spent: Spent): void {
    if (run !== this.run) {
      this.run = run;
      this.mark = null;
    }
    this.spent = spent;
    this.latest = rendered;
    const samples = samplesOf(rendered);
    if (!this.mark && samples >= SETTLED && spent.rays > 0) this.mark = { spent, samples };
    this.keep("rendered", rendered);
    if (cleaned) this.keep("cleaned", cleaned);
  }

  /** Processor seconds of a frame; null where nothing can be said yet. */
  price(final: PricedFinal, besides: Besides, learned: Learned): Price | null {
    const rate = this.rate();
    if (!rate || !this.latest) return null;
    const known = final.threshold === null ? null : this.known[final.of];
    if (final.threshold !== null && !known) return null;
    const falls = known && final.of === "cleaned" ? fallOf(known.few, known.blocks) : 1;
    const own = known === null || known.run === this.run;
    const forecast = forecastOf(known?.blocks ?? evenly(this.latest), own ? rate : { ...rate, doubt: Math.hypot(rate.doubt, BORROWED) }, {
      ...final,
      falls,
    });
    return priced(forecast, this.start(rate), besides, learned, own ? samplesOf(this.latest) : 0);
  }

  private keep(of: "rendered" | "cleaned", blocks: LookedBlocks): void {
    if (blocks.known < MOSTLY || blocks.samples < 2) return;
    const before = this.known[of];
    this.known[of] = { run: this.run, blocks, few: before !== null && before.run === this.run ? before.few : blocks };
  }

  /** Seconds of a sample of a pixel in the present run. */
  private rate(): Rate | null {
    const { latest, mark, spent } = this;
    if (!latest || !(spent.rays > 0) || !(latest.meanRays > 0)) return null;
    const samples = samplesOf(latest);
    const from = mark && samples >= 2 * mark.samples && spent.rays > mark.spent.rays ? mark.spent : { seconds: 0, rays: 0 };
    const each = (spent.seconds - from.seconds) / (spent.rays - from.rays);
    return { seconds: each * latest.meanRays, doubt: Math.hypot(RATE_DOUBT, ONE_SAMPLE / Math.sqrt(Math.max(1, samples))) };
  }

  /** Seconds that the run took above its rate as it began: a final begins as well. */
  private start(rate: Rate): number {
    return Math.max(0, this.spent.seconds - (rate.seconds / (this.latest?.meanRays ?? 1)) * this.spent.rays);
  }
}
interface Known {
  run: unknown;
  blocks: LookedBlocks;
  /** The first of the run. */
  few: LookedBlocks;
}

/** Samples a pixel; shares of one where not all have any. */
const samplesOf = (b: LookedBlocks): number => (b.known > 0.5 ? b.samples : b.sampled);

/** Blocks of which no error is known: one of all pixels that have a sample. */
function evenly({ meanRays }: LookedBlocks): LookedBlocks {
  const one = (v: number): Float64Array => Float64Array.of(v);
  return { pixels: one(1), light: one(0), error: one(0), doubt: one(0), rays: one(meanRays), samples: 1, meanRays, sampled: 1, known: 0 };
}

/** A forecast with what comes to it, as this machine is found to take it. */
export function priced(forecast: Forecast, start: number, besides: Besides, learned: Learned, looked: number): Price {
  const { samples, unreached } = forecast;
  const middle = (forecast.seconds + start) * learned.factor;
  const own = forecast.seconds > 0 ? Math.log(forecast.high / forecast.seconds) / NINETIETH : 0;
  // how unsteady a machine is its finals tell better than what any machine is taken to be
  const others = Math.sqrt(Math.max(0, own ** 2 - RATE_DOUBT ** 2));
  const spread = Math.exp(NINETIETH * Math.hypot(others, learned.steady, learned.doubt));
  const fixed = besides.scene + besides.clean;
  return { samples, unreached, looked, seconds: middle + fixed, low: middle / spread + fixed, high: middle * spread + fixed };
}

/** Seconds of a frame on a machine: its scene is built by one thread. @param speed how many times as fast a thread of it is */
export function onMachine(
  price: Pick<Price, "seconds" | "low" | "high">,
  scene: number,
  threads: number,
  speed: number,
): Pick<Price, "seconds" | "low" | "high"> {
  const of = (s: number): number => (Math.min(s, scene) + Math.max(0, s - scene) / threads) / speed;
  return { seconds: of(price.seconds), low: of(price.low), high: of(price.high) };
}

/** Whether a frame keeps to what it may take; `maybe` where that lies between its bounds. */
export function kept(allowed: number, price: Pick<Price, "low" | "high">): "yes" | "maybe" | "no" {
  return allowed >= price.high ? "yes" : allowed < price.low ? "no" : "maybe";
}

/** A final as it was said and as it was paid, processor seconds. */
export interface PaidFinal {
  /** What the model said before anything learned. */
  model: number;
  /** What was said, and its bounds. */
  said: number;
  low: number;
  high: number;
  paid: number;
}

/** Records that are learned from, the newest first; what one of them alone is doubted by, and a machine that has none. */
const REMEMBERED = 16;
const ALONE = 0.15,
  UNTRIED = 0.12;
/** What a record may count as off by in any case. */
const FARTHEST = 0.2;
/** Records that what any machine is taken to be counts as much as, and what no machine is steadier than. */
const ASSUMED = 1,
  STEADIEST = 0.02;

/** What this machine's finals take against what the model says; 1 where there are none. */
export function learnedFrom(records: readonly PaidFinal[]): Learned {
  const logs = records
    .slice(0, REMEMBERED)
    .filter((r) => r.model > 0 && r.paid > 0)
    .map((r) => Math.log(r.paid / r.model));
  const n = logs.length;
  if (n === 0) return { factor: 1, doubt: UNTRIED, steady: RATE_DOUBT };
  // few records are held against none having been made: as many again that say 1
  const weight = n / (n + 1);
  const middle = median(logs);
  const off = logs.map((l) => Math.abs(l - middle));
  // one that went quite wrong counts as no more than what others may be off by at the most
  const most = Math.max(FARTHEST, 4 * 1.4826 * median(off));
  // of a normal distribution, from the mean of what they are off by; few of them tell it too small, as their own middle is taken
  const spread = (Math.sqrt(Math.PI / 2) * off.reduce((sum, v) => sum + Math.min(most, v), 0)) / Math.max(1, n - 1);
  const each = n > 2 ? spread : ALONE;
  return {
    factor: Math.exp(weight * middle),
    doubt: each / Math.sqrt(n + 1),
    steady: Math.sqrt((n * Math.max(each, STEADIEST) ** 2 + ASSUMED * RATE_DOUBT ** 2) / (n + ASSUMED)),
  };
}

function median(of: readonly number[]): number {
  const sorted = [...of].sort((a, b) => a - b);
  return (sorted[Math.floor((sorted.length - 1) / 2)]! + sorted[Math.floor(sorted.length / 2)]!) / 2;
}

/** How forecasts have been: median error (share), and the share of finals between their bounds. */
export function recordOf(records: readonly PaidFinal[]): { median: number; inside: number } | null {
  if (records.length === 0) return null;
  return {
    median: median(records.map((r) => Math.abs(r.said / r.paid - 1))),
    inside: records.filter((r) => r.paid >= r.low && r.paid <= r.high).length / records.length,
  };
}
