/** The carried picture over the rendered one, while air is dragged. */
import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { useBench, useSession } from "../context";

export function VeilCanvas() {
  const { carried } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useStore(carried.state, (s) => s.shown);
  // compiled once a picture is there, so that it never delays the first
  const rendered = useSession((s) => s.covered !== null);
  useEffect(() => {
    carried.attach(canvas.current);
    return () => carried.attach(null);
  }, [carried]);
  useEffect(() => {
    if (!rendered) return;
    const timer = setTimeout(() => carried.warm(), 500);
    return () => clearTimeout(timer);
  }, [rendered, carried]);
  return (
    <>
      <canvas
        ref={canvas}
        aria-hidden
        data-testid="veil"
        data-shown={shown ? "yes" : "no"}
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
