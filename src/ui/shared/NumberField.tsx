/**
 * A number to drag, turn, type: drag sideways to scrub (logarithmic where the quantity asks for it),
 * wheel or arrow keys to step, typed arithmetic and units, double click to reset.
 */
import { useContext, useEffect, useId, useRef, useState } from "react";
import { clampTo, Scrub, stepped, trackPosition, type ScrubRange } from "./scrub";
import { fittedNumber, formatNumber, parseQuantity, type Quantity } from "#core/document/quantities";
import { shownUnit } from "#core/document/units";
import { UnitsContext } from "./units";

export interface NumberFieldProps extends ScrubRange {
  label: string;
  value: number;
  unit?: string;
  quantity?: Quantity;
  reset: number;
  /** Significant digits shown. */
  digits?: number;
  /** Characters that it has room for, where those are few. */
  room?: number;
  /** One sentence about the quantity. */
  tooltip: string;
  disabled?: boolean;
  /** Without its label: for tables and lines of tools, which say what it is. */
  bare?: boolean;
  onChange(value: number): void;
  /** A drag begins and ends: everything between is one step of undo. */
  onGesture?(active: boolean): void;
}

/** How numbers of each kind may be typed. */
const EXAMPLES: Readonly<Record<Quantity, string>> = {
  length: "2.5, 3 ft or 0.2*2",
  coefficient: "0.02 or 1/40",
  angle: "30 or 45/2",
  share: "25 or 100/3",
  temperature: "5500 or 5.5*1000",
  ev: "12.5 or 10+2",
  count: "64 or 16*4",
  illuminance: "500, 50 fc or 2*800",
  plain: "0.5 or 1/3",
};

export function NumberField(p: NumberFieldProps) {
  const id = useId();
  const { unit, size } = shownUnit(p.unit ?? "", p.quantity ?? "plain", useContext(UnitsContext));
  const [text, setText] = useState<string | null>(null);
  /** What is wrong with what was typed, or what became of it. */
  const [note, setNote] = useState<{ says: string; bad: boolean } | null>(null);
  const bad = note?.bad === true;
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

  /** Takes what was typed. @returns whether it is a number */
  const commit = (): boolean => {
    if (text === null) return true;
    const v = parseQuantity(text, p.quantity ?? "plain", size);
    if (v === null) {
      setNote({ says: `Not a number: type one as ${EXAMPLES[p.quantity ?? "plain"]}.`, bad: true });
      return false;
    }
    setText(null);
    const next = clampTo(p, v);
    setNote(Math.abs(next - v) > 1e-9 * Math.abs(v) ? { says: `From ${said(p.min)} to ${said(p.max)}.`, bad: false } : null);
    if (next !== p.value) p.onChange(next);
    return true;
  };
  const said = (v: number): string =>
    `${formatNumber(p.quantity === "share" ? 100 * v : v / size, 6)}${p.quantity === "share" ? " %" : unit ? ` ${unit}` : ""}`;
  // a page that goes takes what is typed with it: before the autosave, which listens on the same event
  const leaving = useRef<() => void>(() => undefined);
  leaving.current = () => void commit();
  const typing = text !== null;
  useEffect(() => {
    if (!typing) return;
    const leave = (): void => leaving.current();
    addEventListener("pagehide", leave, { capture: true });
    return () => removeEventListener("pagehide", leave, { capture: true });
  }, [typing]);
  const inUnit = p.quantity === "share" ? 100 * p.value : p.value / size;
  const shown = text ?? (p.room ? fittedNumber(inUnit, p.room, p.digits) : formatNumber(inUnit, p.digits));
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
          aria-valuetext={p.quantity === "share" ? `${formatNumber(inUnit)} %` : `${formatNumber(inUnit)} ${unit}`.trimEnd()}
          aria-invalid={bad}
          aria-errormessage={note ? `${id}-note` : undefined}
          aria-description={p.tooltip}
          disabled={p.disabled}
          autoComplete="off"
          spellCheck={false}
          className="typed h-6 w-full cursor-ew-resize bg-transparent pr-10 pl-0.5 text-right text-sm outline-none focus:cursor-text focus:bg-base-200"
          value={shown}
          onChange={(e) => {
            setText(e.target.value);
            setNote(null);
          }}
          onBlur={() => {
            if (!commit()) {
              setText(null);
              setNote(null);
            }
          }}
          onFocus={(e) => {
            e.target.select();
            setNote(null);
          }}
          onKeyDown={(e) => {
            // what was taken gives the keys back to the bench; Tab goes on from here
            if (e.key === "Enter") {
              if (text === null || parseQuantity(text, p.quantity ?? "plain") === null) commit();
              else e.currentTarget.blur();
            } else if (e.key === "Escape") {
              setText(null);
              setNote(null);
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
          {p.quantity === "share" ? "%" : unit}
        </span>
        <span
          aria-hidden
          className="pointer-events-none absolute -bottom-px left-0 h-px bg-primary/80"
          style={{ width: `${trackPosition(p, p.value)}%` }}
        />
      </div>
      {note && (
        <p
          id={`${id}-note`}
          role="alert"
          className={`text-right text-xs ${p.bare ? "" : "col-start-2"} ${note.bad ? "text-error" : "text-warning"}`}
        >
          {note.says}
        </p>
      )}
    </div>
  );
}
