/** Controls that every sheet is made of: headings, read-outs, choices, switches. */
import type { ReactNode } from "react";

/** Title of a group of fields. */
export function Heading({ children }: { children: ReactNode }) {
  return <h3 className="pt-2.5 pb-0.5 text-xs font-semibold tracking-wide text-base-content/90">{children}</h3>;
}

/** A fact beside its label, which is read and not set. */
export function Readout({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm">
      <span className="truncate quiet">{label}</span>
      <span>{children}</span>
    </div>
  );
}

/** A short list of alternatives, all in sight. */
export function Choice<T extends string>(p: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  tooltip: string;
  onChange(v: T): void;
}) {
  return (
    <div className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2" title={p.tooltip} role="radiogroup" aria-label={p.label}>
      <span className="truncate text-sm quiet">{p.label}</span>
      <span className="flex gap-3">
        {p.options.map(([value, words]) => (
          <button
            key={value}
            role="radio"
            aria-checked={p.value === value}
            className={`border-b-2 text-sm ${p.value === value ? "border-primary" : "border-transparent quiet hover:border-base-300"}`}
            onClick={() => p.onChange(value)}
          >
            {words}
          </button>
        ))}
      </span>
    </div>
  );
}

/** One of several, where there are too many for buttons in a row. */
export function Select<T extends string>(p: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  tooltip: string;
  onChange(v: T): void;
}) {
  return (
    <label className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm" title={p.tooltip}>
      <span className="quiet">{p.label}</span>
      <select aria-label={p.label} className="select select-xs w-full" value={p.value} onChange={(e) => p.onChange(e.target.value as T)}>
        {p.options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

/** On or off. */
export function Switch(p: { label: string; on: boolean; tooltip: string; onChange(on: boolean): void }) {
  return (
    <label className="flex cursor-pointer items-center justify-between text-sm" title={p.tooltip}>
      <span className="quiet">{p.label}</span>
      <input type="checkbox" className="toggle toggle-xs toggle-primary" checked={p.on} onChange={(e) => p.onChange(e.target.checked)} />
    </label>
  );
}
