/** Media of a document as the records the kernel reads. */
import { middleOf, sizeOf } from "../math/box";
import { vector, dot, map3, AXES } from "../math/vectors";
import { halfSizeOf } from "../document/regions";
import type { Medium, Region, VolumeGrid } from "../document/air";
import type { SceneDocument } from "../document/schema";
import { absorptionOf, automaticStep, scatteringOf } from "../document/medium";
import { dropletDraineAlpha, dropletDraineG, dropletDraineShare, dropletForward } from "../optics/phase";
import { blackBodyLuminance } from "../optics/blackbody";
import type { CompiledGeometry } from "./compiled";
import { columnsOf, transformPoint, composeAffine, inverseAffine, placementMatrix, type Affine } from "../math/affine";
import { HEIGHT_CODES, NOISE_CODES, PHASE_CODES, REGION_CODES, unreachable } from "../layout/codes";
import { sealIntegers } from "../layout/integers";
import * as L from "../layout/layout";
import { gridKey } from "../document/sequence";
import { aboutOrigin } from "./origin";
import type { Tables } from "./tables";
import { tintChannels, tintRecord } from "./tint";
import { boxCorners, indexBounds, type Volume } from "../data/volume";

type V3 = [number, number, number];
const unit = (v: readonly number[]): V3 => v.map((x) => x / Math.hypot(...v)) as V3;

/** Media that do anything, in the order of the document. */
export function activeMedia(doc: SceneDocument): Medium[] {
  return doc.air.filter((m) => m.on && m.density > 0 && (Math.max(...m.scattering, ...m.absorption) > 0 || emits(m)));
}

/** Whether a medium has no closed form, so that the stepping estimator steps through it. */
function isStepped(m: Medium): boolean {
  if (m.noise || m.grid || m.proximity || (m.edge > 0 && m.region.kind !== "everywhere")) return true;
  return m.start !== null && (m.start.distance > 0 || m.start.fade > 0) && m.start.min < 1;
}
/** How many media the stepping estimator steps through. */
export const steppedMedia = (doc: SceneDocument): number => activeMedia(doc).filter(isStepped).length;

/**
 * The finest step size by itself of what is stepped through, m; null where nothing is.
 * @param geometry whose grids say how large their voxels are; without it they are not asked
 */
export function finestStep(doc: SceneDocument, geometry: CompiledGeometry | null): number | null {
  const steps = activeMedia(doc)
    .filter(isStepped)
    .map((m) => automaticStepOf(m, geometry, doc.time));
  return steps.length > 0 ? Number(Math.min(...steps).toPrecision(3)) : null;
}

/** Step size of a medium by itself, m. */
function automaticStepOf(m: Medium, geometry: CompiledGeometry | null, time: number): number {
  const known = m.grid && geometry?.volumes[gridKey(m.grid, m.grid.channel, time)];
  const feature = known ? voxelSize(geometry, m.grid!, time) : m.proximity && !m.grid ? m.proximity.curve.at(-1)![0] / 2 : Infinity;
  return automaticStep(m, feature);
}

/** Whether a medium gives light by itself. */
export function emits(m: Medium): boolean {
  if (m.grid?.temperature) return m.grid.temperature.strength > 0 && Math.max(...m.absorption) > 0;
  return m.emission !== null && m.emission.strength > 0 && Math.max(...m.emission.colour) > 0;
}

/** Bits of the media with these names, for the masks of lights; all where the names are null. */
export function mediaMask(doc: SceneDocument, names: readonly string[] | null): number {
  if (!names) return 0xffffffff;
  return activeMedia(doc).reduce((mask, m, i) => (names.includes(m.name) ? (mask | (1 << i)) >>> 0 : mask), 0);
}

