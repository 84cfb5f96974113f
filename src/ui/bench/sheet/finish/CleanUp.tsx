/** Strengths of the clean-up. */
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument, useView } from "../../model/context";
import { NumberField } from "../../../shared/NumberField";
import { DocumentGroup } from "../Group";
import { Switch } from "../../../shared/controls";

const FIELDS = [
  [
    "fireflies",
    "Fireflies",
    "How far single pixels that stand out of their surroundings by chance are brought down. A little of the light goes with them.",
  ],
  ["air", "Air", "How much noise is taken out of the light that the air scatters and emits: shafts, glows, smoke."],
  [
    "surfaces",
    "Surfaces",
    "How much noise is taken out of the light of surfaces; their texture is left. Directly seen lights, disks and stars are never touched.",
  ],
] as const;

export function CleanUp() {
  const { store, view } = useBench();
  const { cleanUp } = useDocument().film;
  const clean = useView((s) => s.clean);
  const set = (change: Partial<SceneDocument["film"]["cleanUp"]>): void =>
    store.getState().set((d) => ({ ...d, film: { ...d.film, cleanUp: { ...d.film.cleanUp, ...change } } }));
  return (
    <DocumentGroup id="cleanUp">
      <Switch
        label="Show cleaned"
        on={clean}
        tooltip="Shows the picture with its noise taken out. Proofs and exports keep both, cleaned and as rendered. N; hold Q to see it as rendered"
        onChange={(on) => view.setState({ clean: on })}
      />
      {FIELDS.map(([key, label, tooltip]) => (
        <NumberField
          key={key}
          label={label}
          quantity="share"
          value={cleanUp[key]}
          min={0}
          max={1}
          step={0.05}
          reset={1}
          tooltip={tooltip}
          onGesture={(a) => store.gesture(a)}
          onChange={(v) => set({ [key]: v })}
        />
      ))}
    </DocumentGroup>
  );
}
