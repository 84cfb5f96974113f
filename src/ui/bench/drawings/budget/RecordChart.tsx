/** Forecasts of finals against what they took. */
import { Chart, LogarithmicScale, ScatterController } from "chart.js";
import { useEffect, useMemo } from "react";
import { useStore } from "zustand";
import { recordOf } from "#core/budget/live";
import { durationText, formatNumber } from "#core/document/quantities";
import { themeColour } from "../../../shared/chart-theme";
import { Plot } from "../../../shared/Plot";
import { useBench } from "../../model/context";

Chart.register(ScatterController, LogarithmicScale);

export default function RecordChart() {
  const { price } = useBench();
  const { record, learned } = useStore(price.state);
  useEffect(() => void price.refresh(), [price]);
  const records = record?.records;
  const config = useMemo(() => {
    const all = records ?? [];
    const [least, most] = [Math.min(...all.flatMap((r) => [r.said, r.paid])), Math.max(...all.flatMap((r) => [r.said, r.paid]))];
    const axis = (text: string) => ({
      type: "logarithmic" as const,
      min: least / 1.5,
      max: most * 1.5,
      title: { display: true, text },
      ticks: { callback: (v: string | number) => durationText(Number(v)), maxTicksLimit: 6 },
    });
    return {
      type: "scatter" as const,
      data: {
        datasets: [
          {
            data: all.map((r) => ({ x: r.said, y: r.paid })),
            backgroundColor: all.map((r) => themeColour(r.paid >= r.low && r.paid <= r.high ? "primary" : "base-content")),
            pointRadius: 4,
          },
          {
            // as it was said, so it was paid
            type: "line" as const,
            data: [
              { x: least / 1.5, y: least / 1.5 },
              { x: most * 1.5, y: most * 1.5 },
            ],
            borderColor: themeColour("base-content", 0.4),
            borderWidth: 1,
            pointRadius: 0,
          },
        ],
      },
      options: {
        scales: { x: axis("forecast, processor time"), y: axis("taken") },
        plugins: {
          tooltip: {
            callbacks: {
              label: ({ dataIndex, datasetIndex }: { dataIndex: number; datasetIndex: number }) => {
                const r = datasetIndex === 0 ? all[dataIndex] : undefined;
                return r
                  ? `${r.title}: ${durationText(r.said)} said (${durationText(r.low)} to ${durationText(r.high)}), ${durationText(r.paid)} taken`
                  : "";
              },
            },
          },
        },
      },
    };
  }, [records]);
  if (!records || records.length === 0)
    return (
      <p className="text-xs quiet">
        No final has been forecast and rendered yet. A final that is ordered once its price is known is kept here when it is done.
      </p>
    );
  const told = recordOf(records)!;
  return (
    <div className="flex h-full gap-6">
      <Plot label={`Forecast against taken of ${records.length} frames`} config={config} className="h-full min-h-40 max-w-lg flex-1" />
      <dl className="figures space-y-1 text-xs [&>dt]:quiet [&>dd]:mb-2">
        <dt>Frames</dt>
        <dd>{records.length}</dd>
        <dt title="Half of the forecasts err by less than this.">Median error</dt>
        <dd>{formatNumber(100 * told.median, 2)} %</dd>
        <dt title="Eight of ten should.">Between their bounds</dt>
        <dd>{formatNumber(100 * told.inside, 2)} %</dd>
        <dt title="Finals of this machine take so many times what the look at the live picture says; forecasts are multiplied by it.">
          Learned
        </dt>
        <dd>×{formatNumber(learned.factor, 3)}</dd>
      </dl>
    </div>
  );
}