/** Writes the region; @returns the bounds of its coarse grid in the region's frame, or null where the scene's serve */
function writeRegion(r: Float64Array, region: Region, geometry: CompiledGeometry): V3 | null {
  r[L.M_REGION] = REGION_CODES[region.kind];
  r.set([1, 0, 0, 0, 1, 0, 0, 0, 1], L.M_ROWS);
  let half = halfSizeOf(region);
  if ("rotation" in region) {
    const axes = columnsOf(placementMatrix([0, 0, 0], region.rotation));
    // columns of the rotation are the region's axes: rows of its inverse
    for (const axis of AXES) r.set(axes[axis], L.M_ROWS + 3 * axis);
  }
  if ("centre" in region) r.set(region.centre, L.M_CENTRE);
  if (region.kind === "layer") {
    r.set(unit(region.up), L.M_LAYER_UP);
    r[L.M_HALF] = region.level;
  } else if (region.kind === "mesh") {
    const mesh = geometry.regions[region.object]!;
    r[L.M_ROOT] = mesh.root;
    r.set(middleOf(mesh.bounds), L.M_CENTRE);
    half = map3(sizeOf(mesh.bounds), (s) => Math.max(s / 2, 1e-6));
  }
  if (half) r.set(half, L.M_HALF);
  return half;
}

function writePhase(r: Float64Array, m: Medium): void {
  const { phase } = m;
  r[L.M_PHASE] = PHASE_CODES[phase.model];
  switch (phase.model) {
    case "henyey-greenstein":
      r[L.M_PHASE_1] = m.anisotropy;
      break;
    case "two-lobe":
      r.set([phase.forward, phase.backward, phase.mix], L.M_PHASE_1);
      break;
    case "rayleigh":
      break;
    case "droplets": {
      const d = phase.diameter;
      r.set([dropletForward(d), dropletDraineG(d), dropletDraineAlpha(d), dropletDraineShare(d)], L.M_PHASE_1);
      break;
    }
    default:
      unreachable(phase, "phase function");
  }
}

function writeNoise(r: Float64Array, m: Medium, time: number, origin: Readonly<V3>): void {
  const n = m.noise!;
  r[L.M_NOISE] = NOISE_CODES[n.character];
  r.set(
    n.stretch.map((s) => 1 / (n.size * s)),
    L.M_NOISE_FREQ,
  );
  r[L.M_NOISE_OCTAVES] = n.octaves;
  r[L.M_NOISE_ROUGHNESS] = n.roughness;
  r[L.M_NOISE_LACUNARITY] = n.lacunarity;
  r[L.M_NOISE_LOW] = n.low;
  r[L.M_NOISE_HIGH] = n.high;
  r[L.M_NOISE_KNEE] = n.knee;
  r[L.M_NOISE_EVENNESS] = n.evenness;
  r[L.M_NOISE_INVERT] = n.invert ? 1 : 0;
  r.set(
    map3(n.drift, (v, k) => v * time - (n.space === "region" ? 0 : origin[k])),
    L.M_NOISE_OFFSET,
  );
  r[L.M_NOISE_CHANGE] = n.change * time;
  r[L.M_NOISE_SEED] = n.seed;
  r[L.M_NOISE_LOCAL] = n.space === "region" ? 1 : 0;
  r.set(unit(n.axis), L.M_NOISE_AXIS);
  r[L.M_NOISE_BEND] = n.bend;
}

/** Cells of a coarse grid, most along one axis and in all. */
const MAX_CELLS = 48;

/** Where packed grids lie in kernel memory, by key. */
export interface GridPlaces {
  volumes: Readonly<Record<string, number>>;
  distances: Readonly<Record<string, number>>;
}

/** Index coordinates to metres of a medium's grid as it is placed. */
function gridToWorld(volume: Volume, grid: VolumeGrid): Affine {
  return composeAffine(placementMatrix(grid.position, grid.rotation, grid.scale), volume.toWorld);
}

/** Corners of the box about a medium's grid as it is placed, m. */
export const gridCorners = (volume: Volume, grid: VolumeGrid): [number, number, number][] => boxCorners(volume, gridToWorld(volume, grid));

/** Edge of a voxel, m; the shortest where they are no cubes. */
function voxelSize(geometry: CompiledGeometry, grid: VolumeGrid, time: number): number {
  const axes = columnsOf(gridToWorld(geometry.volumes[gridKey(grid, grid.channel, time)]!.volume, grid));
  return Math.min(...AXES.map((k) => Math.hypot(...axes[k])));
}

