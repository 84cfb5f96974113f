/** What would save time on this frame, by trials: what each saves, what it changes, taken by a click. */
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { kept } from "#core/budget/live";
import { durationText, formatNumber } from "#core/document/quantities";
import { LIMITS_SEEN, type Advice } from "#engine/advise";
import { ADVICE_TIMES, isOfFrame } from "../../model/advice";
import { useBench, useDocument } from "../../model/context";
import { fitBudget } from "../../model/fit-budget";
import { useAllowed } from "../../model/use-allowed";
import { energyText, savingText, seenText, Sortable, type Column } from "./rows";
import { TrialPicture } from "./TrialPicture";

export function AdviceTable() {
  const bench = useBench();
  const { advice, price } = bench;
  const { running, rows, together, of, tried, base, error, seconds } = useStore(advice.state);
  const frame = useStore(price.state, (s) => s.frame);
  const doc = useDocument();
  const allowed = useAllowed();
  const [fitting, setFitting] = useState(false);
  const [fitted, setFitted] = useState<string | null>(null);
  const over = frame !== null && allowed !== null && kept(allowed, frame) !== "yes";
  const busy = running !== null;
  const fit = async (): Promise<void> => {
    setFitting(true);
    setFitted(null);
    try {
      setFitted(await fitBudget(bench));
    } finally {
      setFitting(false);
    }
  };
  const stale = of !== null && !busy && !isOfFrame(of, doc);
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-3 text-xs">
        <button className="btn btn-xs btn-primary" disabled={busy || fitting} onClick={() => void advice.advise()}>
          Advise
        </button>
        <button
          className="btn btn-xs btn-outline hair"
          disabled={busy || fitting || allowed === null}
          title={
            allowed === null
              ? "Set a budget first."
              : "Tries what would save time, takes the least visible changes that keep the budget, and keeps a proof before and after them."
          }
          onClick={() => void fit()}
        >
          Fit the budget
        </button>
        <label className="flex items-center gap-1" title="How long the trials may take. More time tells smaller savings and changes.">
          <span className="quiet">for about</span>
          <select
            aria-label="Time for trials"
            className="select select-xs w-auto"
            value={seconds}
            disabled={busy}
            onChange={(e) => advice.state.setState({ seconds: Number(e.target.value) })}
          >
            {ADVICE_TIMES.map((s) => (
              <option key={s} value={s}>
                {durationText(s)}
              </option>
            ))}
          </select>
        </label>
        {running ? (
          <Running />
        ) : fitted ? (
          <span role="status">{fitted}</span>
        ) : tried ? (
          <span role="status" className="quiet">
            {tried.tried} changes tried{tried.untried > 0 && `, ${tried.untried} not for want of time`}
            {rows.length === 0 && ": none saves time that can be told from chance"}
            {stale && "; the frame is another by now"}
          </span>
        ) : (
          <span className="quiet">
            Renders this frame small with one change after the other
            {over ? "; it is not sure to keep its budget" : ""}.
          </span>
        )}
        {error && (
          <span role="alert" className="text-error">
            {error}
          </span>
        )}
      </div>
      {together && !busy && !stale && (
        <p className="flex items-center gap-3 border-l-2 border-primary pl-2 text-xs">
          <span className="figures">
            Together <b>{savingText(together)}</b>, ΔE {seenText(together)}, worst block {formatNumber(together.seen.worst, 2)}
            {advice.frameWith(together) !== null && `, about ${durationText(advice.frameWith(together)!)} per frame`}: {together.words}
          </span>
          <button
            className="btn btn-xs btn-outline hair"
            title="One step: undo takes all of them back."
            onClick={() => advice.take(together)}
          >
            Apply together
          </button>
        </p>
      )}
      {tried?.nearest && !busy && !stale && (
        <p className="figures text-xs quiet">
          None is hardly seen (ΔE up to {LIMITS_SEEN.mean}, worst block up to {LIMITS_SEEN.worst}). The nearest, looked at longer:{" "}
          {tried.nearest.words}, {savingText(tried.nearest)}, ΔE {seenText(tried.nearest)}, worst block{" "}
          {formatNumber(tried.nearest.seen.worst, 2)}.
        </p>
      )}
      {rows.length > 0 && of && (
        <Sortable
          label="Advice"
          columns={COLUMNS}
          rows={rows}
          keyOf={(r) => r.ids.join()}
          end={(r) => (
            <span className="inline-flex items-center gap-2">
              <TrialPicture picture={r.picture} doc={of} against={base} from="the frame as it is" label={r.words} />
              <button
                className="btn btn-xs btn-outline hair"
                aria-label={`Apply: ${r.words}`}
                disabled={busy}
                title="One step: undo takes it back."
                onClick={() => advice.take(r)}
              >
                Apply
              </button>
            </span>
          )}
        />
      )}
    </div>
  );
}

const COLUMNS: readonly Column<Advice>[] = [
  { key: "words", label: "change", tooltip: "", value: (r) => r.words, show: (r) => <span title={r.tooltip}>{r.words}</span> },
  {
    key: "time",
    label: "saves",
    tooltip: "How many times as quickly the same noise is reached, and its standard error.",
    value: (r) => r.time,
    show: savingText,
  },
  {
    key: "cost",
    label: "sample",
    tooltip: "Time of a sample, against the frame as it is.",
    value: (r) => r.cost,
    show: (r) => `×${formatNumber(r.cost, 3)}`,
  },
  {
    key: "noise",
    label: "noise",
    tooltip: "Standard error of a pixel at the same samples, against the frame as it is.",
    value: (r) => r.noise,
    show: (r) => `×${formatNumber(Math.sqrt(r.noise), 3)}`,
  },
  {
    key: "seen",
    label: "ΔE",
    tooltip: "ΔE 2000 of the picture against the frame as it is, over blocks, without its noise; 1 is just seen side by side.",
    value: (r) => r.seen.mean,
    show: seenText,
  },
  {
    key: "worst",
    label: "worst block",
    tooltip: "ΔE of the block that changes most.",
    value: (r) => r.seen.worst,
    show: (r) => formatNumber(r.seen.worst, 2),
  },
  { key: "energy", label: "light", tooltip: "Mean luminance of the frame that comes or goes.", value: (r) => r.energy, show: energyText },
];

/** How far trials are. */
export function Running() {
  const { advice } = useBench();
  const running = useStore(advice.state, (s) => s.running);
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 1000);
    return () => clearInterval(timer);
  }, []);
  if (!running) return null;
  const seconds = (performance.now() - running.since) / 1000;
  const share = running.done / Math.max(1, running.all);
  return (
    <span role="status" className="flex min-w-0 items-center gap-2 quiet">
      <progress className="progress progress-primary h-1 w-24" value={running.done} max={running.all} />
      <span className="figures">
        {running.done} of {running.all}
        {share > 0.05 && share < 1 && `, about ${durationText((seconds * (1 - share)) / share)} left`}
      </span>
      <span className="truncate">{running.words}</span>
      <button className="link" onClick={() => advice.cancel()}>
        Cancel
      </button>
    </span>
  );
}
