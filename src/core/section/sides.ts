/** Sides of a region that can be taken hold of, in any view, and what pulling one does. */
import { halfSizeOf } from "../document/regions";
import type { Medium, Region } from "../document/air";
import { AXES, unit, type V3 } from "../math/vectors";
import { rotationOf } from "../math/rotation";
import { stretched } from "./region";

export interface Side {
  name: string;
  /** Where it is, m. */
  at: V3;
  /** Unit direction out of the region, along which it can be pulled. */
  direction: V3;
}

/** Names of the sides along the region's own axes, in the order of {@link regionSides}. */
const NAMES = ["Left side", "Right side", "Bottom", "Top", "Back", "Front"] as const;

/**
 * Sides of a region, always in the same order; none of air that is everywhere or in a mesh.
 * @param near a point (m) over which the border of a layer, which has no middle, is taken hold of
 */
export function regionSides(r: Region, near: readonly number[] = [0, 0, 0]): Side[] {
  if (r.kind === "layer") {
    const up = unit(r.up);
    const above = up.reduce((sum, u, k) => sum + u * near[k]!, 0) - r.level;
    return [{ name: "Border", at: up.map((u, k) => near[k]! - above * u) as V3, direction: up }];
  }
  if (!("centre" in r)) return [];
  const m = rotationOf("rotation" in r ? r.rotation : [0, 0, 0]);
  const reach = halfSizeOf(r);
  if (!reach) return [];
  return NAMES.map((name, i) => {
    const axis = i >> 1;
    const sign = i & 1 ? 1 : -1;
    const direction = AXES.map((k) => sign * m[3 * k + axis]!) as V3;
    // a cone is widest at its foot
    const foot = r.kind === "cone" && axis !== 1 ? -r.height / 2 : 0;
    return { name, direction, at: r.centre.map((c, k) => c + reach[axis]! * direction[k]! + foot * m[3 * k + 1]!) as V3 };
  });
}

/** Where a medium is taken hold of to move it, m: the middle of its region, or its file's origin; null of air without a place. */
export function middleOf(m: Medium): V3 | null {
  return "centre" in m.region ? m.region.centre : m.grid && m.region.kind === "everywhere" ? m.grid.position : null;
}

/** A medium moved so that its middle is at a point, m. */
export function withMiddleAt(m: Medium, p: V3): Medium {
  if ("centre" in m.region) return { ...m, region: { ...m.region, centre: p } };
  return m.grid && m.region.kind === "everywhere" ? { ...m, grid: { ...m.grid, position: p } } : m;
}

/** A region with one of its sides pulled to where a point lies along that side's direction. */
export function withSideAt(r: Region, index: number, to: readonly number[], near?: readonly number[]): Region {
  const side = regionSides(r, near)[index];
  if (!side) return r;
  const by = side.direction.reduce((sum, d, k) => sum + d * (to[k]! - side.at[k]!), 0);
  if (r.kind === "layer") return { ...r, level: Number((r.level + by).toPrecision(6)) };
  return stretched(r, side.direction, by);
}
