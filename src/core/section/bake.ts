/** A baked medium as a file of its own. */
import type { Medium } from "../document/air";
import { extinctionOf, meanExtinction } from "../document/medium";
import type { Volume } from "../data/volume";
import { writeVdb } from "../formats/vdb";

/**
 * Extinction (1/m, weighted by luminance over the bands) at every voxel as an OpenVDB file whose grid `density` other programs take as
 * it is; the bands' own stand in its metadata. A medium without any is written as shares of its density.
 * @param share relative density, as the probe bakes it
 */
export function bakedFile(m: Medium, share: Volume): Uint8Array {
  const mean = meanExtinction(m);
  const factor = mean > 0 ? mean : 1;
  const scaled: Volume = {
    ...share,
    data: share.data.map((v) => v * factor),
    background: share.background * factor,
    min: share.min * factor,
    max: share.max * factor,
  };
  const bands = extinctionOf(m).map((e) => Number(e.toPrecision(6)));
  return writeVdb(
    { density: scaled },
    mean > 0
      ? { unit: "extinction, 1/m", extinction: `${bands.join(" ")} 1/m (red green blue) where density is ${Number(factor.toPrecision(6))}` }
      : { unit: "share of full density" },
  );
}
