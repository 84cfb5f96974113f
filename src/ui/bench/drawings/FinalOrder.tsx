/** A final is ordered here: of what, how large, which frames, until when, which files. It is rendered in the background. */
import { useState, type ReactNode } from "react";
import { useStore } from "zustand";
import { API, call, type RenderOrder } from "#api/contract";
import { keepsLightGroups } from "#core/document/balance";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { PASS_NAMES, PASSES, type PassName } from "#core/film/passes";
import { FILE_DEPTHS, type FileDepth, type FileEnding } from "#core/formats/depths";
import { request } from "../../shared/api";
import { useBench, useDocument, useView } from "../model/context";
import { fileName } from "../model/file-name";

/** What is rendered: the live picture, the proof in front, or every kept lens. */
type Of = "live" | "proof" | "lenses";

/** The form as it is typed. */
interface Form {
  of: Of;
  width: string;
  height: string;
  dpi: string;
  many: boolean;
  from: string;
  to: string;
  step: string;
  fps: string;
  seedByFrame: boolean;
  samples: string;
  noise: string;
  noiseOf: "cleaned" | "rendered";
  minutes: string;
  clean: boolean;
  lightGroups: boolean;
  mattes: boolean;
  passes: readonly PassName[];
  ending: FileEnding;
  depth: FileDepth;
  finished: boolean;
  alpha: "geometry" | "air";
  name: string;
}

const CM = 2.54;

function formOf(doc: SceneDocument): Form {
  const { size } = doc.film;
  const { noiseThreshold, thresholdOf, samples } = doc.render;
  return {
    of: "live",
    width: String(size[0]),
    height: String(size[1]),
    dpi: "300",
    many: false,
    from: "1",
    to: "48",
    step: "1",
    fps: "24",
    seedByFrame: true,
    samples: String(samples),
    noise: noiseThreshold === null ? "" : String(Number((100 * noiseThreshold).toPrecision(4))),
    noiseOf: thresholdOf,
    minutes: "",
    clean: true,
    lightGroups: keepsLightGroups(doc.film),
    mattes: doc.film.mattes,
    passes: PASS_NAMES,
    ending: ".exr",
    depth: "half",
    finished: false,
    alpha: "geometry",
    name: fileName(doc.title),
  };
}

/** A number as it is typed. @throws Error with words */
function number(text: string, what: string, least: number, most: number, whole = true): number {
  const v = Number(text.replace(",", "."));
  if (text.trim() === "" || !(v >= least && v <= most) || (whole && !Number.isInteger(v)))
    throw new Error(
      `${what}: ${text.trim() === "" ? "is missing" : text} – ${whole ? "a whole number" : "a number"} from ${least} to ${most}`,
    );
  return v;
}

/** @throws Error with words */
function orderOf(f: Form): RenderOrder {
  return {
    size: [number(f.width, "Width", 1, LIMITS.side), number(f.height, "Height", 1, LIMITS.side)],
    frames: f.many
      ? { from: number(f.from, "From", 0, 9_999_999), to: number(f.to, "To", 0, 9_999_999), step: number(f.step, "Every", 1, 9_999_999) }
      : null,
    fps: number(f.fps, "Frames a second", 0.01, 1000, false),
    samples: number(f.samples, "Samples", 1, LIMITS.samples),
    noise: f.noise.trim() === "" ? null : { threshold: number(f.noise, "Noise", 0.01, 100, false) / 100, of: f.noiseOf },
    seconds: f.minutes.trim() === "" ? null : 60 * number(f.minutes, "Minutes a frame", 0.01, 100_000, false),
    seedByFrame: f.seedByFrame,
    clean: f.clean,
    lightGroups: f.lightGroups,
    mattes: f.mattes,
    passes: [...f.passes],
    file: { ending: f.ending, depth: f.depth, finished: f.finished, alpha: f.alpha },
    name: f.name.trim(),
  };
}

/** What was typed last, while the page is open. */
let typed: { project: string; form: Form } | null = null;

