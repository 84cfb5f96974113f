/**
 * Weights by which air that is sampled at every few pixels is joined to the surfaces of all: by place, by how alike surfaces lie in the air,
 * and by how dense it is (joint bilateral upsampling, Kopf et al. 2007, with distance and opacity as guides).
 */

/** How soon pixels at other distances, partly covered, or behind other air count for less. */
const BY_DISTANCE: f64 = 100.0;
const BY_COVER: f64 = 16.0;
const BY_OPACITY: f64 = 10.0;
/** Opacity below which air is not told from other thin air, and by which factor it makes light stronger or weaker at most. */
const THIN: f64 = 0.03;
const FAINT: f64 = 0.005;
const MOST_GAIN: f64 = 4.0;
/** Weight that is left to those that are not alike at all: near a lamp, light changes more by place than by what stands in it. */
const LEAST: f64 = 0.02;

/** Pixels each way that a pixel takes air from: the support of the cubic B-spline. */
export const JOIN_REACH: i32 = 4;

/** Cubic B-spline at a distance. */
export function spline(x: f64): f64 {
  const a = Math.abs(x);
  if (a < 1.0) return 2.0 / 3.0 - a * a * (1.0 - 0.5 * a);
  return a < 2.0 ? ((2.0 - a) * (2.0 - a) * (2.0 - a)) / 6.0 : 0.0;
}

/** What tells two pixels apart by their surfaces: the shares that these cover, and distances (m, where they cover any). */
export function unlikeSurfaces(coverP: f64, distanceP: f64, coverQ: f64, distanceQ: f64): f64 {
  const c = coverP - coverQ;
  if (coverP <= 0.0 || coverQ <= 0.0) return BY_COVER * c * c;
  const d = (2.0 * (distanceP - distanceQ)) / (distanceP + distanceQ);
  return BY_COVER * c * c + BY_DISTANCE * d * d * Math.min(coverP, coverQ);
}

/** What tells two pixels apart by the opacity of the air before them, in a band. */
export function unlikeOpacity(p: f64, q: f64): f64 {
  const d = (q - p) / (THIN + Math.abs(p));
  return BY_OPACITY * d * d;
}

/** Weight of pixels that are so unlike. */
export function likeness(unlike: f64): f64 {
  const like = 1.0 / (1.0 + unlike);
  return like * like + LEAST;
}

/** By how much air is brighter than that about it, as it is denser. */
export function gainByOpacity(own: f64, about: f64): f64 {
  return Math.min(MOST_GAIN, Math.max(1.0 / MOST_GAIN, (Math.max(0.0, own) + FAINT) / (Math.max(0.0, about) + FAINT)));
}
