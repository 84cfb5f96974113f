/** Fields of what is chosen in the set: name, place, size, material. */
import { map3 } from "#core/math/vectors";
import type { ObjectPart, SceneObject } from "#core/document/schema";
import { frameAround } from "#core/document/framing";
import { NameField } from "../../../shared/NameField";
import { NumberField } from "../../../shared/NumberField";
import { useReach } from "../../model/medium-fields";
import { useBench, useDocument, useSession } from "../../model/context";
import { Switch } from "../../../shared/controls";
import { changeObject, changePart, duplicateObject, newMaterial, partOf, removeObject, renameObject } from "../../model/edits/set";
import { MaterialFields } from "./MaterialFields";

const AXES = "xyz";

function Vector(p: {
  label: string;
  unit: string;
  value: readonly [number, number, number];
  angle?: boolean;
  tooltip: string;
  onChange(v: [number, number, number]): void;
}) {
  const { store } = useBench();
  const reach = useReach();
  return p.value.map((v, k) => (
    <NumberField
      key={k}
      label={`${p.label} ${AXES[k]}`}
      unit={p.unit}
      quantity={p.angle ? "angle" : "length"}
      value={v}
      min={p.angle ? -36000 : -1e7}
      max={p.angle ? 36000 : 1e7}
      useful={p.angle ? [-180, 180] : [-reach / 2, reach / 2]}
      step={p.angle ? 1 : reach / 800}
      reset={0}
      onGesture={(a) => store.gesture(a)}
      tooltip={p.tooltip}
      onChange={(x) => p.onChange(map3(p.value, (o, i) => (i === k ? x : o)))}
    />
  ));
}

/** Chooses what something is made of: its own, or a material of the document, which opens in place. */
function MaterialChoice(p: { value: string | null; own: boolean; name: string; onChange(material: string | null): void }) {
  const { store } = useBench();
  const doc = useDocument();
  const make = (material: Parameters<typeof newMaterial>[2], suffix: string): void => {
    // the material and its use are one step
    store.gesture(true);
    const made = newMaterial(store.getState().document, `${p.name}${suffix}`.slice(0, 100), material);
    store.getState().set(() => made.doc);
    p.onChange(made.name);
    store.gesture(false);
  };
  return (
    <>
      <label
        className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm"
        title="Material of this object. Several objects may share one."
      >
        <span className="quiet">Material</span>
        <select
          aria-label={`Material of ${p.name}`}
          className="select select-xs w-full"
          value={p.value === null ? "own" : `m:${p.value}`}
          onChange={(e) => {
            const v = e.target.value;
            if (v === "new") make(p.value ? doc.materials[p.value]! : {}, "");
            else if (v === "glow")
              make(
                {
                  baseColor: [0, 0, 0],
                  emission: [1, 0.8, 0.55].map((c) => Math.round(c * 40 * 2 ** (doc.film.exposure - 3))) as [number, number, number],
                },
                " glow",
              );
            else p.onChange(v === "own" ? null : v.slice(2));
          }}
        >
          {p.own && <option value="own">its own</option>}
          {Object.keys(doc.materials).map((m) => (
            <option key={m} value={`m:${m}`}>
              {m}
            </option>
          ))}
          <option value="new">a new one …</option>
          <option value="glow">an emissive one …</option>
        </select>
      </label>
      {p.value !== null && <MaterialFields name={p.value} />}
    </>
  );
}

