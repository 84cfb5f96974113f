/**
 * Computes sections of the air with a kernel of its own: the media in an upright plane, the set it cuts, what lamps and sun
 * make of it, and the fate of light along the ray. Nothing here draws.
 */
import { boundsOfRegion } from "../document/regions";
import type { Bounds } from "../document/framing";
import { InputError } from "../errors";
import type { Medium, SceneDocument } from "../document/schema";
import { growMemory, instantiateKernel, kernelMemory, type KernelExports } from "../kernel/kernel";
import { luminance } from "../optics/colour";
import { planMemory, writeGeometry } from "../scene/memory";
import type { CompiledGeometry } from "../scene/compiled";
import { boundsInWorld } from "../scene/origin";
import { writeParameters } from "../scene/parameters";
import { shiningLights } from "../scene/lights";
import { VolumeBuilder, type Volume } from "../data/volume";
import * as L from "../layout/layout";
import { integerParameter } from "../layout/integers";
import { readSunMap, type SunMap } from "./sun-map";
import { matteNames } from "../scene/memory";
import { rayOf } from "../scene/pick";
import { sectionFrame, type SectionFrame } from "./frame";
import { pointOf, type Plane } from "./region";
import { along, type DistanceScale } from "./scale";
import { map3, AXES, sub, type V3 } from "../math/vectors";

/** Part of the plane that is drawn: metres along the level from the lens, and heights or, from above, metres aside. */
export type Window = [s0: number, t0: number, s1: number, t1: number];

export interface SectionRequest {
  /** Point of the frame whose ray is looked at, shares from the upper left. */
  x: number;
  y: number;
  /** The upright plane through the ray, or a level one, as a plan from above. */
  plane: Plane;
  scale: DistanceScale;
  /** Null: what the ray passes, and the ground under it. */
  window: Window | null;
  /** Cells of the density's picture. */
  columns: number;
  rows: number;
  /** At rest: where lights shine is drawn too, and the fate of light asks each light more often. It takes several times as long. */
  lit: boolean;
}

/** What one light adds along the ray: luminance (cd/m²) per band in each piece, 3 numbers a piece. */
export interface Gain {
  name: string;
  values: Float64Array;
  /** Luminance of all of it, cd/m². */
  total: number;
}

export interface Fate {
  /** Metres of the ray that are looked at, in `pieces` even pieces. */
  far: number;
  pieces: number;
  /** Where the ray meets the set, m; null for the background. */
  end: number | null;
  /** Optical depth per band at the ends of the pieces, from 0. */
  depths: Float64Array;
  /** Brightest first. */
  gains: Gain[];
  /** Metres at which a contrast of 50, 10 and 2 % is left; null past the end. */
  marks: [number | null, number | null, number | null];
}

/** Largest features of a break-up that a look at it spans, and how finely. */
const LOOK_FEATURES = 4;
const LOOK_SLICE = 96;
const LOOK_CUBE = 30;

export interface NoisePreview {
  /** Metres along a side. */
  span: number;
  /** sliceSide² densities, x fastest, from below. */
  slice: Float32Array;
  sliceSide: number;
  /** cubeSide³ densities, x fastest, then y upwards, then z. */
  cube: Float32Array;
  cubeSide: number;
}

export interface Section {
  frame: SectionFrame;
  plane: Plane;
  scale: DistanceScale;
  /** Metres of the ray that are looked at. */
  far: number;
  window: Window;
  columns: number;
  rows: number;
  /** σs per band and mean σt (1/m) of columns × rows cells, rows from below. */
  field: Float32Array;
  /** Largest σt of the field, 1/m. */
  densest: number;
  /** Illuminance (lux) in the same cells, where it was asked for. */
  lit: { columns: number; rows: number; values: Float32Array } | null;
  /** Cuts through triangles: s, y, s, y. */
  cut: Float32Array;
  fate: Fate;
}

const PIECES = 160;
/** Voxels along the longest side of a baked grid. */
export const MAX_ACROSS = 256;
/** Samples of a transmittance that has no closed form. */
const LOOKS = 8;
/** Lamps that are told apart; of more, all are told as one. */
const MAX_LAMPS = 16;
/** How much more often lights are asked at rest. */
const RESTING = 4;
const MAX_CUTS = 60_000;
/** Milliseconds after which where lights shine is not refined further. */
const LIT_TIME = 120;
/** Lamps whose light is drawn. */
const MAX_LIT = 24;
export const CONTRASTS = [0.5, 0.1, 0.02] as const;
/** Light of these, in the numbers of the kernel. */
const [SUN, SKY, GLOW, ANY_LAMP, SURFACES, EMITTED] = [-1, -2, -4, -5, -6, -7] as const;

