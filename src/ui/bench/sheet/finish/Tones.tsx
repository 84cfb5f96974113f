/** How the picture is exposed: a histogram in stops, and ways of showing it. */
import { useMemo } from "react";
import { histogram, TONES } from "#core/film/tones";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { Choice } from "../../../shared/controls";

const [W, H] = [268, 52];

export function Tones() {
  const { session, view } = useBench();
  const { exposure, whiteBalance } = useDocument().film;
  const tones = useView((s) => s.tones);
  // statistics change a few times a second: as often as a histogram need be made
  const statistics = useSession((s) => s.statistics);
  const shown = useMemo(() => {
    const film = session.live();
    return film && statistics ? histogram(film, { exposure, whiteBalance }) : null;
  }, [session, statistics, exposure, whiteBalance]);
  const most = shown ? Math.max(...shown.bins, 1e-6) : 1;
  const x = (stops: number): number => (shown ? (W * (stops - shown.low)) / (shown.high - shown.low) : 0);
  return (
    <>
      {shown && (
        <svg
          viewBox={`0 0 ${W} ${H + 12}`}
          className="w-full"
          role="img"
          aria-label={`Histogram in stops about middle grey; ${(100 * shown.white).toFixed(1)} % clipped to white, ${(100 * shown.black).toFixed(1)} % black`}
        >
          {shown.bins.map((b, i) => (
            <rect
              key={i}
              x={(i * W) / shown.bins.length}
              y={H - (H * b) / most}
              width={W / shown.bins.length - 0.6}
              height={(H * b) / most}
              className="fill-base-content/60"
            />
          ))}
          <path d={`M0 ${H}H${W}`} className="stroke-base-content/30" />
          {[-8, -6, -4, -2, 0, 2, 4].map((s) => (
            <text
              key={s}
              x={x(s)}
              y={H + 10}
              textAnchor="middle"
              fontSize="8.5"
              className={`figures ${s === 0 ? "fill-primary" : "fill-base-content/60"}`}
            >
              {s > 0 ? `+${s}` : s}
            </text>
          ))}
          <path d={`M${x(0)} 0V${H}`} className="stroke-primary/50" strokeDasharray="2 3" />
        </svg>
      )}
      {shown && (
        <p className="figures text-xs quiet" title="Shares of the frame where the display shows no more difference.">
          {(100 * shown.white).toFixed(1)} % white, {(100 * shown.black).toFixed(1)} % black
        </p>
      )}
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
