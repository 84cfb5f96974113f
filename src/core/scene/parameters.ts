/** Everything of a document that changes without rebuilding geometry, as the kernel's parameters and tables. */
import { facetBlock, glassTables } from "./facets";
import { type Box, cornersOf } from "../math/box";
import { whiteAt } from "../optics/exposure";
import type { FrameWindow } from "../film/film";
import type { SceneDocument } from "../document/schema";
import { temperatureRgb, type Rgb } from "../optics/colour";
import type { CompiledGeometry, MemoryPlan, SceneTables } from "./compiled";
import { cameraFrame } from "../document/camera";
import { vector, dot, MOST, type V3, AXES, across, sunDirection } from "../math/vectors";
import { goboPicture } from "./gobo";
import { CAMERA_CODES, ESTIMATOR_CODES, FILTER_CODES, LEVEL_CODES } from "../layout/codes";
import { sealIntegers } from "../layout/integers";
import * as L from "../layout/layout";
import { aboutOrigin } from "./origin";
import { lightCells } from "./light-cells";
import { lightGroups } from "./light-groups";
import { showsPlate } from "./plate";
import { fromDisk, lightRecords, lightTree } from "./lights";
import { activeMedia, emits, mediaMask, mediaRecords, type GridPlaces } from "./media";
import { memoizeByObject, memoize } from "../math/memoize";
import { gradientSky, horizonSines } from "../optics/sky";
import { levelMean, skyTable, type SkyTable } from "./sky";
import { Tables } from "./tables";

/** Builds the tables of a document for kernel memory from `base` on. @throws InputError for a missing picture or profile */
export function buildTables(given: SceneDocument, geometry: CompiledGeometry, base: number, grids: GridPlaces): SceneTables {
  const doc = aboutOrigin(given, geometry.origin);
  const tables = new Tables();
  const p = new Map<number, number>();
  const add = (values: Float32Array | Float64Array, key: string | null = null): number => base + tables.add(values, key);
  const media = mediaRecords(given, geometry, tables, base, grids);
  p.set(L.P_MEDIA, activeMedia(doc).length);
  p.set(L.P_EMITTING_MEDIA, activeMedia(doc).filter(emits).length);

  const sky = skyTable(doc, geometry.pictures);
  const { records, count, distant, listed } = lightRecords(doc, geometry, tables, base);
  p.set(L.P_LIGHTS, add(records));
  meanSky(doc, sky).forEach((v, k) => p.set(L.P_SKY_MEAN + k, v));
  p.set(L.P_LIGHT_COUNT, count);
  p.set(L.P_DISTANT_COUNT, distant);
  p.set(L.P_LISTED_COUNT, listed);
  const moonOwn = distant > 0 && doc.moon.airSamples !== null;
  p.set(L.P_OWN_COUNT, listed > distant || moonOwn ? listed : 0);
  p.set(L.P_SUN_AIR_SAMPLES, doc.sun.on ? (doc.sun.airSamples ?? 0) : 0);
  const emissiveCount = geometry.emissive.length / L.EMISSIVE_WORDS;
  p.set(L.P_EMISSIVE_COUNT, emissiveCount);
  if (emissiveCount > 0 || count - listed >= L.MIN_TREE_LIGHTS) {
    const { tree, emissive } = treeOver(records, count, listed, geometry.emissive);
    p.set(L.P_LIGHT_TREE, add(tree));
    if (emissiveCount > 0) p.set(L.P_EMISSIVE, add(emissive));
  }
  sealIntegers(records, "light");

  if (sky) {
    p.set(L.P_ENV, add(sky.light));
    p.set(L.P_ENV_WIDTH, sky.width);
    p.set(L.P_ENV_HEIGHT, sky.height);
    p.set(L.P_ENV_ROTATION, doc.sky.model === "image" ? (doc.sky.rotation * Math.PI) / 180 : 0);
    p.set(L.P_ENV_POWER, sky.power);
    p.set(L.P_ENV_CDF, add(sky.cdf));
    if (sky.ground) {
      sky.ground.colour.forEach((v, k) => p.set(L.P_SKY_GROUND + k, v));
      p.set(L.P_SKY_GROUND_LOW, sky.ground.low);
      p.set(L.P_SKY_GROUND_HIGH, sky.ground.high);
    }
  }
  const cells = lightCells(doc, records, count, distant, geometry);
  if (cells) {
    p.set(L.P_LIGHT_CELLS, add(cells.values, cells.key));
    cells.low.forEach((x, k) => p.set(L.P_LIGHT_CELLS_LOW + k, x));
    p.set(L.P_LIGHT_CELLS_SCALE, 1 / cells.edge);
    cells.count.forEach((n, k) => p.set(L.P_LIGHT_CELLS_COUNT + k, n));
  }
  p.set(L.P_FACET_ALBEDO, add(facetBlock()));
  const glass = glassTables(geometry.materials);
  if (glass.length > 0) p.set(L.P_GLASS_ALBEDO, add(glass));
  const groups = lightGroups(doc, geometry.materials);
  p.set(L.P_SUN_GROUP, groups.sun);
  p.set(L.P_SKY_GROUP, groups.sky);
  p.set(L.P_MEDIUM_EMISSION_GROUP, groups.mediumEmission);
  p.set(L.P_SURFACE_EMISSION_GROUP, groups.surfaceEmission);
  p.set(L.P_PLATE_GROUP, groups.plate);
  const { gobo } = doc.sun;
  if (doc.sun.on && gobo) {
    const radius = gobo.distance * Math.tan((doc.sun.angularDiameter * Math.PI) / 360);
    const picture = goboPicture(gobo, doc.time, geometry.pictures, gobo.size, radius);
    p.set(L.P_SUN_GOBO, add(picture.rgb));
    p.set(L.P_SUN_GOBO_WIDTH, picture.width);
    p.set(L.P_SUN_GOBO_HEIGHT, picture.height);
    p.set(L.P_SUN_GOBO_SCALE, 1 / gobo.size);
    const [u, v] = across(sunDirection(doc.sun.azimuth, doc.sun.elevation), gobo.rotation);
    u.forEach((x, k) => p.set(L.P_SUN_GOBO_U + k, x));
    v.forEach((x, k) => p.set(L.P_SUN_GOBO_V + k, x));
    [u, v].forEach((axis, k) => p.set(L.P_SUN_GOBO_SHIFT + k, dot(axis, geometry.origin)));
  }
  if (doc.sun.on && doc.sun.air > 0 && activeMedia(doc).length > 0 && geometry.triangleCount > 0) sunMap(doc, geometry, media, p, add);
  return { tables, media, parameters: p };
}