/** The document as the section sees it: the veil has no shadows and no broken air to show. */
function sectionDocument(doc: SceneDocument): SceneDocument {
  return {
    ...doc,
    render: { ...doc.render, level: "shafts", estimator: "tracking" },
    film: { ...doc.film, lightGroups: false, balance: {}, mattes: false, region: null },
  };
}

/** A document whose air can be looked up quickly: without its lights. */
export function withoutLights(doc: SceneDocument): SceneDocument {
  return {
    ...doc,
    lights: [],
    sun: { ...doc.sun, on: false },
    moon: { ...doc.moon, on: false },
    sky: { ...doc.sky, on: false, stars: null },
  };
}

export class SectionProbe {
  private geometry: CompiledGeometry | null = null;
  private doc: SceneDocument | null = null;
  private room = 0;
  private roomSize = 0;

  private constructor(
    private readonly kernel: KernelExports,
    private readonly memory: WebAssembly.Memory,
    private readonly now: () => number,
  ) {}

  /**
   * @param module the kernel over plain memory
   * @param now milliseconds of a clock, so that lights are drawn coarsely where they would take long; without one they never are
   */
  static async create(module: WebAssembly.Module, now: () => number = () => 0): Promise<SectionProbe> {
    const memory = kernelMemory(L.SCENE, false);
    return new SectionProbe(await instantiateKernel(module, memory), memory, now);
  }

  setGeometry(geometry: CompiledGeometry): void {
    this.geometry = geometry;
    this.doc = null;
  }

  /** The section of a document whose geometry is set. */
  section(doc: SceneDocument, request: SectionRequest): Section {
    this.load(doc);
    const frame = sectionFrame(doc, request.x, request.y);
    const [o, d] = [frame.origin, frame.direction];
    const end = this.closest(o, d);
    const bounds = this.boundsOfSet();
    const size = Math.hypot(bounds[3] - bounds[0], bounds[4] - bounds[1], bounds[5] - bounds[2]);
    // without an end, as far as the air goes on changing, or the set reaches, and a little on
    const across = Math.hypot(...AXES.map((k) => Math.max(Math.abs(bounds[k] - o[k]), Math.abs(bounds[k + 3]! - o[k]))));
    const far = Math.max(0.01, end ?? 1.15 * this.airEnds(o, d, Math.max(across, 0.5 * size)));
    const { columns, rows, plane } = request;
    const window =
      request.window ?? (plane.kind === "upright" ? this.windowFor(frame, far, columns / rows) : planWindow(frame, far, columns / rows));
    const [s0, t0, s1, t1] = window;
    const { kernel } = this;
    const up: V3 = plane.kind === "upright" ? [0, 1, 0] : [-frame.right[2], 0, frame.right[0]];
    const foot = (s: number, t: number): V3 => pointOf(frame, plane, [s, t]);

    const cells = 4 * columns * rows;
    const { distance } = along(s0, s1, request.scale);
    const field = new Float32Array(cells);
    // a column at a time, since they need not lie evenly
    const height = (t1 - t0) / rows;
    const step = up.map((v) => v * height) as V3;
    let at = this.clear(16 * rows * columns);
    for (let i = 0; i < columns; i++)
      kernel.sectionField(
        ...this.inScene(foot(distance((i + 0.5) / columns), t0 + height / 2)),
        0,
        0,
        0,
        ...step,
        1,
        rows,
        at + 16 * rows * i,
      );
    const found = new Float32Array(this.memory.buffer, at, cells);
    let densest = 0;
    for (let i = 0; i < columns; i++)
      for (let j = 0; j < rows; j++) {
        const from = 4 * (i * rows + j);
        field.set(found.subarray(from, from + 4), 4 * (j * columns + i));
        densest = Math.max(densest, found[from + 3]!);
      }

    at = this.clear(16 * MAX_CUTS);
    const cuts = kernel.sectionCut(...this.inScene(foot(s0, t0)), ...frame.right, ...up, s1 - s0, t1 - t0, at, MAX_CUTS);
    const cut = new Float32Array(this.memory.buffer, at, 4 * cuts).slice();
    for (let i = 0; i < cut.length; i += 2) {
      cut[i]! += s0;
      cut[i + 1]! += t0;
    }

    const fate = this.fate(o, d, far, end, request.lit ? RESTING : 1);
    const lit = request.lit ? this.lit(columns, rows, (i, n) => foot(distance((i + 0.5) / n), t0 + height / 2), up, height) : null;
    return { frame, plane, scale: request.scale, far, window, columns, rows, field, densest, lit, cut, fate };
  }

