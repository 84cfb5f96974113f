/** Where the pictures lie on screen: measures their room, and tells the renderer in which pixels the live one is seen. */
import { useEffect, useLayoutEffect, useRef, useState, type RefObject } from "react";
import { useStore } from "zustand";
import { useBench, useView } from "../model/context";
import { inOrder } from "../model/proof-order";
import type { Shown } from "../model/view";
import { fitBox, gridOf, keptInside, pixelsOf, ZOOM_WHEEL, zoomedBox, type Pair } from "../model/zoom";

/** Pixels of the room that stay free about a picture, both sides together. */
const BORDER = 24;
/** Milliseconds after which a picture that is rendered at what is seen follows what is seen. */
const REST = 250;

/** What is shown beside the picture in front: the back, and where four stand beside one another what was in front before, then the newest proofs. */
export function useBeside(): Shown[] {
  const { beside, front, back, others } = useView((s) => s);
  const kept = useStore(useBench().proofs.state, (s) => s.proofs);
  if (beside === 1 || back === null) return [];
  const newest = inOrder(kept)
    .map(({ id }) => id)
    .reverse();
  return [...new Set([back, ...others, ...newest])].filter((what) => what !== front).slice(0, beside - 1);
}

export interface Places {
  room: RefObject<HTMLDivElement | null>;
  columns: number;
  /** Pixels of each picture's place, and of a picture that fits there. */
  place: Pair;
  fit: Pair;
}

/** @param film pixels of the finished frame @param beside how many pictures stand beside the one in front */
export function usePlaces([width, height]: Pair, beside: number): Places {
  const { session, view } = useBench();
  const { zoom, seenOnly, fineness } = useView((s) => s);
  const room = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Pair>([0, 0]);

  useLayoutEffect(() => {
    const element = room.current!;
    const measure = (): void => {
      if (element.clientWidth < 64 || element.clientHeight < 64) return;
      setSize([element.clientWidth, element.clientHeight]);
    };
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    measure();
    return () => observer.disconnect();
  }, []);

  const [columns, rows] = gridOf(1 + beside, [width, height], size);
  const place: Pair = [Math.floor(size[0] / columns), Math.floor(size[1] / rows)];
  const fit: Pair = size[0] > 0 ? fitBox([width, height], place, BORDER) : [0, 0];
  const [placeWidth, placeHeight] = place,
    [fitWidth, fitHeight] = fit;

  useLayoutEffect(() => {
    if (fitWidth === 0) return;
    const places = { fit: [fitWidth, fitHeight] as const, place: [placeWidth, placeHeight] as const };
    view.placing = places;
    const { zoom: now } = view.getState();
    if (now) view.setState({ zoom: keptInside(now, places.fit, places.place) });
  }, [view, fitWidth, fitHeight, placeWidth, placeHeight]);

  // at once where its place is another, and once it rests while one zooms
  const follows = seenOnly && zoom !== null;
  useEffect(() => {
    if (fitWidth === 0) return;
    const tell = (): void => {
      const p = pixelsOf([width, height], [fitWidth, fitHeight], [placeWidth, placeHeight], { zoom, seenOnly, fineness });
      session.resize(p.width, p.height, p.frame);
    };
    if (!follows) return tell();
    const timer = setTimeout(tell, REST);
    return () => clearTimeout(timer);
  }, [session, width, height, fitWidth, fitHeight, placeWidth, placeHeight, zoom, seenOnly, fineness, follows]);

  useEffect(() => {
    const element = room.current!;
    const turn = (e: WheelEvent): void => {
      // a tool that has the wheel keeps it
      if (e.defaultPrevented) return;
      e.preventDefault();
      const { fit: f, place: p } = view.placing;
      const { zoom: now } = view.getState();
      if (e.shiftKey && now) {
        const by = e.deltaY || e.deltaX;
        return view.setState({ zoom: keptInside({ ...now, x: now.x + by / (f[0] * now.scale) }, f, p) });
      }
      const r = element.getBoundingClientRect();
      const lies = zoomedBox(f, p, now);
      const at = {
        x: (((e.clientX - r.left) % p[0]) - lies.left) / lies.width,
        y: (((e.clientY - r.top) % p[1]) - lies.top) / lies.height,
      };
      view.zoomBy(Math.exp(-Math.max(-400, Math.min(400, e.deltaY)) * ZOOM_WHEEL), at);
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [view]);

  return { room, columns, place, fit };
}

/** What of a picture is in sight in its place, pixels of the place. */
export function seenBox(lies: { left: number; top: number; width: number; height: number }, place: Pair): typeof lies {
  const left = Math.max(0, lies.left),
    top = Math.max(0, lies.top);
  return {
    left,
    top,
    width: Math.max(0, Math.min(place[0], lies.left + lies.width) - left),
    height: Math.max(0, Math.min(place[1], lies.top + lies.height) - top),
  };
}
