/**
 * How much light microfacets give back in all: GGX with height-correlated Smith shadowing (Heitz 2014), one bounce. The kernel
 * compares with it what several bounces and the body below may add, so that no surface gives back more or less than it gets.
 */
import { ALBEDO_NODES, SMOOTHEST } from "../layout/materials";
import { memoize } from "../math/memoize";

/** Points of the quadrature along each of its two variables. */
const POINTS = 24;

const smith = (alpha: number, cos: number): number =>
  0.5 * (Math.sqrt(1 + (alpha * alpha * (1 - cos * cos)) / Math.max(cos * cos, 1e-12)) - 1);

/** Roughness² of a row of the tables; rows are even in the roughness. */
export const alphaOfRow = (row: number): number => {
  const low = Math.sqrt(1 / SMOOTHEST);
  return (low + ((1 - low) * row) / (ALBEDO_NODES - 1)) ** 2;
};
/**
 * Place of a cosine along a row, 0 to 1. What changes near the grazing angle does so within cosines of about alpha, fastest at 0; what
 * follows falls off with alpha over the cosine.
 */
export const placeOfCos = (cos: number, alpha: number): number => Math.sqrt(1 - Math.sqrt((alpha * Math.max(0, 1 - cos)) / (cos + alpha)));
/** Cosine of a column: inverse of {@link placeOfCos}. */
export const cosOfColumn = (column: number, alpha: number): number => {
  const s2 = (1 - (column / (ALBEDO_NODES - 1)) ** 2) ** 2;
  return Math.max(1e-4 * alpha, (alpha * (1 - s2)) / (s2 + alpha));
};

/**
 * Mean over the facets that are seen from a direction (drawn by the caps of Dupuy and Benyoub 2023, on an even grid) of what
 * `use` says of a half vector by the cosine at it, its z, and its weight.
 */
function overVisible(alpha: number, cos: number, use: (vh: number, hz: number, weight: number) => number): number {
  const sin = Math.sqrt(Math.max(0, 1 - cos * cos));
  const l = Math.hypot(alpha * sin, cos);
  const [sx, sz] = [(alpha * sin) / l, cos / l];
  let sum = 0,
    all = 0;
  for (let i = 0; i < POINTS; i++) {
    // half the circle: the other half mirrors it
    const phi = (Math.PI * (i + 0.5)) / POINTS;
    // each row of points lies otherwise, so that no border falls between the same points of all
    const shift = (0.5 + i * 0.6180339887498949) % 1;
    const c = Math.cos(phi),
      s = Math.sin(phi);
    for (let j = 0; j < POINTS; j++) {
      // steps by the square: denser where facets lean far over, and throw light below the horizon
      const t = (j + shift) / POINTS;
      const w = (1 + sz) * t * t;
      const r = Math.sqrt(Math.max(0, 1 - (w - sz) ** 2));
      const x = alpha * (r * c + sx),
        y = alpha * r * s;
      const k = 1 / Math.max(1e-12, Math.sqrt(x * x + y * y + w * w));
      sum += t * use(k * Math.max(0, x * sin + w * cos), k * w, t);
      all += t;
    }
  }
  return sum / all;
}

export interface FacetAlbedo {
  /** Share of light given back by facets that are perfect mirrors, rows of alphaOfRow, columns of cosOfColumn. */
  mirror: Float32Array;
  /**
   * Mean of (1 - v·h)⁵ in what mirrors give back, which Schlick's formula needs: its fifth root, less one minus the cosine that it
   * is for smooth surfaces.
   */
  schlick: Float32Array;
  /** Per row: cosine-weighted means over the hemisphere of the first, and of the first times the fifth power of the second. */
  means: Float32Array;
}

const at = (t: ArrayLike<number>, row: number, x: number): number => {
  const f = Math.max(0, Math.min(1, x)) * (ALBEDO_NODES - 1);
  const i = Math.min(ALBEDO_NODES - 2, Math.floor(f));
  const a = t[row * ALBEDO_NODES + i] ?? 0;
  return a + (f - i) * ((t[row * ALBEDO_NODES + i + 1] ?? 0) - a);
};