/** Luminance of black bodies per band, BLACKBODY_STEP kelvin apart; made when first needed. */
let blackBodyTable: number[] | null = null;

/** Writes a medium's grids; one that is everywhere becomes the box about its grid. @returns half sizes of its region's box */
function writeGrid(
  r: Float64Array,
  m: Medium,
  grid: VolumeGrid,
  geometry: CompiledGeometry,
  places: GridPlaces,
  add: (values: Float64Array) => number,
  local: V3 | null,
  time: number,
): V3 | null {
  const key = gridKey(grid, grid.channel, time);
  const { volume } = geometry.volumes[key]!;
  const toWorld = gridToWorld(volume, grid);
  r.set(inverseAffine(toWorld), L.M_VOLUME_ROWS);
  r[L.M_VOLUME] = places.volumes[key]!;
  r[L.M_VOLUME_LOW] = grid.low;
  const high = grid.high ?? volume.max;
  r[L.M_VOLUME_SCALE] = high === grid.low ? 0 : 1 / (high - grid.low);
  if (grid.curve)
    r[L.M_VOLUME_CURVE] = add(sealIntegers(new Float64Array([0, 0, 0, 0, 0, grid.curve.length, ...grid.curve.flat()]), "distance"));
  if (grid.tint)
    r[L.M_TINT] = add(
      tintRecord(
        grid.tint,
        tintChannels(grid.tint).map((channel) => {
          const at = gridKey(grid, channel, time);
          return { address: places.volumes[at]!, rows: inverseAffine(gridToWorld(geometry.volumes[at]!.volume, grid)) };
        }),
      ),
    );
  const { temperature } = grid;
  if (temperature) {
    const temperatureKey = gridKey(grid, temperature.channel, time);
    const temperatures = geometry.volumes[temperatureKey]!.volume;
    r.set(inverseAffine(gridToWorld(temperatures, grid)), L.M_TEMPERATURE_ROWS);
    r[L.M_TEMPERATURE] = places.volumes[temperatureKey]!;
    r[L.M_TEMPERATURE_SCALE] = temperature.scale;
    r[L.M_TEMPERATURE_OFFSET] = temperature.offset;
    const kelvin = (v: number): number => v * temperature.scale + temperature.offset;
    const top = Math.min(
      (L.BLACKBODY_ENTRIES - 2) * L.BLACKBODY_STEP,
      Math.max(kelvin(temperatures.min), kelvin(temperatures.max), kelvin(temperatures.background)),
    );
    r[L.M_TEMPERATURE_MAX] = top;
    const most = blackBodyLuminance(Math.max(0, top));
    blackBodyTable ??= Array.from({ length: L.BLACKBODY_ENTRIES }, (_, i) => blackBodyLuminance(i * L.BLACKBODY_STEP)).flat();
    r[L.M_BLACKBODY_TABLE] = add(Float64Array.from(blackBodyTable, (b, i) => (most[i % 3]! > 0 ? b / most[i % 3]! : 0)));
    // what is absorbed is emitted (Kirchhoff)
    r.set(
      map3(absorptionOf(m), (a, k) => Math.min(1e30, a * most[k] * temperature.strength)),
      L.M_EMISSION,
    );
  }
  if (m.region.kind !== "everywhere") return local;
  const b = indexBounds(volume);
  const axes = columnsOf(toWorld);
  const lengths = vector((k) => Math.hypot(...axes[k]));
  const square = Math.max(dot(axes[0], axes[1]), dot(axes[1], axes[2]), dot(axes[2], axes[0])) < 1e-6 * Math.max(...lengths) ** 2;
  r[L.M_REGION] = REGION_CODES.box;
  r.set(transformPoint(toWorld, middleOf(b)), L.M_CENTRE);
  const half = map3(sizeOf(b), (s) => s / 2);
  // a sheared grid lies in the upright box about it
  if (square)
    for (const k of AXES)
      r.set(
        axes[k].map((x) => x / lengths[k]),
        L.M_ROWS + 3 * k,
      );
  const size = square
    ? map3(half, (h, k) => h * lengths[k])
    : vector((k) => AXES.reduce<number>((s, j) => s + Math.abs(axes[j][k]) * half[j], 0));
  r.set(size, L.M_HALF);
  return size;
}

