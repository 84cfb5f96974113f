/** How the picture is exposed: a histogram in stops, and ways of showing it. */
import type { ChartConfiguration, Tick } from "chart.js";
import { useEffect, useMemo, useState } from "react";
import type { Development } from "#core/film/develop";
import type { Film } from "#core/film/film";
import { TONES, type Histogram } from "#core/film/tones";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { themeColour } from "../../../shared/chart-theme";
import { Latest } from "../../../shared/latest";
import { Choice } from "../../../shared/controls";
import { Plot } from "../../../shared/Plot";
import { WaveformPlot } from "./WaveformPlot";

/** Bars by stop, with middle grey marked. */
function histogramChart({ bins, low, high }: Histogram): ChartConfiguration<"bar", { x: number; y: number }[], string> {
  const step = (high - low) / bins.length;
  const stops = (v: number): string => (v > 0 ? `+${v}` : `${v}`).replace("-", "−");
  const isMiddle = (tick: Tick | undefined): boolean => tick?.value === 0;
  return {
    type: "bar",
    data: {
      datasets: [
        {
          data: bins.map((y, i) => ({ x: low + (i + 0.5) * step, y })),
          backgroundColor: themeColour("base-content", 0.6),
          barPercentage: 0.9,
          categoryPercentage: 1,
        },
      ],
    },
    options: {
      interaction: { mode: "nearest", axis: "x", intersect: false },
      scales: {
        x: {
          type: "linear",
          min: low,
          max: high,
          afterBuildTicks: (axis) => {
            axis.ticks = [-8, -6, -4, -2, 0, 2, 4].map((value) => ({ value }));
          },
          grid: {
            drawTicks: false,
            color: ({ tick }) => (isMiddle(tick) ? themeColour("primary", 0.5) : "transparent"),
          },
          ticks: {
            maxRotation: 0,
            color: ({ tick }) => (isMiddle(tick) ? themeColour("primary") : themeColour("base-content", 0.6)),
            callback: (v) => stops(Number(v)),
          },
        },
        y: { display: false, min: 0 },
      },
      plugins: {
        tooltip: {
          callbacks: {
            title: ([item]) => (item ? `${stops(Math.round(10 * item.parsed.x!) / 10)} stops` : ""),
            label: ({ parsed }) => `${(100 * parsed.y!).toFixed(1)} % of the frame`,
          },
        },
      },
    },
  };
}

export function Tones() {
  const { session, view } = useBench();
  const { exposure, whiteBalance, balance } = useDocument().film;
  const tones = useView((s) => s.tones);
  const scope = useView((s) => s.scope);
  // statistics change a few times a second: as often as a histogram need be made
  const statistics = useSession((s) => s.statistics);
  const [shown, setShown] = useState<Histogram | null>(null);
  const asked = useMemo(
    () =>
      new Latest(async ([film, development]: [Film, Development]) => {
        await session.films.histogram(film, development).then(setShown, () => undefined); // the last one stays
      }),
    [session],
  );
  useEffect(() => {
    const film = session.shown();
    if (film && statistics) asked.ask([film, { exposure, whiteBalance, balance }]);
  }, [session, asked, statistics, exposure, whiteBalance, balance]);
  const chart = useMemo(() => shown && histogramChart(shown), [shown]);
  return (
    <>
      {scope === "waveform" && <WaveformPlot />}
      {/* its place is kept until it comes: nothing below may move under a hand */}
      {scope === "histogram" && !(shown && chart) && <div aria-hidden className="h-20" />}
      {scope === "histogram" && shown && chart && (
        <Plot
          label={`Histogram in stops about middle grey; ${(100 * shown.white).toFixed(1)} % clipped to white, ${(100 * shown.black).toFixed(1)} % black`}
          config={chart}
          className="h-20"
        />
      )}
      <p className="figures min-h-4 text-xs quiet" title="Shares of the frame where the display shows no more difference.">
        {shown && `${(100 * shown.white).toFixed(1)} % white, ${(100 * shown.black).toFixed(1)} % black`}
      </p>
      <Choice
        label="Scope"
        value={scope}
        options={[
          ["histogram", "histogram"],
          ["waveform", "waveform"],
        ]}
        tooltip="The histogram counts light in stops, before the finish; the waveform shows display values after it, where in the frame they stand."
        onChange={(s) => view.setState({ scope: s })}
      />
      <Choice
        label="Show"
        value={tones}
        options={[
          ["picture", "picture"],
          ["stops", "stops"],
          ["clipping", "clipping"],
        ]}
        tooltip="Stops paints brightness in colours about middle grey; clipping marks what is white with stripes and what is black with dots."
        onChange={(t) => view.setState({ tones: t, pass: "beauty", clear: false })}
      />
      {tones === "stops" && (
        <ul aria-label="Colours of stops" className="grid grid-cols-3 gap-x-2 gap-y-0.5 text-xs">
          {TONES.map((t) => (
            <li key={t.words} className="figures flex items-center gap-1.5">
              <span aria-hidden className="size-3 shrink-0" style={{ background: `rgb(${t.rgb.join(" ")})` }} />
              {t.words}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
