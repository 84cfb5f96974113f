/** Looks: finishes kept by name for all projects, look-up tables in and out. */
import { useRef, useState } from "react";
import { useStore } from "zustand";
import { finishToCube, type CubeInput } from "#core/formats/look-cube";
import { NO_FINISH } from "#core/film/finish";
import { useBench, useDocument, useLut } from "../../model/context";
import { fileName } from "../../model/file-name";
import { Luts } from "../../model/luts";
import { lookOf, ownLooks, withLook, type OwnLook } from "../../model/own-looks";
import { NumberField } from "../../../shared/NumberField";
import { saveFile } from "../../../shared/save-file";
import { Choice } from "../../../shared/controls";
import { DocumentGroup } from "../Group";
import { AssetField } from "../lights/AssetField";

export function Looks() {
  const { store, session } = useBench();
  const doc = useDocument();
  const lut = useLut(doc);
  const unread = useStore(session.luts.state, (s) => s.problems[Luts.hashOf(doc) ?? ""] ?? null);
  const { finish } = doc.film;
  const [own, setOwn] = useState(() => ownLooks.all());
  const [called, setCalled] = useState("");
  const [input, setInput] = useState<CubeInput>("display");
  const [problem, setProblem] = useState<string | null>(null);
  const picker = useRef<HTMLInputElement>(null);

  const keep = (): void => {
    ownLooks.keep(lookOf(doc, called.trim()));
    setOwn(ownLooks.all());
    setCalled("");
  };
  const take = (look: OwnLook): void => store.getState().set((d) => withLook(d, look));
  const read = async (file: File): Promise<void> => {
    try {
      for (const look of ownLooks.fromText(await file.text(), file.name)) ownLooks.keep(look);
      setProblem(null);
      setOwn(ownLooks.all());
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    }
  };
  const setLut = (next: typeof finish.lut): void =>
    store.getState().set((d) => ({ ...d, film: { ...d.film, finish: { ...d.film.finish, lut: next } } }));

  return (
    <DocumentGroup id="looks">
      {own.length > 0 && (
        <ul aria-label="Own looks">
          {own.map((look) => (
            <li key={look.name} className="flex items-center gap-2">
              <button
                className="min-w-0 flex-1 truncate py-0.5 text-left text-sm hover:text-primary"
                title="Finishes the picture so: tone, curves, glare, look-up table. Undo brings the present finish back."
                onClick={() => take(look)}
              >
                {look.name}
              </button>
              <button
                className="text-xs quiet hover:text-base-content"
                aria-label={`Forget the look ${look.name}`}
                onClick={() => {
                  ownLooks.forget(look.name);
                  setOwn(ownLooks.all());
                }}
              >
                forget
              </button>
            </li>
          ))}
        </ul>
      )}
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (called.trim()) keep();
        }}
      >
        <input
          aria-label="Name of the look"
          placeholder="name of this look"
          className="input input-xs min-w-0 flex-1"
          maxLength={120}
          value={called}
          onChange={(e) => setCalled(e.target.value)}
        />
        <button
          className="btn btn-xs btn-outline hair"
          disabled={!called.trim()}
          title="Keeps the present finish by that name, in this browser, for all projects. One of the same name is replaced."
        >
          Keep look
        </button>
      </form>
      <div className="flex flex-wrap gap-x-3 text-xs">
        <button
          className="link link-hover"
          title="All of the finish as it is at first."
          onClick={() => store.getState().set((d) => ({ ...d, film: { ...d.film, finish: NO_FINISH } }))}
        >
          Plain
        </button>
        <button className="link link-hover" onClick={() => picker.current?.click()}>
          Looks from a file …
        </button>
        {own.length > 0 && (
          <button className="link link-hover" onClick={() => saveFile(ownLooks.toFile(own), "looks.json", "application/json")}>
            Own looks as a file
          </button>
        )}
      </div>
      <AssetField
        label="Look-up table"
        kind="lut"
        accept=".cube"
        value={finish.lut?.asset ?? null}
        tooltip="A .cube file that the display values go through as the last step: a curve of each band, or a cube of up to 65 a side."
        onTake={(d, asset) => ({ ...d, film: { ...d.film, finish: { ...d.film.finish, lut: { asset, strength: 1 } } } })}
      />
      {finish.lut && (
        <>
          <NumberField
            label="Table strength"
            quantity="share"
            value={finish.lut.strength}
            min={0}
            max={1}
            useful={[0, 1]}
            step={0.01}
            reset={1}
            disabled={!finish.on}
            tooltip="How far what the table gives takes the place of what it is given."
            onGesture={(a) => store.gesture(a)}
            onChange={(strength) => finish.lut && setLut({ ...finish.lut, strength })}
          />
          <button className="btn btn-xs btn-outline hair" onClick={() => setLut(null)}>
            Without the table
          </button>
        </>
      )}
      <Choice<CubeInput>
        label="Table is fed"
        value={input}
        options={[
          ["display", "sRGB"],
          ["log", "log light"],
        ]}
        tooltip="What the written table expects: an exposed picture in sRGB up to white; or linear light as its logarithm, 10 stops below to 6 above middle grey, which keeps highlights. The file says it too."
        onChange={setInput}
      />
      <button
        className="btn btn-xs btn-outline hair"
        title="The finish as a 3D look-up table of 33 a side, for other programs. Exposure, white balance and glare are no part of it."
        onClick={() =>
          saveFile(
            finishToCube(called.trim() || doc.title, finish, lut, input),
            `${fileName(called.trim() || doc.title)}.cube`,
            "text/plain",
          )
        }
      >
        Finish as .cube
      </button>
      {unread && !lut && (
        <p role="alert" className="text-xs break-words text-error">
          The look-up table is left out: {unread}
        </p>
      )}
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
      <input
        ref={picker}
        type="file"
        accept=".json"
        className="hidden"
        aria-label="File of looks"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void read(file);
          e.target.value = "";
        }}
      />
    </DocumentGroup>
  );
}
