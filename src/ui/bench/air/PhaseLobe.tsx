/** Polar picture of the phase function: light comes from the left; the lobe shows where it goes on to. */
import { formatNumber } from "#core/document/quantities";

export function PhaseLobe({ phase }: { phase(cos: number): number }) {
  const peak = Math.max(phase(1), phase(-1), phase(0));
  // radius by the cube root, so that side light stays visible beside a strong peak
  const points = Array.from({ length: 121 }, (_, i) => {
    const a = (Math.PI * 2 * i) / 120;
    const r = 40 * Math.cbrt(phase(Math.cos(a)) / peak);
    return `${(100 + r * Math.cos(a)).toFixed(2)},${(44 - r * Math.sin(a)).toFixed(2)}`;
  }).join(" ");
  const isotropic = 1 / (4 * Math.PI);
  const times = (cos: number): string => formatNumber(phase(cos) / isotropic, 3);
  return (
    <figure
      className="pl-[7.7rem]"
      title="How light that meets a particle goes on: the distance from the middle is the share of light in that direction (cube root)."
    >
      <svg
        viewBox="36 0 128 88"
        className="h-24 w-full"
        role="img"
        aria-label={`Phase function: ${times(1)} times isotropic forward, ${times(0)} sideways, ${times(-1)} backward`}
      >
        <line x1="38" y1="44" x2="162" y2="44" stroke="oklch(0.4 0 0)" strokeWidth="0.6" />
        <circle
          cx="100"
          cy="44"
          r={40 * Math.cbrt(isotropic / peak)}
          fill="none"
          stroke="oklch(0.5 0 0)"
          strokeWidth="0.6"
          strokeDasharray="2 2"
        />
        <path d="M38 44h16m-4-2.5 4 2.5-4 2.5" fill="none" stroke="oklch(0.75 0 0)" strokeWidth="0.8" />
        <polygon points={points} fill="oklch(0.8 0.085 178 / 0.22)" stroke="oklch(0.8 0.085 178)" strokeWidth="1" />
      </svg>
      <figcaption className="figures grid grid-cols-3 text-center text-xs leading-tight quiet">
        {(
          [
            ["back", -1],
            ["sideways", 0],
            ["onward", 1],
          ] as const
        ).map(([words, cos]) => (
          <span key={words}>
            {words}
            <br />×{times(cos)}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
