/**
 * The clean-up filter (kernel/clean) as calls over films. Each side of the light is filtered by itself: the air as it is, surfaces
 * divided by the transmittance before them and by their albedo. What a call returns depends on the film and the area alone, so that
 * tiles may be shared out among workers in any way.
 */
import { bytes } from "#built/clean";
import { balanceRow, type Gains } from "./balanced";
import { CLEANED_FLOATS, SIDES, type Side } from "../film/cleaned";
import { growMemory } from "../kernel/kernel";
import { G_AIR, G_SEEN, G_SURFACES, GROUP_FLOATS } from "../layout/layout";

/** How much is taken of what the filter does, 0 to 1. */
export interface Strengths {
  fireflies: number;
  air: number;
  surfaces: number;
}

/** Pixels of a film, or of a part of it. */
export interface Pixels {
  data: Float32Array;
  /** Floats of a pixel, and pixels of a row. */
  stride: number;
  across: number;
  /** Pixels that hold samples: [x0, y0, x1, y1). Past them the nearest is repeated. */
  bounds: readonly [number, number, number, number];
  /** Whether surfaces are a plate: their light is divided by its colours alone, so that noise of the transmittance is taken out, too. */
  plate?: boolean;
}

/** Columns and rows [x0, y0, x1, y1) to be cleaned, counted from the bounds in steps of `every`. */
export type Area = readonly [number, number, number, number];

/** Light groups that are cleaned with their sum: where the first lies in a pixel, and how many there are. */
export interface Groups {
  first: number;
  count: number;
}
export const NO_GROUPS: Groups = { first: 0, count: 0 };

export interface FinishResult {
  /** CLEANED_FLOATS a pixel, row by row. */
  light: Float32Array;
  /** The same of each light group; none of the clear frame, which keeps none. */
  groups: Float32Array[];
}

interface CleanModule {
  memory: WebAssembly.Memory;
  first(): number;
  layOut(width: number, height: number, margin: number, from: number): number;
  divideByAir(yes: boolean): void;
  gatherRow(side: number, y: number, from: number, size: number, every: number, first: number, columns: number): void;
  gatherHalfRow(side: number, y: number, from: number, below: number, size: number, every: number, first: number, columns: number): void;
  finish(side: number, fireflies: number, strength: number, to: number): void;
  neighbours(): number;
  keepWeights(from: number): void;
  keepNoWeights(): void;
  weightBytes(): number;
  groupReach(): number;
  gatherGroup(side: number, y: number, from: number, size: number, first: number, columns: number, group: number, direct: number): void;
  finishGroup(weights: number, to: number): void;
  live(side: number, fireflies: number): void;
  keepHalf(to: number): void;
  storeEnlarged(from: number, to: number): void;
  storeLive(to: number): void;
}

/** Margins of tiles, in their own pixels: what the filters reach, and a vector more. */
const FINISH_MARGIN = 20;
const LIVE_MARGIN = 24;
/** Pixels about an area that a result depends on. */
export const CLEAN_REACH = 2 * LIVE_MARGIN;
/** Bytes of a pixel of half the size (kernel/clean/live.ts), and of a cleaned one. */
const HALF_BYTES = 32;
const CLEANED_BYTES = 4 * CLEANED_FLOATS;

/** Sides of the tiles that the better filter takes. */
export const FINISH_TILE = 128;

export class Cleaner {
  private readonly module: CleanModule;

  constructor() {
    const abort = (): never => {
      throw new Error("the clean-up module stopped");
    };
    this.module = new WebAssembly.Instance(new WebAssembly.Module(bytes), { env: { abort } }).exports as unknown as CleanModule;
  }

  /** Cleans an area of one side with the better filter, and the light groups of it as parts of the same sum. */
  finish(side: Side, pixels: Pixels, area: Area, strengths: Strengths, { first, count }: Groups = NO_GROUPS): FinishResult {
    const m = this.module;
    m.divideByAir(pixels.plate !== true);
    const [width, height] = sizeOf(area);
    const stage = m.layOut(width, height, FINISH_MARGIN, m.first());
    const source = new Rows(m, pixels, 1, area[0] - FINISH_MARGIN, area[2] + FINISH_MARGIN);
    const grouped = side !== "clear" && count > 0;
    const weights = stage + source.bytes;
    const to = weights + (grouped ? m.neighbours() * m.weightBytes() : 0);
    growMemory(m.memory, to + CLEANED_BYTES * width * height);
    if (grouped) m.keepWeights(weights);
    else m.keepNoWeights();
    const code = SIDES.indexOf(side);
    const result = (): Float32Array => new Float32Array(m.memory.buffer, to, CLEANED_FLOATS * width * height).slice();
    for (let y = -FINISH_MARGIN; y < height + FINISH_MARGIN; y++) {
      source.stage(area[1] + y, stage);
      m.gatherRow(code, y, stage, 4 * pixels.stride, 1, source.first - area[0], source.columns);
    }
    m.finish(code, strengths.fireflies, side === "air" ? strengths.air : strengths.surfaces, to);
    const light = result();
    const groups: Float32Array[] = [];
    const reach = m.groupReach();
    for (let i = 0; grouped && i < count; i++) {
      const at = 4 * (first + GROUP_FLOATS * i);
      for (let y = -reach; y < height + reach; y++) {
        source.stage(area[1] + y, stage);
        m.gatherGroup(
          code,
          y,
          stage,
          4 * pixels.stride,
          source.first - area[0],
          source.columns,
          at + 4 * (side === "air" ? G_AIR : G_SURFACES),
          at + 4 * G_SEEN,
        );
      }
      m.finishGroup(weights, to);
      groups.push(result());
    }
    return { light, groups };
  }

