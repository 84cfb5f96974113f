/** The composed picture with what is dragged and painted in it. */
import { useEffect, useRef, useState, type PointerEvent } from "react";
import { useStore } from "zustand";
import type { Layer, MaskPart, Stroke } from "#core/compose/stack";
import { useComposeView, useComposition, useStack } from "./model/context";
import { layerOf, withLayer, withPartChanged } from "./model/edits";

type Point = [number, number];

/** Points of a stroke are this far apart at least, as a share of its size. */
const APART = 0.1;
const tidy = (v: number): number => Number(v.toFixed(5));

export function Picture() {
  const composition = useComposition();
  const { view: state, store } = composition;
  const canvas = useRef<HTMLCanvasElement>(null);
  const field = useRef<HTMLDivElement>(null);
  const { view, problem, painted, ms, direct } = useStore(composition.shown);
  const tool = useComposeView((v) => v.tool);
  const whole = useComposeView((v) => v.whole);
  const brush = useComposeView((v) => v.brush);
  const selected = useComposeView((v) => v.selected);
  const part = useComposeView((v) => v.part);
  const stack = useStack();
  const layer = layerOf(stack, selected);
  const active: MaskPart | null = layer?.mask?.parts[part] ?? null;
  const [pointer, setPointer] = useState<Point | null>(null);
  const stroke = useRef<Stroke | null>(null);
  const lastEnd = useRef<Point | null>(null);

  useEffect(() => {
    composition.attach(canvas.current!);
  }, [composition]);
  useEffect(() => {
    const look = (): void => {
      const box = field.current!.getBoundingClientRect();
      const k = Math.min(2, devicePixelRatio || 1);
      void composition.fit(whole ? null : [Math.floor((box.width - 24) * k), Math.floor((box.height - 24) * k)]);
    };
    look();
    const watch = new ResizeObserver(look);
    watch.observe(field.current!);
    return () => watch.disconnect();
  }, [composition, whole]);
  // what lay in the middle stays there
  useEffect(() => {
    const box = field.current!;
    if (whole && view) box.scrollTo((box.scrollWidth - box.clientWidth) / 2, (box.scrollHeight - box.clientHeight) / 2);
  }, [whole, view]);

  const place = (e: { clientX: number; clientY: number }): Point => {
    const box = canvas.current!.getBoundingClientRect();
    return [tidy((e.clientX - box.left) / box.width), tidy((e.clientY - box.top) / box.height)];
  };
  const aspect = view ? view[0] / view[1] : 1;
  const setPart = (change: Partial<MaskPart> | ((p: MaskPart) => Partial<MaskPart>)): void => {
    if (!layer) return;
    store.getState().set((s) =>
      withLayer(s, layer.id, (l) => {
        const at = l.mask?.parts[part];
        return l.mask && at ? { ...l, mask: withPartChanged(l.mask, part, typeof change === "function" ? change(at) : change) } : l;
      }),
    );
  };
  const painting = tool === "paint" && active?.kind === "paint";
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    const at = place(e);
    if (tool === "from" || tool === "to") {
      if (active?.kind !== "distance" && active?.kind !== "height") return;
      const { kind } = active;
      void composition.at(kind, ...at).then((v) => {
        if (v === null || !(Math.abs(v) < 1e7)) return;
        setPart({ [tool]: Number(v.toPrecision(4)) });
        state.setState({ tool: "none" });
      });
      return;
    }
    if (!painting) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    store.gesture(true);
    const pressure = e.pointerType === "pen" ? e.pressure : 1;
    const from = e.shiftKey && lastEnd.current ? [[...lastEnd.current, pressure] as [number, number, number]] : [];
    stroke.current = {
      ...{ size: brush.size, hardness: brush.hardness, flow: brush.flow, erase: brush.erase },
      points: [...from, [...at, pressure]],
    };
    const first = stroke.current;
    setPart((p) => (p.kind === "paint" ? { strokes: [...p.strokes, first] } : {}));
  };
  const move = (e: PointerEvent): void => {
    setPointer(place(e));
    const now = stroke.current;
    if (!now) return;
    const events = e.nativeEvent.getCoalescedEvents?.() ?? [];
    const points = [...now.points];
    for (const one of events.length > 0 ? events : [e]) {
      const [x, y] = place(one);
      const [px, py] = points.at(-1)!;
      if (Math.hypot((x - px) * aspect, y - py) < APART * now.size) continue;
      points.push([x, y, one.pointerType === "pen" ? one.pressure : 1]);
    }
    if (points.length === now.points.length || points.length > 4000) return;
    const next = { ...now, points };
    stroke.current = next;
    setPart((p) => (p.kind === "paint" ? { strokes: [...p.strokes.slice(0, -1), next] } : {}));
  };
  const up = (): void => {
    const now = stroke.current;
    if (!now) return;
    const [x, y] = now.points.at(-1)!;
    lastEnd.current = [x, y];
    stroke.current = null;
    store.gesture(false);
  };

  return (
    <div
      ref={field}
      tabIndex={whole ? 0 : undefined}
      aria-label={whole ? "Picture, each pixel one of the screen's" : undefined}
      className="relative flex min-h-0 flex-1 overflow-auto bg-[oklch(0.19_0_0)]"
    >
      <div className="relative m-auto shrink-0" style={view ? { width: `${view[0] / Math.min(2, devicePixelRatio || 1)}px` } : {}}>
        <canvas
          ref={canvas}
          role="img"
          aria-label="The composed picture"
          data-testid="composed"
          data-painted={painted}
          data-ms={ms.toFixed(1)}
          data-direct={direct}
          className={`block w-full ${painting ? "cursor-none" : tool === "none" ? "" : "cursor-crosshair"}`}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerCancel={up}
          onPointerLeave={() => setPointer(null)}
        />
        {view && (
          <svg
            aria-hidden={!handled(layer, active)}
            viewBox={`0 0 ${aspect} 1`}
            className="pointer-events-none absolute inset-0 size-full overflow-visible"
          >
            {painting && pointer && (
              <g className="fill-none" strokeWidth="1.5">
                {(["oklch(0.15 0 0)", "oklch(0.95 0 0)"] as const).map((ink, i) => (
                  <circle
                    key={ink}
                    cx={pointer[0] * aspect}
                    cy={pointer[1]}
                    r={brush.size / 2}
                    stroke={ink}
                    strokeDasharray={i === 1 && brush.erase ? "4 3" : undefined}
                    vectorEffect="non-scaling-stroke"
                    strokeWidth={i === 0 ? 3 : 1.2}
                  />
                ))}
              </g>
            )}
            <Ends
              aspect={aspect}
              of={active?.kind === "gradient" ? active : layer?.content.kind === "ramp" ? layer.content : null}
              place={place}
              onGesture={(a) => store.gesture(a)}
              onChange={(change) => {
                if (active?.kind === "gradient") setPart(change);
                else if (layer?.content.kind === "ramp") {
                  const { content } = layer;
                  store.getState().set((s) => withLayer(s, layer.id, { content: { ...content, ...change } }));
                }
              }}
            />
          </svg>
        )}
      </div>
      {problem && (
        <p role="alert" className="absolute inset-x-6 bottom-3 border-l-2 border-error bg-base-100/90 p-2 text-sm">
          {problem}
        </p>
      )}
      {!direct && (
        <p role="status" className="absolute right-2 bottom-1 text-xs quiet">
          put together without a graphics processor: slower
        </p>
      )}
    </div>
  );
}

