/** A curve from shares to shares through points that can be dragged, moved by the arrow keys, added and taken out. */
import { useRef, type KeyboardEvent, type PointerEvent } from "react";

export type CurvePoint = [at: number, to: number];

const MAX = 8;
/** Least distance of two points. */
const GAP = 0.01;
const [WIDTH, PAD] = [260, 7];
/** Steps that a smooth curve is drawn in. */
const STEPS = 96;
const tidy = (v: number): number => Number(Math.max(0, Math.min(1, v)).toFixed(3));

/** A curve with point i moved; the order of points stays. */
export function withPoint(curve: readonly CurvePoint[], i: number, at: number, to: number): CurvePoint[] {
  const low = i > 0 ? curve[i - 1]![0] + GAP : 0;
  const high = i < curve.length - 1 ? curve[i + 1]![0] - GAP : 1;
  // between points that lie closer than that there is no way
  const place = low > high ? curve[i]![0] : tidy(Math.max(low, Math.min(high, at)));
  return curve.map((p, k) => (k === i ? [place, tidy(to)] : p));
}

/** A curve with one more point; the same where it is full or too near to another. */
export function withNewPoint(curve: readonly CurvePoint[], at: number, to: number): CurvePoint[] {
  if (curve.length >= MAX || curve.some((p) => Math.abs(p[0] - at) < 2 * GAP)) return [...curve];
  return [...curve, [tidy(at), tidy(to)] as CurvePoint].sort((a, b) => a[0] - b[0]);
}

/** A curve without point i; two stay. */
export const withoutPoint = (curve: readonly CurvePoint[], i: number): CurvePoint[] =>
  curve.length > 2 ? curve.filter((_, k) => k !== i) : [...curve];

export function CurveField(p: {
  label: string;
  value: readonly CurvePoint[];
  /** What the ends of the axis stand for. */
  ends: readonly [string, string];
  tooltip: string;
  /** What the curve is between its points; straight where it is not said. */
  between?: (value: readonly CurvePoint[]) => (at: number) => number;
  /** Pixels down, of the drawing's own. */
  height?: number;
  onChange(value: CurvePoint[]): void;
  onGesture(active: boolean): void;
}) {
  const HEIGHT = p.height ?? 74;
  const svg = useRef<SVGSVGElement>(null);
  const dragged = useRef<number | null>(null);
  const X = (v: number): number => PAD + v * (WIDTH - 2 * PAD);
  const Y = (v: number): number => HEIGHT - PAD - v * (HEIGHT - 2 * PAD);
  const place = (e: { clientX: number; clientY: number }): CurvePoint => {
    const r = svg.current!.getBoundingClientRect();
    const [x, y] = [((e.clientX - r.left) / r.width) * WIDTH, ((e.clientY - r.top) / r.height) * HEIGHT];
    return [(x - PAD) / (WIDTH - 2 * PAD), (HEIGHT - PAD - y) / (HEIGHT - 2 * PAD)];
  };
  const begin = (e: PointerEvent, i: number): void => {
    e.stopPropagation();
    // by what was pressed: a double click shall reach the point
    e.currentTarget.setPointerCapture(e.pointerId);
    dragged.current = i;
    p.onGesture(true);
  };
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    const [at, to] = place(e);
    const next = withNewPoint(p.value, at, to);
    if (next.length === p.value.length) return;
    begin(
      e,
      next.findIndex((q) => q[0] === tidy(at)),
    );
    p.onChange(next);
  };
  const move = (e: PointerEvent): void => {
    if (dragged.current !== null) p.onChange(withPoint(p.value, dragged.current, ...place(e)));
  };
  const up = (): void => {
    if (dragged.current === null) return;
    dragged.current = null;
    p.onGesture(false);
  };
  const key = (e: KeyboardEvent, i: number): void => {
    const k = e.shiftKey ? 0.1 : 0.01;
    const by = ({ ArrowLeft: [-k, 0], ArrowRight: [k, 0], ArrowUp: [0, k], ArrowDown: [0, -k] } as Readonly<Record<string, CurvePoint>>)[
      e.key
    ];
    const [at, to] = p.value[i]!;
    if (by) p.onChange(withPoint(p.value, i, at + by[0], to + by[1]));
    else if (e.key === "Delete" || e.key === "Backspace") p.onChange(withoutPoint(p.value, i));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const first = p.value[0]!,
    last = p.value.at(-1)!;
  const through = p.between?.(p.value);
  const drawn = through ? Array.from({ length: STEPS + 1 }, (_, i): CurvePoint => [i / STEPS, through(i / STEPS)]) : p.value;
  const path = `M${X(0)} ${Y(first[1])}${drawn.map(([a, b]) => `L${X(a)} ${Y(b)}`).join("")}L${X(1)} ${Y(last[1])}`;
  return (
    <div title={p.tooltip} role="group" aria-label={p.label}>
      <span className="text-sm quiet">{p.label}</span>
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full cursor-crosshair touch-none bg-base-300/40"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
      >
        <path d={`M${PAD} ${HEIGHT - PAD}H${WIDTH - PAD}M${PAD} ${PAD}H${WIDTH - PAD}`} className="stroke-base-content/20" />
        <path d={path} className="fill-none stroke-base-content/80" strokeWidth="1.5" />
        {p.value.map(([at, to], i) => (
          <g
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`${p.label}: point ${i + 1}`}
            aria-valuenow={to}
            aria-valuetext={`${Math.round(100 * to)} % at ${Math.round(100 * at)} %`}
            className="group cursor-move outline-none"
            onPointerDown={(e) => e.button === 0 && begin(e, i)}
            onDoubleClick={() => p.onChange(withoutPoint(p.value, i))}
            onKeyDown={(e) => key(e, i)}
          >
            <title>{`${Math.round(100 * to)} % at ${Math.round(100 * at)} %. Drag it, or arrow keys; double click or Delete takes it out.`}</title>
            <circle cx={X(at)} cy={Y(to)} r="9" fill="transparent" />
            <circle
              cx={X(at)}
              cy={Y(to)}
              r="4"
              className="fill-base-200 stroke-primary group-hover:fill-primary/50 group-focus-visible:fill-primary"
              strokeWidth="1.5"
            />
          </g>
        ))}
      </svg>
      <span className="figures flex justify-between text-xs quiet">
        <span>{p.ends[0]}</span>
        <span>{p.ends[1]}</span>
      </span>
    </div>
  );
}
