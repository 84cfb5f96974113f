/**
 * Cleans films on a pool of workers. A tile's result depends on the film alone, so the picture is the same bit for bit with any number of
 * workers.
 */
import { CLEAN_REACH, FINISH_TILE, NO_GROUPS, type Area, type Pixels, type Strengths } from "#core/clean/cleaner";
import { CLEANED_FLOATS, GROUPED, NOT_CLEANED, type Cleaned, type Grouped, type Side } from "#core/film/cleaned";
import { groupFloat, type Film } from "#core/film/film";
import type { CleanDone, CleanHost, CleanPort, CleanWork } from "./clean-protocol";

/** Work without its number: what distinguishes the kinds stays. */
type Task = { [K in CleanWork["kind"]]: Omit<Extract<CleanWork, { kind: K }>, "id"> }[CleanWork["kind"]];
type Result = Extract<CleanDone, { kind: "cleaned" }>;

interface Slot {
  port: CleanPort;
  busy: { id: number; resolve(result: Result): void; reject(error: Error): void } | null;
}

export interface FinishOptions {
  sides: readonly Side[];
  strengths: Strengths;
  /** Whether the light groups that the film keeps are cleaned with the sides they are parts of. */
  lights?: boolean;
  /** Ends the work between two tiles. */
  signal?: AbortSignal;
  onProgress?: (share: number) => void;
}

/** A clean-up that was ended by its signal. */
export class CleanCancelled extends Error {}

export class CleanPool {
  private readonly slots: Slot[] = [];
  private readonly waiting: { task: Task; resolve(result: Result): void; reject(error: Error): void }[] = [];
  private next = 0;

  constructor(private readonly host: CleanHost) {}

  get workers(): number {
    return this.host.workers;
  }

  /** Cleans sides of a film with the better filter. @throws CleanCancelled */
  async finish(film: Film, { sides, strengths, lights = false, signal, onProgress }: FinishOptions): Promise<Cleaned> {
    const [width, height] = sizeOf(film);
    const cleaned: Cleaned = { ...NOT_CLEANED };
    const count = lights ? film.lights.length : 0;
    const groups = count > 0 ? { first: groupFloat(film, 0), count } : NO_GROUPS;
    const empty = (): Float32Array => pixelsBeside(film, width * height);
    const parts = (side: Grouped): Float32Array[] => (sides.includes(side) ? Array.from({ length: count }, empty) : []);
    if (count > 0) cleaned.lights = { air: parts("air"), surfaces: parts("surfaces") };
    const tiles: { side: Side; area: Area }[] = [];
    for (const side of sides) {
      cleaned[side] = empty();
      for (let y = 0; y < height; y += FINISH_TILE)
        for (let x = 0; x < width; x += FINISH_TILE)
          tiles.push({ side, area: [x, y, Math.min(width, x + FINISH_TILE), Math.min(height, y + FINISH_TILE)] });
    }
    let begun = 0,
      done = 0;
    const take = async (): Promise<void> => {
      for (let i = begun++; i < tiles.length; i = begun++) {
        if (signal?.aborted) throw new CleanCancelled("the clean-up was cancelled");
        const { side, area } = tiles[i]!;
        const result = await this.run({ kind: "finish", side, ...part(film, area), strengths, groups });
        place(cleaned[side]!, result.light, area, width);
        const of = GROUPED.find((s) => s === side);
        if (of) result.groups.forEach((light, i) => place(cleaned.lights![of][i]!, light, area, width));
        onProgress?.(++done / tiles.length);
      }
    };
    await Promise.all(Array.from({ length: this.host.workers }, take));
    if (signal?.aborted) throw new CleanCancelled("the clean-up was cancelled");
    return cleaned;
  }

  /** Cleans what is looked at quickly. @param every pixels from one that has samples to the next */
  async live(film: Film, look: "air" | "clear", every: number, strengths: Strengths): Promise<Cleaned> {
    const [width, height] = sizeOf(film);
    const side = look === "clear" ? "clear" : "surfaces";
    const air = look === "air";
    if (every > 1) {
      const area: Area = [0, 0, Math.ceil(width / every), Math.ceil(height / every)];
      const result = await this.run({ kind: "live", side, air, ...part(film, null), area, every, strengths });
      return { ...NOT_CLEANED, [side]: beside(film, result.light), air: result.air && beside(film, result.air) };
    }
    const cleaned: Cleaned = { ...NOT_CLEANED, [side]: pixelsBeside(film, width * height) };
    if (air) cleaned.air = pixelsBeside(film, width * height);
    // bands begin at even rows: see Cleaner.live
    const rows = 2 * Math.ceil(height / (2 * this.host.workers));
    const bands: Area[] = [];
    for (let y = 0; y < height; y += rows) bands.push([0, y, width, Math.min(height, y + rows)]);
    await Promise.all(
      bands.map(async (area) => {
        const result = await this.run({ kind: "live", side, air, ...part(film, area), every, strengths });
        place(cleaned[side]!, result.light, area, width);
        if (result.air && cleaned.air) place(cleaned.air, result.air, area, width);
      }),
    );
    return cleaned;
  }

