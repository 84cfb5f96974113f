/** What else shapes a medium: keeping away from the lens, nearness to an object, glow. */
import { mediumSchema, proximitySchema } from "#core/document/air";
import { ColourField } from "../../../shared/ColourField";
import { useBench, useDocument } from "../../model/context";
import { Num } from "../../../shared/Num";
import { MediumGroup } from "../Group";
import { Select, Switch } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";

export function ShapeFields({ medium, reach, set }: MediumFields) {
  const { store } = useBench();
  const doc = useDocument();
  const objects = [...new Set(doc.objects.flatMap((o) => (o.name ? [o.name] : [])))];
  const { start, proximity, emission } = medium;
  const tidy = (v: number): number => Number(v.toPrecision(2));
  return (
    <>
      <MediumGroup id="start" medium={medium}>
        <Switch
          label="Distance shaping"
          on={start !== null}
          tooltip="Artistic, not physical: the air starts at a distance from the lens and fades in over another."
          onChange={(on) =>
            set({ start: on ? mediumSchema.shape.start.parse({ distance: tidy(reach / 10), fade: tidy(reach / 10) }) : null })
          }
        />
        {start && (
          <>
            <Num
              label="Start distance"
              unit="m"
              quantity="length"
              value={start.distance}
              min={0}
              max={1e6}
              useful={[0, reach]}
              step={reach / 400}
              reset={0}
              tooltip="Distance from the lens before which the air is thinned."
              onChange={(distance) => set({ start: { ...start, distance } })}
            />
            <Num
              label="Fade-in length"
              unit="m"
              quantity="length"
              value={start.fade}
              min={0}
              max={1e6}
              useful={[0, reach]}
              step={reach / 400}
              reset={10}
              tooltip="Length over which density then rises to its full value."
              onChange={(fade) => set({ start: { ...start, fade } })}
            />
            <Num
              label="Min density"
              quantity="share"
              value={start.min}
              min={0}
              max={1}
              step={0.01}
              reset={0}
              tooltip="Share of the density that is kept near the lens."
              onChange={(min) => set({ start: { ...start, min } })}
            />
          </>
        )}
      </MediumGroup>

      {objects.length > 0 && (
        <MediumGroup id="proximity" medium={medium}>
          <Select
            label="Object"
            value={proximity?.object ?? ""}
            options={[["", "nothing"], ...objects.map((n) => [n, n] as const)]}
            tooltip="Density by the distance to this object's surface: fog that hugs water, clear air near a wall."
            onChange={(object) =>
              set({
                proximity:
                  object === ""
                    ? null
                    : proximity
                      ? { ...proximity, object }
                      : proximitySchema.parse({ object, curve: [[0, 1], [tidy(reach / 12), 0]] }), // prettier-ignore
              })
            }
          />
          {proximity?.curve.map(([d, share], i) => (
            <div key={i} className="grid grid-cols-2 gap-x-2 [&_label]:w-10 [&>div>div]:grid-cols-[2.4rem_1fr]">
              <Num
                label={`At ${i + 1}`}
                unit="m"
                quantity="length"
                value={d}
                min={i === 0 ? 0 : proximity.curve[i - 1]![0] + 1e-3}
                max={proximity.curve[i + 1] ? proximity.curve[i + 1]![0] - 1e-3 : 1e5}
                useful={[0, reach / 2]}
                step={reach / 800}
                reset={i === 0 ? 0 : reach / 12}
                tooltip="Distance from the surface."
                onChange={(v) => set({ proximity: { ...proximity, curve: proximity.curve.map((c, k) => (k === i ? [v, c[1]] : c)) } })}
              />
              <Num
                label={`Share ${i + 1}`}
                quantity="share"
                value={share}
                min={0}
                max={1}
                step={0.01}
                reset={i === 0 ? 1 : 0}
                tooltip="Share of the density at this distance; straight between."
                onChange={(v) => set({ proximity: { ...proximity, curve: proximity.curve.map((c, k) => (k === i ? [c[0], v] : c)) } })}
              />
            </div>
          ))}
        </MediumGroup>
      )}

      {!medium.grid?.temperature && (
        <MediumGroup id="emission" medium={medium}>
          <Switch
            label="Emission"
            on={emission !== null}
            tooltip="The medium emits light, as flames and embers do, and lights its surroundings."
            onChange={(on) =>
              set({ emission: on ? mediumSchema.shape.emission.parse({ strength: tidy((2 ** doc.film.exposure * 0.125) / reach) }) : null })
            }
          />
          {emission && (
            <>
              <ColourField
                label="Emission colour"
                value={emission.colour}
                reset={[1, 0.6, 0.3]}
                onGesture={(a) => store.gesture(a)}
                tooltip="Colour of the emitted light."
                onChange={(colour) => set({ emission: { ...emission, colour } })}
              />
              <Num
                logarithmic
                label="Emitted luminance"
                unit="cd/m²"
                value={emission.strength}
                min={0}
                max={1e9}
                useful={[0.01, 1e5]}
                reset={10}
                tooltip="Luminance emitted per metre of a ray at full density."
                onChange={(strength) => set({ emission: { ...emission, strength } })}
              />
            </>
          )}
        </MediumGroup>
      )}
    </>
  );
}