  /** Optical depth from the lens to a distance, per band; the same quadrature as the fate's. */
  depth(doc: SceneDocument, x: number, y: number, distance: number): [number, number, number] {
    this.load(doc);
    const { origin, direction } = sectionFrame(doc, x, y);
    const at = this.clear(24 * (PIECES + 1));
    this.kernel.sectionDepths(...this.inScene(origin), ...direction, distance, PIECES, 0, at);
    const all = new Float64Array(this.memory.buffer, at, 3 * (PIECES + 1));
    return [...all.subarray(3 * PIECES)] as [number, number, number];
  }

  /** Share of light (luminance) that the air leaves on the way from a point to the background in a direction; noisy in broken air. */
  leftTowards(doc: SceneDocument, from: Readonly<V3>, d: Readonly<V3>): number {
    this.load(doc);
    const o = this.inScene(from);
    const band = (k: number): number => {
      let sum = 0;
      for (let i = 0; i < LOOKS; i++) sum += this.kernel.transmittance(...o, d[0], d[1], d[2], Infinity, k, i);
      return sum / LOOKS;
    };
    return luminance(band(0), band(1), band(2));
  }

  /**
   * One medium's relative density (1 is its full density) as a grid of cubes over its region, or over the set for one that is
   * everywhere. @param across voxels along the longest side, at most MAX_ACROSS
   * @throws InputError where it is nowhere
   */
  bake(doc: SceneDocument, index: number, across: number): Volume {
    const m = doc.air[index]!;
    const whole = { ...m, on: true, density: 1, scattering: [1, 1, 1] as V3, absorption: [0, 0, 0] as V3, emission: null, start: null };
    const seen = { ...whole, seen: { ...m.seen, camera: 1 }, grid: m.grid && { ...m.grid, temperature: null } };
    this.load(withoutLights({ ...doc, air: [seen] }));
    const [x0, y0, z0, x1, y1, z1] = this.placeOf(m);
    const size = Math.max(x1 - x0, y1 - y0, z1 - z0) / Math.max(1, Math.min(MAX_ACROSS, Math.round(across)));
    const [nx, ny, nz] = [x1 - x0, y1 - y0, z1 - z0].map((l) => Math.max(1, Math.ceil(l / size - 1e-9))) as V3;
    const builder = new VolumeBuilder(0);
    for (let i = 0; i < nx; i++)
      for (let k = 0; k < nz; k++) {
        const at = this.clear(16 * ny);
        this.kernel.sectionField(
          ...this.inScene([x0 + (i + 0.5) * size, y0 + size / 2, z0 + (k + 0.5) * size]),
          0,
          0,
          0,
          0,
          size,
          0,
          1,
          ny,
          at,
        );
        const column = new Float32Array(this.memory.buffer, at, 4 * ny);
        for (let j = 0; j < ny; j++) if (column[4 * j]! > 0) builder.set(i, j, k, column[4 * j]!);
      }
    if (builder.empty) throw new InputError(`${m.name}: holds no air that a grid of ${across} voxels across would meet`);
    // voxel (i, j, k) stands at the middle of its cube
    return builder.build([size, 0, 0, x0 + size / 2, 0, size, 0, y0 + size / 2, 0, 0, size, z0 + size / 2]);
  }

