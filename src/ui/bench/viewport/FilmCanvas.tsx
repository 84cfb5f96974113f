/** One film on a canvas: the live one as it comes, or a proof's, developed as its document says. */
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { NO_FINISH } from "#core/film/finish";
import type { Film } from "#core/film/film";
import type { PassName } from "#core/film/passes";
import type { SceneDocument } from "#core/document/schema";
import { useStore } from "zustand";
import { contextOf } from "../../shared/canvas";
import { useBench, useDocument, useLut, useSession, useView } from "../model/context";
import type { Developed } from "../model/film-readings";
import type { Shown } from "../model/view";
import { Painter } from "./painter";
import { placeCanvas } from "./place-canvas";

/** Pixels of the screen from which on those of a film are shown as squares. */
const SQUARES = 2.5;

/** Puts a developed film on a canvas, where it lies in the frame; outside its crop what was there stays. */
function put(canvas: HTMLCanvasElement, { pixels, width, height, crop, frame, cleaned }: Developed): void {
  if (canvas.width !== width || canvas.height !== height) {
    canvas.width = width;
    canvas.height = height;
  }
  placeCanvas(canvas, frame, width, height);
  const [x0, y0, x1, y1] = crop;
  contextOf(canvas).putImageData(new ImageData(pixels, width, height), 0, 0, x0, y0, x1 - x0, y1 - y0);
  canvas.dataset.cleaned = cleaned ? "yes" : "no";
  canvas.dataset.part = isPart(frame, width, height) ? "yes" : "no";
  sharpen(canvas);
}

/** Whether a picture is a window of its frame; of half the pixels, they may be rounded up. */
const isPart = (frame: Developed["frame"], width: number, height: number): boolean => width < frame.width || height < frame.height;

const marks = new WeakMap<object, number>();
let marked = 0;

/** A word that is the same for the same things. */
function markOf(...of: (object | null | undefined)[]): string {
  return of
    .map((thing) => {
      if (thing && !marks.has(thing)) marks.set(thing, ++marked);
      return thing ? marks.get(thing) : 0;
    })
    .join(" ");
}

/** Shows the pixels of much enlarged pictures as they are. */
function sharpen(canvas: HTMLCanvasElement): void {
  canvas.style.imageRendering = canvas.clientWidth > SQUARES * canvas.width ? "pixelated" : "auto";
}

/** Keeps the whole picture under a window of it that is about to come. */
function keepUnder(under: HTMLCanvasElement | null, canvas: HTMLCanvasElement, next: Developed): void {
  if (!under) return;
  const whole = !isPart(next.frame, next.width, next.height);
  if (whole) under.width = under.height = 0;
  else if (canvas.dataset.part === "no") {
    under.width = canvas.width;
    under.height = canvas.height;
    contextOf(under).drawImage(canvas, 0, 0);
  }
}

/**
 * @param p.proof the document that a kept film is developed by @param p.clip which part of it is shown, as CSS
 * @param p.width how wide the frame is drawn, pixels of the screen
 */
export function FilmCanvas(p: {
  what: Shown;
  pass: PassName;
  proof: SceneDocument | undefined;
  clip?: string;
  /** Without its finish. */
  plain?: boolean;
  width: number;
  /** Told what the grey levels of each picture are told against. */
  onUsual?(of: Pick<Developed, "pass" | "usual" | "light">): void;
  label: string;
  onError(message: string): void;
}) {
  const { session, proofs, store } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const under = useRef<HTMLCanvasElement>(null);
  const tick = useSession((s) => (p.what === "live" ? s.exposure : 0));
  const tones = useView((s) => s.tones);
  const raw = useView((s) => s.raw || !s.clean);
  const [loaded, setLoaded] = useState<{ of: Shown; film: Film } | null>(null);
  const painter = useRef<Painter | null>(null);
  const light = useView((s) => s.light);
  const { what, pass, onError, onUsual } = p;

  useLayoutEffect(() => {
    const own = new Painter(
      session.films,
      (picture) => {
        const c = canvas.current;
        if (!c) return;
        keepUnder(under.current, c, picture);
        put(c, picture);
        onUsual?.(picture);
      },
      (of) => session.overwritten(of),
      {
        drawn(of, newest) {
          const c = canvas.current;
          if (!c) return;
          c.dataset.drawn = String(of);
          if (newest) c.dataset.fresh = "yes";
          if (what === "live") session.drew(of);
        },
        failed: (error) => onError(`It could not be developed: ${error.message}`),
      },
    );
    painter.current = own;
    return () => own.dispose();
  }, [session, what, onError, onUsual]);

  useLayoutEffect(() => {
    if (canvas.current) sharpen(canvas.current);
  }, [p.width]);

  useEffect(() => {
    if (what === "live") return;
    let current = true;
    void proofs
      .film(what)
      ?.then((film) => current && setLoaded({ of: what, film }))
      .catch((e: unknown) => current && onError((e as Error).message));
    return () => {
      current = false;
    };
  }, [what, proofs, onError]);
  // until it is there, the picture that was shown before stays, and is said not to be it
  const film = loaded?.of === what ? loaded.film : null;

  const live = useDocument();
  // while its development is dragged, what is asked for has to come at once
  const from = useStore(store.held, (s) => s.from);
  const covered = useSession((s) => s.covered !== null);
  const dragged = what === "live" && covered && from !== null && from.film !== live.film ? from : null;
  const made = p.proof ?? live;
  const { exposure, whiteBalance, tint, balance } = made.film;
  const finish = p.plain ? NO_FINISH : made.film.finish;
  const ownLut = useLut(made);
  const lut = p.plain ? null : ownLut;
  // with the commit that says so: what tells that a picture is finished tells that its drawing is asked for
  useLayoutEffect(() => {
    const kept = what === "live" ? session.shown() : film;
    const f = kept && raw ? { ...kept, cleaned: null } : kept;
    if (!canvas.current) return;
    canvas.current.dataset.fresh = "no";
    if (!f || f.width === 0) return;
    const half = dragged && markOf(dragged, f.data, f.cleaned?.air);
    painter.current?.ask({ film: f, look: { pass, exposure, whiteBalance, tint, finish, balance, light, lut, tones, half }, tick });
  }, [tick, film, what, pass, tones, raw, exposure, whiteBalance, tint, finish, balance, light, lut, dragged, session, onError]);

  return (
    <div className="absolute inset-0 overflow-hidden" style={{ clipPath: p.clip }}>
      <canvas ref={under} aria-hidden width={0} height={0} className="absolute inset-0 h-full w-full" />
      <canvas ref={canvas} role="img" aria-label={p.label} data-shown={p.what} className="absolute inset-0 h-full w-full" />
      {what !== "live" && !film && (
        <p role="status" className="delayed absolute inset-0 flex items-center justify-center bg-base-200/70 text-sm">
          Loading the proof …
        </p>
      )}
    </div>
  );
}
