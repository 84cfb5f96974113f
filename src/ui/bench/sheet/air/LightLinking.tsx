/** Which light lights which medium: lights as lines, media as columns. */
import type { SceneDocument } from "#core/document/schema";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument } from "../../model/context";
import { lightsMedium, reach } from "../../model/edits/air";

/** Lines drawn at most; the sheet of a light has its own boxes. */
const MAX = 80;

export function LightLinking() {
  const { store } = useBench();
  const doc = useDocument();
  const names = [...new Set(doc.air.map((m) => m.name))];
  const lines: { id: "sun" | "moon" | number; name: string; light: SceneDocument["sun" | "moon"] | SceneDocument["lights"][number] }[] = [
    ...(doc.sun.on ? [{ id: "sun" as const, name: "sun", light: doc.sun }] : []),
    ...(doc.moon.on ? [{ id: "moon" as const, name: "moon", light: doc.moon }] : []),
    ...doc.lights.map((light, id) => ({ id, name: light.name, light })),
  ];
  const setShare = (id: "sun" | "moon" | number, air: number): void =>
    store.getState().set((d) =>
      id === "sun" ? { ...d, sun: { ...d.sun, air } } : id === "moon" ? { ...d, moon: { ...d.moon, air } } : { ...d, lights: d.lights.map((l, i) => (i === id ? { ...l, air } : l)) },
    ); // prettier-ignore
  if (lines.length === 0) return <p className="text-xs quiet">No sun, moon or lamp is on. The sky lights all media.</p>;
  return (
    <div className="max-h-72 overflow-auto border-l border-primary/60 pl-2.5">
      <table className="text-xs">
        <thead>
          <tr className="align-bottom">
            <th />
            <th className="px-1 pb-1 text-left font-normal quiet" title="Air contribution of each light.">
              share
            </th>
            {names.map((n) => (
              <th key={n} scope="col" className="h-20 w-6 p-0 font-normal">
                <span className="block max-h-20 rotate-180 truncate [writing-mode:vertical-rl]" title={n}>
                  {n}
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.slice(0, MAX).map(({ id, name, light }) => (
            <tr key={String(id)}>
              <th scope="row" title={name} className="max-w-24 truncate pr-2 text-left font-normal">
                {name}
              </th>
              <td className="pr-1">
                <div className="w-20">
                  <NumberField
                    bare
                    label={`Air contribution of ${name}`}
                    quantity="share"
                    value={light.air}
                    min={0}
                    max={1}
                    reset={1}
                    tooltip="Air contribution of this light; 100 % is physically correct."
                    onChange={(air) => setShare(id, air)}
                    onGesture={(active) => store.gesture(active)}
                  />
                </div>
              </td>
              {names.map((n) => (
                <td key={n} className="text-center">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    aria-label={`${name} lights ${n}`}
                    checked={lightsMedium(light, n)}
                    onChange={(e) => store.getState().set((d) => reach(d, id, n, e.target.checked))}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {lines.length > MAX && <p className="quiet">and {lines.length - MAX} more, each in its own sheet</p>}
    </div>
  );
}
