/** A photometric profile as a polar drawing with absolute candela, and its lumens against what its file says. */
import type { ChartConfiguration } from "chart.js";
import { useEffect, useMemo, useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { useBench, useDocument } from "../../model/context";
import { themeColour } from "../../../shared/chart-theme";
import { Readout } from "../../../shared/controls";
import { Plot } from "../../../shared/Plot";

/** Angles around the axis a grid has (scene/layout LP_COLUMNS). */
const COLUMNS = 360;
/** Degrees between two points of the plot. */
const STEP = 3;

const mostOf = (grid: Float32Array): number => grid.reduce((a, v) => Math.max(a, v), 0);

/** Candela around the lamp in two planes through its axis, which points down. */
function polarChart(grid: Float32Array, scale: number): ChartConfiguration<"radar", number[], string> {
  // clockwise from straight up, so that figures on the scale stand upright; to the left is the half plane across
  const angles = Array.from({ length: 360 / STEP }, (_, i) => i * STEP);
  const plane = (phi: number): number[] =>
    angles.map((a) => {
      const around = a <= 180 ? phi : phi + 180;
      return scale * (grid[Math.abs(180 - a) * COLUMNS + (around % 360)] ?? 0);
    });
  const most = mostOf(grid) * scale;
  const fromAxisText = (i: number): string => `${Math.abs(180 - i * STEP)}°`;
  const line = (phi: number, colour: string, dashes: number[]) => ({
    label: `${phi}° to ${phi + 180}°`,
    data: plane(phi),
    borderColor: colour,
    borderWidth: 1.5,
    borderDash: dashes,
    pointRadius: 0,
  });
  return {
    type: "radar",
    data: {
      labels: angles.map(String),
      datasets: [line(0, themeColour("primary"), []), line(90, themeColour("base-content", 0.5), [4, 3])],
    },
    options: {
      interaction: { mode: "index", intersect: false },
      scales: {
        r: {
          min: 0,
          max: Math.max(most, 1e-9),
          grid: { circular: true },
          angleLines: { color: ({ index }) => ((index * STEP) % 90 === 0 ? themeColour("base-content", 0.15) : "transparent") },
          pointLabels: { callback: (_, i) => ((i * STEP) % 30 === 0 ? fromAxisText(i) : ""), padding: 2 },
          ticks: {
            stepSize: Math.max(most, 1e-9) / 4,
            showLabelBackdrop: false,
            callback: (v, i) => (i === 2 || i === 4 ? formatNumber(Number(v), 3) : ""),
          },
        },
      },
      plugins: {
        tooltip: {
          callbacks: {
            title: ([item]) => (item ? `${fromAxisText(item.dataIndex)} from the axis` : ""),
            label: ({ dataset, parsed }) => `${dataset.label}: ${formatNumber(parsed.r, 3)} cd`,
          },
        },
      },
    },
  };
}

interface Shown {
  grid: Float32Array;
  lumens: number;
  header: number;
  type: string;
  watts: number;
}

export function ProfilePlot({ asset, scale }: { asset: string; scale: number }) {
  const { session } = useBench();
  const doc = useDocument();
  const hash = doc.assets[asset]?.sha256;
  const [shown, setShown] = useState<Shown | null>(null);
  useEffect(() => {
    let current = true;
    session.worker.photometry(doc, asset).then(
      ({ photometry: p, lumens, grid }) => current && setShown({ grid, lumens, header: p.headerLumens, type: p.type, watts: p.watts }),
      () => current && setShown(null),
    );
    return () => {
      current = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a profile depends on its file alone
  }, [hash, session]);
  const chart = useMemo(() => shown && polarChart(shown.grid, scale), [shown, scale]);
  if (!shown || !chart) return null;
  return (
    <>
      <Plot label={`Candela by angle, at most ${formatNumber(mostOf(shown.grid) * scale, 3)}`} config={chart} className="h-56" />
      <p className="text-xs quiet">Down is along its axis. Line: 0° to 180° around it; dashes: 90° to 270°.</p>
      <Readout label="Luminous flux">
        <span className="figures">
          {formatNumber(shown.lumens * scale, 3)} lm
          {shown.header > 0
            ? ` of the ${formatNumber(shown.header, 3)} lm its lamps have (${((100 * shown.lumens) / shown.header).toFixed(0)} %)`
            : ", measured absolutely"}
        </span>
      </Readout>
    </>
  );
}
