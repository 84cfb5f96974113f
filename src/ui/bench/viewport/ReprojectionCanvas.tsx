/** The carried picture over the rendered one, while air or the sun is dragged. */
import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { useBench, useSession } from "../model/context";

export function ReprojectionCanvas() {
  const { preview } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { shown, tracing } = useStore(preview.state);
  // compiled once a picture is there, so that it never delays the first
  const rendered = useSession((s) => s.covered !== null);
  useEffect(() => {
    preview.attach(canvas.current);
    return () => preview.attach(null);
  }, [preview]);
  useEffect(() => {
    if (!rendered) return;
    const timer = setTimeout(() => preview.warm(), 500);
    return () => clearTimeout(timer);
  }, [rendered, preview]);
  return (
    <>
      <canvas
        ref={canvas}
        aria-hidden
        data-testid="veil"
        data-shown={shown ? "yes" : "no"}
        data-tracing={tracing ? "yes" : "no"}
        className={`pointer-events-none absolute inset-0 h-full w-full ${shown ? "" : "invisible"}`}
      />
      {shown && (
        <p role="status" className="pointer-events-none absolute top-2 left-2 bg-base-200/80 px-2 text-xs">
          veil, while you drag
        </p>
      )}
    </>
  );
}
