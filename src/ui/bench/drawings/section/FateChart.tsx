/** The fate of light along the ray: the transmittance to each distance, and where which lamp adds light. */
import { AXES } from "#core/math/vectors";
import { formatNumber } from "#core/document/quantities";
import { luminance } from "#core/optics/colour";
import { CONTRASTS, type Fate } from "#core/section/probe";

const GREAT: Record<string, string> = {
  sun: "oklch(0.86 0.11 88)",
  sky: "oklch(0.76 0.06 235)",
  moon: "oklch(0.86 0.025 250)",
  "glow of the air": "oklch(0.72 0.14 42)",
};
const LAMPS = ["oklch(0.78 0.09 60)", "oklch(0.74 0.08 330)", "oklch(0.77 0.08 130)", "oklch(0.74 0.08 290)", "oklch(0.8 0.05 20)"];
/** Lights drawn apart; the rest are one. */
const MAX_BANDS = 6;

export function lightColour(name: string, i: number): string {
  return GREAT[name] ?? LAMPS[i % LAMPS.length]!;
}

/** Luminance of piece i of a gain. */
const lightOf = (values: Float64Array, i: number): number => luminance(values[3 * i]!, values[3 * i + 1]!, values[3 * i + 2]!);
const leftAt = (f: Fate, i: number): number =>
  luminance(Math.exp(-f.depths[3 * i]!), Math.exp(-f.depths[3 * i + 1]!), Math.exp(-f.depths[3 * i + 2]!));

/** What is known at a distance t of the ray. */
export function fateAt(f: Fate, t: number): { transmittance: number; scatteredIn: number; share: number } | null {
  if (t < 0 || t > f.far) return null;
  const at = (t / f.far) * f.pieces;
  const i = Math.min(f.pieces - 1, Math.floor(at));
  const total = f.gains.reduce((a, g) => a + g.total, 0);
  let scatteredIn = 0;
  for (const g of f.gains) {
    for (let k = 0; k < i; k++) scatteredIn += lightOf(g.values, k);
    scatteredIn += (at - i) * lightOf(g.values, i);
  }
  const [a, b] = [leftAt(f, i), leftAt(f, i + 1)];
  return { transmittance: a + (at - i) * (b - a), scatteredIn, share: total > 0 ? scatteredIn / total : 0 };
}

/** Steps drawn at most; finer ones would be a bar. */
const MAX_STEPS = 400;

export function FateChart(p: {
  fate: Fate;
  width: number;
  height: number;
  /** Metres of a step through air without a closed form; null where none is taken. */
  step: number | null;
  x(t: number): number;
}) {
  const { fate: f, height } = p;
  const step = f.far / f.pieces;
  const y = (share: number): number => 3 + (1 - share) * (height - 6);
  const curve = (value: (i: number) => number): string =>
    Array.from({ length: f.pieces + 1 }, (_, i) => `${i ? "L" : "M"}${p.x(i * step).toFixed(1)} ${y(value(i)).toFixed(1)}`).join("");
  const last = 3 * f.pieces;
  const chromatic = Math.max(Math.abs(f.depths[last]! - f.depths[last + 1]!), Math.abs(f.depths[last + 1]! - f.depths[last + 2]!)) > 0.02;

  // light added per metre, one light on the other
  const shown = f.gains.slice(0, MAX_BANDS);
  const tops: number[][] = [];
  let below = new Array<number>(f.pieces).fill(0);
  for (const g of shown) {
    const top = below.map((b, i) => b + lightOf(g.values, i));
    tops.push(top);
    below = top;
  }
  const most = Math.max(...below, 1e-30);
  const total = f.gains.reduce((a, g) => a + g.total, 0);
  const area = (low: number[] | null, top: number[]): string => {
    const h = (v: number): number => height - 1 - (0.94 * (height - 4) * v) / most;
    let d = `M${p.x(0)} ${h(low?.[0] ?? 0)}`;
    top.forEach((v, i) => (d += `L${p.x(i * step).toFixed(1)} ${h(v).toFixed(1)}L${p.x((i + 1) * step).toFixed(1)} ${h(v).toFixed(1)}`));
    for (let i = top.length - 1; i >= 0; i--)
      d += `L${p.x((i + 1) * step).toFixed(1)} ${h(low?.[i] ?? 0).toFixed(1)}L${p.x(i * step).toFixed(1)} ${h(low?.[i] ?? 0).toFixed(1)}`;
    return `${d}Z`;
  };
  return (
    <g>
      {[0.25, 0.5, 0.75].map((s) => (
        <path key={s} d={`M0 ${y(s)}H${p.width}`} className="stroke-base-content/10" strokeWidth="1" />
      ))}
      {tops.map((top, i) => (
        <path key={i} d={area(i ? tops[i - 1]! : null, top)} fill={lightColour(shown[i]!.name, i)} opacity=".42" />
      ))}
      {chromatic &&
        AXES.map((k) => (
          <path
            key={k}
            d={curve((i) => Math.exp(-f.depths[3 * i + k]!))}
            fill="none"
            strokeWidth="1"
            stroke={["oklch(0.7 0.12 25)", "oklch(0.76 0.1 145)", "oklch(0.7 0.1 255)"][k]}
          />
        ))}
      <path d={curve((i) => leftAt(f, i))} fill="none" className="stroke-base-content" strokeWidth="1.6" data-testid="transmittance" />
      {f.marks.map(
        (t, i) =>
          t !== null && (
            <g key={i}>
              <path d={`M${p.x(t)} 0V${height}`} className="stroke-base-content/45" strokeDasharray="2 3" />
              <text x={p.x(t) + 3} y="11" className="figures fill-base-content/80" fontSize="11">
                {100 * CONTRASTS[i]!} %
              </text>
            </g>
          ),
      )}
      {p.step !== null && f.far / p.step <= MAX_STEPS && (
        <path
          d={Array.from({ length: Math.floor(f.far / p.step) + 1 }, (_, i) => `M${p.x((i + 0.5) * p.step!).toFixed(1)} ${height}v-6`).join(
            "",
          )}
          className="stroke-base-content/60"
          strokeWidth="1"
          data-testid="steps"
        >
          <title>Density samples of the stepping estimator.</title>
        </path>
      )}
      {shown.map((g, i) => (
        <text
          key={g.name}
          x={p.width - 6}
          y={13 + 13 * i}
          textAnchor="end"
          fontSize="11"
          fill={lightColour(g.name, i)}
          className="figures stroke-base-200"
          strokeOpacity=".85"
          strokeWidth="4"
          paintOrder="stroke"
        >
          {g.name} {formatNumber((100 * g.total) / total, 2)} %
        </text>
      ))}
    </g>
  );
}
