/** What is being brought in: how far it is, what was found, and how it shall be placed. */
import { AXES } from "#core/math/vectors";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { formatNumber } from "#core/document/quantities";
import { likelyScale, placedBounds } from "#core/document/place";
import type { Moment } from "#core/formats/gltf-pose";
import type { ImportedSet } from "#core/exchange/import/index";
import { movingText } from "#core/exchange/import/motions";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument } from "../../model/context";
import { Choice, Readout, Select, Switch } from "../../../shared/controls";
import { SizeDrawing } from "../../drawings/SizeDrawing";
import { useLengths } from "../../../shared/units";

const STAGES = {
  files: "Reading the files",
  unpacking: "Unpacking",
  reading: "Reading the model",
  decoding: "Taking lenses and lights",
  checking: "Checking every triangle",
} as const;

const UNITS = { "1": "metre", "0.01": "centimetre", "0.001": "millimetre", "0.0254": "inch", "0.3048": "foot" } as const;

const PLURALS: Readonly<Record<keyof typeof UNITS, string>> = {
  "1": "metres",
  "0.01": "centimetres",
  "0.001": "millimetres",
  "0.0254": "inches",
  "0.3048": "feet",
};

export function ImportPanel() {
  const { incoming } = useBench();
  const s = useStore(incoming);
  if (s.phase === "none") return null;
  return (
    <section aria-label="Import" className="my-1 space-y-1.5 border-l-2 border-primary pl-3">
      {(s.phase === "reading" || s.phase === "sending") && (
        <>
          <p role="status" className="text-sm">
            {s.phase === "reading" ? `${STAGES[s.stage]} …` : "Storing the model …"}
          </p>
          <progress
            className="progress h-1 w-full progress-primary"
            aria-label={s.phase === "reading" ? STAGES[s.stage] : "Storing the model"}
            {...(s.phase === "sending" || s.stage === "files" ? { value: s.share, max: 1 } : {})}
          />
          <div className="flex items-baseline justify-between text-xs quiet">
            <Elapsed since={s.since} share={s.phase === "sending" || s.stage === "files" ? s.share : 0} />
            <button className="link" onClick={() => incoming.drop()}>
              Cancel
            </button>
          </div>
        </>
      )}
      {s.phase === "failed" && (
        <div role="alert" className="space-y-1 text-sm">
          <p className="break-words whitespace-pre-wrap">{s.message}</p>
          <p className="quiet">The project is as it was.</p>
          <button className="link text-primary" onClick={() => incoming.drop()}>
            Dismiss
          </button>
        </div>
      )}
      {s.phase === "ready" && <Report set={s.set} moment={s.moment} posing={s.posing} />}
    </section>
  );
}

/** Seconds gone, and left where a share is known. */
function Elapsed({ since, share }: { since: number; share: number }) {
  const [now, setNow] = useState(() => performance.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(performance.now()), 500);
    return () => clearInterval(timer);
  }, []);
  const gone = Math.max(0, now - since) / 1000;
  const left = share > 0.03 && gone > 0.5 ? (gone * (1 - share)) / share : null;
  return (
    <span className="figures">
      {gone.toFixed(0)} s{left === null ? "" : `, about ${Math.ceil(left)} s left`}
    </span>
  );
}

/** Which moment of its animations the set stands still at. */
function PoseFields({ animations, moment }: { animations: ImportedSet["animations"]; moment: Moment | null }) {
  const { incoming } = useBench();
  const of = moment && animations[moment.animation];
  return (
    <>
      <Select
        label="Pose"
        value={moment ? String(moment.animation) : "file"}
        options={[["file", "as modelled"], ...animations.map(({ name }, i) => [String(i), name] as [string, string])]}
        tooltip="A set stands still here. Choose one of the file's animations to stand as it is at a moment of it."
        onChange={(v) => incoming.pose(v === "file" ? null : { animation: Number(v), time: 0 })}
      />
      {of && (
        <NumberField
          label="Time"
          unit="s"
          value={moment.time}
          min={0}
          max={Math.max(of.seconds, 0.001)}
          step={0.05}
          reset={0}
          tooltip={`Seconds into the animation, which lasts ${formatNumber(of.seconds, 3)} s.`}
          onChange={(time) => incoming.pose({ ...moment, time })}
        />
      )}
    </>
  );
}

