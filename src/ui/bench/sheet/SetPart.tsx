/** The set and the lens. */
import { OBJECT_OPTIONS, optionsOf } from "../model/kind-options";
import { useRef } from "react";
import { LIMITS } from "#core/document/schema";
import { limitsInWords } from "#core/exchange/import/files";
import { sightNow } from "../model/sight";
import { shapePlace } from "#core/scene/sight";
import { useBench, useDocument, useSession } from "../model/context";
import { ImportPanel } from "./set/ImportPanel";
import { pickedFiles, SET_FILES } from "../model/incoming";
import { addShape } from "../model/edits/set";
import { Choice } from "../../shared/controls";
import { LensFields } from "./set/LensFields";
import { SetTree } from "./set/SetTree";
import { PlateFields } from "./set/PlateFields";
import { SizeFields } from "./set/SizeFields";

const SHAPES = optionsOf(OBJECT_OPTIONS, ["model", "plate"]);

export function SetPart() {
  const bench = useBench();
  const { store, view, incoming } = bench;
  const doc = useDocument();
  const triangles = useSession((s) => s.triangles);
  const kept = useSession((s) => s.kept);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const picker = (ref: typeof files, label: string, more: object) => (
    <input
      ref={ref}
      type="file"
      multiple
      aria-label={label}
      className="hidden"
      onChange={(e) => {
        if (e.target.files?.length) void incoming.read(pickedFiles(e.target.files));
        e.target.value = "";
      }}
      {...more}
    />
  );
  return (
    <>
      {doc.objects.length === 0 && (
        <p className="text-sm quiet">The set is empty. Import files, drop them anywhere, or block with shapes.</p>
      )}
      <div className="flex gap-2">
        <button
          className="btn btn-xs btn-outline hair flex-1"
          title={`glTF, OBJ or OpenUSD with its files, or a zip archive of them. They may also be dropped anywhere. ${limitsInWords()}`}
          onClick={() => files.current?.click()}
        >
          Import files …
        </button>
        <button
          className="btn btn-xs btn-outline hair flex-1"
          title="A folder that holds a model and its pictures."
          onClick={() => folder.current?.click()}
        >
          … or a folder
        </button>
      </div>
      {picker(files, "Files of a set", { accept: SET_FILES })}
      {picker(folder, "Folder of a set", { webkitdirectory: "" })}
      <ImportPanel />
      <SetTree />
      <label
        className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm"
        title="A plain shape to block with, on the ground where you look."
      >
        <span className="quiet">Add a shape</span>
        <select
          aria-label="Add a shape"
          className="select select-xs w-full"
          value=""
          disabled={doc.objects.length >= LIMITS.objects}
          onChange={(e) => {
            const kind = e.target.value as (typeof SHAPES)[number][0];
            const { at, size } = shapePlace(doc, sightNow(bench));
            store.getState().set((d) => addShape(d, kind, at, size));
            view.setState({ chosen: { object: doc.objects.length, part: null } });
          }}
        >
          <option value="">…</option>
          {SHAPES.map(([kind, label]) => (
            <option key={kind} value={kind}>
              {label}
            </option>
          ))}
        </select>
      </label>
      {triangles > 0 && (
        <p className="figures text-xs quiet" title="Instances share geometry where that saves memory.">
          {triangles.toLocaleString("en")} triangles
          {kept < triangles ? `, ${kept.toLocaleString("en")} kept` : ""}
        </p>
      )}
      <Choice
        label="Lengths"
        value={doc.units}
        options={[
          ["metric", "metres"],
          ["imperial", "feet"],
        ]}
        tooltip="Units that this project shows and takes: lengths, coefficients per length, illuminance (lux or footcandles). Any unit may be typed with its name; the scene stays as large as it is."
        onChange={(units) => store.getState().set((d) => ({ ...d, units }))}
      />
      <PlateFields />
      <SizeFields />
      <LensFields />
    </>
  );
}
