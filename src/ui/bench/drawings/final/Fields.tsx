/** Fields of the form of a final: each a line with its label, in columns. */
import type { ReactNode } from "react";
import type { Form, TextKey, TickKey } from "./form";

interface Of {
  form: Form;
  change: (to: Partial<Form>) => void;
}

const LINE = "flex items-center justify-between gap-2";

export function TextField({
  of: { form, change },
  field,
  label,
  tooltip,
  width = "w-20",
  placeholder,
  onType = (text) => change({ [field]: text }),
}: {
  of: Of;
  field: TextKey;
  label: string;
  tooltip: string;
  width?: string;
  placeholder?: string;
  onType?: (text: string) => void;
}) {
  return (
    <label className={LINE} title={tooltip}>
      <span className="quiet whitespace-nowrap">{label}</span>
      <input
        className={`input input-xs figures min-w-0 ${width} text-right`}
        value={form[field]}
        {...(placeholder ? { placeholder } : {})}
        onChange={(e) => onType(e.target.value)}
      />
    </label>
  );
}

export function Tick({ of: { form, change }, field, label, tooltip }: { of: Of; field: TickKey; label: string; tooltip: string }) {
  return (
    <label className={LINE} title={tooltip}>
      <span className="quiet whitespace-nowrap">{label}</span>
      <input type="checkbox" className="toggle toggle-xs" checked={form[field]} onChange={(e) => change({ [field]: e.target.checked })} />
    </label>
  );
}

export function Choice<T extends string>({
  label,
  tooltip,
  value,
  options,
  onChoose,
}: {
  label: string;
  tooltip: string;
  value: T;
  options: Readonly<Record<T, string>> | readonly (readonly [T, string])[];
  onChoose: (value: T) => void;
}) {
  const listed = Array.isArray(options) ? (options as readonly (readonly [T, string])[]) : (Object.entries(options) as [T, string][]);
  return (
    <label className={LINE} title={tooltip}>
      <span className="quiet whitespace-nowrap">{label}</span>
      <select aria-label={label} className="select select-xs w-28" value={value} onChange={(e) => onChoose(e.target.value as T)}>
        {listed.map(([option, words]) => (
          <option key={option} value={option}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

export function Column({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="flex min-w-0 flex-col gap-1">
      <legend className="mb-0.5 font-semibold">{title}</legend>
      {children}
    </fieldset>
  );
}