const kept = memoize<FacetAlbedo>(1);

/** Tables of {@link FacetAlbedo}; made once. */
export function facetAlbedo(): FacetAlbedo {
  return kept("", () => {
    const n = ALBEDO_NODES;
    const mirror = new Float32Array(n * n),
      schlick = new Float32Array(n * n),
      means = new Float32Array(2 * n);
    for (let row = 0; row < n; row++) {
      const alpha = alphaOfRow(row);
      // what is given back, and what of it by (1 - v·h)⁵
      const back = (cos: number): [number, number] => {
        const seen = smith(alpha, cos);
        let fifth = 0,
          weights = 0;
        const all = overVisible(alpha, cos, (vh, hz, weight) => {
          weights += weight;
          const lz = 2 * vh * hz - cos;
          if (lz <= 0) return 0;
          const share = (1 + seen) / (1 + seen + smith(alpha, lz));
          fifth += weight * share * (1 - vh) ** 5;
          return share;
        });
        return [all, fifth / weights];
      };
      for (let column = 0; column < n; column++) {
        const cos = cosOfColumn(column, alpha);
        const [all, fifth] = back(cos);
        mirror[row * n + column] = all;
        schlick[row * n + column] = (fifth / Math.max(1e-9, all)) ** 0.2 - (1 - cos);
      }
      // over what the kernel reads between the nodes, so that what is given back and what is taken agree
      const STEPS = 512;
      for (let i = 0; i < STEPS; i++) {
        const cos = (i + 0.5) / STEPS;
        const x = placeOfCos(cos, alpha);
        const e = at(mirror, row, x);
        means[2 * row] = (means[2 * row] ?? 0) + (2 * cos * e) / STEPS;
        means[2 * row + 1] = (means[2 * row + 1] ?? 0) + (2 * cos * e * Math.max(0, at(schlick, row, x) + 1 - cos) ** 5) / STEPS;
      }
    }
    return { mirror, schlick, means };
  });
}

/** Reflectance of a dielectric (Fresnel) at a cosine. @param eta index on the far side over that on this side */
export function fresnel(cos: number, eta: number): number {
  const s2 = (1 - cos * cos) / (eta * eta);
  if (s2 >= 1) return 1;
  const t = Math.sqrt(1 - s2);
  const [a, b] = [(cos - eta * t) / (cos + eta * t), (t - eta * cos) / (t + eta * cos)];
  return 0.5 * (a * a + b * b);
}

const keptGlass = memoize<Float32Array>(64);

/**
 * Share of light that a face of clear glass reflects and refracts in one meeting with its facets (Walter et al. 2007): 1 where it is
 * smooth. Rows and columns as of the mirrors' table. @param eta as of {@link fresnel}
 */
export function glassAlbedo(eta: number): Float32Array {
  return keptGlass(String(eta), () => {
    const n = ALBEDO_NODES;
    const out = new Float32Array(n * n);
    for (let row = 0; row < n; row++)
      for (let column = 0; column < n; column++) {
        const alpha = alphaOfRow(row);
        const cos = cosOfColumn(column, alpha);
        const seen = smith(alpha, cos);
        out[row * n + column] = overVisible(alpha, cos, (vh, hz) => {
          const f = fresnel(vh, eta);
          const back = 2 * vh * hz - cos;
          const reflected = back > 0 ? (f * (1 + seen)) / (1 + seen + smith(alpha, back)) : 0;
          if (f >= 1) return reflected;
          // below the face
          const t = Math.sqrt(Math.max(0, 1 - (1 - vh * vh) / (eta * eta)));
          const down = (vh / eta - t) * hz - cos / eta;
          return reflected + (down < 0 ? (1 - f) / (1 + smith(alpha, down)) : 0);
        });
      }
    return out;
  });
}
