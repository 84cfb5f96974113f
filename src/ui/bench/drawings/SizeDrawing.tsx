/** How large something is, drawn beside a person on a ruler in the unit of the project. */
import { formatNumber } from "#core/document/quantities";
import { useLengths } from "../../shared/units";

/** Height of the person drawn, m. */
export const PERSON = 1.75;

/** A standing figure, feet at (0, 0), a metre a unit, y up; drawn by us for this purpose. */
export const FIGURE =
  "M0 1.75a.115 .13 0 1 0 .001 0Z M-.09 1.47C-.2 1.45-.25 1.38-.26 1.28L-.3 .86-.23 .84-.17 1.16-.17 .78-.19 .02-.06 .02-.02 .74 .02 .74 .06 .02 .19 .02 .17 .78 .17 1.16 .23 .84 .3 .86 .26 1.28C.25 1.38 .2 1.45 .09 1.47Z";

const W = 268,
  MAX = 78,
  UNDER = 16;

/** The largest of 1, 2, 5 × 10ⁿ that puts at least four ticks on a length. */
function tickOf(length: number): number {
  const raw = length / 4;
  const power = 10 ** Math.floor(Math.log10(raw));
  return (raw / power >= 5 ? 5 : raw / power >= 2 ? 2 : 1) * power;
}

/** @param size width, height and depth of the set as it will be, m */
export function SizeDrawing({ size }: { size: readonly [number, number, number] }) {
  const lengths = useLengths();
  const [w, h] = [Math.max(size[0], size[2]), size[1]];
  if (!(w > 0 || h > 0) || !Number.isFinite(w + h)) return null;
  // both must fit: the set, a gap, and the person
  const across = Math.max(w + 1.6, 2.4),
    up = Math.max(h, PERSON) * 1.06;
  const k = Math.min((W - 20) / across, MAX / up);
  const ground = Math.max(14, up * k) + 4,
    height = ground + UNDER;
  // round in the unit that is read
  const tick = tickOf((W - 16) / k / lengths.size) * lengths.size;
  const ticks = Array.from({ length: Math.floor((W - 16) / k / tick + 1e-6) + 1 }, (_, i) => i * tick);
  const small = PERSON * k < 5;
  return (
    <svg
      viewBox={`0 0 ${W} ${height}`}
      className="w-full"
      role="img"
      aria-label={`The set is ${lengths.exact(w, 3)} across and ${lengths.exact(h, 3)} high, beside a person of ${lengths.exact(PERSON, 3)}`}
    >
      <path d={`M8 ${ground}H${W - 8}`} className="stroke-base-content/40" />
      {ticks.map((t) => (
        <g key={t}>
          <path d={`M${8 + t * k} ${ground}v4`} className="stroke-base-content/40" />
          <text
            x={8 + t * k}
            y={height - 3}
            textAnchor={t === 0 ? "start" : 8 + t * k > W - 22 ? "end" : "middle"}
            className="fill-base-content/60 figures"
            fontSize="8.5"
          >
            {formatNumber(t / lengths.size, 3)}
            {t === 0 ? ` ${lengths.unit}` : ""}
          </text>
        </g>
      ))}
      <rect
        x={8}
        y={ground - Math.max(1, h * k)}
        width={Math.max(1, w * k)}
        height={Math.max(1, h * k)}
        className="fill-base-300 stroke-base-content/50"
        strokeWidth=".75"
      />
      <path
        d={FIGURE}
        className="fill-primary"
        transform={`translate(${Math.min(W - 12, 8 + (w + 0.8) * k)} ${ground}) scale(${k} ${-k})`}
      />
      {small && (
        // too small to see: a ring where the person stands
        <circle cx={Math.min(W - 12, 8 + (w + 0.8) * k)} cy={ground - 2} r="4" className="fill-none stroke-primary" />
      )}
    </svg>
  );
}