function Report({ set, moment, posing }: { set: ImportedSet; moment: Moment | null; posing: boolean }) {
  const { incoming } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const [scale, setScale] = useState(1);
  const [up, setUp] = useState<"y" | "z">("y");
  const [lights, setLights] = useState(set.lights.length > 0 || set.sun !== null);
  const [lenses, setLenses] = useState(true);
  const [replace, setReplace] = useState(false);
  const b = placedBounds(set.bounds, { scale, up });
  const size = AXES.map((k) => b[k + 3]! - b[k]) as [number, number, number];
  const longest = Math.max(...size) / scale;
  const suggested = likelyScale(longest);
  const unit = Object.keys(UNITS).find((u) => Number(u) === scale);
  const { report } = set;
  return (
    <>
      <p className="truncate text-sm font-semibold" title={set.name}>
        {set.name}
      </p>
      <Readout label="Triangles">
        <span className="figures">
          {report.triangles.toLocaleString("en")}
          {report.kept < report.triangles ? `, ${report.kept.toLocaleString("en")} stored` : ""}
        </span>
      </Readout>
      {report.instances > 0 && (
        <Readout label="Instances">
          <span
            className="figures"
            title={
              report.kept < report.triangles
                ? "Instances share their geometry."
                : "Equal parts in several places, small enough to be stored for each."
            }
          >
            {report.instances.toLocaleString("en")}
          </span>
        </Readout>
      )}
      <Readout label="Materials">
        <span className="figures">
          {report.materials}, {report.textures} {report.textures === 1 ? "picture" : "pictures"}
        </span>
      </Readout>
      <Readout label="Size">
        <span className="figures">{lengths.box(size)}</span>
      </Readout>
      <SizeDrawing size={size} />
      {suggested !== null && suggested !== scale && (
        <p className="text-xs text-primary">
          {lengths.exact(longest * scale, 3)} long.{" "}
          <button className="btn btn-xs btn-primary btn-outline" onClick={() => setScale(suggested)}>
            In {PLURALS[String(suggested) as keyof typeof UNITS]}: {lengths.exact(longest * suggested, 3)}
          </button>
        </p>
      )}
      <Select
        label="Units"
        value={unit ?? "other"}
        options={[...Object.entries(UNITS), ...(unit ? [] : [["other", "length of its own"] as const])] as [string, string][]}
        tooltip="Length unit of the file. Every density depends on it."
        onChange={(u) => u !== "other" && setScale(Number(u))}
      />
      <NumberField
        logarithmic
        label="Custom unit"
        unit="m"
        quantity="length"
        value={scale}
        min={1e-6}
        max={1e6}
        useful={[0.001, 100]}
        reset={1}
        tooltip="Length of one unit of the file."
        onChange={setScale}
      />
      <Choice
        label="Up axis"
        value={up}
        options={[
          ["y", "y axis"],
          ["z", "z axis"],
        ]}
        tooltip="glTF says y. Other files may say z: the set then lies on its back."
        onChange={(axis) => setUp(axis)}
      />
      {set.animations.length > 0 && <PoseFields animations={set.animations} moment={moment} />}
      {(set.lights.length > 0 || set.sun) && (
        <Switch
          label={`Its lights (${set.lights.length}${set.sun ? " and a sun" : ""})`}
          on={lights}
          tooltip="Takes the file's lights over, as lights of this scene."
          onChange={setLights}
        />
      )}
      {set.lenses.length > 0 && (
        <Switch label={`Its lenses (${set.lenses.length})`} on={lenses} tooltip="Keeps the file's cameras by name." onChange={setLenses} />
      )}
      {set.moving && <p className="text-xs quiet">{movingText(set.moving)}</p>}
      {doc.objects.length > 0 && (
        <Switch
          label="Replace the set"
          on={replace}
          tooltip="Removes the present set; air and sky stay. Undo brings it back."
          onChange={setReplace}
        />
      )}
      {report.left.length > 0 && (
        <details className="text-xs">
          <summary className="cursor-pointer quiet">
            {report.left.length} {report.left.length === 1 ? "thing" : "things"} left out
          </summary>
          <ul className="max-h-40 list-disc space-y-0.5 overflow-y-auto pt-1 pl-4 break-words">
            {report.left.slice(0, 200).map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </details>
      )}
      <div className="flex items-center gap-3 pt-1">
        <button
          className="btn btn-xs btn-primary"
          disabled={posing}
          onClick={() => void incoming.place({ replace, lights, lenses, scale, up })}
        >
          Place in the scene
        </button>
        <button className="link text-xs quiet" onClick={() => incoming.drop()}>
          Cancel
        </button>
      </div>
    </>
  );
}