/** Record of a distance grid under a curve, as the kernel reads it. */
function distanceRecord(volume: Volume, address: number, curve: readonly (readonly [number, number])[]): Float64Array {
  const m = volume.toWorld;
  return sealIntegers(new Float64Array([address, m[3], m[7], m[11], 1 / m[0], curve.length, ...curve.flat()]), "distance");
}

/** Plans the coarse grid of upper bounds: cells about a quarter of the finest thing the density does at large. */
function planGrid(r: Float64Array, m: Medium, local: V3 | null, geometry: CompiledGeometry, time: number): V3 | null {
  const { bounds } = geometry;
  const low: V3 = local ? [-local[0], -local[1], -local[2]] : [bounds[0], bounds[1], bounds[2]];
  const span: V3 = local ? [2 * local[0], 2 * local[1], 2 * local[2]] : [bounds[3] - low[0], bounds[4] - low[1], bounds[5] - low[2]];
  const longest = Math.max(...span);
  if (!(longest > 0)) return null;
  let feature = longest / 8;
  if (m.noise) feature = Math.min(feature, m.noise.size * Math.min(...m.noise.stretch));
  if (m.edge > 0) feature = Math.min(feature, 2 * m.edge);
  if (m.height) feature = Math.min(feature, 2 * m.height.scale);
  if (m.proximity) feature = Math.min(feature, m.proximity.curve.at(-1)![0]);
  // cells of some voxels each
  if (m.grid) feature = Math.min(feature, 12 * voxelSize(geometry, m.grid, time));
  const cell = Math.max(feature / 4, longest / MAX_CELLS);
  const cells = map3(span, (s) => Math.max(1, Math.min(MAX_CELLS, Math.ceil(s / cell))));
  const size = map3(span, (s, k) => Math.max(s, 1e-9) / cells[k]);
  r.set(cells, L.M_MAJORANT_CELLS);
  r.set(low, L.M_MAJORANT_LOW);
  r.set(
    size.map((s) => 1 / s),
    L.M_MAJORANT_SCALE,
  );
  r[L.M_MAJORANT_LOCAL] = local ? 1 : 0;
  return cells;
}

/** The words of a record that relative density depends on, each with how many: no coefficients, phase function, shares or step size. */
const SHAPE_WORDS: readonly (readonly [first: number, count: number])[] = [
  [L.M_REGION, 1],
  [L.M_FACTOR, 1],
  [L.M_CENTRE, 3],
  [L.M_ROWS, 9],
  [L.M_HALF, 3],
  [L.M_LAYER_UP, 3],
  [L.M_EDGE, 1],
  [L.M_ROOT, 1],
  [L.M_HEIGHT, 1],
  [L.M_HEIGHT_LEVEL, 1],
  [L.M_HEIGHT_SCALE, 1],
  [L.M_HEIGHT_UP, 3],
  [L.M_NOISE, 1],
  [L.M_NOISE_FREQ, 3],
  [L.M_NOISE_OCTAVES, 1],
  [L.M_NOISE_ROUGHNESS, 1],
  [L.M_NOISE_LACUNARITY, 1],
  [L.M_NOISE_LOW, 1],
  [L.M_NOISE_HIGH, 1],
  [L.M_NOISE_KNEE, 1],
  [L.M_NOISE_EVENNESS, 1],
  [L.M_NOISE_INVERT, 1],
  [L.M_NOISE_OFFSET, 3],
  [L.M_NOISE_CHANGE, 1],
  [L.M_NOISE_SEED, 1],
  [L.M_NOISE_LOCAL, 1],
  [L.M_NOISE_AXIS, 3],
  [L.M_NOISE_BEND, 1],
  [L.M_START, 1],
  [L.M_START_DISTANCE, 1],
  [L.M_START_FADE, 1],
  [L.M_START_MIN, 1],
  [L.M_START_LENS, 3],
  [L.M_VOLUME_ROWS, 12],
  [L.M_VOLUME, 1],
  [L.M_VOLUME_LOW, 1],
  [L.M_VOLUME_SCALE, 1],
  [L.M_MAJORANT_CELLS, 3],
  [L.M_MAJORANT_LOW, 3],
  [L.M_MAJORANT_SCALE, 3],
  [L.M_MAJORANT_LOCAL, 1],
];