const handled = (layer: Layer | null, part: MaskPart | null): boolean => part?.kind === "gradient" || layer?.content.kind === "ramp";

/** Two ends that are dragged, or moved by the arrow keys. */
function Ends(p: {
  aspect: number;
  of: { a: Point; b: Point } | null;
  place(e: { clientX: number; clientY: number }): Point;
  onGesture(active: boolean): void;
  onChange(change: { a?: Point; b?: Point }): void;
}) {
  const dragged = useRef<"a" | "b" | null>(null);
  const { of, aspect } = p;
  if (!of) return null;
  const within = ([x, y]: Point): Point => [Math.max(-2, Math.min(3, x)), Math.max(-2, Math.min(3, y))];
  return (
    <g>
      <line
        x1={of.a[0] * aspect}
        y1={of.a[1]}
        x2={of.b[0] * aspect}
        y2={of.b[1]}
        className="stroke-primary"
        strokeWidth="1.2"
        vectorEffect="non-scaling-stroke"
      />
      {(["a", "b"] as const).map((end) => {
        const [x, y] = of[end];
        return (
          <g
            key={end}
            role="slider"
            tabIndex={0}
            aria-label={`End ${end}`}
            aria-valuenow={Math.round(100 * x)}
            aria-valuetext={`${Math.round(100 * x)} % across, ${Math.round(100 * y)} % down`}
            className="pointer-events-auto cursor-move outline-none [&:focus-visible>circle]:stroke-base-content"
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              dragged.current = end;
              p.onGesture(true);
            }}
            onPointerMove={(e) => dragged.current === end && p.onChange({ [end]: within(p.place(e)) })}
            onPointerUp={() => {
              dragged.current = null;
              p.onGesture(false);
            }}
            onKeyDown={(e) => {
              const k = e.shiftKey ? 0.05 : 0.005;
              const by = (
                { ArrowLeft: [-k, 0], ArrowRight: [k, 0], ArrowUp: [0, -k], ArrowDown: [0, k] } as Readonly<Record<string, Point>>
              )[e.key];
              if (!by || e.altKey) return;
              e.preventDefault();
              p.onChange({ [end]: within([tidy(x + by[0]), tidy(y + by[1])]) });
            }}
          >
            <circle
              cx={x * aspect}
              cy={y}
              r="0.016"
              className="fill-base-100/70 stroke-primary"
              strokeWidth="1.5"
              vectorEffect="non-scaling-stroke"
            />
            <text x={x * aspect + 0.026} y={y + 0.01} className="fill-primary" fontSize="0.035">
              {end}
            </text>
          </g>
        );
      })}
    </g>
  );
}
