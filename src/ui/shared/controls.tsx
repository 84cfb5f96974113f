/** Controls that every sheet is made of: headings, read-outs, choices, switches. */
import type { KeyboardEvent, ReactNode } from "react";

/** A fact beside its label, which is read and not set. */
export function Readout({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm">
      <span className="truncate quiet">{label}</span>
      <span>{children}</span>
    </div>
  );
}

/** Keys that go on to the next of several, or back. */
const ALONG: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

/** Moves focus and choice along a group of radio buttons, which is one stop of the Tab key. */
export function alongRadios(event: KeyboardEvent<HTMLElement>): void {
  const by = ALONG[event.key];
  const radios = [...event.currentTarget.querySelectorAll<HTMLElement>("[role=radio]")];
  const at = radios.indexOf(event.target as HTMLElement);
  if (!by || at < 0) return;
  event.preventDefault();
  const next = radios[(at + by + radios.length) % radios.length]!;
  next.focus();
  next.click();
}

/** A short list of alternatives, all in sight. */
export function Choice<T extends string>(p: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  tooltip: string;
  onChange(v: T): void;
}) {
  const known = p.options.some(([value]) => value === p.value);
  return (
    <div
      className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2"
      title={p.tooltip}
      role="radiogroup"
      aria-label={p.label}
      onKeyDown={alongRadios}
    >
      <span className="truncate text-sm quiet">{p.label}</span>
      <span className="flex flex-wrap gap-x-3">
        {p.options.map(([value, words], i) => (
          <button
            key={value}
            role="radio"
            aria-checked={p.value === value}
            tabIndex={(known ? p.value === value : i === 0) ? 0 : -1}
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
