/** Under the drawings: what the final will take, with its bounds, against what it may take. */
import { useStore } from "zustand";
import { kept } from "#core/budget/live";
import { durationText, formatNumber } from "#core/document/quantities";
import { isOfFrame } from "./model/advice";
import { finalOf, type Span } from "./model/price";
import { useBench, useDocument, useView } from "./model/context";
import { useAllowed } from "./model/use-allowed";
import { percent } from "./percent";

export function BudgetLine() {
  const { view, price } = useBench();
  const doc = useDocument();
  const { price: cpu, frame, moved, unseen, record } = useStore(price.state);
  const open = useView((v) => v.below === "budget");
  const allowed = useAllowed();
  const { document: final } = finalOf(doc);
  const { noiseThreshold, thresholdOf, samples } = final.render;
  const until =
    noiseThreshold === null ? `${samples} samples` : `${percent(noiseThreshold)} noise${thresholdOf === "cleaned" ? ", cleaned" : ""}`;
  const keeps = frame && allowed !== null ? kept(allowed, frame) : null;
  return (
    <div
      role="group"
      aria-label="Budget"
      data-looked={cpu?.looked.toFixed(2) ?? ""}
      data-kept={keeps ?? ""}
      className="flex h-7 shrink-0 items-center gap-x-3 overflow-hidden border-t hair bg-base-100 px-3 text-xs whitespace-nowrap"
    >
      <span className="figures quiet" title="The final that is meant: its size, and when it is done.">
        Final {final.film.size.join(" × ")}, {until}
      </span>
      {frame ? (
        <>
          <Gauge frame={frame} allowed={allowed} />
          <span
            className="figures"
            data-testid="price"
            title={`What a frame of this moment takes on the machine that renders, and in brackets what it lies between in eight cases of ten. ${cpu ? `${durationText(cpu.seconds)} of processor time, ${formatNumber(cpu.samples, 3)} samples per pixel.` : ""}`}
          >
            {durationText(frame.seconds)}{" "}
            <span className="quiet">
              ({durationText(frame.low)} to {durationText(frame.high)})
            </span>{" "}
            per frame
          </span>
        </>
      ) : (
        <span className="quiet" data-testid="price">
          {unseen ? "price unknown until the picture is looked at cleaned (N)" : "price: waits for the first samples"}
        </span>
      )}
      {keeps && allowed !== null && (
        <span
          title={`The budget is ${durationText(allowed)} per frame.`}
          className={`figures ${keeps === "no" ? "font-semibold text-warning" : keeps === "maybe" ? "text-warning" : "quiet"}`}
        >
          {keeps === "yes"
            ? `within ${durationText(allowed)}`
            : keeps === "maybe"
              ? `may exceed ${durationText(allowed)}`
              : `over by ${durationText(frame!.seconds - allowed)}`}
        </span>
      )}
      {keeps && keeps !== "yes" && <WayBack />}
      {cpu && cpu.unreached > 0.005 && (
        <span
          className="figures text-warning"
          title="So much of the picture ends at the max samples without having come below the noise threshold."
        >
          {percent(cpu.unreached)} stays above the threshold
        </span>
      )}
      {moved && (
        <span className="figures min-w-0 truncate quiet" title={moved.words}>
          {moved.share > 0 ? "+" : "−"}
          {Math.abs(Math.round(100 * moved.share))} %: {moved.words}
        </span>
      )}
      {record?.busy && (
        <span className="quiet" title="Times are measured while a final is rendered on this machine: they read high.">
          measured beside a render
        </span>
      )}
      <button
        className="ml-auto shrink-0 link link-hover"
        aria-pressed={open}
        title="What the final may cost, where its time goes, and what would save some. Shift B"
        onClick={() => view.toggleBelow("budget")}
      >
        {doc.budget.limit === null ? "Set a budget" : "Budget"}
      </button>
    </div>
  );
}

/** What was measured to save most and is hardly seen; else the way to measure it. */
function WayBack() {
  const { view, advice } = useBench();
  const { together, of, running } = useStore(advice.state);
  const doc = useDocument();
  const open = (): void => view.setState({ below: "budget", budgetPart: "advice" });
  // of another frame it says nothing
  const known = together && of && isOfFrame(of, doc);
  return (
    <button className="link min-w-0 truncate" title={known ? together.words : "Tries what would save time on this frame."} onClick={open}>
      {running?.what === "advice" ? "advising …" : known ? `×${formatNumber(1 / together.time, 2)} possible` : "what would save time?"}
    </button>
  );
}

/** Width of the gauge, and which share of it the larger of price and budget takes. */
const WIDTH = 120,
  SHARE = 0.85;

/** The bounds of a price on a line from nothing, its middle, and the budget as a gate. */
function Gauge({ frame, allowed }: { frame: Span; allowed: number | null }) {
  const scale = (SHARE * WIDTH) / Math.max(frame.high, allowed ?? 0, 1e-9);
  const x = (seconds: number): number => Math.min(WIDTH, scale * seconds);
  const over = allowed !== null && frame.seconds > allowed;
  return (
    <svg width={WIDTH} height={14} aria-hidden className="shrink-0">
      <line x1={0} y1={7.5} x2={WIDTH} y2={7.5} className="stroke-base-content/25" />
      <rect
        x={x(frame.low)}
        y={3}
        width={Math.max(2, x(frame.high) - x(frame.low))}
        height={9}
        className={over ? "fill-warning/50" : "fill-primary/45"}
      />
      <rect x={x(frame.seconds) - 1} y={1} width={2} height={13} className={over ? "fill-warning" : "fill-primary"} />
      {allowed !== null && (
        <path d={`M${x(allowed)} 0v14M${x(allowed) - 3} .5h6M${x(allowed) - 3} 13.5h6`} className="stroke-base-content" fill="none" />
      )}
    </svg>
  );
}
