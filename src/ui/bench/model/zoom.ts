/** Where a zoomed picture lies in its place on screen, which part of it is seen, and in which pixels that is rendered. */
import type { FrameWindow } from "#core/film/film";

/** How much larger than its place the picture is drawn, and which place of the frame (shares) is in the middle. Null: it fits. */
export interface Zoom {
  scale: number;
  x: number;
  y: number;
}
export type Pair = readonly [width: number, height: number];

/** Most that a picture is enlarged. */
export const MOST_ZOOM = 40;
/** What a key, and a pixel of the wheel, enlarge by. */
export const ZOOM_STEP = Math.SQRT2;
export const ZOOM_WHEEL = 0.0016;

/** The largest box of the frame's shape in a place of so many pixels, a border left free. */
export function fitBox(frame: Pair, place: Pair, border: number): [number, number] {
  const scale = Math.min((place[0] - border) / frame[0], (place[1] - border) / frame[1]);
  return [Math.max(16, Math.round(frame[0] * scale)), Math.max(16, Math.round(frame[1] * scale))];
}

/** Where a picture that is `fit` large when it fits lies in its place: pixels from the place's upper left. */
export function zoomedBox(fit: Pair, place: Pair, zoom: Zoom | null): { left: number; top: number; width: number; height: number } {
  const [width, height] = zoom ? [fit[0] * zoom.scale, fit[1] * zoom.scale] : fit;
  const { x, y } = zoom ?? { x: 0.5, y: 0.5 };
  return { left: place[0] / 2 - x * width, top: place[1] / 2 - y * height, width, height };
}

/** The same zoom with no more beyond the picture's border in sight than has to be; null where that is all of it. */
export function keptInside(zoom: Zoom, fit: Pair, place: Pair): Zoom | null {
  const scale = Math.min(MOST_ZOOM, zoom.scale);
  if (scale < 1.005) return null;
  const along = (at: number, k: 0 | 1): number => {
    const half = place[k] / 2 / (fit[k] * scale);
    return half >= 0.5 ? 0.5 : Math.max(half, Math.min(1 - half, at));
  };
  return { scale, x: along(zoom.x, 0), y: along(zoom.y, 1) };
}

/** Zoomed by a factor more, so that a place of the frame (shares) stays where it is on screen. */
export function zoomedAbout(zoom: Zoom | null, factor: number, at: { x: number; y: number }, fit: Pair, place: Pair): Zoom | null {
  const { scale, x, y } = zoom ?? { scale: 1, x: 0.5, y: 0.5 };
  const next = Math.max(1, Math.min(MOST_ZOOM, scale * factor));
  const toward = (from: number, to: number): number => to + ((from - to) * scale) / next;
  return keptInside({ scale: next, x: toward(x, at.x), y: toward(y, at.y) }, fit, place);
}

/** The same zoom with a place of the frame in sight. */
export function inSight(zoom: Zoom, at: { x: number; y: number }, fit: Pair, place: Pair): Zoom | null {
  const along = (from: number, to: number, k: 0 | 1): number => {
    const half = (0.45 * place[k]) / (fit[k] * zoom.scale);
    return Math.max(to - half, Math.min(to + half, from));
  };
  return keptInside({ ...zoom, x: along(zoom.x, at.x, 0), y: along(zoom.y, at.y, 1) }, fit, place);
}

/** Pixels that the live picture is rendered in. */
export interface Pixels {
  width: number;
  height: number;
  /** Null: the whole frame. */
  frame: FrameWindow | null;
}

/** Most pixels a side of the live picture gets, whatever the window, for each of the screen's that it has. */
const MOST_PIXELS = 1600;

/**
 * Pixels of the live picture: those of its place, finer or coarser as is asked; where it is rendered at what is seen, the part in sight as
 * fine as it is drawn, but no finer than the frame is wanted at in the end.
 * @param film pixels of the finished frame @param fineness pixels rendered for each of the screen's
 */
export function pixelsOf(
  film: Pair,
  fit: Pair,
  place: Pair,
  { zoom, seenOnly, fineness }: { zoom: Zoom | null; seenOnly: boolean; fineness: number },
): Pixels {
  const whole = fineness * Math.min(1, MOST_PIXELS / Math.max(...fit));
  const usual: Pixels = { width: Math.max(8, Math.round(fit[0] * whole)), height: Math.max(8, Math.round(fit[1] * whole)), frame: null };
  if (!zoom || !seenOnly) return usual;
  const enlarged = Math.min(fineness * zoom.scale, Math.max(film[0] / fit[0], whole));
  if (enlarged <= 1.02 * whole) return usual;
  const width = Math.round(fit[0] * enlarged),
    height = Math.round(fit[1] * enlarged);
  const box = zoomedBox(fit, place, zoom);
  const span = (at: number, length: number, size: number, pixels: number): [number, number] => {
    const from = Math.max(0, Math.min(pixels - 1, Math.floor((-at / length) * pixels)));
    const to = Math.max(from + 1, Math.min(pixels, Math.ceil(((size - at) / length) * pixels)));
    return [from, Math.min(to, from + MOST_PIXELS)];
  };
  const [x0, x1] = span(box.left, box.width, place[0], width);
  const [y0, y1] = span(box.top, box.height, place[1], height);
  return { width: x1 - x0, height: y1 - y0, frame: { x: x0, y: y0, width, height } };
}

/** The zoom at which a pixel of the finished frame is one of the screen, about a place; null where the frame fits so. */
export function pixelZoom(film: Pair, at: { x: number; y: number }, fit: Pair, place: Pair): Zoom | null {
  return keptInside({ scale: film[0] / fit[0], ...at }, fit, place);
}

/** Columns and rows of so many pictures in a place, for which they are largest. */
export function gridOf(count: number, frame: Pair, place: Pair): [columns: number, rows: number] {
  const ways: [number, number][] = count <= 1 ? [[1, 1]] : count === 2 ? [[2, 1], [1, 2]] : [[2, 2]]; // prettier-ignore
  const size = ([c, r]: [number, number]): number => Math.min(place[0] / c / frame[0], place[1] / r / frame[1]);
  return ways.sort((a, b) => size(b) - size(a))[0]!;
}
