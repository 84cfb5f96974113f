/** Waveform of the picture as it is finished: display values up, the frame's columns across, each band in its own light. */
import { useEffect, useMemo, useRef, useState } from "react";
import type { Film } from "#core/film/film";
import type { Waveform } from "#core/film/waveform";
import type { Look } from "../../model/film-readings";
import { useBench, useDocument, useLut, useSession, useView } from "../../model/context";
import { contextOf } from "../../../shared/canvas";
import { Latest } from "../../../shared/latest";

/** Light of a display value that a thirtieth of its column has. */
const FULL = 1 / 30;
const CEILING = 235;
/** Rows of a level. */
const ROWS = 2;

function paint(canvas: HTMLCanvasElement, { columns, levels, shares }: Waveform): void {
  canvas.width = columns;
  canvas.height = ROWS * levels;
  const picture = new ImageData(columns, ROWS * levels);
  for (let y = 0; y < ROWS * levels; y++)
    for (let x = 0; x < columns; x++) {
      const o = 4 * (y * columns + x);
      const level = levels - 1 - Math.floor(y / ROWS);
      for (let band = 0; band < 3; band++)
        picture.data[o + band] = CEILING * Math.sqrt(Math.min(1, shares[(band * columns + x) * levels + level]! / FULL));
      picture.data[o + 3] = 255;
    }
  contextOf(canvas).putImageData(picture, 0, 0);
}

export function WaveformPlot() {
  const { session } = useBench();
  const doc = useDocument();
  const { exposure, whiteBalance, tint, finish, balance } = doc.film;
  const lut = useLut(doc);
  const raw = useView((s) => s.raw || !s.clean);
  const statistics = useSession((s) => s.statistics);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [shown, setShown] = useState(false);
  const asked = useMemo(
    () =>
      new Latest(async ([film, look]: [Film, Look]) => {
        await session.films.waveform(film, look).then(
          (w) => {
            if (!canvas.current) return;
            paint(canvas.current, w);
            setShown(true);
          },
          () => undefined, // the last one stays
        );
      }),
    [session],
  );
  useEffect(() => {
    const film = session.shown();
    if (!film || !statistics) return;
    asked.ask([
      raw ? { ...film, cleaned: null } : film,
      { pass: "beauty", tones: "picture", exposure, whiteBalance, tint, finish, balance, lut },
    ]);
  }, [session, asked, statistics, raw, exposure, whiteBalance, tint, finish, balance, lut]);
  return (
    <div className="relative h-20 bg-black">
      <canvas
        ref={canvas}
        role="img"
        aria-label="Waveform of the finished picture"
        data-shown={shown ? "yes" : "no"}
        title="Display values from black at the bottom to white at the top, of each column of the frame from left to right; red, green and blue add up to white where they agree."
        className="h-full w-full"
      />
      {/* quarters of the display's range */}
      {[25, 50, 75].map((at) => (
        <div
          key={at}
          aria-hidden
          className="pointer-events-none absolute inset-x-0 border-t border-base-content/15"
          style={{ top: `${at}%` }}
        />
      ))}
    </div>
  );
}
