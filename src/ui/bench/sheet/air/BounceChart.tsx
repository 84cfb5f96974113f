/** How much light each number of bounces gives, against the most that were tried: where the line is flat, more give nothing. */
import type { ChartConfiguration } from "chart.js";
import { useMemo } from "react";
import { formatNumber } from "#core/document/quantities";
import type { Trial } from "#engine/trial";
import { themeColour } from "../../../shared/chart-theme";
import { Plot } from "../../../shared/Plot";

/** @param names bounces of each trial; the last has the most */
function bounceChart(names: string[], trials: Trial[]): ChartConfiguration<"line", number[], string> {
  const most = trials.at(-1)?.mean ?? 0;
  return {
    type: "line",
    data: {
      labels: names,
      datasets: [
        {
          data: trials.map((t) => (most > 0 ? (100 * t.mean) / most : 0)),
          borderColor: themeColour("primary"),
          backgroundColor: themeColour("primary"),
          borderWidth: 1.5,
          pointRadius: 2.5,
        },
      ],
    },
    options: {
      interaction: { mode: "index", intersect: false },
      scales: {
        x: { title: { display: true, text: "bounces" }, grid: { display: false } },
        y: { suggestedMin: 0, ticks: { maxTicksLimit: 4, callback: (v) => `${v} %` } },
      },
      plugins: { tooltip: { callbacks: { label: ({ parsed }) => `${formatNumber(parsed.y!, 3)} % of the light` } } },
    },
  };
}

export function BounceChart({ names, trials }: { names: string[]; trials: Trial[] }) {
  const chart = useMemo(() => bounceChart(names, trials), [names, trials]);
  return <Plot label="Light by number of bounces, in percent of the most" config={chart} className="h-28" />;
}
