/** A final is ordered here: of what, how large, which frames, until when, which files. It is rendered in the background. */
import { useMemo, useState } from "react";
import { useStore } from "zustand";
import { API, call } from "#api/contract";
import { durationText, formatNumber } from "#core/document/quantities";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { PASS_NAMES, PASSES } from "#core/film/passes";
import { FILE_DEPTHS, type FileDepth } from "#core/formats/depths";
import { request } from "../../shared/api";
import { sameScene } from "../model/scene-part";
import { useBench, useDocument, useView } from "../model/context";
import { fileName } from "../model/file-name";
import { AIR_SIZE_OPTIONS, ESTIMATOR_OPTIONS, LEVEL_OPTIONS } from "../model/kind-options";
import { Choice, Column, TextField, Tick } from "./final/Fields";
import { formOf, framesToTry, orderOf, pixelsOf, sideText, type Form, type Of, type SizeUnit } from "./final/form";

/** What was typed last, while the page is open. */
let typed: { project: string; form: Form } | null = null;

const KINDS = { ".exr": "OpenEXR", ".png": "PNG", ".tif": "TIFF" } as const;
const LAYOUTS = { layers: "layers", parts: "parts", files: "a file each" } as const;
const PACKED = { zip: "ZIP", zips: "ZIPS", piz: "PIZ", none: "none" } as const;
const UNITS = { px: "pixels", cm: "cm", in: "inches" } as const;
const BENCH = ["bench", "as here"] as const;

export default function FinalOrder() {
  const { projectId, store, view, proofs, price } = useBench();
  const doc = useDocument();
  const front = useView((s) => s.front);
  const kept = useStore(proofs.state, (s) => s.documents[front]);
  const [form, setForm] = useState<Form>(() => (typed?.project === projectId ? typed.form : formOf(doc)));
  const [problem, setProblem] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const change = (to: Partial<Form>): void => {
    const next = { ...form, ...to };
    typed = { project: projectId, form: next };
    setForm(next);
    setSaid(null);
    setProblem(null);
  };
  const of = { form, change };

  const order = async (): Promise<void> => {
    setBusy(true);
    setProblem(null);
    setSaid(null);
    try {
      const wanted = orderOf(form);
      const live = store.getState().document;
      const given: { document: SceneDocument; name: string }[] =
        form.of === "lenses"
          ? live.lenses.map((lens) => ({ document: { ...live, camera: lens.camera }, name: `${wanted.name}-${fileName(lens.name)}` }))
          : [{ document: form.of === "proof" && kept ? kept : live, name: wanted.name }];
      for (const { document, name } of given) {
        // the price is that of the live picture
        const forecast = document === live ? price.said(document, wanted) : null;
        await call(request, API.orderRender, { id: projectId }, { document, order: { ...wanted, name }, forecast });
      }
      setSaid(given.length > 1 ? `${given.length} renders are ordered.` : "It is ordered.");
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  };

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Final"
      className="flex max-h-[52%] min-h-0 shrink-0 flex-col border-t hair bg-base-100 text-sm outline-none"
      onKeyDown={(e) => {
        if (e.key === "Enter" && e.target instanceof HTMLInputElement && e.target.type !== "checkbox") void order();
      }}
    >
      <header className="flex items-center gap-3 border-b hair px-3 py-1.5">
        <h2 className="font-semibold">Final</h2>
        <select
          aria-label="What is rendered"
          className="select select-xs w-auto"
          value={form.of}
          onChange={(e) => change({ of: e.target.value as Of })}
        >
          <option value="live">of the live picture</option>
          <option value="proof" disabled={!kept}>
            of the proof in front
          </option>
          <option value="lenses" disabled={doc.lenses.length === 0}>
            of every kept lens ({doc.lenses.length})
          </option>
        </select>
        <button className="btn btn-xs btn-primary" disabled={busy || (form.of === "proof" && !kept)} onClick={() => void order()}>
          Render in the background
        </button>
        {form.of === "live" && !said && !problem && <PriceOf form={form} />}
        {said && (
          <span role="status" className="text-xs">
            {said}{" "}
            <a className="link text-primary" href="/renders">
              To the renders
            </a>
          </span>
        )}
        {problem && (
          <span role="alert" className="text-xs text-error">
            {problem}
          </span>
        )}
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("final")}>
          Close
        </button>
      </header>
      <div className="grid grid-cols-4 gap-x-6 gap-y-2 overflow-y-auto px-3 py-2">
        <Size {...of} ratio={doc.film.size[0] / doc.film.size[1]} region={doc.film.region !== null} />
        <div className="flex flex-col gap-2">
          <Frames {...of} />
          <Light {...of} />
        </div>
        <Until {...of} />
        <Files {...of} />
      </div>
    </section>
  );
}

