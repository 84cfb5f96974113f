/** What the picture shows where it is another pass than the beauty: its name, its unit, and what its greys stand for. */
import { formatNumber } from "#core/document/quantities";
import { passTicks } from "#core/film/develop";
import { PASSES, type PassName } from "#core/film/passes";
import { useLengths } from "../../shared/units";

/** @param light the light group that is to be seen alone @param apart whether it is: the picture may not keep its lights apart */
export function PassLegend({ pass, usual, light, apart }: { pass: PassName; usual: number | null; light: string | null; apart: boolean }) {
  const lengths = useLengths();
  const { words, tooltip, unit } = PASSES[pass];
  const ticks = usual === null ? null : passTicks(pass, usual);
  const text = (v: number): string =>
    unit === "m" ? formatNumber(v / lengths.size, 2) : unit === "share" ? formatNumber(100 * v, 3) : formatNumber(v, 2);
  const said = unit === "m" ? lengths.unit : unit === "share" && ticks ? "%" : unit;
  return (
    <div
      role="note"
      aria-label="Pass that is shown"
      className="pointer-events-none absolute top-2 left-2 bg-base-200/85 px-2 py-1 text-xs"
      title={tooltip}
    >
      <p>
        {words}
        {light !== null && (apart ? `, ${light}` : `, all lights: this picture does not keep ${light} apart`)}{" "}
        <span className="quiet">{said}</span>
      </p>
      {ticks && (
        <div className="figures relative mt-1 mb-4 h-2 w-44" style={{ background: "linear-gradient(to right, black, white)" }}>
          {ticks.map(({ at, value }) => (
            <span
              key={at}
              className={`absolute top-2.5 ${at < 0.1 ? "" : at > 0.9 ? "-translate-x-full" : "-translate-x-1/2"}`}
              style={{ left: `${100 * at}%` }}
            >
              {text(value)}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
