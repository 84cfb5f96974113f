/** How far the picture is zoomed, while it is; and the way back. */
import { useBench, useDocument, useView } from "../model/context";

export function ZoomNote() {
  const { view } = useBench();
  const { zoom, seenOnly } = useView((s) => s);
  const film = useDocument((d) => d.film.size);
  if (!zoom) return null;
  const pixels = (zoom.scale * view.placing.fit[0]) / film[0];
  return (
    <div role="group" aria-label="Zoom" className="absolute top-2 right-2 flex items-center gap-2.5 bg-base-200/85 px-2 py-0.5 text-xs">
      <span
        className="figures"
        title="Pixels of the screen for each of the finished frame. The wheel zooms; Alt or the middle button drags."
      >
        {Math.round(100 * pixels)} %{seenOnly ? ", rendered as seen" : ""}
      </span>
      <button
        className={seenOnly ? "text-primary" : "link link-hover"}
        aria-pressed={seenOnly}
        title="Renders what is seen as fine as it will be in the end, at a pixel of the frame for each of the screen. The picture begins anew. 9"
        onClick={() => view.zoomToPixels(film)}
      >
        1:1
      </button>
      <button className="link link-hover" title="Shows the whole picture. 0" onClick={() => view.zoomOut()}>
        Fit
      </button>
    </div>
  );
}
