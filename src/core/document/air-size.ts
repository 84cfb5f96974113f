/** Size at which the air of a picture is sampled. */
import type { AirSize } from "./kinds";
import type { SceneDocument } from "./schema";

/** Every how many pixels each way the air is sampled, by its size. */
export const AIR_EVERY: Readonly<Record<AirSize, number>> = { full: 1, half: 2, quarter: 4 };

/** The same document with its air at full size. */
export const wholeAir = (doc: SceneDocument): SceneDocument =>
  doc.render.airSize === "full" ? doc : { ...doc, render: { ...doc.render, airSize: "full" } };
