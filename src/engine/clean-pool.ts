/**
 * Cleans films on a pool of workers. A tile's result depends on the film alone, so the picture is the same bit for bit with any number of
 * workers.
 */
import { CLEAN_REACH, FINISH_TILE, NO_GROUPS, type Area, type Pixels, type Strengths } from "#core/clean/cleaner";
import { gainsOf, type Balance } from "#core/document/balance";
import { joinCleaned } from "#core/clean/joined";
import { giveBackMissed } from "#core/clean/missed";
import { CLEANED_FLOATS, GROUPED, NOT_CLEANED, type Cleaned, type Grouped, type Side } from "#core/film/cleaned";
import { groupFloat, type Film } from "#core/film/film";
import { sampledFilm } from "#core/film/sampled-air";
import { place, type CleanDone, type CleanHost, type CleanPort, type CleanWork, type Patch, type Places } from "./clean-protocol";

/** Each kind of work without some of what it has. */
type Without<W, K extends PropertyKey> = W extends unknown ? Omit<W, K> : never;
type Task = Without<CleanWork, "id" | "into">;

interface Slot {
  port: CleanPort;
  busy: { id: number; resolve(patch: Patch | null): void; reject(error: Error): void } | null;
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

/** Of work that has none. */
const NO_STRENGTHS: Strengths = { fireflies: 0, air: 0, surfaces: 0 };

export class CleanPool {
  private readonly slots: Slot[] = [];
  private readonly waiting: { work: Without<CleanWork, "id">; resolve(patch: Patch | null): void; reject(error: Error): void }[] = [];
  private next = 0;

  constructor(private readonly host: CleanHost) {}

  get workers(): number {
    return this.host.workers;
  }

  /**
   * Cleans sides of a film with the better filter. Air that is joined to surfaces is cleaned as it is sampled: noise of joined pixels is
   * alike, which a filter takes for light. @throws CleanCancelled
   */
  async finish(film: Film, options: FinishOptions): Promise<Cleaned> {
    if (film.airEvery === undefined || !options.sides.includes("air")) return this.filter(film, options);
    const { sides, onProgress } = options;
    const others = sides.filter((side) => side !== "air");
    const parts = sides.length;
    const small = sampledFilm(film);
    const air = await this.filter(small, { ...options, sides: ["air"], onProgress: (share) => onProgress?.((0.9 * share) / parts) });
    const cleaned =
      others.length > 0
        ? await this.filter(film, {
            ...options,
            sides: others,
            onProgress: (share) => onProgress?.((0.9 + share * (parts - 1)) / parts),
          })
        : { ...NOT_CLEANED };
    await this.join(film, air, cleaned);
    onProgress?.(1);
    return cleaned;
  }

  /** Joins cleaned air of sampled pixels to those of a film. */
  private async join(film: Film, sampled: Cleaned, cleaned: Cleaned): Promise<void> {
    const every = film.airEvery ?? 1;
    const [width, height] = sizeOf(film);
    const groups = sampled.lights?.air ?? [];
    const whole = (): Float32Array => pixelsBeside(film, width * height);
    const [light, parts] = [whole(), groups.map(whole)];
    const pixels = { data: film.data, stride: film.stride, across: film.width, bounds: film.crop };
    const from = [sampled.air!, ...groups];
    const rows = Math.ceil(height / this.host.workers);
    const bands: Area[] = [];
    for (let y = 0; y < height; y += rows) bands.push([0, y, width, Math.min(height, y + rows)]);
    if (isShared(light))
      await Promise.all(
        bands.map(async (area) =>
          this.run(
            { kind: "join", pixels, area, strengths: NO_STRENGTHS, every, from },
            { light, air: null, groups: parts, across: width, area },
          ),
        ),
      );
    else joinCleaned(pixels, every, from, [light, ...parts], [0, 0, width, height]);
    cleaned.air = light;
    if (cleaned.lights) cleaned.lights.air = parts;
    else if (sampled.lights) cleaned.lights = { air: parts, surfaces: [] };
  }

