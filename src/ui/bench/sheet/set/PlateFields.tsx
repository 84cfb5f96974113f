/** The plate: its files, what their depth means, the lens they were made with, and what the depth says of all that. */
import { useState } from "react";
import type { Plate } from "#core/document/plate";
import { ofItsShape, plateCamera, seesPlate } from "#core/document/plate-lens";
import { stillGuessed } from "#core/plate/begin";
import { formatNumber } from "#core/document/quantities";
import { NumberField } from "../../../shared/NumberField";
import { PlatePicker } from "../../../shared/PlatePicker";
import { bringPlate, noteGuesses, notedGuesses } from "../../../shared/plate-files";
import { Readout, Switch } from "../../../shared/controls";
import { useLengths } from "../../../shared/units";
import { useBench, useDocument } from "../../model/context";
import { withBrought, withoutPlate } from "../../model/edits/plate";
import type { PlateFacts } from "../../model/scene-worker";
import { DocumentGroup } from "../Group";
import { PlateDepth } from "./PlateDepth";
import { PlateLens } from "./PlateLens";
import { usePlateEdit, usePlateFacts } from "./use-plate";

/** Brings files in as the document's plate, as one step. */
function BringIn({ words, tooltip }: { words: string; tooltip: string }) {
  const { store, projectId } = useBench();
  const [doing, setDoing] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const read = async (files: File[]): Promise<void> => {
    setProblem(null);
    try {
      const { document, guessed } = await bringPlate(files, setDoing);
      noteGuesses(projectId, guessed);
      store.getState().set((d) => withBrought(d, document));
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    } finally {
      setDoing(null);
    }
  };
  return (
    <>
      <PlatePicker onFiles={(files) => void read(files)}>
        {(open) => (
          <button className="btn btn-xs btn-outline hair w-full" disabled={doing !== null} title={tooltip} onClick={open}>
            {doing ?? words}
          </button>
        )}
      </PlatePicker>
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
    </>
  );
}

export function PlateFields() {
  const { plate } = useDocument();
  if (plate) return <Fields plate={plate} />;
  return (
    <BringIn
      words="Bring in a picture with depth …"
      tooltip="A plate: a picture rendered or photographed elsewhere, with its depth in the same file (OpenEXR) or in another one (OpenEXR, PNG, TIFF). Its pixels are shown as they are; the air is yours."
    />
  );
}

function Fields({ plate }: { plate: Plate }) {
  const { store, projectId } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const { facts, problem } = usePlateFacts();
  const guessed = notedGuesses(projectId).filter((g) => stillGuessed(g, plate));
  const { set, gesture } = usePlateEdit();
  const sees = seesPlate(doc);
  const fits = !facts || ofItsShape(doc.film.size, facts);
  return (
    <DocumentGroup id="plate">
      {!sees && (
        <div className="space-y-1 border-l-2 border-warning pl-2">
          <p className="text-xs">The lens is not the plate's: its surface is seen in grey from here.</p>
          <button
            className="btn btn-xs btn-outline hair w-full"
            title="The lens stands where the plate's stood, at its angle, all in focus."
            onClick={() => store.getState().set((d) => (d.plate ? { ...d, camera: plateCamera(d.plate, d.camera) } : d))}
          >
            Back to the plate's lens
          </button>
        </div>
      )}
      {sees && facts && !fits && (
        <div className="space-y-1 border-l-2 border-warning pl-2">
          <p className="text-xs">The frame has another shape than the picture, so its surface is seen in grey.</p>
          <button
            className="btn btn-xs btn-outline hair w-full"
            title="The film gets the picture's own pixels."
            onClick={() => store.getState().set((d) => ({ ...d, film: { ...d.film, size: [facts.width, facts.height], region: null } }))}
          >
            Take the picture's size
          </button>
        </div>
      )}
      <Readout label="Picture">
        <span className="block truncate text-xs" title={doc.assets[plate.picture]?.uri}>
          {doc.assets[plate.picture]?.uri}
          {facts ? `, ${facts.width} × ${facts.height}` : ""}
        </span>
      </Readout>
      {plate.depth !== plate.picture && (
        <Readout label="Depth from">
          <span className="block truncate text-xs" title={doc.assets[plate.depth]?.uri}>
            {doc.assets[plate.depth]?.uri}
          </span>
        </Readout>
      )}
      <BringIn words="Other files …" tooltip="Another picture and its depth in the place of these; the air stays." />
      {guessed.length > 0 && (
        <p role="note" className="border-l-2 border-warning pl-2 text-xs">
          No file says it, so it is guessed: {guessed.map((g) => g.words).join("; ")}.
        </p>
      )}
      <PlateDepth plate={plate} facts={facts} />
      <PlateLens plate={plate} facts={facts} />
      <Switch
        label="Part edges"
        on={plate.edges}
        tooltip="Pixels that an edge crosses are of two things: they are parted by their colours, and the air takes each at its own distance. Without it such pixels stand out as a seam."
        onChange={(edges) => set({ edges })}
      />
      <NumberField
        logarithmic
        whole
        label="Surface detail"
        quantity="count"
        value={plate.across}
        min={16}
        max={4096}
        useful={[160, 1920]}
        reset={640}
        onGesture={gesture}
        unit="places"
        tooltip="Places across the picture that the surface goes through, which stands in the way of light. The picture's own distances are exact in any case."
        onChange={(across) => set({ across })}
      />
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
      {facts && <Report facts={facts} lengths={lengths} />}
      <button
        className="btn btn-xs btn-outline hair w-full"
        title="The picture and its surface leave the set; the air stays."
        onClick={() => store.getState().set(withoutPlate)}
      >
        Take the plate away
      </button>
    </DocumentGroup>
  );
}

/** What the depth says of itself. */
function Report({ facts, lengths }: { facts: PlateFacts; lengths: ReturnType<typeof useLengths> }) {
  const { report, parted } = facts;
  const degrees = (v: number): string => `${formatNumber((180 * v) / Math.PI, 3)}°`;
  const percent = (v: number): string => `${formatNumber(100 * v, 2)} %`;
  const { ground } = report;
  return (
    <div className="space-y-0.5 text-xs" role="status" aria-label="What the depth says">
      <p className="figures">
        {report.near === null || report.far === null
          ? "Nothing has a distance."
          : `From ${lengths.exact(report.near, 3)} to ${lengths.exact(report.far, 3)}, ${percent(report.sky)} sky, ${percent(parted)} edges parted.`}
      </p>
      <p className="figures">
        {ground
          ? `Ground in ${percent(ground.share)} of the lower half: lens ${lengths.exact(ground.height, 3)} over it, ${ground.tilt < 0 ? "down" : "up"} ${degrees(Math.abs(ground.tilt))}, leaning ${degrees(-ground.roll)}.`
          : "No flat ground is found in the lower half."}
      </p>
      {report.doubts.map((doubt) => (
        <p key={doubt} className="border-l-2 border-warning pl-2">
          {doubt}
        </p>
      ))}
      <p className="quiet">What lies behind what is seen is not known: light passes there.</p>
    </div>
  );
}
