/** What the final costs at other noise, and the least noise that keeps the budget. */
import { useMemo } from "react";
import { useStore } from "zustand";
import { durationText, formatNumber } from "#core/document/quantities";
import { useBench, useDocument } from "../../model/context";
import { targetsAbout, type PricedTarget } from "../../model/noise-targets";
import { useAllowed } from "../../model/use-allowed";
import { Sortable, type Column } from "./rows";

const noiseWords = ({ threshold, of }: PricedTarget): string =>
  `${of === "cleaned" ? "cleaned" : "raw"} noise ${formatNumber(100 * threshold, 3)} %`;

const COLUMNS: readonly Column<PricedTarget>[] = [
  {
    key: "words",
    label: "done at",
    tooltip: "Standard error of a pixel as a share of its brightness, at which parts of the frame get no more samples.",
    value: (r) => r.threshold,
    show: (r) => (
      <span className={r.now ? "text-primary" : ""}>
        {noiseWords(r)}
        {r.keeps && " keeps the budget"}
      </span>
    ),
  },
  {
    key: "time",
    label: "time per frame",
    tooltip: "With the bounds between which it lies in eight cases of ten.",
    value: (r) => r.span.seconds,
    show: (r) => `${durationText(r.span.seconds)} (${durationText(r.span.low)} to ${durationText(r.span.high)})`,
  },
  {
    key: "samples",
    label: "samples a pixel",
    tooltip: "Mean over the frame.",
    value: (r) => r.samples,
    show: (r) => formatNumber(r.samples, 3),
  },
  {
    key: "unreached",
    label: "stays above",
    tooltip: "Share of the frame that has all its samples before it is as quiet as that.",
    value: (r) => r.unreached,
    show: (r) => `${formatNumber(100 * r.unreached, 2)} %`,
  },
];

export function NoiseTable() {
  const { store, price } = useBench();
  const doc = useDocument();
  const known = useStore(price.state, (s) => s.price);
  const allowed = useAllowed();
  // told anew with each look
  const rows = useMemo(() => (known ? targetsAbout(doc, allowed, (target) => price.at(target)) : []), [known, doc, allowed, price]);
  if (rows.length === 0)
    return (
      <p role="status" className="text-xs quiet">
        The picture has not been looked at for long enough. Two samples a pixel tell its noise.
      </p>
    );
  const cheapest = Math.min(...rows.map((r) => r.span.seconds));
  const { minSamples } = doc.render;
  return (
    <div className="max-w-3xl">
      {allowed !== null && cheapest > allowed && (
        <p className="mb-2 text-xs">
          No noise keeps the budget: {minSamples} samples a pixel, the fewest that are taken, take {durationText(cheapest)} of the{" "}
          {durationText(allowed)}.
        </p>
      )}
      <Sortable
        label="Noise of the final"
        columns={COLUMNS}
        rows={rows}
        keyOf={noiseWords}
        end={(r) => (
          <button
            className="btn btn-xs btn-outline hair"
            aria-label={`Take ${noiseWords(r)}`}
            disabled={r.now}
            title={r.now ? "The final is priced at this noise." : "The final is priced, and ordered, at this noise."}
            onClick={() => store.getState().set((d) => ({ ...d, budget: { ...d.budget, noise: { threshold: r.threshold, of: r.of } } }))}
          >
            Take
          </button>
        )}
      />
    </div>
  );
}
