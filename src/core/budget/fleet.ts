/**
 * What frames take where several machines render: samples are spread, a scene is built by each; what comes back is taken in by the server,
 * which cleans frames as well. Figures: docs/performance.md.
 */
import type { Besides, Price } from "./live";

/** Machines that take part. */
export interface Fleet {
  machines: number;
  /** Threads of all of them together, each counted by how fast it is against one of this machine. */
  threads: number;
}

/** What handing out leaves of their threads' time, measured with two workers. */
export const FLEET_SHARE = 0.99;
/** Seconds that the server's one thread needs to take in a byte of results, measured. */
export const TAKING = 6.1e-9;
/** Seconds below which nobody looks at a frame while it grows. */
const QUICK = 60;
/** Times that a first look sends the film besides, back and there again, and what share of a frame's time the server may take for that. */
const SENT = 2,
  SENDING = 0.2;
/** Pixels of a tile: of a frame no more threads can be at work than it has tiles. */
const TILE = 32 * 32;

/**
 * Whether tiles of a frame stop on their way, so that a first look is soon there. @param seconds that the frame takes all machines together
 * @param bytes of its film
 */
export function stopsForLook(seconds: number, bytes: number): boolean {
  return seconds > QUICK && SENT * TAKING * bytes <= SENDING * seconds;
}

type Span = Pick<Price, "seconds" | "low" | "high">;

/** Frames as they are asked of a fleet. */
export interface FleetWork {
  /** Processor seconds of a frame on this machine, with its scene and its clean-up. */
  price: Span;
  besides: Besides;
  pixels: number;
  /** Bytes of a pixel of the film. */
  pixelBytes: number;
  frames: number;
  /** Threads of the server, which cleans the frames while others are rendered. */
  server: number;
}

/** Seconds of all frames. Of several frames some are at work at once: then tiles are no bound. */
export function onFleet({ price, besides, pixels, pixelBytes, frames, server }: FleetWork, { machines, threads }: Fleet): Span {
  const { scene } = besides;
  const clean = besides.clean / Math.max(1, server);
  const busy = Math.max(1e-6, frames > 1 ? threads : Math.min(threads, Math.ceil(pixels / TILE)));
  const speed = Math.max(1e-6, threads / Math.max(1, machines));
  const of = (seconds: number): number => {
    const samples = Math.max(0, seconds - scene - besides.clean) / (FLEET_SHARE * busy);
    // here first, for the schedule, then on each machine by one of its threads
    const begun = scene + scene / Math.min(1, speed);
    const bytes = pixels * pixelBytes;
    const taking = TAKING * bytes * (stopsForLook(samples, bytes) ? 1 + SENT : 1);
    return begun + Math.max(samples, taking) + clean + (frames - 1) * Math.max(samples, taking, clean);
  };
  return { seconds: of(price.seconds), low: of(price.low), high: of(price.high) };
}

/**
 * Machines that frames need to be done within some seconds, each with as many threads. @returns null where no number of them is enough, since
 * something is done one after the other
 */
export function machinesFor(allowed: number, work: FleetWork, threads: number): number | null {
  const fits = (machines: number): boolean => onFleet(work, { machines, threads: machines * threads }).seconds <= allowed;
  const MOST = 1 << 16;
  if (!fits(MOST)) return null;
  let low = 0,
    high = MOST;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (fits(middle)) high = middle;
    else low = middle;
  }
  return high;
}
