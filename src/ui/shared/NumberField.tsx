/**
 * A number to drag, turn, type: drag sideways to scrub (logarithmic where the quantity asks for it),
 * wheel or arrow keys to step, typed arithmetic and units, double click to reset.
 */
import { useEffect, useId, useRef, useState } from "react";
import { formatNumber, parseQuantity, type Quantity } from "#core/document/quantities";

export interface NumberFieldProps {
  label: string;
  value: number;
  unit?: string;
  quantity?: Quantity;
  min: number;
  max: number;
  /** Part of the range that is useful in this scene; drawn as a track under the number. */
  useful?: readonly [number, number];
  logarithmic?: boolean;
  /** Step of a linear field for one arrow key. */
  step?: number;
  reset: number;
  whole?: boolean;
  /** Significant digits shown. */
  digits?: number;
  /** One sentence about the quantity. */
  teach: string;
  disabled?: boolean;
  /** Without its label: for tables and lines of tools, which say what it is. */
  bare?: boolean;
  onChange(value: number): void;
  /** A drag begins and ends: everything between is one step of undo. */
  onGesture?(active: boolean): void;
}

export function NumberField(p: NumberFieldProps) {
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const [bad, setBad] = useState(false);
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const clamp = (v: number): number => {
    const c = Math.max(p.min, Math.min(p.max, v));
    return p.whole ? Math.round(c) : c;
  };
  const low = p.useful?.[0] ?? p.min,
    high = p.useful?.[1] ?? p.max;
  const tidy = (v: number): number => (v === 0 ? 0 : Number(v.toPrecision(5)));
  const moved = (from: number, steps: number): number => {
    if (p.logarithmic) {
      const floor = Math.max(low, 1e-9) * 1e-3;
      return tidy(clamp(Math.max(from, floor) * Math.pow(1.015, steps)));
    }
    const step = p.step ?? (high - low) / 200;
    return tidy(clamp(Number((from + step * steps).toFixed(8))));
  };

  // React listens to wheels passively, so the page would scroll along
  const wheel = useRef<(e: WheelEvent) => void>(() => undefined);
  wheel.current = (e) => {
    if (document.activeElement !== field.current || p.disabled) return;
    e.preventDefault();
    p.onChange(moved(p.value, (e.deltaY < 0 ? 1 : -1) * (p.logarithmic ? 3 : 1)));
  };
  useEffect(() => {
    const on = (e: WheelEvent): void => wheel.current(e);
    const element = field.current!;
    element.addEventListener("wheel", on, { passive: false });
    return () => element.removeEventListener("wheel", on);
  }, []);

  const commit = (): void => {
    if (text === null) return;
    const v = parseQuantity(text, p.quantity ?? "plain");
    if (v === null) {
      setBad(true);
      return;
    }
    setText(null);
    setBad(false);
    const next = clamp(v);
    if (next !== p.value) p.onChange(next);
  };
  const position = (v: number): number => {
    const f = p.logarithmic
      ? (Math.log(Math.max(v, 1e-12)) - Math.log(Math.max(low, 1e-12))) / (Math.log(Math.max(high, 1e-11)) - Math.log(Math.max(low, 1e-12)))
      : (v - low) / (high - low);
    return Math.max(0, Math.min(1, f)) * 100;
  };
  const shown = text ?? formatNumber(p.value * (p.quantity === "share" ? 100 : 1), p.digits);
  return (
    <div className={p.bare ? "" : "grid grid-cols-[7.2rem_1fr] items-center gap-x-2"} title={p.teach}>
      {!p.bare && (
        <label htmlFor={id} className="truncate text-sm quiet">
          {p.label}
        </label>
      )}
      <div className={`relative border-b ${bad ? "border-error" : "hair"} ${p.disabled ? "opacity-40" : ""}`}>
        <input
          ref={field}
          id={id}
          type="text"
          inputMode="decimal"
          role="spinbutton"
          aria-label={p.label}
          aria-valuenow={p.value}
          aria-valuemin={p.min}
          aria-valuemax={p.max}
          aria-valuetext={`${formatNumber(p.value)} ${p.unit ?? ""}`}
          aria-invalid={bad}
          aria-description={p.teach}
          disabled={p.disabled}
          autoComplete="off"
          spellCheck={false}
          className="typed h-6 w-full cursor-ew-resize bg-transparent pr-10 pl-0.5 text-right text-sm outline-none focus:cursor-text focus:bg-base-200"
          value={shown}
          onChange={(e) => {
            setText(e.target.value);
            setBad(false);
          }}
          onBlur={() => {
            if (text !== null && parseQuantity(text, p.quantity ?? "plain") === null) {
              setText(null);
              setBad(false);
            } else commit();
          }}
          onFocus={(e) => e.target.select()}
          onKeyDown={(e) => {
            if (e.key === "Enter") commit();
            else if (e.key === "Escape") {
              setText(null);
              setBad(false);
              e.currentTarget.blur();
            } else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
              e.preventDefault();
              const sign = e.key === "ArrowUp" ? 1 : -1;
              setText(null);
              p.onChange(moved(p.value, sign * (e.shiftKey ? 10 : 1) * (e.altKey ? 0.1 : 1) * (p.logarithmic ? 3 : 1)));
            }
          }}
          onDoubleClick={() => {
            setText(null);
            p.onChange(p.reset);
          }}
          onPointerDown={(e) => {
            if (e.button !== 0 || document.activeElement === e.currentTarget) return;
            drag.current = { x: e.clientX, from: p.value, moved: false };
            e.currentTarget.setPointerCapture(e.pointerId);
            e.preventDefault();
          }}
          onPointerMove={(e) => {
            const d = drag.current;
            if (!d) return;
            const dx = e.clientX - d.x;
            if (!d.moved && Math.abs(dx) < 3) return;
            if (!d.moved) p.onGesture?.(true);
            d.moved = true;
            p.onChange(moved(d.from, dx * (e.shiftKey ? 0.1 : 1)));
          }}
          onPointerUp={(e) => {
            const d = drag.current;
            drag.current = null;
            if (d?.moved) p.onGesture?.(false);
            else if (d) e.currentTarget.focus();
          }}
          onPointerCancel={() => {
            if (drag.current?.moved) p.onGesture?.(false);
            drag.current = null;
          }}
        />
        <span className="unit pointer-events-none absolute top-0 right-0 w-9 text-left text-xs leading-6 quiet">
          {p.quantity === "share" ? "%" : p.unit}
        </span>
        <span
          aria-hidden
          className="pointer-events-none absolute -bottom-px left-0 h-px bg-primary/80"
          style={{ width: `${position(p.value)}%` }}
        />
      </div>
    </div>
  );
}
