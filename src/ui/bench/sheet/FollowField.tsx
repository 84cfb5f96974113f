/** What a light or a region moves along with. */
import type { Medium } from "#core/document/schema";
import { useDocument } from "../model/context";
import { Select } from "../../shared/controls";

export type Followed = NonNullable<Medium["follows"]>;

/** Most names offered; a list of hundreds helps nobody. */
const MAX = 200;

export function FollowField(p: { value: Followed | null; lights: boolean; onChange(follows: Followed | null): void }) {
  const doc = useDocument();
  const once = (names: (string | undefined)[]): string[] => [...new Set(names.filter((n) => n !== undefined))].slice(0, MAX);
  const objects = once(doc.objects.map((o) => o.name));
  const lights = p.lights ? once(doc.lights.map((l) => l.name)) : [];
  if (objects.length + lights.length === 0) return null;
  const key = (f: Followed): string => `${f.kind} ${f.name}`;
  const offered: Followed[] = [
    ...objects.map((name) => ({ kind: "object" as const, name })),
    ...lights.map((name) => ({ kind: "light" as const, name })),
  ];
  if (p.value && !offered.some((f) => key(f) === key(p.value!))) offered.push(p.value);
  return (
    <Select
      label="Moves with"
      value={p.value ? key(p.value) : ""}
      options={[["", "nothing"], ...offered.map((f) => [key(f), f.kind === "light" ? `${f.name} (light)` : f.name] as const)]}
      tooltip="Moved, turned or scaled along with this; it can still be moved by itself."
      onChange={(v) => p.onChange(offered.find((f) => key(f) === v) ?? null)}
    />
  );
}
