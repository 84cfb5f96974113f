/** Relative density of a medium at a point: height profile × soft edge × start × nearness × grid × break-up. */
import { LEVEL_VEIL, NOISE_NONE } from "../../layout/kinds";
import {
  MEDIA,
  MEDIUM_WORDS,
  P_LEVEL,
  M_FACTOR,
  M_EDGE,
  M_HEIGHT,
  M_HEIGHT_LEVEL,
  M_HEIGHT_SCALE,
  M_HEIGHT_UP,
  M_NOISE,
  M_START,
  M_START_DISTANCE,
  M_START_FADE,
  M_START_MIN,
  M_START_LENS,
  M_VOLUME,
  M_VOLUME_ROWS,
  M_VOLUME_LOW,
  M_VOLUME_SCALE,
  M_VOLUME_CURVE,
  M_PROXIMITY,
} from "../../layout/layout";
import { profileDensity } from "../../optics/profile";
import { countLookup, paramInt, row, word, wordAddress, wordInt } from "./state";
import { noiseFactor } from "./noise";
import { volumeAt } from "./volume";
import { curve, proximity } from "./proximity";
import { depthInside } from "./region";

/** Address of medium `m`. */
// @ts-ignore: decorator
@inline
export function mediumAt(m: i32): usize {
  return <usize>MEDIA + <usize>(m * MEDIUM_WORDS * 8);
}
/** The medium at an address. */
// @ts-ignore: decorator
@inline
export function mediumOf(p: usize): i32 {
  return <i32>((p - <usize>MEDIA) / <usize>(MEDIUM_WORDS * 8));
}
/** Level veil: factors without closed form are left out. */
export let veiling: bool = false;

/** Reads from the parameters whether a run is of analytic air, which has no noise. */
export function prepareDensity(): void {
  veiling = paramInt(P_LEVEL) == LEVEL_VEIL;
}

/** Height of a point above the medium's level, along its own up. */
// @ts-ignore: decorator
@inline
export function heightOf(p: usize, x: f64, y: f64, z: f64): f64 {
  return x * word(p, M_HEIGHT_UP) + y * word(p, M_HEIGHT_UP + 1) + z * word(p, M_HEIGHT_UP + 2) - word(p, M_HEIGHT_LEVEL);
}

/** Cubic step of a share, held to 0 … 1. */
// @ts-ignore: decorator
@inline
export function smooth(t: f64): f64 {
  t = Math.max(0.0, Math.min(1.0, t));
  return t * t * (3.0 - 2.0 * t);
}

/** What multiplies the height profile at a point of the region, in [0, 1]: soft edge × start × break-up. */
export function factorAt(p: usize, x: f64, y: f64, z: f64): f64 {
  countLookup();
  let f = 1.0;
  const edge = word(p, M_EDGE);
  if (edge > 0.0) f = smooth(depthInside(p, x, y, z) / edge);
  if (wordInt(p, M_START) != 0) f *= startFactor(p, distanceFromLens(p, x, y, z));
  if (f > 0.0 && wordInt(p, M_PROXIMITY) != 0) f *= proximity(p, x, y, z);
  if (f > 0.0 && wordInt(p, M_VOLUME) != 0) f *= gridDensity(p, x, y, z);
  if (f > 0.0 && wordInt(p, M_NOISE) != NOISE_NONE) f *= noiseFactor(p, x, y, z);
  return f;
}

/** Share of full density that a medium's grid holds at a point, in [0, 1]. */
function gridDensity(p: usize, x: f64, y: f64, z: f64): f64 {
  const v = volumeAt(
    wordAddress(p, M_VOLUME),
    row(p, M_VOLUME_ROWS, x, y, z),
    row(p, M_VOLUME_ROWS + 4, x, y, z),
    row(p, M_VOLUME_ROWS + 8, x, y, z),
  );
  const share = Math.max(0.0, Math.min(1.0, (v - word(p, M_VOLUME_LOW)) * word(p, M_VOLUME_SCALE)));
  return wordInt(p, M_VOLUME_CURVE) == 0 ? share : curve(wordAddress(p, M_VOLUME_CURVE), share);
}

/** Distance (m) of a point from the lens whose start distance a medium keeps. */
export function distanceFromLens(p: usize, x: f64, y: f64, z: f64): f64 {
  const a = x - word(p, M_START_LENS),
    b = y - word(p, M_START_LENS + 1),
    c = z - word(p, M_START_LENS + 2);
  return Math.sqrt(a * a + b * b + c * c);
}

/** Share of its density a medium has at a distance (m) from the lens. */
export function startFactor(p: usize, distance: f64): f64 {
  const past = distance - word(p, M_START_DISTANCE);
  const fade = word(p, M_START_FADE);
  const lowest = word(p, M_START_MIN);
  const t = fade > 0.0 ? smooth(past / fade) : past >= 0.0 ? 1.0 : 0.0;
  return lowest + (1.0 - lowest) * t;
}

/** Relative density of a medium at a point of its region. */
export function densityAt(p: usize, x: f64, y: f64, z: f64): f64 {
  const h = profileDensity(wordInt(p, M_HEIGHT), heightOf(p, x, y, z), word(p, M_HEIGHT_SCALE));
  return h > 0.0 && wordInt(p, M_FACTOR) != 0 && !veiling ? h * factorAt(p, x, y, z) : h;
}
