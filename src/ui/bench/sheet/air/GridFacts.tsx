/** What a channel of a volume file holds: how far it spans, voxels, values. */
import { AXES } from "#core/math/vectors";
import type { ChartConfiguration } from "chart.js";
import { useMemo } from "react";
import { formatNumber } from "#core/document/quantities";
import type { VolumeContent } from "../../model/scene-worker";
import { themeColour } from "../../../shared/chart-theme";
import { Readout } from "../../../shared/controls";
import { Plot } from "../../../shared/Plot";
import { useLengths } from "../../../shared/units";

type Grid = VolumeContent["grids"][number];

/** Voxels by value. Heights are square roots, so that rare values are seen. */
function valuesChart({ histogram, min, max }: Grid): ChartConfiguration<"bar", number[], string> {
  const step = (max - min) / histogram.length;
  return {
    type: "bar",
    data: {
      labels: histogram.map((_, i) => `${formatNumber(min + i * step, 3)} to ${formatNumber(min + (i + 1) * step, 3)}`),
      datasets: [
        { data: histogram.map(Math.sqrt), backgroundColor: themeColour("base-content", 0.5), barPercentage: 0.85, categoryPercentage: 1 },
      ],
    },
    options: {
      interaction: { mode: "index", intersect: false },
      scales: { x: { display: false }, y: { display: false, min: 0 } },
      plugins: { tooltip: { callbacks: { label: ({ dataIndex }) => `${(histogram[dataIndex] ?? 0).toLocaleString("en")} voxels` } } },
    },
  };
}

export function GridFacts({ grid: g, scale }: { grid: Grid; scale: number }) {
  const lengths = useLengths();
  const size = AXES.map((k) => lengths.rough((g.bounds[k + 3]! - g.bounds[k]!) * scale)).join(" × ");
  const chart = useMemo(() => valuesChart(g), [g]);
  return (
    <>
      <Readout label="Extent">
        <span className="figures text-xs quiet">{size}</span>
      </Readout>
      <Readout label="Voxels">
        <span className="figures text-xs quiet">
          {g.voxels.toLocaleString("en")} of {lengths.rough(g.voxelSize[0] * scale)}
          {g.kind ? `, ${g.kind}` : ""}
        </span>
      </Readout>
      <Readout label="Values">
        <span className="block">
          <Plot
            label={`Values of ${g.name}, from ${formatNumber(g.min, 3)} to ${formatNumber(g.max, 3)}`}
            config={chart}
            className="h-14"
          />
          <span className="figures flex justify-between text-xs quiet">
            <span>{formatNumber(g.min, 3)}</span>
            <span>{formatNumber(g.max, 3)}</span>
          </span>
        </span>
      </Readout>
    </>
  );
}
