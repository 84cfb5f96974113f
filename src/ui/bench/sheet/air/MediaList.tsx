/** The media as a list: what each glows with, how much, muted, alone; more from the shelf of starting points. */
import { middleOf } from "#core/section/sides";
import { useState } from "react";
import { LIMITS } from "#core/document/schema";
import { scatteringAlbedo, meanExtinction, visibility } from "#core/document/medium";
import { cssColour } from "../../../shared/ColourField";
import { alongRadios } from "../../../shared/controls";
import { useBench, useDocument, useView } from "../../model/context";
import { withMedium, withoutMedium } from "../../model/store";
import { duplicateMedium, moveMedium, renameMedium } from "../../model/edits/air";
import { LightLinking } from "./LightLinking";
import { ownAirs } from "../../model/own-presets";
import { PresetShelf } from "./PresetShelf";
import { useLengths } from "../../../shared/units";

export function MediaList({ index }: { index: number }) {
  const { store, view } = useBench();
  const doc = useDocument();
  const soloMedia = useView((s) => s.soloMedia);
  const lengths = useLengths();
  const shelf = useView((s) => s.presets);
  const setShelf = (presets: boolean): void => view.setState({ presets });
  const [matrix, setMatrix] = useState(false);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [kept, setKept] = useState<string | null>(null);
  const medium = doc.air[index];
  const rename = (): void => {
    const name = renaming?.trim();
    setRenaming(null);
    if (name && medium && name !== medium.name) store.getState().set((d) => renameMedium(d, index, name));
  };
  return (
    <>
      {doc.air.length === 0 && <p className="text-sm quiet">Clear air: no medium yet.</p>}
      <div role="radiogroup" aria-label="Media" onKeyDown={alongRadios}>
        {doc.air.map((m, i) => {
          const soloed = soloMedia.includes(i);
          const sigma = meanExtinction(m);
          return (
            <div key={i} className="group flex items-center gap-2 hover:bg-base-300/30">
              <button
                role="radio"
                aria-checked={i === index}
                tabIndex={i === index ? 0 : -1}
                aria-label={m.name}
                className={`flex min-w-0 flex-1 items-center gap-2 py-0.5 text-left text-sm ${i === index ? "text-primary" : ""} ${m.on ? "" : "opacity-50"}`}
                onClick={() => view.setState({ medium: i, grip: middleOf(m) ? { kind: "medium", index: i } : null })}
              >
                <span className="inline-block h-3 w-5 shrink-0 border hair" style={{ background: cssColour(scatteringAlbedo(m)) }} />
                <span className="min-w-0 grow truncate" title={m.name}>
                  {m.name}
                </span>
                <span className="figures shrink-0 text-xs quiet" title="Visibility in this medium.">
                  {sigma > 0 ? lengths.rough(visibility(sigma)) : "none"}
                </span>
              </button>
              <button
                className={`text-xs ${soloed ? "text-primary" : "quiet opacity-0 group-hover:opacity-100 focus:opacity-100"}`}
                aria-pressed={soloed}
                aria-label={`Solo ${m.name}`}
                title="Shows this medium alone. The document does not change."
                onClick={() => view.setState({ soloMedia: soloed ? soloMedia.filter((s) => s !== i) : [...soloMedia, i] })}
              >
                solo
              </button>
              <input
                type="checkbox"
                className="toggle toggle-xs toggle-primary"
                aria-label={`Enable ${m.name}`}
                title="Turns the medium off and keeps its settings."
                checked={m.on}
                onChange={(e) => store.getState().set((d) => withMedium(d, i, { on: e.target.checked }))}
              />
            </div>
          );
        })}
      </div>
      <div className="flex flex-wrap gap-x-1 gap-y-1">
        <button
          className={`btn btn-xs flex-1 ${doc.air.length ? "btn-outline hair" : "btn-primary btn-outline"}`}
          disabled={doc.air.length >= LIMITS.media}
          aria-expanded={shelf}
          onClick={() => setShelf(!shelf)}
        >
          {doc.air.length ? "Add another medium" : "Fill the scene with air"}
        </button>
        {doc.air.length > 0 && (
          <button
            className="btn btn-xs btn-ghost quiet"
            aria-expanded={matrix}
            title="Light linking: which light reaches which medium."
            onClick={() => setMatrix(!matrix)}
          >
            Light linking
          </button>
        )}
      </div>
      {shelf && <PresetShelf close={() => setShelf(false)} />}
      {matrix && <LightLinking />}
      {medium && (
        <div className="flex items-center gap-1 border-b hair pb-1 text-xs">
          <input
            aria-label={`Name of ${medium.name}`}
            className="input input-xs min-w-0 flex-1"
            maxLength={100}
            value={renaming ?? medium.name}
            onChange={(e) => setRenaming(e.target.value)}
            onKeyDown={(e) => (e.key === "Enter" ? e.currentTarget.blur() : e.key === "Escape" ? setRenaming(null) : undefined)}
            onBlur={rename}
          />
          {doc.air.length > 1 &&
            ([-1, 1] as const).map((by) => (
              <button
                key={by}
                className="btn btn-xs btn-ghost px-1 quiet"
                disabled={by < 0 ? index === 0 : index === doc.air.length - 1}
                aria-label={`Move ${medium.name} ${by < 0 ? "up" : "down"}`}
                title="Media add up in any order; the order is only for reading."
                onClick={() => {
                  store.getState().set((d) => moveMedium(d, index, by));
                  view.setState({ medium: index + by });
                }}
              >
                {by < 0 ? "↑" : "↓"}
              </button>
            ))}
          <button
            className="btn btn-xs btn-ghost px-1 quiet"
            aria-label={`Copy ${medium.name}`}
            disabled={doc.air.length >= LIMITS.media}
            onClick={() => {
              store.getState().set((d) => duplicateMedium(d, index));
              view.setState({ medium: index + 1 });
            }}
          >
            Copy
          </button>
          <button
            className="btn btn-xs btn-ghost px-1 quiet"
            aria-label={`Keep ${medium.name}`}
            title="Saves this medium as a preset, for other projects."
            onClick={() => {
              ownAirs.keep(medium);
              setKept(medium.name);
            }}
          >
            {kept === medium.name ? "Kept" : "Keep"}
          </button>
          <button
            className="btn btn-xs btn-ghost px-1 quiet"
            aria-label={`Remove ${medium.name}`}
            title="Undo brings it back."
            onClick={() => {
              view.setState({ soloMedia: [] });
              store.getState().set((d) => withoutMedium(d, index));
            }}
          >
            Remove
          </button>
        </div>
      )}
    </>
  );
}
