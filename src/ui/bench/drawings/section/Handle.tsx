/** Something in a section that can be dragged, or moved by the arrow keys. */
import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Place } from "#core/section/region";
import type { Mark } from "../../model/section-handles";
import { useLengths } from "../../../shared/units";

export function Handle(p: {
  mark: Mark;
  x: number;
  y: number;
  width: number;
  faint: boolean;
  step: [number, number];
  placeOf(e: { clientX: number; clientY: number }): Place;
  onChoose(): void;
  onGesture(active: boolean): void;
  onMove(to: Place): void;
}) {
  const lengths = useLengths();
  const { mark: m } = p;
  const dragging = useRef<{ ds: number; dt: number } | null>(null);
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    const [s, t] = p.placeOf(e);
    dragging.current = { ds: m.at[0] - s, dt: m.at[1] - t };
    p.onChoose();
    p.onGesture(true);
  };
  const move = (e: PointerEvent): void => {
    const d = dragging.current;
    if (!d) return;
    e.stopPropagation();
    const [s, t] = p.placeOf(e);
    p.onMove([m.along === "t" ? m.at[0] : s + d.ds, m.along === "s" ? m.at[1] : t + d.dt]);
  };
  const up = (e: PointerEvent): void => {
    if (!dragging.current) return;
    e.stopPropagation();
    dragging.current = null;
    p.onGesture(false);
  };
  const key = (e: KeyboardEvent): void => {
    const k = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
    const by: Place | null =
      e.key === "ArrowLeft"
        ? [-k, 0]
        : e.key === "ArrowRight"
          ? [k, 0]
          : e.key === "ArrowUp"
            ? [0, k]
            : e.key === "ArrowDown"
              ? [0, -k]
              : null;
    if (!by || (m.along === "s" && by[0] === 0) || (m.along === "t" && by[1] === 0)) return;
    e.preventDefault();
    p.onMove([m.at[0] + by[0] * p.step[0], m.at[1] + by[1] * p.step[1]]);
  };
  const cursor = m.along === "s" ? "ew-resize" : m.along === "t" ? "ns-resize" : "move";
  const value = m.along === "s" ? m.at[0] : m.at[1];
  const common = {
    role: "slider",
    tabIndex: 0,
    "aria-label": m.name,
    "aria-valuenow": Number(value.toPrecision(4)),
    "aria-valuetext": m.along === "both" ? `${lengths.exact(m.at[0], 3)} away, ${lengths.exact(m.at[1], 3)}` : lengths.exact(value, 4),
    onPointerDown: down,
    onPointerMove: move,
    onPointerUp: up,
    onPointerCancel: up,
    onKeyDown: key,
    style: { cursor },
    className: "group outline-none",
    opacity: p.faint ? 0.45 : 1,
  } as const;
  const ring = "stroke-primary group-hover:fill-primary/40 group-focus-visible:fill-primary/60";
  if (m.shape === "line")
    return (
      <g {...common}>
        <title>{m.name}</title>
        <path d={`M0 ${p.y}H${p.width}`} className="stroke-transparent" strokeWidth="11" />
        <path
          d={`M0 ${p.y}H${p.width}`}
          className="stroke-primary/75 group-hover:stroke-primary group-focus-visible:stroke-primary"
          strokeWidth="1.2"
        />
        <rect x={p.width * 0.5 - 13} y={p.y - 3} width="26" height="6" rx="2" className="fill-primary" />
        <text
          x="8"
          y={p.y < 18 ? p.y + 13 : p.y - 4}
          fontSize="11"
          className="figures fill-primary"
          stroke="#000"
          strokeOpacity=".75"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {lengths.exact(m.at[1], 4)} {m.words}
        </text>
      </g>
    );
  if (m.shape === "lamp" || m.shape === "aim")
    return (
      <g {...common}>
        <title>{m.name}</title>
        <circle cx={p.x} cy={p.y} r="9" fill="transparent" />
        {m.shape === "lamp" ? (
          <path
            d={`M${p.x} ${p.y - 5}L${p.x + 5} ${p.y}L${p.x} ${p.y + 5}L${p.x - 5} ${p.y}Z`}
            className="fill-base-200/70 stroke-warning group-hover:fill-warning/60 group-focus-visible:fill-warning"
            strokeWidth="1.4"
          />
        ) : (
          <path d={`M${p.x - 5} ${p.y}h10M${p.x} ${p.y - 5}v10`} className="stroke-warning" strokeWidth="1.4" />
        )}
      </g>
    );
  return (
    <g {...common}>
      <title>{m.name}</title>
      <circle cx={p.x} cy={p.y} r="10" fill="transparent" />
      {m.shape === "side" ? (
        <rect
          x={p.x - (m.along === "s" ? 2.5 : 8)}
          y={p.y - (m.along === "s" ? 8 : 2.5)}
          width={m.along === "s" ? 5 : 16}
          height={m.along === "s" ? 16 : 5}
          rx="2"
          className={`fill-primary/70 ${ring}`}
        />
      ) : (
        <circle cx={p.x} cy={p.y} r="5" className={`fill-base-200/60 ${ring}`} strokeWidth="1.6" />
      )}
      {m.words && (
        <text
          x={p.x + 8}
          y={p.y - 6}
          fontSize="11"
          className="figures fill-primary"
          stroke="#000"
          strokeOpacity=".75"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {m.words} {lengths.exact(m.at[0], 3)}
        </text>
      )}
    </g>
  );
}
