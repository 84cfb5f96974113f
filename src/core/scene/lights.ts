/** Lights of a document as the records the kernel reads, and the tree over many of them. */
import { InputError } from "../errors";
import type { Light, SceneDocument } from "../document/schema";
import { temperatureRgb } from "../optics/colour";
import type { CompiledGeometry } from "./compiled";
import { AXES, across, sub, sunDirection, unit, type V3 } from "../math/vectors";
import { goboPicture } from "./gobo";
import { lightGroups } from "./light-groups";
import { LIGHT_CODES } from "../layout/codes";
import * as L from "../layout/layout";
import { mediaMask } from "./media";
import { memoizeByObject } from "../math/memoize";
import type { Tables } from "./tables";

/** Lumen of a radiant watt of even light from 400 to 700 nm: 683 lm/W × ∫V(λ)dλ / 300 nm, with ∫V = 106.86 nm (CIE 1924). */
export const LUMEN_PER_WATT = (683 * 106.86) / 300;

/** Solid angle (sr) that a spot of 1 cd on its axis fills with lumen: the cone with its soft edge, integrated. */
export function spotSolidAngle(cosInner: number, cosOuter: number): number {
  const inner = 1 - cosInner;
  // ∫ of 3t² - 2t³ over the edge is one half of its width in the cosine
  return 2 * Math.PI * (inner + 0.5 * (cosInner - cosOuter));
}

/** Exponent of a beam from its spread: 1 is the cosine of a matt surface (exponent 0). */
export const beamExponent = (spread: number): number => 2 / (spread * spread) - 2;

/** Area of an emitter, m². */
function areaOf(light: Light): number {
  switch (light.kind) {
    case "rectangle":
      return light.size[0] * light.size[1];
    case "disk":
      return Math.PI * light.radius * light.radius;
    case "sphere":
      return 4 * Math.PI * light.radius * light.radius;
    case "tube":
      return 2 * Math.PI * light.radius * light.length;
    case "point":
    case "spot":
    case "profile":
      return 0;
  }
}

/**
 * Strength on the axis: candela for points, spots and profiles (a factor there), luminance (cd/m²) for emitters
 * with an area, from the document's number and unit.
 */
export function strengthOf(light: Light): number {
  const value = light.intensity * 2 ** light.stops;
  const lumen = light.unit === "W" ? value * LUMEN_PER_WATT : value;
  const flux = light.unit === "W" || light.unit === "lm";
  const area = areaOf(light);
  switch (light.kind) {
    case "point":
      return flux ? lumen / (4 * Math.PI) : value;
    case "spot": {
      const half = (light.cone * Math.PI) / 360;
      return flux ? lumen / spotSolidAngle(Math.cos(half * (1 - light.softness)), Math.cos(half)) : value;
    }
    case "profile":
      return light.scale * 2 ** light.stops;
    case "rectangle":
    case "disk": {
      // a face of luminance L cosⁿ gives 2πAL/(n + 2) lumen and AL candela on its axis
      const sides = light.bothSides ? 2 : 1;
      if (flux) return (lumen * (beamExponent(light.spread) + 2)) / (2 * Math.PI * area * sides);
      return light.unit === "cd/m2" ? value : value / area;
    }
    case "sphere":
      if (flux) return lumen / (Math.PI * area);
      return light.unit === "cd/m2" ? value : value / (Math.PI * light.radius * light.radius);
    case "tube":
      if (flux) return lumen / (Math.PI * area);
      return light.unit === "cd/m2" ? value : value / (2 * light.radius * light.length);
  }
}

/**
 * Light (lx) of all directions of an even disk at infinity, each as on a plane that faces it, from the illuminance of one plane that
 * faces its middle: that plane sees the disk's rim aslant.
 */
export const fromDisk = (illuminance: number, degrees: number): number => (2 * illuminance) / (1 + Math.cos((degrees * Math.PI) / 360));

const peakOf = memoizeByObject((candela: Float32Array) => candela.reduce((a, c) => Math.max(a, c), 0));

