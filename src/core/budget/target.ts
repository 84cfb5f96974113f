/** What a document's final is to be, as its price is told for it. */
import type { SceneDocument } from "../document/schema";
import { whiteAt } from "../optics/exposure";
import { cropOf } from "../scene/memory";
import { DARK } from "../scene/parameters";
import type { ForecastTarget } from "./forecast";

/** All but by which power errors fall, which a look says. */
export function targetOf({ film, render, ...doc }: SceneDocument): Omit<ForecastTarget, "falls"> {
  const [x0, y0, x1, y1] = cropOf({ film, render, ...doc }, ...film.size);
  const { samples, minSamples, noiseThreshold: threshold } = render;
  return { pixels: (x1 - x0) * (y1 - y0), samples, minSamples, threshold, dark: DARK * whiteAt(film.exposure) };
}

/** Whether it is the cleaned picture that is judged; one that is not cleaned is as it was rendered. */
export const judgesCleaned = ({ render, film: { cleanUp } }: SceneDocument): boolean =>
  render.noiseThreshold !== null && render.thresholdOf === "cleaned" && cleanUp.air + cleanUp.surfaces > 0;
