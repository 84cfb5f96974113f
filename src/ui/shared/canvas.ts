/** Drawing on a canvas. */

/** Its plane context. @throws Error where the browser gives none, as when it is out of memory */
export function contextOf(canvas: HTMLCanvasElement): CanvasRenderingContext2D;
export function contextOf(canvas: OffscreenCanvas): OffscreenCanvasRenderingContext2D;
export function contextOf(canvas: HTMLCanvasElement | OffscreenCanvas) {
  const context = canvas.getContext("2d");
  if (!context) throw new Error("the browser gives no more canvases");
  return context;
}