function writeLight(r: Float64Array, light: Light, doc: SceneDocument, geometry: CompiledGeometry, tables: Tables, base: number): void {
  r[L.L_KIND] = LIGHT_CODES[light.kind];
  r.set(light.position, L.L_POSITION);
  const axis: V3 = "target" in light ? unit(sub(light.target, light.position)) : light.kind === "tube" ? unit(light.direction) : [0, -1, 0];
  const [u, v] = across(axis, "roll" in light ? light.roll : 0);
  r.set(axis, L.L_AXIS);
  r.set(u, L.L_U);
  r.set(v, L.L_V);
  const strength = strengthOf(light);
  const colour = temperatureRgb(light.temperature).map((c, k) => c * light.tint[k]! * strength);
  r.set(colour, L.L_INTENSITY);
  const area = areaOf(light);
  r[L.L_AREA] = area;
  r[L.L_AIR] = light.air;
  r[L.L_SURFACES] = light.surfaces;
  r[L.L_MASK] = mediaMask(doc, light.media);
  r[L.L_AIR_SAMPLES] = light.airSamples ?? 0;
  r[L.L_VISIBLE] = "visible" in light && light.visible ? 1 : 0;
  let seen = 1;
  switch (light.kind) {
    case "point":
      break;
    case "spot": {
      const half = (light.cone * Math.PI) / 360;
      r[L.L_COS_OUTER] = Math.cos(half);
      r[L.L_COS_INNER] = Math.cos(half * (1 - light.softness));
      r[L.L_SIZE] = light.radius;
      r[L.L_RADIUS] = light.radius;
      break;
    }
    case "rectangle":
      r.set([light.size[0] / 2, light.size[1] / 2], L.L_SIZE);
      r[L.L_RADIUS] = Math.hypot(...light.size) / 2;
      break;
    case "disk":
      r[L.L_SIZE] = light.radius;
      r[L.L_RADIUS] = light.radius;
      break;
    case "sphere":
      r[L.L_SIZE] = light.radius;
      r[L.L_RADIUS] = light.radius;
      seen = Math.PI * light.radius * light.radius;
      break;
    case "tube":
      r.set([light.radius, light.length / 2], L.L_SIZE);
      r[L.L_RADIUS] = Math.hypot(light.length / 2, light.radius);
      seen = 2 * light.radius * light.length;
      break;
    case "profile": {
      const candela = geometry.profiles[light.asset];
      if (!candela) throw new InputError(`lights: photometric profile "${light.asset}" is missing`);
      r[L.L_PROFILE] = base + tables.addOnce(candela);
      seen = peakOf(candela);
      break;
    }
  }
  if (light.kind === "rectangle" || light.kind === "disk") {
    r[L.L_BEAM] = beamExponent(light.spread);
    r[L.L_BOTH_SIDES] = light.bothSides ? 1 : 0;
    seen = area;
  }
  r[L.L_POWER] = seen * (colour[0]! + colour[1]! + colour[2]!);
  if (light.fade) r.set([1, light.fade.nearFrom, light.fade.nearTo, light.fade.farFrom, light.fade.farTo], L.L_FADE);
  if ("gobo" in light && light.gobo) {
    const g = light.gobo;
    const acrossMetres = light.kind === "spot" ? 2 * g.distance * Math.tan((light.cone * Math.PI) / 360) : g.size;
    // emitters with an area soften it by themselves; a spot's disk does too, as it is drawn from
    const picture = goboPicture(g, doc.time, geometry.pictures, acrossMetres, 0);
    const [gu, gv] = across(axis, light.roll + g.rotation);
    if (light.kind === "spot" || light.kind === "disk") {
      r.set(gu, L.L_U);
      r.set(gv, L.L_V);
    }
    r.set([base + tables.addOnce(picture.rgb), picture.width, picture.height, 2 / acrossMetres, g.distance], L.L_GOBO);
  }
  if (light.kind === "rectangle" && light.image) {
    const image = geometry.pictures[light.image];
    if (!image) throw new InputError(`lights: picture "${light.image}" is missing`);
    r.set([base + tables.add(image.rgb), image.width, image.height], L.L_IMAGE);
  }
}

/** Lights that shine, as the kernel numbers them: the moon, then places in the document's list, those with air samples of their own first. */
export function shiningLights(doc: SceneDocument): { moon: boolean; order: number[] } {
  const own = (i: number): number => Number(doc.lights[i]!.airSamples !== null);
  const order = doc.lights.flatMap((light, i) => (light.on && light.intensity > 0 ? [i] : [])).sort((a, b) => own(b) - own(a));
  return { moon: doc.moon.on && doc.moon.illuminance > 0, order };
}

