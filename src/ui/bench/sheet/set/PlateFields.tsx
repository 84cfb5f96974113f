/** The plate: files, what their depth means, the lens they were made with, and what the depth says of all that. */
import { useEffect, useMemo, useRef, useState } from "react";
import type { Plate } from "#core/document/plate";
import { plateCamera, seesPlate } from "#core/document/plate-lens";
import { formatNumber } from "#core/document/quantities";
import { degreesHeld } from "#core/plate/begin";
import { Latest } from "../../../shared/latest";
import { NumberField } from "../../../shared/NumberField";
import { bringPlate, noteGuesses, notedGuesses, PLATE_FILES } from "../../../shared/plate-files";
import { Choice, Readout, Select, Switch } from "../../../shared/controls";
import { useLengths } from "../../../shared/units";
import { useBench, useDocument, useView } from "../../model/context";
import { changePlate, withBrought, withoutPlate } from "../../model/edits/plate";
import type { PlateFacts } from "../../model/scene-worker";
import { DocumentGroup } from "../Group";

/** Height of the picture on a film of 36 mm × 24 mm held level, mm. */
const FILM_HEIGHT = 24;

/** Facts of the document's plate, made beside the page; an error's words where it cannot be read. */
function usePlateFacts(): { facts: PlateFacts | null; problem: string | null } {
  const { session } = useBench();
  const doc = useDocument();
  const [found, setFound] = useState<{ facts: PlateFacts | null; problem: string | null }>({ facts: null, problem: null });
  const asked = useMemo(
    () =>
      new Latest(async (given: typeof doc) => {
        try {
          setFound({ facts: await session.worker.plate(given), problem: null });
        } catch (error) {
          setFound((had) => ({ ...had, problem: (error as Error).message }));
        }
      }),
    [session],
  );
  const { plate, assets } = doc;
  const key = plate ? JSON.stringify([plate, assets[plate.picture], assets[plate.depth]]) : "";
  useEffect(() => {
    if (key) asked.ask(doc);
    else setFound({ facts: null, problem: null });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what facts depend on is in the key
  }, [key, asked]);
  return found;
}

