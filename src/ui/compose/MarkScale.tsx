/** A scale in metres below the picture: how far (or high) what is seen lies, with the two marks of a mask, which are dragged. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { monotoneCurve } from "#core/math/monotone";
import type { MaskPart } from "#core/compose/stack";
import { useLengths } from "../shared/units";
import { factsOf } from "./model/facts";
import { useComposeView, useComposition, useFrames, useStack } from "./model/context";
import { layerOf, withLayer, withPartChanged } from "./model/edits";

const [WIDTH, HEIGHT, LEFT, RIGHT] = [1000, 74, 10, 10];
/** Where bars stand, and where the figures do. */
const FLOOR = 54;
const BARS = 120;

type Marked = Extract<MaskPart, { kind: "distance" | "height" }>;

export function MarkScale() {
  const stack = useStack();
  const selected = useComposeView((v) => v.selected);
  const at = useComposeView((v) => v.part);
  const layer = layerOf(stack, selected);
  const part = layer?.mask?.parts[at];
  if (!layer || (part?.kind !== "distance" && part?.kind !== "height")) return null;
  return <Scale key={`${layer.id} ${at} ${part.kind}`} id={layer.id} at={at} part={part} />;
}

function Scale({ id, at, part }: { id: string; at: number; part: Marked }) {
  const { store } = useComposition();
  const frames = useFrames();
  const lengths = useLengths();
  const svg = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<"from" | "to" | null>(null);
  const facts = factsOf(frames);
  const values = part.kind === "distance" ? facts.distances : facts.heights;
  const logarithmic = part.kind === "distance";
  const [low, high] = rangeOf(values, part, logarithmic);
  const along = (v: number): number => (logarithmic ? Math.log(Math.max(v, low) / low) / Math.log(high / low) : (v - low) / (high - low));
  const back = (t: number): number => (logarithmic ? low * (high / low) ** t : low + t * (high - low));
  const X = (v: number): number => LEFT + Math.max(0, Math.min(1, along(v))) * (WIDTH - LEFT - RIGHT);
  const set = (change: Partial<Marked>): void =>
    store.getState().set((s) => withLayer(s, id, (l) => (l.mask ? { ...l, mask: withPartChanged(l.mask, at, change) } : l)));
  const bars = new Float32Array(BARS);
  for (const v of values) bars[Math.max(0, Math.min(BARS - 1, Math.floor(along(v) * BARS)))]!++;
  const most = Math.max(1, ...bars);
  const curve = part.curve ? monotoneCurve(part.curve) : (t: number) => t;
  const share = (v: number): number => {
    const t = part.to === part.from ? Number(v >= part.from) : (v - part.from) / (part.to - part.from);
    const c = curve(Math.max(0, Math.min(1, t)));
    return part.invert ? 1 - c : c;
  };
  const line = Array.from(
    { length: 201 },
    (_, i) => `${LEFT + (i / 200) * (WIDTH - LEFT - RIGHT)} ${FLOOR - 44 * share(back(i / 200))}`,
  ).join("L");
  const move = (e: PointerEvent): void => {
    if (!dragged) return;
    const box = svg.current!.getBoundingClientRect();
    const t = (((e.clientX - box.left) / box.width) * WIDTH - LEFT) / (WIDTH - LEFT - RIGHT);
    set({ [dragged]: Number(back(Math.max(0, Math.min(1, t))).toPrecision(4)) });
  };
  const key = (e: KeyboardEvent, end: "from" | "to"): void => {
    const by = ({ ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 } as Readonly<Record<string, number>>)[e.key];
    if (!by || e.altKey) return;
    e.preventDefault();
    const t = along(part[end]) + by * (e.shiftKey ? 0.05 : 0.005);
    set({ [end]: Number(back(Math.max(0, Math.min(1, t))).toPrecision(4)) });
  };
  return (
    <figure className="border-t hair bg-base-100 px-3 pt-1" aria-label={`Scale of ${part.kind}`}>
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="h-[74px] w-full touch-none"
        onPointerMove={move}
        onPointerUp={() => {
          if (dragged) store.gesture(false);
          setDragged(null);
        }}
      >
        {[...bars].map((n, i) =>
          n > 0 ? (
            <rect
              key={i}
              x={LEFT + (i / BARS) * (WIDTH - LEFT - RIGHT)}
              width={(WIDTH - LEFT - RIGHT) / BARS - 0.6}
              y={FLOOR - 44 * Math.sqrt(n / most)}
              height={44 * Math.sqrt(n / most)}
              className="fill-base-content/15"
            />
          ) : null,
        )}
        <path d={`M${LEFT} ${FLOOR}H${WIDTH - RIGHT}`} className="stroke-base-content/40" vectorEffect="non-scaling-stroke" />
        <path d={`M${line}`} className="fill-none stroke-primary/80" strokeWidth="1.3" vectorEffect="non-scaling-stroke" />
        {ticksOf(low, high, logarithmic).map((v) => (
          <path key={v} d={`M${X(v)} ${FLOOR}v4`} className="stroke-base-content/60" vectorEffect="non-scaling-stroke" />
        ))}
        {(["from", "to"] as const).map((end) => (
          <g
            key={end}
            role="slider"
            tabIndex={0}
            aria-label={end === "from" ? "None at" : "Full at"}
            aria-valuenow={part[end]}
            aria-valuetext={lengths.rough(part[end])}
            className="cursor-ew-resize outline-none [&:focus-visible>path]:stroke-[3]"
            onPointerDown={(e) => {
              if (e.button !== 0) return;
              svg.current!.setPointerCapture(e.pointerId);
              store.gesture(true);
              setDragged(end);
            }}
            onKeyDown={(e) => key(e, end)}
          >
            <rect x={X(part[end]) - 8} y="0" width="16" height={FLOOR + 6} fill="transparent" />
            <path
              d={`M${X(part[end])} 4V${FLOOR + 6}`}
              className="stroke-primary"
              strokeWidth="2"
              strokeDasharray={end === "from" ? "3 3" : undefined}
              vectorEffect="non-scaling-stroke"
            />
          </g>
        ))}
      </svg>
      <div aria-hidden className="figures relative -mt-4 h-4 text-[0.65rem] quiet">
        {ticksOf(low, high, logarithmic).map((v) => (
          <span key={v} className="absolute -translate-x-1/2" style={{ left: `${(100 * X(v)) / WIDTH}%` }}>
            {lengths.rough(v)}
          </span>
        ))}
      </div>
    </figure>
  );
}

