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
  const chart = useRef<Chart<T, D, string> | null>(null);
  const given = useRef(config);
  given.current = config;
  const kind = "type" in config ? config.type : null;
  useEffect(() => {
    applyChartTheme();
    const made = new Chart(canvas.current!, given.current);
    chart.current = made;
    return () => {
      made.destroy();
      chart.current = null;
    };
  }, [kind]);
  // new figures in the chart that is there: one made anew measures the page and its type again
  useEffect(() => {
    const made = chart.current;
    if (!made || made.config.data === config.data) return;
    made.data = config.data;
    if (config.options) made.options = config.options;
    made.update("none");
  }, [config]);
  return (
    <div className={`relative w-full ${className}`}>
      {/* out of the flow: a canvas has a width of its own that would widen the column */}
      <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0" />
    </div>
  );
}