const treesOf = memoizeByObject((_: Float64Array) => memoize<{ tree: Float64Array; emissive: Float64Array }>(2));

/** Tree over lights and emissive triangles, whose records then know their leaves: thousands of them stay while air is shaped. */
function treeOver(
  records: Float64Array,
  count: number,
  listed: number,
  emissive: Float64Array,
): { tree: Float64Array; emissive: Float64Array } {
  const key = [count, listed];
  for (let i = listed; i < count; i++) {
    const at = i * L.LIGHT_WORDS;
    key.push(...records.subarray(at + L.L_POSITION, at + L.L_POSITION + 3), records[at + L.L_RADIUS]!, records[at + L.L_POWER]!);
  }
  return treesOf(emissive)(key.join(" "), () => {
    const own = emissive.slice();
    const tree = lightTree(records, count, listed, own);
    return { tree: sealIntegers(tree, "lightTree"), emissive: sealIntegers(own, "emissive") };
  });
}

/** Share of white below which noise is measured against this instead of the brightness: nobody sees it there. */
export const DARK = 0.02;

/** Box about everything that air fills: that of the geometry, or of bounded media where all are. */
function airBounds(media: Float64Array, count: number, geometry: CompiledGeometry): Box {
  const out: Box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    const r = media.subarray(i * L.MEDIUM_WORDS, (i + 1) * L.MEDIUM_WORDS);
    const kind = r[L.M_REGION]!;
    if (kind === L.REGION_EVERYWHERE || kind === L.REGION_LAYER) return geometry.bounds;
    const half = kind === L.REGION_SPHERE ? vector(() => r[L.M_HALF]!) : vector((k) => r[L.M_HALF + k]!);
    for (const k of AXES) {
      const reach = dot(
        vector((j) => Math.abs(r[L.M_ROWS + 3 * j + k]!)),
        half,
      );
      out[k] = Math.min(out[k], r[L.M_CENTRE + k]! - reach);
      out[MOST[k]] = Math.max(out[MOST[k]], r[L.M_CENTRE + k]! + reach);
    }
  }
  return out;
}

let untraced: Float32Array | null = null;
/** A sun map that nothing is traced in yet: one for all documents, since making it anew holds up every edit. */
const untracedMap = (): Float32Array => (untraced ??= new Float32Array(4 * L.SUN_MAP_SIDE ** 2).fill(1e30));

