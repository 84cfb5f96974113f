/** The difference of front and back over the picture, with its scale. */
import { useEffect, useMemo, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { formatNumber } from "#core/document/quantities";
import { frameOfFilm } from "#core/film/film";
import { BRIGHTER, DARKER, HIDDEN, type Difference, type DifferenceKind } from "#core/film/difference";
import { contextOf } from "../../shared/canvas";
import { alongRadios } from "../../shared/controls";
import { Latest } from "../../shared/latest";
import { useBench } from "../model/context";
import type { Looked } from "../model/film-readings";
import type { Shown } from "../model/view";
import { useShownFilm } from "../model/use-shown-film";
import { placeCanvas } from "./place-canvas";

/** Each kind with its words, its scales and what one of these reads. */
const KINDS = {
  stops: { words: "stops", scales: [0.25, 0.5, 1, 2, 4], text: (v: number) => `${formatNumber(v, 2)} ${v === 1 ? "stop" : "stops"}` },
  relative: { words: "relative", scales: [0.05, 0.1, 0.25, 0.5, 1], text: (v: number) => `${formatNumber(100 * v, 2)} %` },
  deltaE: { words: "ΔE", scales: [2, 5, 10, 20, 50], text: (v: number) => `ΔE ${formatNumber(v, 2)}` },
} as const satisfies Record<DifferenceKind, { words: string; scales: readonly number[]; text(v: number): string }>;
const KIND_NAMES = Object.keys(KINDS) as DifferenceKind[];

interface Asked {
  front: Looked;
  back: Looked;
  kind: DifferenceKind;
  scale: number;
}

export function DifferenceView(p: {
  front: Shown;
  back: Shown;
  kind: DifferenceKind;
  scale: number;
  panel: HTMLElement | null;
  onError(message: string): void;
}) {
  const { session, view } = useBench();
  const front = useShownFilm(p.front, p.onError);
  const back = useShownFilm(p.back, p.onError);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [found, setFound] = useState<{ difference: Difference; kind: DifferenceKind } | null>(null);
  const { kind, scale, onError } = p;
  const asked = useMemo(
    () =>
      new Latest<Asked>(async (a) => {
        try {
          const difference = await session.films.difference(a.front, a.back, a.kind, a.scale);
          const c = canvas.current;
          // the next run asks for a picture of its own
          if (!c || [a.front, a.back].some(({ film }) => session.overwritten(film))) return;
          const { pixels, width, height } = difference;
          c.width = width;
          c.height = height;
          placeCanvas(c, frameOfFilm(a.front.film), width, height);
          contextOf(c).putImageData(new ImageData(pixels, width, height), 0, 0);
          c.dataset.kind = a.kind;
          setFound({ difference, kind: a.kind });
        } catch (error) {
          onError(`The difference could not be made: ${(error as Error).message}`);
        }
      }),
    [session, onError],
  );
  useEffect(() => () => asked.clear(), [asked]);
  useEffect(() => {
    if (front && back && front.film.width > 0 && back.film.width > 0) asked.ask({ front, back, kind, scale });
  }, [asked, front, back, kind, scale]);

  const set = (next: { kind?: DifferenceKind; scale?: number }): void => view.setState({ difference: { kind, scale, ...next } });
  const { scales, text } = KINDS[kind];
  const percent = (v: number): string => `${formatNumber(100 * v, 2)} %`;
  const panel = (
    <div
      role="group"
      aria-label="How the difference is shown"
      className="pointer-events-auto absolute bottom-2 left-2 flex max-w-[calc(100%-1rem)] flex-wrap items-center gap-x-4 gap-y-1 bg-base-200/90 px-3 py-1 text-xs"
      onPointerDown={(e) => e.stopPropagation()}
    >
      <span role="radiogroup" aria-label="Difference in" className="flex gap-2.5" onKeyDown={alongRadios}>
        {KIND_NAMES.map((name) => (
          <button
            key={name}
            role="radio"
            aria-checked={kind === name}
            tabIndex={kind === name ? 0 : -1}
            title={
              name === "deltaE"
                ? "Difference of what is seen, finish and all, as the eye judges it (CIEDE2000): 1 is just seen."
                : name === "stops"
                  ? "Exposed light in stops, before the finish."
                  : "Exposed light as a share of the brighter, before the finish."
            }
            className={`border-b-2 ${kind === name ? "border-primary" : "border-transparent quiet hover:border-base-300"}`}
            onClick={() => set({ kind: name, scale: KINDS[name].scales[2] })}
          >
            {KINDS[name].words}
          </button>
        ))}
      </span>
      <label className="flex items-center gap-1.5" title="Difference that is painted in full.">
        <span className="quiet">up to</span>
        <select
          aria-label="Scale of the difference"
          className="select select-xs w-auto"
          value={scale}
          onChange={(e) => set({ scale: Number(e.target.value) })}
        >
          {scales.map((v) => (
            <option key={v} value={v}>
              {text(v)}
            </option>
          ))}
        </select>
      </label>
      <span className="flex items-center gap-1.5">
        <i aria-hidden className="size-2.5" style={{ background: `rgb(${DARKER.join(" ")})` }} /> back darker
        <i aria-hidden className="ml-1.5 size-2.5" style={{ background: `rgb(${BRIGHTER.join(" ")})` }} /> back brighter
        <i aria-hidden className="ml-1.5 size-2.5" style={{ background: `rgb(${HIDDEN} ${HIDDEN} ${HIDDEN})` }} /> within the noise
      </span>
      {found?.kind === kind && (
        <span role="status" className="figures quiet">
          {percent(found.difference.told)} differ, {text(found.difference.rms)} RMS
          {found.difference.fitted ? "; frames of another size or shape, fitted" : ""}
        </span>
      )}
    </div>
  );
  return (
    <>
      <canvas
        ref={canvas}
        role="img"
        aria-label="Difference"
        data-shown={found ? "yes" : "no"}
        className={`absolute inset-0 h-full w-full ${found ? "" : "invisible"}`}
      />
      {p.panel && createPortal(panel, p.panel)}
    </>
  );
}
