/** The lens moved in the picture: round what is pressed, along the frame, nearer, and on foot. Each gesture is one step to undo. */
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { SceneDocument } from "#core/document/schema";
import { dolly, lookRound, orbit, pan, tidyLens, walk } from "#core/document/lens-moves";
import { along, dot, sub, type V3 } from "#core/math/vectors";
import { cameraFrame } from "#core/document/camera";
import { distanceNear, pickPoint, rayOf } from "#core/scene/pick";
import { useBench } from "../model/context";
import { framed } from "../model/edits/lens";
import { useReach } from "../model/medium-fields";

type Camera = SceneDocument["camera"];

/** Degrees that a drag across the whole frame turns. */
const [ACROSS, DOWN] = [200, 120];
/** Nearer by this for each pixel of the wheel. */
const WHEEL = 0.0012;
/** Milliseconds after the last turn of the wheel, or key, at which its step ends. */
const REST = 350;
/** Shares of the set's size that a step on foot goes. */
const STEP = 1 / 150;

export function LensTool({ box }: { box: [number, number] }) {
  const { store, session, view } = useBench();
  const reach = useReach();
  const element = useRef<HTMLDivElement>(null);
  const drag = useRef<{ at: [number, number]; pivot: V3; pans: boolean; round: boolean } | null>(null);
  const resting = useRef<ReturnType<typeof setTimeout> | null>(null);

  const change = (move: (c: Camera) => Camera): void => store.getState().set((d) => ({ ...d, camera: tidyLens(move(d.camera)) }));
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = element.current!.getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height];
  };
  /** What is seen at a place; where that is background, as far away as what is seen nearest to it, or as the target. */
  const pivotAt = ([x, y]: [number, number]): V3 => {
    const doc = store.getState().document;
    const film = session.live();
    const point = film && pickPoint(doc, film, x, y)?.point;
    if (point) return point;
    const { origin, direction } = rayOf(doc, x, y);
    return along(origin, direction, (film && distanceNear(film, x, y)) ?? Math.hypot(...sub(doc.camera.target, doc.camera.position)));
  };
  /** Begins a step that ends when nothing more comes for a while. */
  const passing = (): void => {
    store.gesture(true);
    if (resting.current) clearTimeout(resting.current);
    resting.current = setTimeout(() => {
      resting.current = null;
      store.gesture(false);
    }, REST);
  };
  const ended = (): void => {
    if (resting.current) clearTimeout(resting.current);
    resting.current = null;
    drag.current = null;
    store.gesture(false);
  };

  const wheel = useRef<(e: WheelEvent) => void>(() => undefined);
  wheel.current = (e) => {
    e.preventDefault();
    const pivot = pivotAt(place(e));
    passing();
    change((c) => dolly(c, pivot, Math.exp(Math.max(-300, Math.min(300, e.deltaY)) * WHEEL)));
  };
  useEffect(() => {
    const own = element.current!;
    const turn = (e: WheelEvent): void => wheel.current(e);
    // not passive, or the page would scroll
    own.addEventListener("wheel", turn, { passive: false });
    own.focus({ preventScroll: true });
    return () => {
      own.removeEventListener("wheel", turn);
      if (resting.current) clearTimeout(resting.current);
      store.gesture(false);
    };
  }, [store]);

  const down = (e: PointerEvent): void => {
    if (e.button > 2) return;
    e.stopPropagation();
    e.preventDefault();
    element.current?.focus({ preventScroll: true });
    element.current?.setPointerCapture(e.pointerId);
    const at = place(e);
    // a turn of the wheel just before is a step of its own
    ended();
    drag.current = { at, pivot: pivotAt(at), pans: e.shiftKey || e.button === 1, round: e.altKey || e.button === 2 };
    store.gesture(true);
  };
  const move = (e: PointerEvent): void => {
    const d = drag.current;
    if (!d) return;
    e.stopPropagation();
    const at = place(e);
    const [dx, dy] = [at[0] - d.at[0], at[1] - d.at[1]];
    d.at = at;
    const { pivot } = d;
    change((c) => {
      if (d.round) return lookRound(c, -dx * ACROSS * 0.5, dy * DOWN * 0.5);
      if (!d.pans) return orbit(c, pivot, -dx * ACROSS, dy * DOWN);
      // what was pressed stays under the pointer
      const depth = dot(sub(pivot, c.position), cameraFrame(c).forward);
      const height = c.kind === "perspective" ? 2 * depth * Math.tan((c.fieldOfView * Math.PI) / 360) : c.height;
      return pan(c, (-dx * height * box[0]) / box[1], dy * height);
    });
  };
  const key = (e: KeyboardEvent): void => {
    const step = reach * STEP * (e.shiftKey ? 5 : e.altKey ? 0.2 : 1);
    const turns = 2 * (e.shiftKey ? 5 : e.altKey ? 0.2 : 1);
    const moves: Readonly<Record<string, (c: Camera) => Camera>> = {
      ArrowUp: (c) => walk(c, step, 0, 0),
      ArrowDown: (c) => walk(c, -step, 0, 0),
      ArrowLeft: (c) => (e.ctrlKey ? lookRound(c, -turns, 0) : walk(c, 0, -step, 0)),
      ArrowRight: (c) => (e.ctrlKey ? lookRound(c, turns, 0) : walk(c, 0, step, 0)),
      PageUp: (c) => walk(c, 0, 0, step),
      PageDown: (c) => walk(c, 0, 0, -step),
      Home: (c) => ({ ...c, roll: 0 }),
    };
    const chosen = moves[e.key];
    if (chosen) {
      passing();
      change(chosen);
    } else if (e.key === "Enter") store.getState().set((d) => framed(d, view.getState(), session.state.getState()));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <div
      ref={element}
      tabIndex={0}
      role="application"
      aria-label="Camera: drag goes round what is pressed, Shift moves along, Alt looks round, the wheel comes nearer; arrows walk, Page Up and Page Down rise and sink, Ctrl with arrows turns, Home levels the horizon, Enter frames what is chosen"
      data-testid="lens-tool"
      className="absolute inset-0 cursor-move outline-primary/60 focus-visible:outline"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={ended}
      onPointerCancel={ended}
      onContextMenu={(e) => e.preventDefault()}
      onKeyDown={key}
    />
  );
}