  /**
   * Cleans an area quickly: surfaces (or the clear frame), and the air beside them where it is asked for.
   * @param every pixels from one that has samples to the next, across and down @param gains of light groups, where they are balanced
   */
  live(
    side: "surfaces" | "clear",
    air: boolean,
    pixels: Pixels,
    area: Area,
    every: number,
    strengths: Strengths,
    gains: Gains | null = null,
  ): LiveResult {
    const m = this.module;
    m.divideByAir(pixels.plate !== true);
    const [width, height] = sizeOf(area);
    const source = new Rows(m, pixels, every, area[0] - CLEAN_REACH, area[2] + CLEAN_REACH, gains);
    const size = 4 * pixels.stride;
    const stage = m.layOut(width, height, LIVE_MARGIN, m.first());
    const half = stage + 2 * source.bytes;
    const [halfWidth, halfHeight] = [(width + 1) >> 1, (height + 1) >> 1];
    const airTo = half + (air ? HALF_BYTES * (halfWidth + 2) * (halfHeight + 2) : 0);
    const to = airTo + (air ? CLEANED_BYTES * width * height : 0);
    growMemory(m.memory, to + CLEANED_BYTES * width * height);
    if (air) {
      m.layOut(halfWidth, halfHeight, LIVE_MARGIN, m.first());
      for (let y = -LIVE_MARGIN; y < halfHeight + LIVE_MARGIN; y++) {
        source.stage(area[1] + 2 * y, stage);
        source.stage(area[1] + 2 * y + 1, stage + source.bytes);
        // areas begin at even columns, so that the same four pixels meet whatever the area
        m.gatherHalfRow(SIDES.indexOf("air"), y, stage, stage + source.bytes, size, every, (source.first - area[0]) >> 1, source.columns);
      }
      m.live(SIDES.indexOf("air"), strengths.fireflies);
      m.keepHalf(half);
      m.layOut(width, height, LIVE_MARGIN, m.first());
    }
    for (let y = -LIVE_MARGIN; y < height + LIVE_MARGIN; y++) {
      source.stage(area[1] + y, stage);
      m.gatherRow(SIDES.indexOf(side), y, stage, size, every, source.first - area[0], source.columns);
    }
    m.live(SIDES.indexOf(side), strengths.fireflies);
    m.storeLive(to);
    if (air) m.storeEnlarged(half, airTo);
    const result = (at: number): Float32Array => new Float32Array(m.memory.buffer, at, CLEANED_FLOATS * width * height).slice();
    return { light: result(to), air: air ? result(airTo) : null };
  }
}

export interface LiveResult {
  /** Surfaces, or the clear frame; CLEANED_FLOATS a pixel. */
  light: Float32Array;
  air: Float32Array | null;
}

const sizeOf = ([x0, y0, x1, y1]: Area): [number, number] => [x1 - x0, y1 - y0];

/** Columns and rows of a film in steps, within its bounds. */
class Rows {
  /** First column that is staged, even and within the bounds, and how many are. */
  readonly first: number;
  readonly columns: number;
  readonly bytes: number;
  private readonly rows: number;

  constructor(
    private readonly module: CleanModule,
    private readonly pixels: Pixels,
    private readonly every: number,
    from: number,
    to: number,
    private readonly gains: Gains | null = null,
  ) {
    const [x0, y0, x1, y1] = pixels.bounds;
    const across = Math.ceil((x1 - x0) / every);
    this.rows = Math.ceil((y1 - y0) / every);
    this.first = Math.max(0, from);
    this.columns = Math.min(across, to) - this.first;
    this.bytes = Math.ceil((4 * pixels.stride * ((this.columns - 1) * every + 1)) / 16) * 16;
  }

  /** Copies a row, or the nearest there is, to an address of the module's memory. */
  stage(row: number, at: number): void {
    const { data, stride, across, bounds } = this.pixels;
    const y = bounds[1] + Math.max(0, Math.min(this.rows - 1, row)) * this.every;
    const from = (y * across + bounds[0] + this.first * this.every) * stride;
    const floats = stride * ((this.columns - 1) * this.every + 1);
    const staged = new Float32Array(this.module.memory.buffer, at, floats);
    staged.set(data.subarray(from, from + floats));
    if (this.gains) balanceRow(staged, stride, this.gains);
  }
}