  /**
   * How a medium's break-up looks by itself: density (0 to 1) over an upright slice through the middle of its region, or through
   * what the lens is aimed at, and over a cube about the same point.
   */
  noise(doc: SceneDocument, index: number): NoisePreview {
    const m = doc.air[index]!;
    const serializeWrites: Medium = { ...m, on: true, density: 1, scattering: [1, 1, 1], absorption: [0, 0, 0], emission: null, edge: 0, height: null, grid: null, proximity: null, start: null }; // prettier-ignore
    this.load(withoutLights({ ...doc, air: [serializeWrites] }));
    const [x, y, z] = this.inScene("centre" in m.region ? m.region.centre : doc.camera.target);
    const span = LOOK_FEATURES * (m.noise?.size ?? 1);
    const { kernel } = this;
    const at = (i: number, side: number): number => ((i + 0.5) / side - 0.5) * span;
    const slice = new Float32Array(LOOK_SLICE ** 2);
    for (let j = 0, n = 0; j < LOOK_SLICE; j++)
      for (let i = 0; i < LOOK_SLICE; i++, n++) slice[n] = kernel.density(0, x + at(i, LOOK_SLICE), y + at(j, LOOK_SLICE), z);
    const cube = new Float32Array(LOOK_CUBE ** 3);
    for (let k = 0, n = 0; k < LOOK_CUBE; k++)
      for (let j = 0; j < LOOK_CUBE; j++)
        for (let i = 0; i < LOOK_CUBE; i++, n++)
          cube[n] = kernel.density(0, x + at(i, LOOK_CUBE), y + at(j, LOOK_CUBE), z + at(k, LOOK_CUBE));
    return { span, slice, sliceSide: LOOK_SLICE, cube, cubeSide: LOOK_CUBE };
  }

  /** Bounds (m) of a medium's region. */
  private placeOf(m: Medium): Bounds {
    const set = this.boundsOfSet();
    const r = m.region;
    if (r.kind === "mesh") return boundsInWorld(this.geometry!.regions[r.object]!.bounds, this.geometry!.origin);
    return boundsOfRegion(r) ?? set;
  }

  /** Distance (m) at which the lens's ray through a point of the frame meets the set; null for the background. */
  distanceAt(doc: SceneDocument, x: number, y: number): number | null {
    this.load(doc);
    const { origin, direction } = sectionFrame(doc, x, y);
    return this.closest(origin, direction);
  }

  /** Distances (m) at which rays from a point along unit directions meet the set of a document; Infinity where they meet nothing. */
  look(doc: SceneDocument, from: Readonly<V3>, directions: readonly Readonly<V3>[]): Float32Array {
    this.load(doc);
    const n = directions.length;
    const at = this.clear(40 * n);
    const rays = new Float32Array(this.memory.buffer, at, 8 * n);
    const o = this.inScene(from);
    directions.forEach((d, i) => rays.set([...o, 1e30, d[0], d[1], d[2], 0], 8 * i));
    this.kernel.traceRays(at, at + 32 * n, n, 0);
    const found = new Float32Array(this.memory.buffer, at + 32 * n, 2 * n);
    return Float32Array.from({ length: n }, (_, i) => (found[2 * i]! < 1e29 ? found[2 * i]! : Infinity));
  }

  /** Names of the object and the material that the lens sees at points of the frame (shares), as mattes have them; null where it sees neither. */
  seen(doc: SceneDocument, places: readonly { x: number; y: number }[]): ({ object: string; material: string } | null)[] {
    this.load(doc);
    const names = matteNames(doc, this.geometry!);
    const at = this.clear(8);
    return places.map(({ x, y }) => {
      const { origin, direction } = rayOf(doc, x, y);
      this.kernel.partMet(...this.inScene(origin), ...direction, at);
      const [object, material] = new Int32Array(this.memory.buffer, at, 2) as unknown as [number, number];
      return object < 0 ? null : { object: names.object[object]!, material: names.material[material]! };
    });
  }

  /** Where sunlight comes, all of the kernel's map of it; null where the kernel has none, or a gobo hangs before the sun. */
  sunMap(doc: SceneDocument): SunMap | null {
    if (doc.sun.gobo) return null;
    this.load({ ...withoutLights(doc), sun: doc.sun });
    if (integerParameter(this.memory.buffer, L.P_SUN_MAP) === 0) return null;
    this.kernel.sectionSunMap(0, L.SUN_MAP_SIDE);
    return readSunMap(this.memory.buffer);
  }

  private load(doc: SceneDocument): void {
    if (!this.geometry) throw new Error("section: no geometry set");
    if (this.doc === doc) return;
    const seen = sectionDocument(doc);
    const plan = planMemory(this.geometry, 1, seen);
    growMemory(this.memory, plan.end);
    // the tables of media and lights lie behind the geometry: writing it anew is only needed when it is another
    if (this.doc === null) writeGeometry(this.memory.buffer, this.geometry, plan);
    writeParameters(this.memory.buffer, seen, this.geometry, plan, 1, 1);
    new Int32Array(this.memory.buffer, L.CONTROL, 4)[0] = 1;
    this.kernel.begin(1);
    this.room = Math.ceil(plan.end / 128) * 128;
    this.roomSize = 0;
    this.doc = doc;
  }

