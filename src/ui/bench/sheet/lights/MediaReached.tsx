/** Which media a light lights. */
import { useDocument } from "../../model/context";

export function MediaReached({ value, onChange }: { value: string[] | null; onChange(media: string[] | null): void }) {
  const doc = useDocument();
  if (doc.air.length === 0) return null;
  const names = [...new Set(doc.air.map((m) => m.name))];
  return (
    <fieldset className="text-sm" title="Media that this light reaches. All is physically correct.">
      <legend className="quiet">Light linking</legend>
      {names.map((name) => {
        const on = value === null || value.includes(name);
        return (
          <label key={name} className="flex cursor-pointer items-center justify-between pl-3">
            <span className="truncate" title={name}>
              {name}
            </span>
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={`Lights ${name}`}
              checked={on}
              onChange={() => {
                const next = names.filter((n) => (n === name ? !on : value === null || value.includes(n)));
                onChange(next.length === names.length ? null : next);
              }}
            />
          </label>
        );
      })}
    </fieldset>
  );
}
