/** What microfacets give back in all, as the kernel reads it. */
import type { SurfaceMaterial } from "../data/geometry";
import * as L from "../layout/layout";
import { memoize } from "../math/memoize";
import { facetAlbedo, glassAlbedo } from "../optics/microfacets";

const block = memoize<Float32Array>(1);
const pairs = memoize<Float32Array>(8);

/** The block at P_FACET_ALBEDO. */
export const facetBlock = (): Float32Array =>
  block("", () => {
    const { mirror, schlick, means } = facetAlbedo();
    const out = new Float32Array(L.FACET_END);
    out.set(mirror, L.FACET_MIRROR);
    out.set(schlick, L.FACET_SCHLICK);
    out.set(means, L.FACET_MEANS);
    return out;
  });

/** Indices of refraction of solid glass among materials, each once: their place is their table's. */
export function glassIndices(materials: readonly SurfaceMaterial[]): number[] {
  return [...new Set(materials.flatMap((m) => (m.solid && m.transmission > 0 ? [Math.fround(m.ior)] : [])))];
}

/** The pairs of tables at P_GLASS_ALBEDO: from outside and from inside, one pair for each index of refraction. */
export function glassTables(materials: readonly SurfaceMaterial[]): Float32Array {
  const indices = glassIndices(materials);
  return pairs(indices.join(" "), () => {
    const out = new Float32Array(2 * indices.length * L.ALBEDO_TABLE);
    indices.forEach((n, i) => {
      out.set(glassAlbedo(n), 2 * i * L.ALBEDO_TABLE);
      out.set(glassAlbedo(1 / n), (2 * i + 1) * L.ALBEDO_TABLE);
    });
    return out;
  });
}
