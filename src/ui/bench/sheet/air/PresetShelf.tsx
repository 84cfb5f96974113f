/** The shelf of airs to start from, nature's and one's own. */
import { useRef, useState } from "react";
import { useStore } from "zustand";
import { describe, startFrom, STARTING_POINTS, type StartingPoint } from "#core/air/starting-points";
import type { Medium } from "#core/document/schema";
import { scatteringAlbedo, meanExtinction, visibility } from "#core/document/medium";
import { cssColour } from "../../../shared/ColourField";
import { saveFile } from "../../../shared/save-file";
import { useBench, useDocument, useSession } from "../../model/context";
import { Choice } from "../../../shared/controls";
import { addMedium } from "../../model/edits/air";
import { ownAirs } from "../../model/own-presets";
import { useReach } from "../../model/medium-fields";
import { useLengths } from "../../../shared/units";
import type { LengthWords } from "#core/document/units";

/** How deep fog lies that ends at a height. */
function depthOf({ height }: Medium, lengths: LengthWords): string {
  return height && height.shape !== "exponential" && height.scale <= DEEP ? `${lengths.rough(height.scale)} deep · ` : "";
}
/** Deeper air is not thought of as lying on the ground, m. */
const DEEP = 10;

export function PresetShelf({ close }: { close(): void }) {
  const { store, view, session, rooms } = useBench();
  const doc = useDocument();
  const lengths = useLengths();
  const whole = useReach();
  const median = useSession((s) => s.reach.median);
  // what the frame shows counts, not the whole of the set
  const reach = median === null ? whole : Math.min(whole, 2 * median);
  const ground = useSession((s) => s.bounds?.[1] ?? 0);
  const [manner, setManner] = useState<"shows" | "nature">("shows");
  const [own, setOwn] = useState(() => ownAirs.all());
  const [asking, setAsking] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const room = useStore(rooms, (s) => s.lens);
  // ground far below the lens is no ground to lie on: terrain goes deep
  const place = { reach, ground: Math.max(ground, doc.camera.position[1] - reach / 4), inside: room?.box ?? null };
  const take = (m: Medium): void => {
    view.setState({ medium: doc.air.length });
    store.getState().set((d) => addMedium(d, m));
    close();
  };
  /** A preset, as dense as the view asks for; by the scene's size alone where the view cannot be asked. */
  const fitted = async (p: StartingPoint): Promise<void> => {
    const m = startFrom(p, place, manner, p.name);
    if (asking) return;
    if (manner === "nature" || !session.section.ready) return take(m);
    setAsking(true);
    const asked = async (): Promise<number | null> => {
      const worker = await session.section.asked();
      return worker.across(addMedium(doc, m), doc.air.length, p.shows, reach);
    };
    const density = await asked().catch(() => null);
    take(density === null ? m : { ...m, density });
  };
  const read = async (file: File): Promise<void> => {
    try {
      for (const m of ownAirs.fromText(await file.text(), file.name)) ownAirs.keep(m);
      setProblem(null);
      setOwn(ownAirs.all());
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    }
  };
  const save = (): void => saveFile(ownAirs.toFile(own), "airs.json", "application/json");
  const line = (m: Medium, words: string, key: string, figures: string, onTake: () => void, more?: React.ReactNode) => (
    <li key={key} className="group flex items-center gap-2">
      <button className="flex min-w-0 flex-1 items-center gap-2 py-0.5 text-left text-sm hover:text-primary" title={words} onClick={onTake}>
        <span className="inline-block h-3 w-5 shrink-0 border hair" style={{ background: cssColour(scatteringAlbedo(m)) }} />
        <span className="min-w-0 grow truncate">{key}</span>
        <span className="figures shrink-0 text-xs quiet">{figures}</span>
      </button>
      {more}
    </li>
  );
  return (
    <div role="group" aria-label="Presets" className="space-y-1 border-l border-primary/60 py-1 pl-2.5">
      <Choice<"shows" | "nature">
        label="Density"
        value={manner}
        options={[
          ["shows", "to show here"],
          ["nature", "as in nature"],
        ]}
        tooltip="Real haze needs kilometres to show. To show here, each preset leaves the share of light across the view that it says, whatever the size of the scene; colours and phase function stay physical."
        onChange={setManner}
      />
      <p className="text-xs quiet">
        {manner === "shows"
          ? `Each leaves the share of light that stands beside it, across the view (about ${lengths.rough(reach)}). `
          : "Each with the visibility it has in nature. "}
        {room ? "Bounded by the room that the camera is in." : "Thinning out upwards."}
      </p>
      <ul>
        {STARTING_POINTS.map((p) => {
          const m = startFrom(p, place, manner, p.name);
          const amount = manner === "shows" ? `${Math.round(100 * p.shows)} %` : lengths.rough(visibility(meanExtinction(m)));
          return line(m, describe(p, lengths), p.name, `${depthOf(m, lengths)}${amount}`, () => void fitted(p));
        })}
      </ul>
      {own.length > 0 && (
        <>
          <h4 className="pt-1 text-xs font-semibold">Your own</h4>
          <ul>
            {own.map((m) =>
              line(
                m,
                "Kept by you.",
                m.name,
                lengths.rough(visibility(meanExtinction(m))),
                () => take(m),
                <button
                  className="text-xs quiet opacity-0 group-hover:opacity-100 focus:opacity-100"
                  aria-label={`Forget ${m.name}`}
                  onClick={() => {
                    ownAirs.forget(m.name);
                    setOwn(ownAirs.all());
                  }}
                >
                  forget
                </button>,
              ),
            )}
          </ul>
        </>
      )}
      <div className="flex gap-2 text-xs">
        <button className="link link-hover" onClick={() => picker.current?.click()}>
          From a file …
        </button>
        {own.length > 0 && (
          <button className="link link-hover" onClick={save}>
            Your own as a file
          </button>
        )}
      </div>
      <input
        ref={picker}
        type="file"
        accept=".json"
        className="hidden"
        aria-label="Preset file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void read(file);
          e.target.value = "";
        }}
      />
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
    </div>
  );
}
