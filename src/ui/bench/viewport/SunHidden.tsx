/** While the sun is dragged: hatches the part of the frame where geometry would hide it. */
import { contextOf } from "../../shared/canvas";
import { useEffect, useRef } from "react";
import { coverage, frameOfFilm } from "#core/film/film";
import { useBench, useSession } from "../model/context";
import { placeCanvas } from "./place-canvas";

/** Pixels between lines of the hatching. */
const PITCH = 7;

export function SunHidden() {
  const { session } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  // the picture starts over with every move of the sun; what stands in the frame does not
  const full = useSession((s) => ((s.statistics?.samples ?? 0) >= 1 ? s.size[0] * 100_000 + s.size[1] : 0));
  useEffect(() => {
    if (full === 0) return;
    const film = session.live();
    const c = canvas.current;
    if (!film || !c || film.width === 0) return;
    c.width = film.width;
    c.height = film.height;
    placeCanvas(c, frameOfFilm(film), film.width, film.height);
    const image = new ImageData(film.width, film.height);
    for (let y = 0; y < film.height; y++)
      for (let x = 0; x < film.width; x++) {
        const i = y * film.width + x;
        const share = coverage(film, i);
        if (share === null || share < 0.5 || (x + y) % PITCH > 0) continue;
        image.data.set([255, 255, 255, 110], 4 * i);
      }
    contextOf(c).putImageData(image, 0, 0);
    c.dataset.hidden = "drawn";
  }, [session, full]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label="Hatched: where the set would hide the sun"
      className="pointer-events-none absolute inset-0 h-full w-full"
    />
  );
}