/** Lights that shine: distant ones first, then those with air samples of their own. Addresses are absolute for tables that will lie at `base`. */
export function lightRecords(
  doc: SceneDocument,
  geometry: CompiledGeometry,
  tables: Tables,
  base: number,
): { records: Float64Array; count: number; distant: number; listed: number } {
  const groups = lightGroups(doc, geometry.materials);
  const { moon, order } = shiningLights(doc);
  const shining = order.map((i) => ({ light: doc.lights[i]!, group: groups.lights[i]! }));
  const own = shining.filter(({ light }) => light.airSamples !== null).length;
  if (own > L.MAX_OWN_LIGHTS) throw new InputError(`lights: ${own} lights have air samples of their own, at most ${L.MAX_OWN_LIGHTS} may`);
  const distant = moon ? 1 : 0;
  const records = new Float64Array(Math.max(1, shining.length + distant) * L.LIGHT_WORDS);
  if (moon) {
    const colour = temperatureRgb(doc.moon.temperature).map(
      (c, k) => c * doc.moon.tint[k]! * fromDisk(doc.moon.illuminance, doc.moon.angularDiameter),
    );
    records[L.L_KIND] = L.LIGHT_DISTANT;
    records.set(sunDirection(doc.moon.azimuth, doc.moon.elevation), L.L_AXIS);
    records.set(colour, L.L_INTENSITY);
    records[L.L_COS_OUTER] = Math.cos((doc.moon.angularDiameter * Math.PI) / 360);
    records[L.L_AIR] = doc.moon.air;
    records[L.L_SURFACES] = doc.moon.surfaces;
    records[L.L_MASK] = mediaMask(doc, doc.moon.media);
    records[L.L_AIR_SAMPLES] = doc.moon.airSamples ?? 0;
    records[L.L_GROUP] = groups.moon;
    records[L.L_POWER] = colour[0]! + colour[1]! + colour[2]!;
  }
  shining.forEach(({ light, group }, i) => {
    const at = (i + distant) * L.LIGHT_WORDS;
    writeLight(records.subarray(at, at + L.LIGHT_WORDS), light, doc, geometry, tables, base);
    records[at + L.L_GROUP] = group;
  });
  return { records, count: shining.length + distant, distant, listed: distant + own };
}

interface Leaf {
  centre: V3;
  radius: number;
  weight: number;
  light: number;
}

/**
 * The tree over local lights and emissive triangles: halves split at the middle of the longer side of their
 * centres. Leaves of triangles are entered into their records (E_LEAF).
 * @param count lights among the records, the first `listed` of them left out
 */
export function lightTree(records: Float64Array, count: number, listed: number, emissive: Float64Array): Float64Array {
  const leaves: Leaf[] = [];
  for (let i = listed; i < count; i++) {
    const r = records.subarray(i * L.LIGHT_WORDS);
    const centre = [...r.subarray(L.L_POSITION, L.L_POSITION + 3)] as V3;
    leaves.push({ centre, radius: r[L.L_RADIUS]!, weight: r[L.L_POWER]!, light: i });
  }
  for (let i = 0; i * L.EMISSIVE_WORDS < emissive.length; i++) {
    const g = emissive.subarray(i * L.EMISSIVE_WORDS);
    const side = (k: number): number => (g[L.E_EDGE1 + k]! + g[L.E_EDGE2 + k]!) / 3;
    const centre = AXES.map((k) => g[L.E_CORNER + k]! + side(k)) as V3;
    const radius = Math.max(
      ...AXES.map((c) => Math.hypot(...AXES.map((k) => (c === 0 ? 0 : g[(c === 1 ? L.E_EDGE1 : L.E_EDGE2) + k]!) - side(k)))),
    );
    const weight = g[L.E_AREA]! * (g[L.E_LUMINANCE]! + g[L.E_LUMINANCE + 1]! + g[L.E_LUMINANCE + 2]!);
    leaves.push({ centre, radius, weight, light: count + i });
  }
  const nodes = new Float64Array(Math.max(1, 2 * leaves.length - 1) * L.LIGHT_TREE_WORDS);
  let used = 0;
  const build = (from: number, to: number, parent: number): number => {
    const id = used++;
    const at = id * L.LIGHT_TREE_WORDS;
    nodes[at + L.LT_PARENT] = parent;
    if (to - from === 1) {
      const leaf = leaves[from]!;
      nodes.set([...leaf.centre, leaf.radius, leaf.weight, -1, leaf.light], at);
      if (leaf.light >= count) emissive[(leaf.light - count) * L.EMISSIVE_WORDS + L.E_LEAF] = id;
      return id;
    }
    const low = [Infinity, Infinity, Infinity],
      high = [-Infinity, -Infinity, -Infinity];
    let weight = 0;
    for (let i = from; i < to; i++) {
      const l = leaves[i]!;
      weight += l.weight;
      for (let k = 0; k < 3; k++) {
        low[k] = Math.min(low[k]!, l.centre[k]! - l.radius);
        high[k] = Math.max(high[k]!, l.centre[k]! + l.radius);
      }
    }
    const size = AXES.map((k) => high[k]! - low[k]!);
    const axis = size.indexOf(Math.max(...size));
    const part = leaves.slice(from, to).sort((a, b) => a.centre[axis]! - b.centre[axis]!);
    for (let i = from; i < to; i++) leaves[i] = part[i - from]!;
    const middle = (from + to) >> 1;
    nodes.set([...low.map((l, k) => (l + high[k]!) / 2), Math.hypot(...size) / 2, weight], at);
    nodes[at + L.LT_FIRST] = build(from, middle, id);
    nodes[at + L.LT_SECOND] = build(middle, to, id);
    return id;
  };
  if (leaves.length) build(0, leaves.length, 0);
  return nodes;
}
