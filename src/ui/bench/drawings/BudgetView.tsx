/** What the final may cost, what would save some of it, what levels cost, and how forecasts have been. */
import { lazy, Suspense } from "react";
import { useBench, useView } from "../model/context";
import type { BudgetPart } from "../model/view";
import { BudgetFields } from "./budget/BudgetFields";
import { AdviceTable } from "./budget/AdviceTable";
import { LevelsTable } from "./budget/LevelsTable";
import { NoiseTable } from "./budget/NoiseTable";
import { TimeTable } from "./budget/TimeTable";

const RecordChart = lazy(() => import("./budget/RecordChart"));

const PARTS = {
  budget: { label: "Budget", tooltip: "What a frame may take, on which machine, at which size and noise." },
  noise: { label: "Noise", tooltip: "What the final costs at other noise, and the least noise that keeps the budget." },
  time: { label: "Time", tooltip: "Where the time of the frame goes." },
  advice: { label: "Advice", tooltip: "What would save time, by trials on this frame." },
  levels: { label: "Levels", tooltip: "Levels of light transport, bounces and step sizes beside one another." },
  record: { label: "Record", tooltip: "What was forecast of finals, and what they took." },
} satisfies Record<BudgetPart, { label: string; tooltip: string }>;

export default function BudgetView() {
  const { view } = useBench();
  const part = useView((s) => s.budgetPart);
  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Budget"
      className="flex h-[44%] min-h-0 shrink-0 flex-col border-t hair bg-base-100 text-sm outline-none"
    >
      <header className="flex items-center gap-4 border-b hair px-3 py-1.5">
        <h2 className="font-semibold">Budget</h2>
        <div role="tablist" aria-label="Parts of the budget" className="flex gap-3 text-xs">
          {(Object.keys(PARTS) as BudgetPart[]).map((p) => (
            <button
              key={p}
              role="tab"
              aria-selected={part === p}
              title={PARTS[p].tooltip}
              className={part === p ? "border-b border-primary text-primary" : "quiet"}
              onClick={() => view.setState({ budgetPart: p })}
            >
              {PARTS[p].label}
            </button>
          ))}
        </div>
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("budget")}>
          Close
        </button>
      </header>
      <div className="min-h-0 flex-1 overflow-auto px-3 py-2">
        {part === "budget" && <BudgetFields />}
        {part === "noise" && <NoiseTable />}
        {part === "time" && <TimeTable />}
        {part === "advice" && <AdviceTable />}
        {part === "levels" && <LevelsTable />}
        {part === "record" && (
          <Suspense fallback={<p className="text-xs quiet">Setting up …</p>}>
            <RecordChart />
          </Suspense>
        )}
      </div>
    </section>
  );
}
