/** Sides of a region that can be taken hold of, in any view, and what pulling one does. */
import { columns3 } from "../math/matrix";
import { halfSizeOf } from "../document/regions";
import type { Medium, Region } from "../document/air";
import { dot, type Axis, sub, map3, unit, type V3 } from "../math/vectors";
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
export function regionSides(r: Region, near: Readonly<V3> = [0, 0, 0]): Side[] {
  if (r.kind === "layer") {
    const up = unit(r.up);
    const above = dot(up, near) - r.level;
    return [{ name: "Border", at: map3(up, (u, k) => near[k] - above * u), direction: up }];
  }
  if (!("centre" in r)) return [];
  const m = rotationOf("rotation" in r ? r.rotation : [0, 0, 0]);
  const reach = halfSizeOf(r);
  if (!reach) return [];
  const axes = columns3(m);
  return NAMES.map((name, i) => {
    const axis = (i >> 1) as Axis;
    const sign = i & 1 ? 1 : -1;
    const direction = map3(axes[axis], (a) => sign * a);
    // a cone is widest at its foot
    const foot = r.kind === "cone" && axis !== 1 ? -r.height / 2 : 0;
    return { name, direction, at: map3(r.centre, (c, k) => c + reach[axis] * direction[k] + foot * axes[1][k]) };
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
export function withSideAt(r: Region, index: number, to: Readonly<V3>, near?: Readonly<V3>): Region {
  const side = regionSides(r, near)[index];
  if (!side) return r;
  const by = dot(side.direction, sub(to, side.at));
  if (r.kind === "layer") return { ...r, level: Number((r.level + by).toPrecision(6)) };
  return stretched(r, side.direction, by);
}
