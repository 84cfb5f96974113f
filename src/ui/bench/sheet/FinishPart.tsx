/** Finish: exposure and white balance, tone, what is looked at, and the files that leave the bench. */
import { saveFile } from "../../shared/save-file";
import { useRef, useState } from "react";
import { CleanCancelled } from "#engine/clean-pool";
import { parseDocumentText } from "#core/document/parse";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { PASS_NAMES, PASSES } from "#core/film/passes";
import { NumberField } from "../../shared/NumberField";
import { useBench, useDocument, useSession, useView } from "../model/context";
import { fileName } from "../model/file-name";
import { FINENESSES } from "../model/view";
import { SamplingFields } from "./SamplingFields";
import { DocumentGroup, Group } from "./Group";
import { Choice, Select } from "../../shared/controls";
import { CleanUp } from "./finish/CleanUp";
import { Glare } from "./finish/Glare";
import { Looks } from "./finish/Looks";
import { NoiseSources } from "./finish/NoiseSources";
import { Tone } from "./finish/Tone";
import { Tones } from "./finish/Tones";

export function FinishPart() {
  const { store, view, session } = useBench();
  const doc = useDocument();
  const { pass, tool, surround, fineness } = useView((s) => s);
  const ready = useSession((s) => (s.statistics?.samples ?? 0) > 0);
  const [busy, setBusy] = useState<string | null>(null);
  const [cleaning, setCleaning] = useState<{ share: number | null; end: () => void } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [note, setNote] = useState<string | null>(null);
  const [depth, setDepth] = useState<"half" | "float">("half");
  const [finished, setFinished] = useState<"linear" | "finished">("linear");
  const [pngDepth, setPngDepth] = useState<"8" | "16">("8");
  const picker = useRef<HTMLInputElement>(null);
  const gesture = (a: boolean): void => store.gesture(a);
  const film = (change: Partial<SceneDocument["film"]>): void => store.getState().set((d) => ({ ...d, film: { ...d.film, ...change } }));

  const out = async (kind: "exr" | "png"): Promise<void> => {
    setBusy(kind);
    setProblem(null);
    try {
      const ending = new AbortController();
      setCleaning({ share: null, end: () => ending.abort() });
      const bytes = await session.withCleanedSnapshot(
        {
          lights: kind === "exr",
          onProgress: (share) => setCleaning({ share, end: () => ending.abort() }),
          signal: ending.signal,
        },
        async (still) => {
          setCleaning(null);
          const facts = { ...still.statistics, seconds: still.seconds, seed: still.document.render.seed };
          return kind === "exr"
            ? session.worker.exr(still.film, [...PASS_NAMES], depth, still.document, facts, { finished: finished === "finished" })
            : session.worker.png(still.film, "beauty", still.document, facts, pngDepth === "16" ? 16 : 8);
        },
      );
      saveFile(bytes as Uint8Array<ArrayBuffer>, `${fileName(doc.title)}.${kind}`, kind === "exr" ? "image/x-exr" : "image/png");
    } catch (error) {
      if (!(error instanceof CleanCancelled)) setProblem(`Nothing was written: ${(error as Error).message}`);
    } finally {
      setCleaning(null);
      setBusy(null);
    }
  };
  const whole = async (kind: "archive" | "gltf"): Promise<void> => {
    setBusy(kind);
    setProblem(null);
    setNote(null);
    try {
      const name = fileName(doc.title);
      if (kind === "archive")
        saveFile((await session.worker.archive(doc, name)) as Uint8Array<ArrayBuffer>, `${name}.zip`, "application/zip");
      else {
        const { bytes, left } = await session.worker.gltf(doc);
        saveFile(bytes as Uint8Array<ArrayBuffer>, `${name}.glb`, "model/gltf-binary");
        if (left.length) setNote(`glTF has no place for: ${left.join("; ")}.`);
      }
    } catch (error) {
      setProblem(`Nothing was written: ${(error as Error).message}`);
    } finally {
      setBusy(null);
    }
  };
  const read = async (file: File): Promise<void> => {
    setProblem(null);
    try {
      if (file.size > LIMITS.text) throw new Error(`${file.name}: ${file.size} bytes, more than the limit of ${LIMITS.text}`);
      const next = parseDocumentText(await file.text(), file.name);
      // models are found by their hash in this server's store: ask before the project takes the document over
      for (const [name, asset] of Object.entries(next.assets)) {
        const known = asset.sha256 && (await fetch(`/api/assets/${asset.sha256}`, { method: "HEAD" })).ok;
        if (!known) throw new Error(`${file.name}: assets.${name} (${asset.uri}) is not in the store of this server`);
      }
      store.getState().set(() => next);
    } catch (error) {
      setProblem(`${(error as Error).message}\nThe project stays as it was.`);
    }
  };

  return (
    <>
      <NumberField
        label="Exposure"
        unit="EV"
        quantity="ev"
        value={doc.film.exposure}
        min={-20}
        max={30}
        useful={[0, 17]}
        step={0.05}
        reset={12}
        onGesture={gesture}
        tooltip="Exposure value at ISO 100: one more halves the brightness. Adding air usually asks for more."
        onChange={(exposure) => film({ exposure })}
      />
      <NumberField
        label="White balance"
        unit="K"
        quantity="temperature"
        value={doc.film.whiteBalance}
        min={1500}
        max={30000}
        useful={[2500, 10000]}
        step={25}
        reset={6500}
        onGesture={gesture}
        tooltip="Colour temperature of the light that should look neutral."
        onChange={(whiteBalance) => film({ whiteBalance })}
      />
      <NumberField
        label="Tint"
        unit="Duv"
        value={doc.film.tint}
        min={-0.05}
        max={0.05}
        useful={[-0.02, 0.02]}
        step={0.0002}
        reset={0}
        onGesture={gesture}
        tooltip="How far the light that should look neutral lies from white light's line: above 0 it is greenish, as of many tubes, and the picture turns to magenta."
        onChange={(tint) => film({ tint })}
      />
      <div className="flex gap-2">
        {(
          [
            ["expose", "Meter a point", "Click what should be middle grey. E"],
            ["white", "White balance from a point", "Click something that should look neutral."],
          ] as const
        ).map(([name, words, tooltip]) => (
          <button
            key={name}
            className={`btn btn-xs flex-auto px-1.5 whitespace-nowrap ${tool === name ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={tool === name}
            title={tooltip}
            onClick={() => view.setState({ tool: tool === name ? "none" : name })}
          >
            {words}
          </button>
        ))}
      </div>
      <Tones />
      <Tone />
      <Glare />
      <Looks />
      <Group id="picture" about={{ words: PASSES[pass].words, changed: pass !== "beauty" }}>
        <Select
          label="Pass"
          value={pass}
          options={PASS_NAMES.map((name) => [name, PASSES[name].words] as const)}
          tooltip={PASSES[pass].tooltip}
          onChange={(name) => view.setState({ pass: name, clear: false })}
        />
        <NumberField
          label="Surround"
          quantity="share"
          value={surround}
          min={0}
          max={1}
          step={0.005}
          reset={0.19}
          tooltip="Brightness of the neutral field around the picture."
          onChange={(v) => view.setSurround(v)}
        />
        <Choice
          label="Live pixels"
          value={FINENESSES.find(([v]) => v === fineness)![1]}
          options={FINENESSES.map(([, words]) => [words, words] as const)}
          tooltip="Pixels of the live picture for each of the screen: half is there in a quarter of the time, a quarter in a sixteenth, double is finer than the screen. 9 renders what is seen as fine as the finished frame."
          onChange={(words) => view.setFineness(FINENESSES.find(([, w]) => w === words)![0])}
        />
        <div className="flex gap-2">
          <button
            className={`btn btn-xs flex-1 ${tool === "region" ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={tool === "region"}
            title="Drag a rectangle in the picture; only it is rendered. R"
            onClick={() => view.setState({ tool: tool === "region" ? "none" : "region" })}
          >
            Render a region
          </button>
          <button className="btn btn-xs btn-outline hair flex-1" disabled={!doc.film.region} onClick={() => film({ region: null })}>
            Whole frame
          </button>
        </div>
      </Group>
      <DocumentGroup id="sampling">
        <SamplingFields />
        <NoiseSources />
      </DocumentGroup>
      <CleanUp />
      <Group id="export">
        <Choice<"half" | "float">
          label="OpenEXR bit depth"
          value={depth}
          options={[
            ["half", "half"],
            ["float", "float"],
          ]}
          tooltip="Half holds values up to 65504 in 16 bits; float keeps everything. Depth is always float."
          onChange={setDepth}
        />
        <Choice<"linear" | "finished">
          label="OpenEXR colours"
          value={finished}
          options={[
            ["linear", "as rendered"],
            ["finished", "finished"],
          ]}
          tooltip="As rendered: linear light of the scene, cd/m². Finished: R, G and B as the picture is shown, exposed and finished, in linear light of the display; all other layers as rendered."
          onChange={setFinished}
        />
        <Choice<"8" | "16">
          label="PNG bit depth"
          value={pngDepth}
          options={[
            ["8", "8 bit"],
            ["16", "16 bit"],
          ]}
          tooltip="8 bit for the screen, dithered; 16 bit where the picture is graded further. Both are sRGB and carry the document."
          onChange={setPngDepth}
        />
        <div className="grid grid-cols-2 gap-2">
          <button
            className="btn btn-xs btn-outline hair"
            disabled={!ready || busy !== null}
            title="All passes as named layers, linear, as rendered and cleaned, at the size of the picture on this bench; at 1:1 it is the part that is seen. The command line renders the frame's own size."
            onClick={() => void out("exr")}
          >
            {busy === "exr" ? "Writing …" : "Picture as OpenEXR"}
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            disabled={!ready || busy !== null}
            title="Cleaned, and finished as it is seen, at the size of the picture on this bench; at 1:1 it is the part that is seen."
            onClick={() => void out("png")}
          >
            {busy === "png" ? "Writing …" : "Picture as PNG"}
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            title="The scene document, as the command line reads it."
            onClick={() => saveFile(`${JSON.stringify(doc, null, 2)}\n`, `${fileName(doc.title)}.fumarium.json`, "application/json")}
          >
            Document as JSON
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            title="Takes over a scene document. Undo brings this one back."
            onClick={() => picker.current?.click()}
          >
            Document from JSON
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            disabled={busy !== null}
            title="Document, models, pictures and profiles in one file, which the shelf opens again."
            onClick={() => void whole("archive")}
          >
            {busy === "archive" ? "Packing …" : "Project as one file"}
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            disabled={busy !== null}
            title="The set as it stands, its lenses, sun, points and spots."
            onClick={() => void whole("gltf")}
          >
            {busy === "gltf" ? "Writing …" : "Scene as glTF"}
          </button>
        </div>
      </Group>
      <input
        ref={picker}
        type="file"
        accept=".json,application/json"
        className="hidden"
        data-testid="document-file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) void read(file);
        }}
      />
      {cleaning && (
        <p role="status" className="figures flex items-center gap-2 text-xs">
          {cleaning.share === null ? "Waiting for a sample in every pixel" : `Cleaning the picture, ${Math.round(100 * cleaning.share)} %`}
          <button className="btn btn-xs btn-outline hair" onClick={cleaning.end}>
            Cancel
          </button>
        </p>
      )}
      {note && (
        <p role="status" className="max-h-24 overflow-y-auto py-1 text-xs quiet">
          {note}
        </p>
      )}
      {problem && (
        <p role="alert" className="border-l-2 border-error py-1 pl-2 text-xs whitespace-pre-wrap">
          {problem}
        </p>
      )}
    </>
  );
}