/** What a frame of the order will take, and where there are several, how the others stand to this moment's. */
function PriceOf({ form }: { form: Form }) {
  const { price, advice } = useBench();
  const doc = useDocument();
  const known = useStore(price.state, (s) => s.price);
  const { moments, running, error } = useStore(advice.state);
  const told = useMemo(() => {
    try {
      const order = orderOf(form);
      return known && { order, forecast: price.said(doc, order) };
    } catch {
      // what is typed is no order yet
      return null;
    }
  }, [known, price, doc, form]);
  if (!told?.forecast) return null;
  const { order, forecast } = told;
  const now = asOrdered(doc, order);
  const tried = moments.every((m) => sameScene({ ...m.of, film: now.film, render: now.render }, now) && sameRender(m.of, now))
    ? moments
    : [];
  const share = tried.length > 0 ? tried.reduce((sum, m) => sum + m.share, 0) / tried.length : 1;
  const { said: seconds, low, high } = forecast;
  const frame = price.onMachine({ seconds: share * seconds, low: share * low, high: share * high });
  const { frames } = order;
  const count = frames ? Math.floor((frames.to - frames.from) / frames.step) + 1 : 1;
  const all = price.ofFrames({ seconds: share * seconds, low: share * low, high: share * high }, order.size, count);
  return (
    <span className="figures flex items-center gap-2 text-xs quiet">
      <span
        title={
          tried.length > 0
            ? `Frames that were tried, against this moment's: ${tried.map((m) => `${m.frame} takes ×${formatNumber(m.share, 3)}`).join(", ")}.`
            : "By the live picture; in eight cases of ten it lies between these."
        }
      >
        about {durationText(frame.seconds)} ({durationText(frame.low)} to {durationText(frame.high)}) per frame
        {count > 1 &&
          (tried.length > 0
            ? `, ${durationText(all.seconds)} for ${count}; frames ×${formatNumber(Math.min(...tried.map((m) => m.share)), 2)} to ×${formatNumber(Math.max(...tried.map((m) => m.share)), 2)} of this moment`
            : `, as this moment's`)}
      </span>
      {frames && count > 1 && (
        <button
          className="link"
          disabled={running !== null}
          title="Renders the first, the middle and the last frame small beside this moment's, in about 20 s: what moves changes what frames cost."
          onClick={() => void advice.tryFrames(now, framesToTry(frames, order.fps, doc.time))}
        >
          {running?.what === "frames" ? `trying ${running.words}` : "Try three frames"}
        </button>
      )}
      {frames && count > 1 && error && !running && (
        <span role="alert" className="text-error">
          {error}
        </span>
      )}
    </span>
  );
}

/** Whether two documents are rendered alike. */
const sameRender = (a: SceneDocument, b: SceneDocument): boolean => JSON.stringify(a.render) === JSON.stringify(b.render);

/** The document whose frames are tried: as the order ends them. */
const asOrdered = (doc: SceneDocument, { noise }: ReturnType<typeof orderOf>): SceneDocument => ({
  ...doc,
  render: { ...doc.render, noiseThreshold: noise?.threshold ?? null, ...(noise ? { thresholdOf: noise.of } : {}) },
});

interface Fields {
  form: Form;
  change: (to: Partial<Form>) => void;
}

