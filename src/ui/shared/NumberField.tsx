/**
 * A number to drag, turn, type: drag sideways to scrub (logarithmic where the quantity asks for it),
 * wheel or arrow keys to step, typed arithmetic and units, double click to reset.
 */
import { useEffect, useId, useRef, useState } from "react";
import { clampTo, Scrub, stepped, trackPosition, type ScrubRange } from "./scrub";
import { formatNumber, parseQuantity, type Quantity } from "#core/document/quantities";

export interface NumberFieldProps extends ScrubRange {
  label: string;
  value: number;
  unit?: string;
  quantity?: Quantity;
  reset: number;
  /** Significant digits shown. */
  digits?: number;
  /** One sentence about the quantity. */
  tooltip: string;
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
  const drag = useRef<Scrub | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const moved = (from: number, steps: number): number => stepped(p, from, steps);

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
    const next = clampTo(p, v);
    if (next !== p.value) p.onChange(next);
  };
  const shown = text ?? formatNumber(p.value * (p.quantity === "share" ? 100 : 1), p.digits);
  return (
    <div className={p.bare ? "" : "grid grid-cols-[8.2rem_1fr] items-center gap-x-2"} title={p.tooltip}>
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
          aria-description={p.tooltip}
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
            drag.current = new Scrub(p, e.clientX, p.value, (active) => p.onGesture?.(active));
            e.currentTarget.setPointerCapture(e.pointerId);
            e.preventDefault();
          }}
          onPointerMove={(e) => {
            const value = drag.current?.move(e.clientX, e.shiftKey) ?? null;
            if (value !== null) p.onChange(value);
          }}
          onPointerUp={(e) => {
            if (drag.current && !drag.current.end()) e.currentTarget.focus();
            drag.current = null;
          }}
          onPointerCancel={() => {
            drag.current?.end();
            drag.current = null;
          }}
        />
        <span className="unit pointer-events-none absolute top-0 right-0 w-9 text-left text-xs leading-6 quiet">
          {p.quantity === "share" ? "%" : p.unit}
        </span>
        <span
          aria-hidden
          className="pointer-events-none absolute -bottom-px left-0 h-px bg-primary/80"
          style={{ width: `${trackPosition(p, p.value)}%` }}
        />
      </div>
    </div>
  );
}
