/**
 * The height profiles of a medium, each with its integral along a ray and the inverse of that integral in
 * closed form. Relative density is 1 at and below the level and falls with the height y above it:
 * exp(-y/H), 1 - y/H, (1 - y/H)² or 1/(1 + y/H)². Lengths in metres.
 * Portable subset: compiled into the kernel too.
 */
import { HEIGHT_EXPONENTIAL, HEIGHT_INVERSE_QUADRATIC, HEIGHT_LINEAR, HEIGHT_NONE, HEIGHT_QUADRATIC } from "../layout/kinds";
import { heightDensity, heightIntegral, heightInverse } from "./height";

/** Relative density at height `y` above the level. */
export function profileDensity(shape: i32, y: f64, H: f64): f64 {
  if (shape == HEIGHT_NONE || y <= 0.0) return 1.0;
  if (shape == HEIGHT_EXPONENTIAL) return heightDensity(y, H);
  const q = y / H;
  if (shape == HEIGHT_INVERSE_QUADRATIC) return 1.0 / ((1.0 + q) * (1.0 + q));
  if (q >= 1.0) return 0.0;
  return shape == HEIGHT_LINEAR ? 1.0 - q : (1.0 - q) * (1.0 - q);
}

/** ∫ρ over `length` metres that stay between the level and, where there is one, the top. */
function within(shape: i32, y: f64, slope: f64, H: f64, length: f64): f64 {
  if (shape == HEIGHT_INVERSE_QUADRATIC) {
    const v = 1.0 + y / H;
    // written so that an endless rising ray has its finite limit
    const s = slope / H;
    if (length == Infinity) return s > 0.0 ? 1.0 / (v * s) : Infinity;
    return length / (v * (v + s * length));
  }
  const u1 = 1.0 - y / H;
  // an endless level ray keeps its density for ever
  if (length == Infinity) return u1 > 0.0 ? Infinity : 0.0;
  const u2 = Math.max(0.0, u1 - (slope * length) / H);
  if (shape == HEIGHT_LINEAR) return 0.5 * length * (u1 + u2);
  return (length * (u1 * u1 + u1 * u2 + u2 * u2)) / 3.0;
}

/** Distance at which ∫ρ reaches `depth` on a ray that stays between level and top until then; Infinity if never. */
function withinInverse(shape: i32, y: f64, slope: f64, H: f64, depth: f64): f64 {
  const s = slope / H;
  if (shape == HEIGHT_INVERSE_QUADRATIC) {
    const v = 1.0 + y / H;
    const rest = 1.0 - depth * v * s;
    return rest > 0.0 ? (depth * v * v) / rest : Infinity;
  }
  const u = 1.0 - y / H;
  if (shape == HEIGHT_LINEAR) {
    const q = u * u - 2.0 * s * depth;
    if (q < 0.0) return Infinity;
    return (2.0 * depth) / (u + Math.sqrt(q));
  }
  const c = u * u * u - 3.0 * s * depth;
  if (c < 0.0) return Infinity;
  const w = Math.cbrt(c);
  return (3.0 * depth) / (u * u + u * w + w * w);
}

/** Whether the profile ends at a top. */
function topped(shape: i32): boolean {
  return shape == HEIGHT_LINEAR || shape == HEIGHT_QUADRATIC;
}

/** ∫ρ dt (m) of a ray that starts `y` above the level and climbs `slope` metres per metre, over `length` (may be Infinity). */
export function profileIntegral(shape: i32, y: f64, slope: f64, H: f64, length: f64): f64 {
  if (shape == HEIGHT_NONE) return length;
  if (shape == HEIGHT_EXPONENTIAL) return heightIntegral(y, slope, H, length);
  if (length <= 0.0) return 0.0;
  let sum = 0.0;
  let at = 0.0;
  // from below the level
  if (y < 0.0) {
    if (slope <= 0.0) return length;
    const cross = -y / slope;
    if (cross >= length) return length;
    sum = cross;
    at = cross;
    y = 0.0;
  } else if (topped(shape) && y >= H) {
    if (slope >= 0.0) return 0.0;
    const cross = (y - H) / -slope;
    if (cross >= length) return 0.0;
    at = cross;
    y = H;
  }
  let end = length;
  let below = 0.0;
  if (slope < 0.0) {
    const cross = at + y / -slope;
    if (cross < length) {
      end = cross;
      below = length - cross;
    }
  } else if (slope > 0.0 && topped(shape)) {
    end = Math.min(end, at + (H - y) / slope);
  }
  return sum + within(shape, y, slope, H, end - at) + below;
}

/** Distance (m) along the ray at which ∫ρ dt reaches `depth` (m); Infinity if it never does. */
export function profileInverse(shape: i32, y: f64, slope: f64, H: f64, depth: f64): f64 {
  if (shape == HEIGHT_NONE) return depth;
  if (shape == HEIGHT_EXPONENTIAL) return heightInverse(y, slope, H, depth);
  let at = 0.0;
  if (y < 0.0) {
    if (slope <= 0.0) return depth;
    const cross = -y / slope;
    if (depth <= cross) return depth;
    depth -= cross;
    at = cross;
    y = 0.0;
  } else if (topped(shape) && y >= H) {
    if (slope >= 0.0) return Infinity;
    at = (y - H) / -slope;
    y = H;
  }
  if (slope < 0.0) {
    const cross = y / -slope;
    const toLevel = within(shape, y, slope, H, cross);
    if (depth > toLevel) return at + cross + (depth - toLevel);
    return at + Math.min(cross, withinInverse(shape, y, slope, H, depth));
  }
  return at + withinInverse(shape, y, slope, H, depth);
}
