/** The pixels under the pointer, enlarged. */
import { useEffect, useRef, type RefObject } from "react";
import { useStore } from "zustand";
import { contextOf } from "../../shared/canvas";
import { useBench, useSession } from "../model/context";

/** Pixels of the screen for each of the film, pixels of the film across, and how far from the pointer it stands. */
const ENLARGED = 9,
  ACROSS = 17,
  AWAY = 22;
const SIDE = ENLARGED * ACROSS;

export function Loupe({ frame }: { frame: RefObject<HTMLDivElement | null> }) {
  const { view } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const at = useStore(view.pointer, (s) => s.at);
  const drawn = useSession((s) => s.drawn);
  const box = frame.current;
  useEffect(() => {
    const to = canvas.current,
      from = frame.current?.querySelector<HTMLCanvasElement>("canvas[aria-label=Picture]");
    if (!to || !from || !at || from.width === 0) return;
    // where the pointer is on the film, which may be a window of the frame
    const [f, c] = [frame.current!.getBoundingClientRect(), from.getBoundingClientRect()];
    const x = Math.floor(((f.left + at.x * f.width - c.left) / c.width) * from.width),
      y = Math.floor(((f.top + at.y * f.height - c.top) / c.height) * from.height);
    const context = contextOf(to);
    context.imageSmoothingEnabled = false;
    context.fillStyle = "#000";
    context.fillRect(0, 0, SIDE, SIDE);
    const half = ACROSS >> 1;
    context.drawImage(from, x - half, y - half, ACROSS, ACROSS, 0, 0, SIDE, SIDE);
    context.strokeStyle = "#fff";
    context.strokeRect(half * ENLARGED + 0.5, half * ENLARGED + 0.5, ENLARGED - 1, ENLARGED - 1);
    to.dataset.at = `${x} ${y}`;
  }, [at, drawn, frame]);
  if (!at || !box) return null;
  const [left, top] = [box.offsetLeft + at.x * box.offsetWidth, box.offsetTop + at.y * box.offsetHeight];
  const parent = box.parentElement!;
  // beside the pointer, on the side where there is room
  const place = (from: number, room: number): number => (from + AWAY + SIDE + 2 > room ? from - AWAY - SIDE : from + AWAY);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label="Loupe"
      width={SIDE}
      height={SIDE}
      className="pointer-events-none absolute border border-primary"
      style={{ left: place(left, parent.clientWidth), top: place(top, parent.clientHeight) }}
    />
  );
}