/** What the scale runs over: all that is seen, and the marks. */
function rangeOf(values: Float32Array, { from, to }: Marked, logarithmic: boolean): [number, number] {
  const all = [from, to, ...(values.length > 0 ? [values[0]!, values.at(-1)!] : [])].filter((v) => !logarithmic || v > 0);
  if (all.length === 0) return logarithmic ? [0.1, 100] : [0, 10];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  if (logarithmic) return [low / 1.15, Math.max(1.15 * high, 1.5 * low)];
  const room = Math.max(0.5, 0.05 * (high - low));
  return [low - room, high + room];
}

/** Round numbers of the range, some eight at most. */
function ticksOf(low: number, high: number, logarithmic: boolean): number[] {
  const out: number[] = [];
  if (logarithmic) {
    const steps = Math.log10(high / low) > 2.5 ? [1] : [1, 2, 5];
    for (let d = Math.floor(Math.log10(low)); d <= Math.log10(high); d++)
      for (const s of steps) {
        const v = Number((s * 10 ** d).toPrecision(1));
        if (v >= low && v <= high) out.push(v);
      }
    return out;
  }
  const step = [1, 2, 5, 10].map((k) => k * 10 ** Math.floor(Math.log10((high - low) / 4))).find((k) => (high - low) / k <= 8)!;
  for (let v = Math.ceil(low / step) * step; v <= high; v += step) out.push(Number(v.toPrecision(6)));
  return out;
}