  /** Room of zeros behind the scene, bytes. @returns its address */
  private clear(bytes: number): number {
    if (bytes > this.roomSize) {
      growMemory(this.memory, this.room + bytes);
      this.roomSize = bytes;
    }
    new Uint8Array(this.memory.buffer, this.room, bytes).fill(0);
    return this.room;
  }

  /** A point (m) of the document where the kernel has it. */
  private inScene(p: Readonly<V3>): V3 {
    return sub(p, this.geometry!.origin);
  }

  private boundsOfSet(): Bounds {
    return boundsInWorld(this.geometry!.bounds, this.geometry!.origin);
  }

  private closest(o: Readonly<V3>, d: Readonly<V3>): number | null {
    const [t] = this.look(this.doc!, o, [d]);
    return t! < Infinity ? t! : null;
  }

  /** Lens and end of the ray with some room, true to scale where that fits. */
  private windowFor(frame: SectionFrame, far: number, aspect: number): Window {
    const reach = Math.max(far * Math.max(frame.level, 0.2), 0.5);
    const [s0, s1] = [-0.04 * reach, 1.06 * reach];
    const end = frame.origin[1] + far * frame.direction[1];
    const low = Math.min(frame.origin[1], end),
      high = Math.max(frame.origin[1], end);
    const wanted = (s1 - s0) / aspect;
    // true to scale, with the ground under the ray in view where there is room for it
    const ground = Math.max(this.groundUnder(frame, far) ?? low, low - 0.75 * wanted);
    const y0 = Math.min(low - 0.1 * (high - low) - 0.02 * reach, ground - 0.06 * wanted);
    const y1 = Math.max(y0 + wanted, high + 0.1 * (high - low) + 0.02 * reach);
    return [s0, y0, s1, y1];
  }

  /** Metres of a ray to the background after which the air adds nothing more, `most` at most. */
  private airEnds(o: Readonly<V3>, d: Readonly<V3>, max: number): number {
    const at = this.clear(24 * (PIECES + 1));
    this.kernel.sectionDepths(...this.inScene(o), d[0], d[1], d[2], max, PIECES, 1, at);
    const depths = new Float64Array(this.memory.buffer, at, 3 * (PIECES + 1));
    const sum = (i: number): number => depths[3 * i]! + depths[3 * i + 1]! + depths[3 * i + 2]!;
    if (!(sum(PIECES) > 0)) return max;
    let last = PIECES;
    while (last > 1 && sum(last - 1) > 0.999 * sum(PIECES)) last--;
    return (max * last) / PIECES;
  }

  /** Lowest place (m) on which plumb lines from the ray end; null where none does. */
  private groundUnder({ origin, direction }: SectionFrame, far: number): number | null {
    let lowest: number | null = null;
    for (let i = 0; i < 12; i++) {
      const from = map3(origin, (o, k) => o + (far * (i + 0.5) * direction[k]) / 12);
      const drop = this.closest(from, [0, -1, 0]);
      if (drop !== null) lowest = Math.min(lowest ?? Infinity, from[1] - drop);
    }
    return lowest;
  }

  private fate(o: Readonly<V3>, d: Readonly<V3>, far: number, end: number | null, often: number): Fate {
    const ray = [...this.inScene(o), d[0], d[1], d[2]] as const;
    const depthsAt = this.clear(24 * (PIECES + 1) + 24 * PIECES);
    const gainsAt = depthsAt + 24 * (PIECES + 1);
    const open = end === null ? 1 : 0;
    this.kernel.sectionDepths(...ray, far, PIECES, open, depthsAt);
    const depths = new Float64Array(this.memory.buffer, depthsAt, 3 * (PIECES + 1)).slice();
    const gains: Gain[] = [];
    const ask = (name: string, lights: number[], samples: number): void => {
      new Float64Array(this.memory.buffer, gainsAt, 3 * PIECES).fill(0);
      for (const light of lights) this.kernel.sectionGains(light, ...ray, far, PIECES, open, samples, depthsAt, gainsAt);
      const values = new Float64Array(this.memory.buffer, gainsAt, 3 * PIECES).slice();
      let total = 0;
      for (let i = 0; i < PIECES; i++) total += luminance(values[3 * i]!, values[3 * i + 1]!, values[3 * i + 2]!);
      if (total > 0) gains.push({ name, values, total });
    };
    for (const { name, lights, samples } of this.lights()) ask(name, lights, samples * often);
    gains.sort((a, b) => b.total - a.total);
    return { far, pieces: PIECES, end, depths, gains, marks: marksOf(depths, far) };
  }