function Size({ ratio, region, ...of }: Fields & { ratio: number; region: boolean }) {
  const { form, change } = of;
  const [width, height] = [pixelsOf(form, form.width), pixelsOf(form, form.height)];
  const told = (unit: SizeUnit): string => [width, height].map((v) => sideText({ unit, dpi: form.dpi }, v) || "–").join(" × ");
  return (
    <Column title="Size">
      <Choice
        label="Unit"
        tooltip="Pixels, or the size of a print, which so many dots an inch make."
        value={form.unit}
        options={UNITS}
        onChoose={(unit) => change({ unit, width: sideText({ ...form, unit }, width), height: sideText({ ...form, unit }, height) })}
      />
      <TextField
        of={of}
        field="width"
        label="Width"
        tooltip="The height follows in the frame's shape."
        onType={(text) => {
          const across = pixelsOf(form, text);
          const down = Math.round(across / ratio);
          change({ width: text, ...(down >= 1 && down <= LIMITS.side ? { height: sideText(form, down) } : {}) });
        }}
      />
      <TextField of={of} field="height" label="Height" tooltip="From top to bottom." />
      <TextField of={of} field="dpi" label="Dots an inch" tooltip="How large a print is; files say so." />
      <p className="text-xs quiet">{form.unit === "px" ? `as a print ${told("cm")} cm` : `${told("px")} pixels`}</p>
      {region && <Tick of={of} field="whole" label="Whole frame" tooltip="Off: only the region that is drawn is rendered." />}
      <TextField of={of} field="name" label="File name" tooltip="Without its ending; #### stands for the number of a frame." width="w-36" />
    </Column>
  );
}

function Frames(of: Fields) {
  return (
    <Column title="Frames">
      <Tick
        of={of}
        field="many"
        label="Several frames"
        tooltip="For what moves by time: drift, sequences. Frame 0 stands at the project's own moment."
      />
      {of.form.many && (
        <>
          <TextField of={of} field="from" label="From" tooltip="Number of the first frame." />
          <TextField of={of} field="to" label="To" tooltip="Number of the last frame." />
          <TextField of={of} field="step" label="Every" tooltip="1 for each of them, 2 for every second …" />
          <TextField of={of} field="fps" label="A second" tooltip="Frames a second." />
          <Tick
            of={of}
            field="seedByFrame"
            label="Noise by frame"
            tooltip="Each frame has noise of its own; off, it stays in its place, like a dirty pane."
          />
        </>
      )}
    </Column>
  );
}

/** What of the light may differ from the bench. */
function Light(of: Fields) {
  const { form, change } = of;
  const words = <T extends string>(options: Readonly<Record<T, { label: string }>>): (readonly [T | "bench", string])[] => [
    BENCH,
    ...(Object.entries(options) as [T, { label: string }][]).map(([key, { label }]) => [key, label] as const),
  ];
  return (
    <Column title="Light">
      <Choice
        label="Level"
        tooltip="How light scatters; as here: as the project has it."
        value={form.level}
        options={words(LEVEL_OPTIONS)}
        onChoose={(level) => change({ level })}
      />
      <TextField of={of} field="airBounces" label="Bounces in air" tooltip="At level full. Empty: as here." placeholder="as here" />
      <TextField of={of} field="surfaceBounces" label="Off surfaces" tooltip="Indirect bounces. Empty: as here." placeholder="as here" />
      <Choice
        label="Air size"
        tooltip="Size at which the air is sampled; surfaces keep theirs, and the air is joined to them."
        value={form.airSize}
        options={words(AIR_SIZE_OPTIONS)}
        onChoose={(airSize) => change({ airSize })}
      />
      <Choice
        label="Broken air"
        tooltip="Tracking has no steps and no bias; stepping goes by the step sizes of the media."
        value={form.estimator}
        options={words(ESTIMATOR_OPTIONS)}
        onChoose={(estimator) => change({ estimator })}
      />
    </Column>
  );
}