/** Plans the map of how far down sunlight comes: a square about the air as the sun sees it, and a start above all geometry. */
function sunMap(
  doc: SceneDocument,
  geometry: CompiledGeometry,
  media: Float64Array,
  p: Map<number, number>,
  add: (values: Float32Array, key: string) => number,
): void {
  const towards = sunDirection(doc.sun.azimuth, doc.sun.elevation);
  const [u, v] = across(towards, 0);
  const low: V3 = [Infinity, Infinity, Infinity],
    high: V3 = [-Infinity, -Infinity, -Infinity];
  const box = airBounds(media, activeMedia(doc).length, geometry);
  const solid = cornersOf(geometry.bounds);
  cornersOf(box).forEach((corner, i) => {
    const reach: V3 = [dot(u, corner), dot(v, corner), dot(towards, solid[i]!)];
    for (const k of AXES) {
      low[k] = Math.min(low[k], reach[k]);
      high[k] = Math.max(high[k], reach[k]);
    }
  });
  const side = Math.max(high[0] - low[0], high[1] - low[1]);
  if (!(side > 0)) return;
  p.set(L.P_SUN_MAP, add(untracedMap(), `sun ${towards.join(" ")} ${box.join(" ")}`));
  u.forEach((x, k) => p.set(L.P_SUN_MAP_U + k, x));
  v.forEach((x, k) => p.set(L.P_SUN_MAP_V + k, x));
  p.set(L.P_SUN_MAP_LOW, low[0]);
  p.set(L.P_SUN_MAP_LOW + 1, low[1]);
  p.set(L.P_SUN_MAP_SCALE, L.SUN_MAP_SIDE / side);
  p.set(L.P_SUN_MAP_TOP, high[2] + 0.001 * side);
}

/** Rings of equal weight that a gradient is summed over. */
const STEPS = 512;

/** Mean luminance per band of the sky above the horizon, as a level plane sees it. */
function meanSky(doc: SceneDocument, table: SkyTable | null): Rgb {
  const { sky } = doc;
  if (!sky.on) return [0, 0, 0];
  const out: Rgb = [0, 0, 0];
  if (!table) {
    const at = gradientSky(sky);
    // even in the square of the sine: weighted by the cosine to the upright
    for (let i = 0; i < STEPS; i++)
      at(Math.sqrt((i + 0.5) / STEPS)).forEach((v, k) => (out[k as 0 | 1 | 2] += (v * sky.luminance) / STEPS));
    return out;
  }
  return levelMean(table);
}

/**
 * Writes everything that changes without rebuilding geometry. @param width,height pixels of the film
 * @param frame the frame that the film shows, or shows a window of
 * @param kept blocks of the tables that an earlier run filled, which stay
 */