export function ObjectFields({ object, index }: { object: SceneObject; index: number }) {
  const { store, view } = useBench();
  const doc = useDocument();
  const bounds = useSession((s) => s.objectBounds[index] ?? null);
  const reach = useReach();
  const name = object.name ?? `${object.kind} ${index + 1}`;
  const gesture = (a: boolean): void => store.gesture(a);
  const set = (change: Partial<SceneObject>): void => store.getState().set((d) => changeObject(d, index, change));
  const length = (label: string, value: number, tooltip: string, onChange: (v: number) => void) => (
    <NumberField
      key={label}
      logarithmic
      label={label}
      unit="m"
      quantity="length"
      value={value}
      min={1e-6}
      max={1e7}
      useful={[reach / 1000, reach]}
      reset={1}
      onGesture={gesture}
      tooltip={tooltip}
      onChange={onChange}
    />
  );
  return (
    <div role="group" aria-label={name} className="mb-2 space-y-1 border-l border-primary/60 py-1 pl-2.5">
      <NameField value={name} label={`Name of ${name}`} onChange={(n) => store.getState().set((d) => renameObject(d, index, n))} />
      <fieldset disabled={object.locked} className="space-y-1">
        <Vector label="At" unit="m" value={object.position} tooltip="Where it is moved to." onChange={(position) => set({ position })} />
        <Vector
          label="Rotation"
          unit="°"
          angle
          value={object.rotation}
          tooltip="Degrees about x, then y, then z."
          onChange={(rotation) => set({ rotation })}
        />
        {object.kind === "model" && (
          <NumberField
            logarithmic
            label="Scale"
            value={object.scale}
            min={1e-6}
            max={1e9}
            useful={[0.01, 100]}
            reset={1}
            onGesture={gesture}
            tooltip="Metres that one unit of its file is."
            onChange={(scale) => set({ scale })}
          />
        )}
        {(object.kind === "box" || object.kind === "rectangle") &&
          object.size.map((v, k) =>
            length(`Size ${object.kind === "box" ? AXES[k] : "xz"[k]}`, v, "Length of a side.", (x) =>
              set({ size: object.size.map((o, i) => (i === k ? x : o)) } as Partial<SceneObject>),
            ),
          )}
        {"radius" in object && length("Radius", object.radius, "From the middle to the border.", (radius) => set({ radius }))}
        {object.kind === "cylinder" && length("Height", object.height, "Along its own y.", (height) => set({ height }))}
        <MaterialChoice value={object.material} own={object.kind === "model"} name={name} onChange={(material) => set({ material })} />
        <Switch
          label="Holdout"
          on={object.holdout}
          tooltip="Black to the camera but still in the way of light: cuts its shape out of the picture."
          onChange={(holdout) => set({ holdout })}
        />
      </fieldset>
      <div className="flex flex-wrap gap-x-3 pt-1 text-xs">
        {bounds && (
          <button
            className="link link-hover"
            title="Moves the camera so that it fills the frame."
            onClick={() =>
              store.getState().set((d) => ({ ...d, camera: frameAround(bounds, d.film.size[0] / d.film.size[1], d.camera, true) }))
            }
          >
            Frame it
          </button>
        )}
        <button
          className="link link-hover"
          disabled={doc.objects.length >= 4096 || object.kind === "plate"}
          title={object.kind === "plate" ? "A plate has one surface." : undefined}
          onClick={() => {
            store.getState().set((d) => duplicateObject(d, index));
            view.setState({ chosen: { object: index + 1, part: null } });
          }}
        >
          Duplicate
        </button>
        <button
          className="link link-hover quiet"
          disabled={object.locked}
          title="Undo brings it back."
          onClick={() => {
            view.setState({ chosen: null, grip: null });
            store.getState().set((d) => removeObject(d, index));
          }}
        >
          Remove
        </button>
      </div>
    </div>
  );
}

/** What of a part of a model is changed. */
export function PartFields({ object, index, path, name }: { object: SceneObject; index: number; path: string; name: string }) {
  const { store } = useBench();
  const part = partOf(object, path);
  const set = (change: Partial<ObjectPart>): void => store.getState().set((d) => changePart(d, index, path, change));
  return (
    <div role="group" aria-label={part.label ?? name} className="mb-2 ml-3 space-y-1 border-l border-primary/60 py-1 pl-2.5">
      <NameField value={part.label ?? name} label={`Name of ${name}`} onChange={(label) => set({ label: label === name ? null : label })} />
      <fieldset disabled={part.locked} className="space-y-1">
        <Vector
          label="Offset"
          unit="m"
          value={part.position}
          tooltip="How far from where the model has it, in the model's own frame."
          onChange={(position) => set({ position })}
        />
        <Vector
          label="Rotation"
          unit="°"
          angle
          value={part.rotation}
          tooltip="Degrees about x, then y, then z, through its own place."
          onChange={(rotation) => set({ rotation })}
        />
        <NumberField
          logarithmic
          label="Scale"
          value={part.scale}
          min={1e-4}
          max={1e4}
          useful={[0.1, 10]}
          reset={1}
          onGesture={(a) => store.gesture(a)}
          tooltip="Larger or smaller about its own place."
          onChange={(scale) => set({ scale })}
        />
        <MaterialChoice value={part.material} own name={part.label ?? name} onChange={(material) => set({ material })} />
        <Switch
          label="Holdout"
          on={part.holdout}
          tooltip="Black to the camera but still in the way of light."
          onChange={(holdout) => set({ holdout })}
        />
      </fieldset>
      <button
        className="link link-hover pt-1 text-xs"
        title="Removes all changes of this part."
        onClick={() =>
          set({
            position: [0, 0, 0],
            rotation: [0, 0, 0],
            scale: 1,
            hidden: false,
            locked: false,
            holdout: false,
            material: null,
            label: null,
          })
        }
      >
        Reset to the model
      </button>
    </div>
  );
}
