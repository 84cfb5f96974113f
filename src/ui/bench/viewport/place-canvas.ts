/** Puts canvases of films where those lie in the frame. */
import type { FrameWindow } from "#core/film/film";

/** @param frame the whole frame, and where the film's first pixel lies in it */
export function placeCanvas(canvas: HTMLCanvasElement, frame: FrameWindow, width: number, height: number): void {
  const percent = (part: number, of: number): string => `${(100 * part) / of}%`;
  Object.assign(canvas.style, {
    left: percent(frame.x, frame.width),
    top: percent(frame.y, frame.height),
    width: percent(width, frame.width),
    height: percent(height, frame.height),
  });
}