export function writeParameters(
  memory: ArrayBufferLike,
  given: SceneDocument,
  geometry: CompiledGeometry,
  plan: MemoryPlan,
  width: number,
  height: number,
  kept?: ReadonlySet<string>,
  frame: FrameWindow = { x: 0, y: 0, width, height },
): void {
  const doc = aboutOrigin(given, geometry.origin);
  const p = new Float64Array(memory, L.PARAMS, L.PARAM_COUNT);
  p.fill(0);
  p[L.P_NODES] = plan.nodes;
  p[L.P_LEAVES] = plan.leaves;
  p[L.P_TRIANGLES] = plan.triangles;
  p[L.P_INSTANCES] = plan.places;
  p[L.P_MATERIALS] = plan.materials;
  p[L.P_UVS] = geometry.uvs ? plan.uvs : 0;
  p[L.P_UVS_SECOND] = geometry.uvsSecond ? plan.uvsSecond : 0;
  p[L.P_COLOURS] = geometry.colours ? plan.colours : 0;
  p[L.P_TEXTURES] = geometry.textures.length ? plan.textures : 0;
  p[L.P_FILM] = plan.film;
  p[L.P_STRIDE] = 4 * plan.stride;
  p[L.P_GROUP_COUNT] = plan.extras.lights.length;
  p[L.P_MATTES] = plan.extras.mattes ? 1 : 0;
  p[L.P_WIDTH] = width;
  p[L.P_FRAME_WIDTH] = frame.width;
  p[L.P_FRAME_HEIGHT] = frame.height;
  p[L.P_FRAME_X] = frame.x;
  p[L.P_FRAME_Y] = frame.y;
  p[L.P_ROOT] = geometry.bvh.root;
  p[L.P_SEED] = doc.render.seed;
  p[L.P_LEVEL] = LEVEL_CODES[doc.render.level];
  p[L.P_GROUND] = geometry.bounds[1];
  p.set(geometry.origin, L.P_ORIGIN);
  p[L.P_AIR_BOUNCES] = doc.render.airBounces;
  p[L.P_SURFACE_BOUNCES] = doc.render.surfaceBounces;
  p[L.P_AIR_SAMPLES] = doc.render.airSamples;
  p[L.P_ESTIMATOR] = ESTIMATOR_CODES[doc.render.estimator];
  p[L.P_MAX_STEPS] = doc.render.maxSteps;

  const { plate } = geometry;
  // the document as it is: about an origin the lens lies elsewhere than the plate's
  if (showsPlate(given, plate)) {
    p[L.P_PLATE] = plan.plate;
    p[L.P_PLATE_WIDTH] = plate.width;
    p[L.P_PLATE_HEIGHT] = plate.height;
    const surface = doc.objects.findIndex((o) => o.kind === "plate" && !o.hidden);
    const object = doc.objects[surface];
    const material = object?.kind === "plate" ? object.material : null;
    p[L.P_PLATE_HELD] = object?.holdout ? 1 : 0;
    p[L.P_PLATE_WHITE] = plate.white;
    p[L.P_PLATE_MATTES] = doc.objects.length;
    p[L.P_PLATE_OBJECT] = surface;
    p[L.P_PLATE_MATERIAL] = Math.max(
      0,
      geometry.materials.findIndex((m) => m.name === material),
    );
    p[L.P_PLATE_ALONE] = doc.objects.every((o) => o.hidden || o.kind === "plate") ? 1 : 0;
  }
  const axes = cameraFrame(doc.camera);
  p.set(doc.camera.position, L.P_CAM_ORIGIN);
  p.set(axes.right, L.P_CAM_RIGHT);
  p.set(axes.up, L.P_CAM_UP);
  p.set(axes.forward, L.P_CAM_FORWARD);
  const half = doc.camera.kind === "perspective" ? Math.tan((doc.camera.fieldOfView * Math.PI) / 360) : doc.camera.height / 2;
  p[L.P_CAM_KIND] = CAMERA_CODES[doc.camera.kind];
  p[L.P_CAM_HALF_Y] = half;
  p[L.P_CAM_HALF_X] = (half * frame.width) / frame.height;

  p[L.P_CAM_RADIUS] = doc.camera.aperture / 2;
  p[L.P_CAM_FOCUS] = doc.camera.focus;
  p[L.P_FILTER] = FILTER_CODES[doc.film.filter];
  // luminance that the exposure makes white (develop.ts)
  const white = whiteAt(doc.film.exposure);
  p[L.P_NOISE_THRESHOLD] = doc.render.noiseThreshold ?? 0;
  p[L.P_MIN_SAMPLES] = doc.render.minSamples;
  p[L.P_DARK] = DARK * white;
  p[L.P_INDIRECT_ROUGHNESS] = doc.render.indirectRoughness;
  p[L.P_FIREFLY_CLAMP] = doc.render.fireflyClamp === null ? 0 : doc.render.fireflyClamp * white;

  writeSunAndSky(p, doc);
  const content = plan.content;
  if (!content) return void sealIntegers(p, "parameters");
  for (const [index, value] of content.parameters) p[index] = value;
  sealIntegers(p, "parameters");
  const media = new Float64Array(memory, L.MEDIA, content.media.length);
  media.set(content.media);
  sealIntegers(media, "medium");
  // a memory that holds parameters alone gets its tables another way
  if (memory.byteLength >= plan.film) content.tables.write(memory, plan.tables, kept);
}

function writeSunAndSky(p: Float64Array, doc: SceneDocument): void {
  const { sun, sky } = doc;
  if (sun.on)
    p.set(
      temperatureRgb(sun.temperature).map((c, k) => c * sun.tint[k]! * fromDisk(sun.illuminance, sun.angularDiameter)),
      L.P_SUN_E,
    );
  p.set(sunDirection(sun.azimuth, sun.elevation), L.P_SUN_DIR);
  p[L.P_SUN_COS] = Math.cos((sun.angularDiameter * Math.PI) / 360);
  p[L.P_SUN_DISK] = sun.on && sun.diskVisible ? 1 : 0;
  p[L.P_SUN_AIR] = sun.air;
  p[L.P_SUN_SURFACES] = sun.surfaces;
  p[L.P_SUN_MASK] = mediaMask(doc, sun.media);
  p[L.P_SKY_AIR] = sky.air;
  p[L.P_SKY_SURFACES] = sky.surfaces;
  if (sky.on) {
    p.set(
      sky.zenith.map((c) => c * sky.luminance),
      L.P_SKY_ZENITH,
    );
    p.set(
      sky.horizon.map((c) => c * sky.luminance),
      L.P_SKY_HORIZON,
    );
    // that of a table comes with it
    const { level, low, high } = horizonSines(sky.model === "gradient" ? sky : { ...sky, ground: null });
    p.set(
      (sky.ground ?? sky.horizon).map((c) => c * sky.luminance),
      L.P_SKY_GROUND,
    );
    p[L.P_SKY_LEVEL] = level;
    p[L.P_SKY_GROUND_LOW] = low;
    p[L.P_SKY_GROUND_HIGH] = high;
  }
  if (sky.stars) {
    p[L.P_STARS] = sky.stars.count;
    p[L.P_STARS_SIZE] = (sky.stars.size * Math.PI) / 360;
    p[L.P_STARS_LUMINANCE] = sky.stars.brightness;
    p[L.P_STARS_HUE] = sky.stars.hueVariation;
    p[L.P_STARS_SEED] = sky.stars.seed;
  }
}
