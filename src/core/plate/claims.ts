/** What a picture's depth says of itself, against what its maker says of it. */
import { readDepth, type DepthClaim } from "./depth";
import { groundOf, type Ground } from "./ground";
import { heldBy, horizonOf, type PlateLens } from "./lens";

export interface DepthReport {
  /** Shares of the pixels that are sky, and whose number says nothing. */
  sky: number;
  unknown: number;
  /** Nearest and farthest distance along a ray, m; null where nothing is there. */
  near: number | null;
  far: number | null;
  ground: (Ground & { tilt: number; roll: number; horizon: { left: number; right: number } | null }) | null;
  /** What is not as it was said, in words. */
  doubts: string[];
}

/** How many more points of a plane another meaning must tell, and how many it must tell at least, to be believed rather. */
const RATHER = 1.3,
  ENOUGH = 0.25;
/** Shares from which on it is said. */
const MANY = 0.02;
/** Heights of a lens that people stand at, or cranes; m. Others are said to be unusual. */
const HEIGHTS = [0.05, 400] as const;

export function depthReport(values: Float32Array, lens: PlateLens, claim: DepthClaim): DepthReport {
  const read = readDepth(values, lens, claim);
  const n = values.length;
  let [near, far] = [Infinity, 0];
  for (const d of read.distance)
    if (d < Infinity) {
      if (d < near) near = d;
      if (d > far) far = d;
    }
  const ground = groundOf(read.distance, lens);
  const doubts: string[] = [];
  if (far === 0) doubts.push("Nothing has a distance: all of it is sky, or says nothing.");
  else if (near === far) doubts.push(`All of it lies ${near.toPrecision(3)} m away: a depth of one number.`);
  if (read.unknown / n > MANY)
    doubts.push(`${(100 * (read.unknown / n)).toPrecision(2)} % of it says nothing (no number, or none above 0): taken for sky.`);
  const other = otherMeaning(values, lens, claim, ground);
  if (other) doubts.push(other);
  if (ground && (ground.height < HEIGHTS[0] || ground.height > HEIGHTS[1]))
    doubts.push(
      `The lens would stand ${ground.height.toPrecision(3)} m over the ground: the unit is hardly ${claim.metres === 1 ? "a metre" : `${claim.metres} m`}.`,
    );
  return {
    ...{ sky: read.sky / n, unknown: read.unknown / n, near: far > 0 ? near : null, far: far > 0 ? far : null, doubts },
    ground: ground && { ...ground, ...heldBy(ground.up), horizon: horizonOf(lens, ground.up) },
  };
}

/** What the depth rather is, by the flatness of its ground; null where it is as it was said, or cannot be told. */
function otherMeaning(values: Float32Array, lens: PlateLens, claim: DepthClaim, as: Ground | null): string | null {
  const said = as?.share ?? 0;
  const rather = (other: DepthClaim): boolean => {
    const found = groundOf(readDepth(values, lens, other).distance, lens);
    return found !== null && found.share > ENOUGH && found.share > RATHER * said;
  };
  const along = claim.along === "axis" ? "ray" : "axis";
  if (rather({ ...claim, along }))
    return `The ground is bent as it was said, and flat where depth is ${along === "ray" ? "along the ray of each pixel" : "along the axis of the lens"}.`;
  if (!claim.range && rather({ ...claim, inverted: !claim.inverted }))
    return claim.inverted
      ? "The ground is flat where numbers are depth, not one over it."
      : "The ground is flat where numbers are one over depth.";
  if (claim.range && rather({ ...claim, inverted: !claim.inverted }))
    return "The ground is flat where near and far are the other way about.";
  return null;
}
