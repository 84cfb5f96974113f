/** Levels of light transport, bounces and step sizes as rows of one table: time to the same noise, energy difference, picture. */
import { useState } from "react";
import { useStore } from "zustand";
import type { Candidate } from "#core/budget/candidates";
import { durationText, formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { finestStep } from "#core/scene/media";
import type { Advice } from "#engine/advise";
import { atBounces, atLevel, atStep, BOUNCES, LEVELS, stepsAbout } from "#engine/trial";
import { useLengths } from "../../../shared/units";
import { today } from "../../model/contact-sheet";
import { useBench, useDocument, useSession } from "../../model/context";
import { saveSheet } from "../../model/sheet-file";
import { storePicture } from "../../model/wedges";
import { Running } from "./AdviceTable";
import { energyText, savingText, seenText, Sortable, type Column } from "./rows";
import { paintTrial, TrialPicture } from "./TrialPicture";

const KINDS = { levels: "Levels", bounces: "Air bounces", surfaces: "Surface bounces", steps: "Step sizes", all: "All" } as const;
type Kind = keyof typeof KINDS;

/** Indirect bounces that are told apart. */
const SURFACE_BOUNCES = [0, 1, 2, 4] as const;

const candidate = (words: string, apply: (doc: SceneDocument) => SceneDocument): Candidate => ({
  id: words,
  group: words,
  words,
  tooltip: "",
  apply,
});

export function LevelsTable() {
  const { advice } = useBench();
  const doc = useDocument();
  const geometry = useSession((s) => s.geometry);
  const lengths = useLengths();
  const { running, compared, comparedOf, error } = useStore(advice.state);
  const [problem, setProblem] = useState<string | null>(null);
  const step = finestStep(doc, geometry);
  const casesOf = (kind: Kind): Candidate[] => {
    switch (kind) {
      case "levels":
        return LEVELS.map((level) => candidate(`level ${level}`, (d) => atLevel(d, level)));
      case "bounces":
        return BOUNCES.map((n) => candidate(`full, ${n} air ${n === 1 ? "bounce" : "bounces"}`, (d) => atBounces(d, n)));
      case "surfaces":
        return SURFACE_BOUNCES.map((n) =>
          candidate(`${n} indirect ${n === 1 ? "bounce" : "bounces"} off surfaces`, (d) => ({
            ...d,
            render: { ...d.render, surfaceBounces: n },
          })),
        );
      case "steps":
        if (step === null) return [];
        return [
          ...stepsAbout(step).map((s) => candidate(`steps of ${lengths.rough(s)}`, (d) => atStep(d, s))),
          candidate("tracking, without steps", (d) => atStep(d, null)),
        ];
      case "all":
        return [...casesOf("levels"), ...casesOf("bounces"), ...casesOf("surfaces"), ...casesOf("steps")];
    }
  };
  const busy = running !== null;
  const sheet = async (kind: "png" | "pdf"): Promise<void> => {
    if (!comparedOf) return;
    setProblem(null);
    try {
      await saveSheet(
        kind,
        { title: `${doc.title} levels`, heading: `${doc.title}: levels, ${today()}`, count: compared.length, columns: 4 },
        async (i) => {
          const row = compared[i]!;
          const canvas = new OffscreenCanvas(1, 1);
          paintTrial(canvas, row.picture, comparedOf, null);
          const png = new Uint8Array(await (await canvas.convertToBlob({ type: "image/png" })).arrayBuffer());
          return {
            hash: await storePicture(png),
            lines: [row.words, `${savingText(row)} as quick to the same noise`, `light ${energyText(row)}, ΔE ${seenText(row)}`],
          };
        },
      );
    } catch (e) {
      setProblem(`The sheet was not made: ${(e as Error).message}`);
    }
  };
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-2 text-xs">
        <span className="quiet">Compare</span>
        {(Object.keys(KINDS) as Kind[]).map((kind) => (
          <button
            key={kind}
            className="btn btn-xs btn-outline hair"
            disabled={busy || (kind === "steps" && step === null)}
            title={
              kind === "steps" && step === null
                ? "No air of this frame is stepped through."
                : "Small renders of this frame, with the same random numbers."
            }
            onClick={() => void advice.compare(casesOf(kind))}
          >
            {KINDS[kind]}
          </button>
        ))}
        {busy && <Running />}
        {compared.length > 0 && !busy && (
          <span role="group" aria-label="Sheet of the levels" className="ml-auto flex gap-2">
            <span className="quiet">Sheet</span>
            {(["png", "pdf"] as const).map((kind) => (
              <button key={kind} className="link link-hover" onClick={() => void sheet(kind)}>
                {kind.toUpperCase()}
              </button>
            ))}
          </span>
        )}
        {(error ?? problem) && (
          <span role="alert" className="text-error">
            {error ?? problem}
          </span>
        )}
      </div>
      {compared.length > 0 && comparedOf && <Rows rows={compared} of={comparedOf} />}
    </div>
  );
}

function Rows({ rows, of }: { rows: readonly Advice[]; of: SceneDocument }) {
  const { advice, price } = useBench();
  const doc = useDocument();
  const frame = useStore(price.state, (s) => s.frame);
  const columns: readonly Column<Advice>[] = [
    {
      key: "words",
      label: "setting",
      tooltip: "",
      value: (r) => r.words,
      show: (r) => {
        const now = Object.entries(r.apply(doc).render).every(([k, v]) => doc.render[k as keyof typeof doc.render] === v);
        return <span className={now ? "text-primary" : ""}>{r.words}</span>;
      },
    },
    {
      key: "time",
      label: "time to the same noise",
      tooltip: "Against the frame as it is; a final, as its price stands.",
      value: (r) => r.time,
      show: (r) =>
        `×${formatNumber(r.time, 3)} ± ${formatNumber(100 * r.error, 1)} %${frame ? `, ${durationText(r.time * frame.seconds)}` : ""}`,
    },
    {
      key: "noise",
      label: "noise",
      tooltip: "Standard error of a pixel at the same samples.",
      value: (r) => r.noise,
      show: (r) => `×${formatNumber(Math.sqrt(r.noise), 3)}`,
    },
    {
      key: "energy",
      label: "energy difference",
      tooltip: "Mean luminance that comes or goes, and its standard error.",
      value: (r) => r.energy,
      show: energyText,
    },
    { key: "seen", label: "ΔE", tooltip: "ΔE 2000 of the picture, without its noise.", value: (r) => r.seen.mean, show: seenText },
  ];
  return (
    <Sortable
      label="Levels on this frame"
      columns={columns}
      rows={rows}
      keyOf={(r) => r.words}
      end={(r) => (
        <span className="inline-flex items-center gap-2">
          <TrialPicture
            picture={r.picture}
            doc={of}
            against={rows.at(-1) === r ? null : rows.at(-1)!.picture}
            from="the last line"
            label={r.words}
          />
          <button className="btn btn-xs btn-outline hair" aria-label={`Take ${r.words}`} onClick={() => advice.take(r)}>
            Take
          </button>
        </span>
      )}
    />
  );
}
