/** The name of one of several, beside its label. */
import { useState } from "react";

export function NameField({ value, label, onChange }: { value: string; label: string; onChange(name: string): void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <label className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm">
      <span className="quiet">Name</span>
      <input
        aria-label={label}
        className="input input-xs w-full"
        maxLength={100}
        value={text ?? value}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setText(null);
        }}
        onBlur={() => {
          const next = text?.trim();
          setText(null);
          if (next && next !== value) onChange(next);
        }}
      />
    </label>
  );
}