/** What a medium's relative density depends on, as a key: equal keys, equal majorants. */
function shapeKey(r: Float64Array, { proximity, grid }: Medium): string {
  return JSON.stringify([...SHAPE_WORDS.map(([first, count]) => [...r.subarray(first, first + count)]), proximity, grid?.curve]);
}

/**
 * The records of all active media, MEDIUM_WORDS numbers each. Addresses of coarse grids are relative to the
 * tables they are added to; `base` is where those will lie.
 */
export function mediaRecords(
  given: SceneDocument,
  geometry: CompiledGeometry,
  tables: Tables,
  base: number,
  grids: GridPlaces,
): Float64Array {
  const doc = aboutOrigin(given, geometry.origin);
  const media = activeMedia(doc);
  const all = new Float64Array(L.MAX_MEDIA * L.MEDIUM_WORDS);
  media.forEach((m, i) => {
    const r = all.subarray(i * L.MEDIUM_WORDS, (i + 1) * L.MEDIUM_WORDS);
    const scattering = scatteringOf(m);
    r.set(scattering, L.M_SIGMA_S);
    r.set(
      map3(absorptionOf(m), (a, k) => a + scattering[k]),
      L.M_SIGMA_T,
    );
    const { emission } = m;
    if (emission && emits(m) && !m.grid?.temperature)
      r.set(
        emission.colour.map((c) => c * emission.strength),
        L.M_EMISSION,
      );
    writePhase(r, m);
    let local = writeRegion(r, m.region, geometry);
    r[L.M_EDGE] = m.edge;
    const add = (values: Float64Array): number => base + tables.add(values);
    if (m.grid) local = writeGrid(r, m, m.grid, geometry, grids, add, local, doc.time);
    if (m.proximity)
      r[L.M_PROXIMITY] = add(
        distanceRecord(geometry.distances[m.proximity.object]!.volume, grids.distances[m.proximity.object]!, m.proximity.curve),
      );
    if (m.region.kind === "mesh" && m.edge > 0) {
      const { object } = m.region;
      r[L.M_EDGE_DISTANCE] = add(distanceRecord(geometry.distances[object]!.volume, grids.distances[object]!, []));
    }
    r.set([0, 1, 0], L.M_HEIGHT_UP);
    r[L.M_HEIGHT_SCALE] = 1;
    if (m.height) {
      r[L.M_HEIGHT] = HEIGHT_CODES[m.height.shape];
      r[L.M_HEIGHT_LEVEL] = m.height.level;
      r[L.M_HEIGHT_SCALE] = m.height.scale;
      r.set(unit(m.height.up), L.M_HEIGHT_UP);
    }
    if (m.noise) writeNoise(r, m, doc.time, geometry.origin);
    if (m.start && (m.start.distance > 0 || m.start.fade > 0) && m.start.min < 1) {
      r.set([1, m.start.distance, m.start.fade, m.start.min, ...doc.camera.position], L.M_START);
    }
    const s = m.seen;
    r.set([s.camera, s.camera * s.sky, s.reflection, s.refraction, s.indirect, s.shadow], L.M_SEEN);
    r[L.M_BIT] = i;
    r[L.M_FACTOR] = m.noise || m.grid || m.proximity || r[L.M_EDGE]! > 0 || r[L.M_START]! > 0 ? 1 : 0;
    r[L.M_STEP_SIZE] = doc.render.stepSize === "auto" ? automaticStepOf(m, geometry, doc.time) : doc.render.stepSize;
    if (r[L.M_FACTOR]) {
      const cells = planGrid(r, m, local, geometry, doc.time);
      if (cells) r[L.M_MAJORANT] = base + tables.add(new Float32Array(cells[0] * cells[1] * cells[2]).fill(-1), shapeKey(r, m));
    }
  });
  return all;
}
