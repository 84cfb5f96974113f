/** Microfacets: distribution, shadowing, and what they give back in all (tables of optics/microfacets.ts). */
import { MIN_SINE2 } from "./precision";
import {
  ALBEDO_NODES,
  ALBEDO_TABLE,
  FACET_MEANS,
  FACET_MIRROR,
  FACET_SCHLICK,
  P_FACET_ALBEDO,
  P_GLASS_ALBEDO,
  SMOOTHEST,
} from "../../layout/layout";
import { paramAddress } from "./state";

const INV_PI: f64 = 0.3183098861837907;
/** Roughness of the smoothest surface, and rows of the tables per unit of roughness. */
const FIRST: f64 = Math.sqrt(1.0 / <f64>SMOOTHEST);
const ROWS: f64 = <f64>(ALBEDO_NODES - 1) / (1.0 - FIRST);

/** Roughness² of the surface last read. */
export let alpha: f64 = 1.0;
// its row in the tables, and its share of the next
let row: usize = 0,
  part: f64 = 0.0;

/** Sets the roughness that what follows is asked for. */
export function setRoughness(rough: f64): void {
  const r = Math.max(FIRST, Math.min(1.0, rough));
  alpha = r * r;
  const f = (r - FIRST) * ROWS;
  const i = Math.min(<f64>(ALBEDO_NODES - 2), Math.floor(f));
  row = <usize>(<i32>i);
  part = f - i;
}

/** A table between its nodes; x from 0 to 1 along the columns. */
// @ts-ignore: decorator
@inline
function between(table: usize, x: f64): f64 {
  const f = Math.max(0.0, Math.min(1.0, x)) * <f64>(ALBEDO_NODES - 1);
  const i = Math.min(<f64>(ALBEDO_NODES - 2), Math.floor(f));
  const t = f - i;
  const p = table + ((row * ALBEDO_NODES + <usize>(<i32>i)) << 2),
    q = p + (ALBEDO_NODES << 2);
  const a = <f64>load<f32>(p),
    b = <f64>load<f32>(q);
  const c = a + (<f64>load<f32>(p, 4) - a) * t,
    d = b + (<f64>load<f32>(q, 4) - b) * t;
  return c + (d - c) * part;
}

/** Place of a cosine in the tables (placeOfCos in optics/microfacets.ts). */
// @ts-ignore: decorator
@inline
function spread(cos: f64): f64 {
  return Math.sqrt(1.0 - Math.sqrt((alpha * Math.max(0.0, 1.0 - cos)) / (cos + alpha)));
}

/** Set by readAlbedo(): share of light that facets which are perfect mirrors give back in one bounce. */
export let mirrored: f64 = 1.0;
/** Set by readAlbedo(): mean of (1 - v·h)⁵ in that; Schlick's formula with it is the share of other facets. */
export let schlickMean: f64 = 0.0;

/** Reads what facets give back, seen or lit from a cosine. */
export function readAlbedo(cos: f64): void {
  const tables = paramAddress(P_FACET_ALBEDO);
  const x = spread(cos);
  mirrored = between(tables + (FACET_MIRROR << 2), x);
  const b = Math.max(0.0, between(tables + (FACET_SCHLICK << 2), x) + 1.0 - cos);
  const b2 = b * b;
  schlickMean = b2 * b2 * b;
}

/** Cosine-weighted means over the hemisphere of mirrored (0), and of it times schlickMean (1). */
export function albedoMean(which: i32): f64 {
  const p = paramAddress(P_FACET_ALBEDO) + ((<usize>(FACET_MEANS + which)) << 2) + (row << 3);
  const a = <f64>load<f32>(p);
  return a + (<f64>load<f32>(p, 8) - a) * part;
}

/** Share of light that a face of clear glass reflects and refracts in one meeting with its facets. @param table as MT_GLASS_TABLE */
export function glassAlbedo(table: i32, inside: bool, cos: f64): f64 {
  const at = paramAddress(P_GLASS_ALBEDO) + <usize>(2 * table + (inside ? 1 : 0)) * (ALBEDO_TABLE << 2);
  return between(at, spread(cos));
}

/** Smith's Λ: what facets hide of each other from a cosine. */
// @ts-ignore: decorator
@inline
export function smithLambda(c: f64): f64 {
  const c2 = c * c;
  return 0.5 * (Math.sqrt(1.0 + (alpha * alpha * (1.0 - c2)) / Math.max(c2, MIN_SINE2)) - 1.0);
}

/** GGX distribution of half vectors at a cosine from the normal, 1/sr. */
// @ts-ignore: decorator
@inline
export function ggx(ch: f64): f64 {
  const a2 = alpha * alpha;
  const q = ch * ch * (a2 - 1.0) + 1.0;
  return (a2 * INV_PI) / (q * q);
}