export default function FinalOrder() {
  const { projectId, store, view, proofs } = useBench();
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
  const ratio = doc.film.size[0] / doc.film.size[1];
  const cm = (pixels: string): string => {
    const v = (Number(pixels) / Number(form.dpi)) * CM;
    return v > 0 && v < 1e6 ? String(Number(v.toPrecision(3))) : "–";
  };

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
      for (const { document, name } of given)
        await call(request, API.orderRender, { id: projectId }, { document, order: { ...wanted, name } });
      setSaid(given.length > 1 ? `${given.length} renders are ordered.` : "It is ordered.");
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  };

  const text = (key: keyof Form, label: string, tooltip: string, width = "w-20") => (
    <label className="flex items-center justify-between gap-2" title={tooltip}>
      <span className="quiet whitespace-nowrap">{label}</span>
      <input
        className={`input input-xs figures ${width} text-right`}
        value={form[key] as string}
        onChange={(e) => change({ [key]: e.target.value })}
        onKeyDown={(e) => {
          if (e.key === "Enter") void order();
        }}
      />
    </label>
  );
  const tick = (key: keyof Form, label: string, tooltip: string) => (
    <label className="flex items-center justify-between gap-2" title={tooltip}>
      <span className="quiet whitespace-nowrap">{label}</span>
      <input
        type="checkbox"
        className="toggle toggle-xs"
        checked={form[key] as boolean}
        onChange={(e) => change({ [key]: e.target.checked })}
      />
    </label>
  );
  const depths: readonly FileDepth[] = FILE_DEPTHS[form.ending];

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Final"
      className="flex max-h-[52%] min-h-0 shrink-0 flex-col border-t hair bg-base-100 text-sm outline-none"
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
      <div className="grid grid-cols-4 gap-x-6 gap-y-1 overflow-y-auto px-3 py-2">
        <Column title="Size">
          <label className="flex items-center justify-between gap-2" title="Pixels across; the height follows in the frame's shape.">
            <span className="quiet">Width</span>
            <input
              className="input input-xs figures w-20 text-right"
              value={form.width}
              onChange={(e) => {
                const height = Math.round(Number(e.target.value) / ratio);
                change({ width: e.target.value, ...(height >= 1 && height <= LIMITS.side ? { height: String(height) } : {}) });
              }}
            />
          </label>
          {text("height", "Height", "Pixels from top to bottom.")}
          {text("dpi", "Dots an inch", "Only tells how large a print is.")}
          <p className="text-xs quiet">
            as a print {cm(form.width)} × {cm(form.height)} cm
          </p>
          {doc.film.region && <p className="text-xs text-warning">Only the region that is drawn is rendered.</p>}
          {text("name", "File name", "Without its ending; #### stands for the number of a frame.", "w-36")}
        </Column>
        <Column title="Frames">
          {tick("many", "Several frames", "For what moves by time: drift, sequences. Frame 0 stands at the project's own moment.")}
          {form.many && (
            <>
              {text("from", "From", "Number of the first frame.")}
              {text("to", "To", "Number of the last frame.")}
              {text("step", "Every", "1 for each of them, 2 for every second …")}
              {text("fps", "A second", "Frames a second.")}
              {tick("seedByFrame", "Noise by frame", "Each frame has noise of its own; off, it stays in its place, like a dirty pane.")}
            </>
          )}
        </Column>
        <Column title="Until">
          {text("samples", "Samples", "A pixel, at most where there is a noise threshold.")}
          {text(
            "noise",
            "Noise, %",
            "Blocks of the frame get no more samples once they err by no more than this. Empty: all get all samples.",
          )}
          {form.noise.trim() !== "" && (
            <label className="flex items-center justify-between gap-2" title="Which picture's noise is meant.">
              <span className="quiet">of the picture</span>
              <select
                aria-label="Noise of the picture"
                className="select select-xs w-28"
                value={form.noiseOf}
                onChange={(e) => change({ noiseOf: e.target.value as Form["noiseOf"] })}
              >
                <option value="cleaned">cleaned</option>
                <option value="rendered">as rendered</option>
              </select>
            </label>
          )}
          {text("minutes", "Minutes a frame", "Ends a frame after this time with what it has. Empty: no limit.")}
          {tick("clean", "Cleaned", "Takes noise out as Finish says; an OpenEXR has both.")}
        </Column>
        <Column title="Files">
          <label
            className="flex items-center justify-between gap-2"
            title="OpenEXR holds all passes in linear light, PNG the finished picture."
          >
            <span className="quiet">Kind</span>
            <select
              aria-label="Kind"
              className="select select-xs w-28"
              value={form.ending}
              onChange={(e) => {
                const ending = e.target.value as FileEnding;
                change({ ending, depth: FILE_DEPTHS[ending][0] });
              }}
            >
              <option value=".exr">OpenEXR</option>
              <option value=".png">PNG</option>
            </select>
          </label>
          <label className="flex items-center justify-between gap-2" title="Bits of each number: half 16, float 32; of PNG 8 or 16.">
            <span className="quiet">Depth</span>
            <select
              aria-label="Depth"
              className="select select-xs w-28"
              value={form.depth}
              onChange={(e) => change({ depth: e.target.value as FileDepth })}
            >
              {depths.map((depth) => (
                <option key={depth} value={depth}>
                  {depth.length < 3 ? `${depth} bits` : depth}
                </option>
              ))}
            </select>
          </label>
          {form.ending === ".exr" && (
            <>
              {tick("lightGroups", "Light groups", "A layer of air and one of surfaces for each light group.")}
              {tick("mattes", "Mattes", "A layer for each object and material.")}
              {tick("finished", "Finished colours", "R, G and B as they are shown; all other layers stay linear light.")}
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
          )}
        </Column>
      </div>
    </section>
  );
}

function Column({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="flex min-w-0 flex-col gap-1">
      <legend className="mb-0.5 font-semibold">{title}</legend>
      {children}
    </fieldset>
  );
}