/** Brings files in as the document's plate, as one step. */
function BringIn({ words, tooltip }: { words: string; tooltip: string }) {
  const { store, projectId } = useBench();
  const picker = useRef<HTMLInputElement>(null);
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
      <button
        className="btn btn-xs btn-outline hair w-full"
        disabled={doing !== null}
        title={tooltip}
        onClick={() => picker.current?.click()}
      >
        {doing ?? words}
      </button>
      <input
        ref={picker}
        type="file"
        multiple
        accept={PLATE_FILES}
        aria-label="Files of a plate"
        className="hidden"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          if (files.length > 0) void read(files);
          e.target.value = "";
        }}
      />
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
  const { store, view, projectId } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const upright = useView((s) => s.upright);
  const { facts, problem } = usePlateFacts();
  const guessed = notedGuesses(projectId);
  const gesture = (a: boolean): void => store.gesture(a);
  const set = (change: Partial<Plate>): void => store.getState().set((d) => changePlate(d, change));
  const layers = (names: readonly string[], now: string): (readonly [string, string])[] =>
    [...new Set([...names, now])].map((n) => [n, n || "main picture"] as const);
  const ground = facts?.report.ground ?? null;
  const [width, height] = doc.film.size;
  const sees = seesPlate(doc);
  const fits = !facts || Math.abs(width * facts.height - height * facts.width) <= Math.max(facts.width, facts.height);
  const angle = (label: string, value: number, min: number, max: number, tooltip: string, change: (v: number) => Partial<Plate>) => (
    <NumberField
      key={label}
      label={label}
      unit="°"
      quantity="angle"
      value={value}
      min={min}
      max={max}
      useful={[Math.max(min, -60), Math.min(max, 60)]}
      step={0.1}
      reset={0}
      onGesture={gesture}
      tooltip={tooltip}
      onChange={(v) => set(change(v))}
    />
  );
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
          No file says it, so it is guessed: {guessed.join("; ")}.
        </p>
      )}
      {facts && facts.layers.picture.length > 1 && (
        <Select
          label="Colours"
          value={plate.layer}
          options={layers(facts.layers.picture, plate.layer)}
          tooltip="Layer of the file whose light is the picture."
          onChange={(layer) => set({ layer })}
        />
      )}
      {facts && facts.layers.depth.length > 1 && (
        <Select
          label="Depth"
          value={plate.depthLayer}
          options={layers(facts.layers.depth, plate.depthLayer)}
          tooltip="Layer of the file that is depth."
          onChange={(depthLayer) => set({ depthLayer, along: depthLayer === "distance" ? "ray" : plate.along })}
        />
      )}
      <Choice
        label="Depth is along"
        value={plate.along}
        options={[
          ["axis", "axis"],
          ["ray", "ray"],
        ]}
        tooltip="Most programs write depth along the axis of the lens; distance is along the ray of each pixel, longer towards the corners."
        onChange={(along) => set({ along })}
      />
      <Switch
        label="Whole numbers"
        on={plate.range !== null}
        tooltip="The depth runs from black to white, between two depths that are said here: 16-bit PNG and TIFF."
        onChange={(on) => set({ range: on ? [0, 100] : null })}
      />
      {plate.range &&
        (["Black stands for", "White stands for"] as const).map((label, k) => (
          <NumberField
            key={label}
            label={label}
            unit=""
            value={plate.range![k]!}
            min={0}
            max={1e9}
            useful={[0, 500]}
            step={0.1}
            reset={k === 0 ? 0 : 100}
            onGesture={gesture}
            tooltip={k === 0 ? "Depth of black, in units." : "Depth of white, in units; what is white is the sky."}
            onChange={(v) => {
              const next: [number, number] = k === 0 ? [v, plate.range![1]] : [plate.range![0], v];
              if (next[0] !== next[1]) set({ range: next });
            }}
          />
        ))}
      <Switch
        label="Depth is inverted"
        on={plate.inverted}
        tooltip={plate.range ? "White is near." : "The numbers are one over the depth."}
        onChange={(inverted) => set({ inverted })}
      />
      <NumberField
        logarithmic
        label="A unit is"
        unit="m"
        quantity="length"
        value={plate.unit}
        min={1e-6}
        max={1e6}
        useful={[0.001, 1000]}
        reset={1}
        onGesture={gesture}
        tooltip="Metres that a unit of the depth has: 0.01 for centimetres, 0.3048 for feet. Measure something of known length under Size of the set to find it."
        onChange={(unit) => set({ unit })}
      />
      <Switch
        label="Sky is finite"
        on={plate.sky !== null}
        tooltip="The sky has a depth, too, that stands for endless: beyond it there is nothing but air."
        onChange={(on) => set({ sky: on ? 1000 : null })}
      />
      {plate.sky !== null && (
        <NumberField
          logarithmic
          label="Sky beyond"
          unit=""
          value={plate.sky}
          min={1e-6}
          max={1e9}
          useful={[10, 100000]}
          reset={1000}
          onGesture={gesture}
          tooltip="Depth in units from which on nothing is there."
          onChange={(sky) => set({ sky })}
        />
      )}
      <NumberField
        whole
        label="Light of white"
        unit="stops"
        quantity="count"
        value={plate.light}
        min={-20}
        max={30}
        useful={[0, 16]}
        step={1}
        reset={12}
        onGesture={gesture}
        tooltip={`Luminance that 1 stands for, as a power of two: now ${formatNumber(2 ** plate.light, 3)} cd/m². The lights of the air are measured against it.`}
        onChange={(light) => set({ light })}
      />
      <NumberField
        label="Plate field of view"
        unit="°"
        quantity="angle"
        value={plate.fieldOfView}
        min={0.1}
        max={170}
        useful={[10, 100]}
        step={0.1}
        reset={45}
        onGesture={gesture}
        tooltip="Angle from the lower to the upper edge of the picture, of the lens that it was made with."
        onChange={(fieldOfView) => set({ fieldOfView })}
      />
      <NumberField
        logarithmic
        label="Plate focal length"
        unit="mm"
        value={Number((FILM_HEIGHT / 2 / Math.tan((plate.fieldOfView * Math.PI) / 360)).toPrecision(4))}
        min={1.1}
        max={13000}
        useful={[14, 200]}
        reset={35}
        onGesture={gesture}
        tooltip="The same angle as a focal length before a picture 24 mm high."
        onChange={(f) =>
          set({ fieldOfView: Number(Math.max(0.1, Math.min(170, (360 / Math.PI) * Math.atan(FILM_HEIGHT / 2 / f))).toPrecision(6)) })
        }
      />
      <NumberField
        label="Lens height"
        unit="m"
        quantity="length"
        value={plate.position[1]}
        min={-1e5}
        max={1e5}
        useful={[0, 10]}
        step={0.01}
        reset={1.6}
        onGesture={gesture}
        tooltip="How high the lens stood over the ground, which is at 0."
        onChange={(y) => set({ position: [plate.position[0], y, plate.position[2]] })}
      />
      {angle("Tilt", plate.tilt, -89.99, 89.99, "How far the lens looked up.", (tilt) => ({ tilt }))}
      {angle("Lean", plate.roll, -180, 180, "How far the lens leant to a side.", (roll) => ({ roll }))}
      {angle(
        "Heading",
        plate.heading,
        -360,
        360,
        "Where the lens looked: 0 along -z, 90 along x. The sun's azimuth counts the same way.",
        (heading) => ({ heading }),
      )}
      <div className="flex gap-2">
        <button
          className="btn btn-xs btn-outline hair flex-1"
          disabled={!ground}
          title={
            ground ? "Height, tilt and lean of the lens by the flat ground that the depth shows." : "No flat ground is found in the depth."
          }
          onClick={() =>
            ground &&
            set({ ...degreesHeld(ground.up), position: [plate.position[0], Number(ground.height.toPrecision(6)), plate.position[2]] })
          }
        >
          Lens as the ground tells
        </button>
        <button
          className={`btn btn-xs flex-1 ${upright ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={upright !== null}
          title="Draws a line in the picture: lay it along something that stands upright, and the lens leans so that it does. The horizon has two handles in the picture already."
          onClick={() => view.setState({ upright: upright ? null : [0.5, 0.3, 0.5, 0.7] })}
        >
          Upright in the picture
        </button>
      </div>
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