function Until(of: Fields) {
  const { form, change } = of;
  return (
    <Column title="Until">
      <TextField of={of} field="samples" label="Samples" tooltip="A pixel, at most where there is a noise threshold." />
      <TextField
        of={of}
        field="noise"
        label="Noise, %"
        tooltip="Blocks of the frame get no more samples once they err by no more than this. Empty: all get all samples."
      />
      {form.noise.trim() !== "" && (
        <Choice
          label="Noise of the picture"
          tooltip="Which picture's noise is meant."
          value={form.noiseOf}
          options={{ cleaned: "cleaned", rendered: "as rendered" }}
          onChoose={(noiseOf) => change({ noiseOf })}
        />
      )}
      <TextField
        of={of}
        field="minutes"
        label="Minutes a frame"
        tooltip="Ends a frame after this time with what it has. Empty: no limit."
      />
      <Tick of={of} field="clean" label="Cleaned" tooltip="Takes noise out as Finish says; an OpenEXR has both." />
    </Column>
  );
}

function Files(of: Fields) {
  const { form, change } = of;
  const depths: readonly FileDepth[] = FILE_DEPTHS[form.ending];
  return (
    <Column title="Files">
      <Choice
        label="Kind"
        tooltip="OpenEXR holds all passes in linear light, PNG and TIFF the finished picture."
        value={form.ending}
        options={KINDS}
        onChoose={(ending) => change({ ending, depth: FILE_DEPTHS[ending][0] })}
      />
      <Choice
        label="Depth"
        tooltip="Bits of each number: half 16, float 32; of PNG and TIFF 8 or 16."
        value={form.depth}
        options={depths.map((depth) => [depth, depth.length < 3 ? `${depth} bits` : depth] as const)}
        onChoose={(depth) => change({ depth })}
      />
      {form.ending === ".exr" ? <Passes {...of} /> : <Masks {...of} />}
    </Column>
  );
}

function Passes(of: Fields) {
  const { form, change } = of;
  return (
    <>
      <Choice
        label="Passes as"
        tooltip="Layers of one picture, parts of one file, or each a file of its own with its name in it."
        value={form.layout}
        options={LAYOUTS}
        onChoose={(layout) => change({ layout })}
      />
      <Choice
        label="Compression"
        tooltip="Without loss. ZIP packs 16 lines at a time, ZIPS one, PIZ 32 by wavelets."
        value={form.compression}
        options={PACKED}
        onChoose={(compression) => change({ compression })}
      />
      <Tick of={of} field="lightGroups" label="Light groups" tooltip="A layer of air and one of surfaces for each light group." />
      <Tick of={of} field="mattes" label="Mattes" tooltip="A layer for each object, material and medium." />
      <Tick of={of} field="finished" label="Finished colours" tooltip="R, G and B as they are shown; all other layers stay linear light." />
      <Choice
        label="Opacity"
        tooltip="What channel A covers."
        value={form.alpha}
        options={{ geometry: "of geometry", air: "of air too" }}
        onChoose={(alpha) => change({ alpha })}
      />
      <details>
        <summary className="cursor-pointer quiet">
          Passes: {form.passes.length} of {PASS_NAMES.length}
        </summary>
        {PASS_NAMES.map((pass) => (
          <label key={pass} className="flex justify-between gap-2 pl-2" title={PASSES[pass].tooltip}>
            <span className="quiet">{PASSES[pass].words}</span>
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={form.passes.includes(pass)}
              onChange={(e) =>
                change({ passes: PASS_NAMES.filter((name) => (name === pass ? e.target.checked : form.passes.includes(name))) })
              }
            />
          </label>
        ))}
      </details>
    </>
  );
}

/** Pictures of one band beside the finished one. */
function Masks(of: Fields) {
  return (
    <>
      <Tick of={of} field="maskDepth" label="Depth mask" tooltip="A grey picture beside it: black near, white far, even between." />
      {of.form.maskDepth && (
        <>
          <TextField of={of} field="near" label="Near, m" tooltip="Along the lens's axis: black up to here." />
          <TextField of={of} field="far" label="Far, m" tooltip="White from here on." />
        </>
      )}
      <Tick of={of} field="maskAir" label="Air mask" tooltip="A grey picture beside it: white where the air hides all." />
    </>
  );
}