  /** The lights to ask, by the kernel's numbers. */
  private lights(): { name: string; lights: number[]; samples: number }[] {
    const doc = this.doc!;
    const out: { name: string; lights: number[]; samples: number }[] = [];
    const put = (name: string, samples: number, ...lights: number[]): void => void out.push({ name, lights, samples });
    if (doc.sun.on) put("sun", 2, SUN);
    if (doc.sky.on || doc.sky.stars) put("sky", 6, SKY);
    // what the air gives by itself, and what it sends on of that
    if (doc.air.some((m) => m.on && (m.emission || m.grid?.temperature))) put("air emission", 4, EMITTED, GLOW);
    const { order, moon } = shiningLights(doc);
    if (moon) put("moon", 2, 0);
    const first = moon ? 1 : 0;
    const shines = this.geometry!.emissive.length > 0;
    if (order.length > MAX_LAMPS) put(shines ? "lamps and emissive surfaces" : "lamps", 8, ANY_LAMP);
    else {
      order.forEach((index, i) => put(doc.lights[index]!.name, 3, first + i));
      if (shines) put("emissive surfaces", 8, SURFACES);
    }
    return out;
  }

  /** @param foot middle of the lowest cell of column i of n */
  private lit(columns: number, rows: number, foot: (i: number, n: number) => V3, up: V3, height: number): NonNullable<Section["lit"]> {
    const at = this.clear(4 * columns * rows);
    const { order, moon } = shiningLights(this.doc!);
    const lamps = Math.min(MAX_LIT, order.length + (moon ? 1 : 0));
    const asked = [...(this.doc!.sun.on ? [SUN] : []), ...Array.from({ length: lamps }, (_, i) => i)];
    const step = up.map((v) => v * height) as V3;
    // every eighth column, then those between, as far as time allows
    const started = this.now();
    const from = new Int32Array(columns).fill(-1);
    for (const [stride, first] of [
      [8, 0],
      [8, 4],
      [4, 2],
      [2, 1],
    ] as const) {
      if (first > 0 && this.now() - started > LIT_TIME) break;
      for (let i = first; i < columns; i += stride) {
        for (const light of asked)
          this.kernel.sectionLit(light, ...this.inScene(foot(i, columns)), 0, 0, 0, ...step, 1, rows, i, at + 4 * rows * i);
        from[i] = i;
      }
    }
    const found = new Float32Array(this.memory.buffer, at, columns * rows);
    const values = new Float32Array(columns * rows);
    for (let i = 0; i < columns; i++) {
      let near = i;
      while (from[near]! < 0) near--;
      for (let j = 0; j < rows; j++) values[j * columns + i] = found[near * rows + j]!;
    }
    return { columns, rows, values };
  }
}

/** The lens and what its ray reaches, seen from above. */
function planWindow(frame: SectionFrame, far: number, aspect: number): Window {
  const reach = Math.max(far * Math.max(frame.level, 0.2), 0.5);
  const half = (1.1 * reach) / aspect / 2;
  return [-0.04 * reach, -half, 1.06 * reach, half];
}

/** Distances (m) at which contrast falls to each of CONTRASTS, from depths at even places up to `far`. */
export function marksOf(depths: Float64Array, far: number): Fate["marks"] {
  const n = depths.length / 3 - 1;
  const left = (i: number): number => luminance(Math.exp(-depths[3 * i]!), Math.exp(-depths[3 * i + 1]!), Math.exp(-depths[3 * i + 2]!));
  return CONTRASTS.map((c) => {
    for (let i = 1; i <= n; i++) {
      const [a, b] = [left(i - 1), left(i)];
      // between the ends of a piece light falls about exponentially
      if (b <= c) return (far * (i - 1 + (a > b ? Math.log(a / c) / Math.log(a / Math.max(b, 1e-300)) : 0))) / n;
    }
    return null;
  }) as Fate["marks"];
}
