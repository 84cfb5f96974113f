/** A plain chart. Drawings whose axis things are dragged along are not charts: see docs/architecture.md. */
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  RadarController,
  RadialLinearScale,
  Tooltip,
  type ChartConfiguration,
  type ChartType,
  type DefaultDataPoint,
} from "chart.js";
import { useEffect, useRef } from "react";
import { applyChartTheme } from "./chart-theme";

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  RadarController,
  RadialLinearScale,
  Tooltip,
);

interface Props<T extends ChartType, D> {
  /** What the chart says, for assistive technology. */
  label: string;
  /** Must be the same object while nothing changes (useMemo): another one is drawn. */
  config: ChartConfiguration<T, D, string>;
  /** Classes that give the height. */
  className: string;
}

export function Plot<T extends ChartType, D = DefaultDataPoint<T>>({ label, config, className }: Props<T, D>) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    applyChartTheme();
    const chart = new Chart(canvas.current!, config);
    return () => chart.destroy();
  }, [config]);
  return (
    <div className={`relative w-full ${className}`}>
      {/* out of the flow: a canvas has a width of its own that would widen the column */}
      <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0" />
    </div>
  );
}
