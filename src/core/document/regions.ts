/** What the regions of media have in common. */
import { unreachable } from "../layout/codes";
import type { V3 } from "../math/vectors";
import { AXES } from "../math/vectors";
import { rotationOf } from "../math/rotation";
import type { Bounds } from "./framing";
import type { Region } from "./air";

/** Half the size (m) of a region along its own axes; null of one whose size is not its own. */
export function halfSizeOf(region: Region): V3 | null {
  switch (region.kind) {
    case "box":
      return [region.size[0] / 2, region.size[1] / 2, region.size[2] / 2];
    case "sphere":
      return [region.radius, region.radius, region.radius];
    case "cylinder":
    case "cone":
      return [region.radius, region.height / 2, region.radius];
    case "everywhere":
    case "layer":
    case "mesh":
      return null;
    default:
      return unreachable(region, "region");
  }
}

/** Bounds (m) of a region along the axes of the scene; null of one whose place is not its own. */
export function boundsOfRegion(region: Region): Bounds | null {
  const half = halfSizeOf(region);
  if (!half || !("centre" in region)) return null;
  const turn = "rotation" in region ? rotationOf(region.rotation) : null;
  const reach = AXES.map((k) => (turn ? half.reduce((a, h, c) => a + Math.abs(turn[3 * k + c]!) * h, 0) : half[k]));
  return [...region.centre.map((c, k) => c - reach[k]!), ...region.centre.map((c, k) => c + reach[k]!)] as Bounds;
}
