/** Numbers in the rows of a table. */
import { useContext, useState } from "react";
import { parseQuantity, type Quantity } from "#core/document/quantities";
import { shownUnit } from "#core/document/units";
import { UnitsContext } from "../../../shared/units";

/** A share in words. */
export const share = (v: number): string => (v === 0 ? "0 %" : v < 0.0005 ? "< 0.1 %" : `${(100 * v).toFixed(v < 0.0995 ? 1 : 0)} %`);

/** A number in a row: typed arithmetic and units, arrows step. */
export function Cell(p: {
  label: string;
  value: number;
  min: number;
  max: number;
  unit?: string;
  quantity?: Quantity;
  onChange(v: number): void;
}) {
  const [text, setText] = useState<string | null>(null);
  const quantity = p.quantity ?? "plain";
  const { size } = shownUnit(p.unit ?? "", quantity, useContext(UnitsContext));
  const written = quantity === "share" ? `${Number((100 * p.value).toPrecision(4))}` : `${Number((p.value / size).toPrecision(5))}`;
  const take = (v: number): void => p.onChange(Number(Math.max(p.min, Math.min(p.max, v)).toPrecision(7)));
  const commit = (): void => {
    const v = text === null || text === written ? null : parseQuantity(text, quantity, size);
    setText(null);
    if (v !== null && Math.abs(v - p.value) > 1e-12) take(v);
  };
  return (
    <span className="inline-flex min-w-0 items-baseline">
      <input
        role="spinbutton"
        aria-label={p.label}
        aria-valuenow={p.value}
        aria-valuemin={p.min}
        aria-valuemax={p.max}
        className="figures w-full min-w-0 bg-transparent text-right outline-none focus:bg-base-200"
        value={text ?? written}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit();
          else if (e.key === "Escape") setText(null);
          else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            const sign = e.key === "ArrowUp" ? 1 : -1;
            const much = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
            take(
              quantity === "plain" || quantity === "illuminance"
                ? p.value * 1.05 ** (sign * much)
                : p.value + sign * much * (quantity === "share" ? 0.05 : quantity === "ev" ? 0.1 : 50),
            );
          }
        }}
      />
      {quantity === "share" && <span className="text-xs quiet"> %</span>}
    </span>
  );
}

/** A name in a row. */
export function TextCell(p: { label: string; value: string; placeholder: string; onChange(v: string): void }) {
  const [text, setText] = useState<string | null>(null);
  const commit = (): void => {
    const next = text?.trim();
    setText(null);
    if (next !== undefined && next !== p.value) p.onChange(next);
  };
  return (
    <input
      aria-label={p.label}
      className="w-full min-w-0 bg-transparent outline-none placeholder:text-base-content/50 focus:bg-base-200"
      placeholder={p.placeholder}
      maxLength={120}
      value={text ?? p.value}
      onChange={(e) => setText(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === "Enter") commit();
        else if (e.key === "Escape") setText(null);
      }}
    />
  );
}