  /** Ends all workers; what they were at is rejected. */
  dispose(): void {
    for (const slot of this.slots) {
      slot.port.terminate();
      slot.busy?.reject(new CleanCancelled("the clean-up was ended"));
    }
    for (const w of this.waiting) w.reject(new CleanCancelled("the clean-up was ended"));
    this.slots.length = 0;
    this.waiting.length = 0;
  }

  private run(task: Task): Promise<Result> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ task, resolve, reject });
      this.feed();
    });
  }

  /** Gives waiting work to idle workers, starting some where there are too few. */
  private feed(): void {
    while (this.waiting.length > 0) {
      let slot = this.slots.find((s) => !s.busy);
      if (!slot && this.slots.length < this.host.workers) {
        const made: Slot = { port: this.host.spawn(), busy: null };
        slot = made;
        this.slots.push(made);
        made.port.listen(
          (m) => this.finished(made, m),
          (error) => {
            this.slots.splice(this.slots.indexOf(made), 1);
            made.port.terminate();
            made.busy?.reject(error);
            made.busy = null;
            this.feed();
          },
        );
      }
      if (!slot) return;
      const { task, resolve, reject } = this.waiting.shift()!;
      const id = this.next++;
      slot.busy = { id, resolve, reject };
      // pixels of shared memory are seen by the worker where they lie; others were copied for it
      const { buffer } = task.pixels.data;
      slot.port.post({ ...task, id }, buffer instanceof ArrayBuffer ? [buffer] : []);
    }
  }

  private finished(slot: Slot, m: CleanDone): void {
    const { busy } = slot;
    if (busy?.id !== m.id) return;
    slot.busy = null;
    if (m.kind === "cleaned") busy.resolve(m);
    else busy.reject(new Error(`The picture could not be cleaned: ${m.message}`));
    this.feed();
  }
}

const sizeOf = ({ crop: [x0, y0, x1, y1] }: Film): [number, number] => [x1 - x0, y1 - y0];

const isShared = ({ data }: Film): boolean => typeof SharedArrayBuffer !== "undefined" && data.buffer instanceof SharedArrayBuffer;

/** Cleaned pixels, none yet; in shared memory where the film is, so that what reads one reads the other. */
function pixelsBeside(film: Film, count: number): Float32Array {
  const floats = CLEANED_FLOATS * count;
  return isShared(film) ? new Float32Array(new SharedArrayBuffer(4 * floats)) : new Float32Array(floats);
}

/** Pixels where what reads the film finds them without another copy. */
function beside(film: Film, pixels: Float32Array): Float32Array {
  if (!isShared(film)) return pixels;
  const shared = new Float32Array(new SharedArrayBuffer(pixels.byteLength));
  shared.set(pixels);
  return shared;
}

/** Pixels that a worker needs for an area of the crop (null: all): the film itself where its memory is shared, else a copy of them. */
function part(film: Film, area: Area | null): { pixels: Pixels; area: Area } {
  const [x0, y0, x1, y1] = film.crop;
  const [width, height] = sizeOf(film);
  const wanted: Area = area ?? [0, 0, width, height];
  if (isShared(film)) return { pixels: { data: film.data, stride: film.stride, across: film.width, bounds: film.crop }, area: wanted };
  // an even number of pixels before the area, so that pixels pair as they do in the whole
  const left = Math.max(0, wanted[0] - CLEAN_REACH),
    top = Math.max(0, wanted[1] - CLEAN_REACH),
    right = Math.min(x1 - x0, wanted[2] + CLEAN_REACH),
    bottom = Math.min(y1 - y0, wanted[3] + CLEAN_REACH);
  const across = right - left;
  const data = new Float32Array(across * (bottom - top) * film.stride);
  for (let y = top; y < bottom; y++) {
    const from = ((y0 + y) * film.width + x0 + left) * film.stride;
    data.set(film.data.subarray(from, from + across * film.stride), (y - top) * across * film.stride);
  }
  return {
    pixels: { data, stride: film.stride, across, bounds: [0, 0, across, bottom - top] },
    area: [wanted[0] - left, wanted[1] - top, wanted[2] - left, wanted[3] - top],
  };
}

/** Puts an area's cleaned pixels into those of the crop. */
function place(into: Float32Array, from: Float32Array, [x0, y0, x1, y1]: Area, width: number): void {
  const row = CLEANED_FLOATS * (x1 - x0);
  for (let y = y0; y < y1; y++) into.set(from.subarray((y - y0) * row, (y - y0 + 1) * row), CLEANED_FLOATS * (y * width + x0));
}
