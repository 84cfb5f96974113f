/** What a medium's break-up looks like by itself: a slice through it, and a small cloud of it. */
import { contextOf } from "../../../shared/canvas";
import { useEffect, useRef, useState } from "react";
import { drawCube } from "#core/section/cube";
import type { NoisePreview as Look } from "#core/section/probe";
import { useBench, useDocument, useSession } from "../../model/context";
import { useLengths } from "../../../shared/units";

/** Milliseconds after the last change before it is looked at. */
const PAUSE = 120;
/** Pixels of the cloud, along a side. */
const CLOUD = 120;

export function NoisePreview({ index }: { index: number }) {
  const { session, store } = useBench();
  const doc = useDocument();
  const built = useSession((s) => s.triangles);
  const [look, setLook] = useState<Look | null>(null);
  const slice = useRef<HTMLCanvasElement>(null);
  const cloud = useRef<HTMLCanvasElement>(null);
  const m = doc.air[index];
  const key = JSON.stringify([m?.noise, m?.region, doc.time, built]);
  useEffect(() => {
    let current = true;
    const timer = setTimeout(() => {
      void session.section
        .asked()
        .then((worker) => worker.noise(store.getState().document, index))
        // while the set is being built there is nothing to show; the picture says what is wrong with it
        .then(
          (l) => current && setLook(l),
          () => undefined,
        );
    }, PAUSE);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [key, index, session, store]);
  useEffect(() => {
    const [a, b] = [slice.current, cloud.current];
    if (!look || !a || !b) return;
    const n = look.sliceSide;
    paint(a, n, (i) => {
      // rows of a canvas go downwards
      const v = look.slice[(n - 1 - Math.floor(i / n)) * n + (i % n)]!;
      return [255, v];
    });
    const drawn = drawCube(look.cube, look.cubeSide, CLOUD);
    paint(b, CLOUD, (i) => {
      const [bright, covered] = [drawn[2 * i]!, drawn[2 * i + 1]!];
      return [covered > 0 ? 255 * Math.sqrt(bright / covered) : 0, covered];
    });
  }, [look]);
  const lengths = useLengths();
  const across = look ? lengths.rough(look.span) : "";
  return (
    <div className="grid grid-cols-2 gap-2 py-1">
      {(
        [
          [slice, "slice", "Slice of the break-up", "An upright slice: bright is full density, dark is clear."],
          [cloud, "cloud", "Cloud of the break-up", "A cube of it as a thick cloud, lit from above."],
        ] as const
      ).map(([ref, words, label, tooltip]) => (
        <figure key={words} title={tooltip}>
          <canvas ref={ref} role="img" aria-label={label} data-drawn={look ? "yes" : ""} className="aspect-square w-full bg-black" />
          <figcaption className="figures flex justify-between text-xs quiet">
            <span>{words}</span>
            <span>{across}</span>
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

/** Grey pixels over black. @param of value (0 to 255) and share covered of pixel i */
function paint(canvas: HTMLCanvasElement, side: number, of: (i: number) => [number, number]): void {
  canvas.width = side;
  canvas.height = side;
  const image = new ImageData(side, side);
  for (let i = 0; i < side * side; i++) {
    const [value, covered] = of(i);
    image.data.set([value, value, value, 255 * Math.max(0, Math.min(1, covered))], 4 * i);
  }
  contextOf(canvas).putImageData(image, 0, 0);
}