  private async filter(film: Film, { sides, strengths, lights = false, signal, onProgress }: FinishOptions): Promise<Cleaned> {
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
        const of = GROUPED.find((s) => s === side);
        const into = { light: cleaned[side]!, air: null, groups: (of && cleaned.lights?.[of]) ?? [], across: width, area };
        await this.run({ kind: "finish", side, ...part(film, area), strengths, groups }, into);
        onProgress?.(++done / (tiles.length + sides.length));
      }
    };
    await Promise.all(Array.from({ length: this.host.workers }, take));
    if (signal?.aborted) throw new CleanCancelled("the clean-up was cancelled");
    const giveBack = async (side: Side): Promise<void> => {
      const of = GROUPED.find((s) => s === side);
      const lights = (of && cleaned.lights?.[of]) ?? [];
      const light = cleaned[side]!;
      // of what was left as it was rendered nothing is missed
      if (strengths.fireflies > 0 || (side === "air" ? strengths.air : strengths.surfaces) > 0) {
        const whole = { data: film.data, stride: film.stride, across: film.width, bounds: film.crop };
        const into = { light, air: null, groups: lights, across: width, area: [0, 0, width, height] as const };
        if (isShared(light)) await this.run({ kind: "missed", side, pixels: whole, area: into.area, strengths, groups }, into);
        else giveBackMissed(side, whole, light, groups, lights);
      }
      onProgress?.(++done / (tiles.length + sides.length));
    };
    await Promise.all(sides.map(giveBack));
    if (signal?.aborted) throw new CleanCancelled("the clean-up was cancelled");
    return cleaned;
  }

  /** Cleans what is looked at quickly. @param every pixels from one that has samples to the next @param balance of its light groups */
  async live(film: Film, look: "air" | "clear", every: number, strengths: Strengths, balance?: Balance): Promise<Cleaned> {
    const air = look === "air";
    // of a sweep that is under way the pixels that are there are sampled ones
    if (!air || every > 1 || film.airEvery === undefined) return this.quick(film, look, air, every, strengths, balance);
    const small = sampledFilm(film);
    const [cleaned, sampled] = await Promise.all([
      this.quick(film, look, false, every, strengths, balance),
      this.quick(small, look, true, every, strengths, balance),
    ]);
    await this.join(film, sampled, cleaned);
    if (sampled.balance) cleaned.balance = sampled.balance;
    return cleaned;
  }

  private async quick(
    film: Film,
    look: "air" | "clear",
    air: boolean,
    every: number,
    strengths: Strengths,
    balance?: Balance,
  ): Promise<Cleaned> {
    const [width, height] = sizeOf(film);
    const side = look === "clear" ? "clear" : "surfaces";
    const light = pixelsBeside(film, width * height);
    const cleaned: Cleaned = { ...NOT_CLEANED, [side]: light, air: air ? pixelsBeside(film, width * height) : null };
    const found = look === "air" ? gainsOf(balance, film.lights) : null;
    const gains = found && { first: groupFloat(film, 0), ...found };
    if (gains && balance) cleaned.balance = balance;
    const into = (area: Area): Places => ({ light, air: cleaned.air, groups: [], across: width, area });
    if (every > 1) {
      const area: Area = [0, 0, Math.ceil(width / every), Math.ceil(height / every)];
      await this.run({ kind: "live", side, air, ...part(film, null), area, every, strengths, gains }, into([0, 0, width, height]));
      return cleaned;
    }
    // bands begin at even rows: see Cleaner.live
    const rows = 2 * Math.ceil(height / (2 * this.host.workers));
    const bands: Area[] = [];
    for (let y = 0; y < height; y += rows) bands.push([0, y, width, Math.min(height, y + rows)]);
    await Promise.all(
      bands.map(async (area) => this.run({ kind: "live", side, air, ...part(film, area), every, strengths, gains }, into(area))),
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

  /** Has a worker clean an area. Where memory is shared it puts the pixels in their place itself: no thread that others wait for does. */
  private async run(task: Task, into: Places): Promise<void> {
    const shared = isShared(into.light);
    const patch = await new Promise<Patch | null>((resolve, reject) => {
      this.waiting.push({ work: { ...task, into: shared ? into : null }, resolve, reject });
      this.feed();
    });
    if (patch) place(into, patch);
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
      const { work, resolve, reject } = this.waiting.shift()!;
      const id = this.next++;
      slot.busy = { id, resolve, reject };
      // pixels of shared memory are seen by the worker where they lie; others were copied for it
      const { buffer } = work.pixels.data;
      slot.port.post({ ...work, id }, buffer instanceof ArrayBuffer ? [buffer] : []);
    }
  }

  private finished(slot: Slot, m: CleanDone): void {
    const { busy } = slot;
    if (busy?.id !== m.id) return;
    slot.busy = null;
    if (m.kind === "cleaned") busy.resolve(m.patch);
    else busy.reject(new Error(`The picture could not be cleaned: ${m.message}`));
    this.feed();
  }
}

const sizeOf = ({ crop: [x0, y0, x1, y1] }: Film): [number, number] => [x1 - x0, y1 - y0];

const isShared = ({ buffer }: Float32Array): boolean => typeof SharedArrayBuffer !== "undefined" && buffer instanceof SharedArrayBuffer;

/** Cleaned pixels, none yet; in shared memory where the film is, so that what reads one reads the other. */
function pixelsBeside(film: Film, count: number): Float32Array {
  const floats = CLEANED_FLOATS * count;
  return isShared(film.data) ? new Float32Array(new SharedArrayBuffer(4 * floats)) : new Float32Array(floats);
}

/** Pixels that a worker needs for an area of the crop (null: all): the film itself where its memory is shared, else a copy of them. */
function part(film: Film, area: Area | null): { pixels: Pixels; area: Area } {
  const [x0, y0, x1, y1] = film.crop;
  const [width, height] = sizeOf(film);
  const wanted: Area = area ?? [0, 0, width, height];
  const kind = film.plate ? { plate: true } : {};
  if (isShared(film.data))
    return { pixels: { data: film.data, stride: film.stride, across: film.width, bounds: film.crop, ...kind }, area: wanted };
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
    pixels: { data, stride: film.stride, across, bounds: [0, 0, across, bottom - top], ...kind },
    area: [wanted[0] - left, wanted[1] - top, wanted[2] - left, wanted[3] - top],
  };
}
