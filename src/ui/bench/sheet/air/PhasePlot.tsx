/** Polar picture of the phase function: light comes from the left; the lobe shows where it goes on to. */
import { useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { Choice } from "../../../shared/controls";
import { DECADES, lobeRadius, type LobeScale } from "./phase-plot";

export function PhasePlot({ phase }: { phase(cos: number): number }) {
  const [scale, setScale] = useState<LobeScale>("roots");
  const values = Array.from({ length: 61 }, (_, i) => phase(Math.cos((Math.PI * i) / 60)));
  const peak = Math.max(...values);
  const points = Array.from({ length: 121 }, (_, i) => {
    const a = (Math.PI * 2 * i) / 120;
    const r = 40 * lobeRadius(phase(Math.cos(a)), peak, scale);
    return `${(100 + r * Math.cos(a)).toFixed(2)},${(44 - r * Math.sin(a)).toFixed(2)}`;
  }).join(" ");
  const isotropic = 1 / (4 * Math.PI);
  const times = (cos: number): string => formatNumber(phase(cos) / isotropic, 3);
  const rings = scale === "decades" ? Array.from({ length: DECADES }, (_, k) => 1 - k / DECADES) : [];
  return (
    <figure
      className="flex flex-col gap-1"
      title={`How light that meets a particle goes on: the distance from the middle is the share of light in that direction (${scale === "roots" ? "cube root" : "a ring for each factor of ten below the strongest"}). The broken circle is even scattering.`}
    >
      <Choice<LobeScale>
        label="Plot scale"
        value={scale}
        options={[
          ["roots", "cube root"],
          ["decades", "logarithmic"],
        ]}
        tooltip="The cube root shows the shape of the lobe; the logarithmic scale shows its weakest directions: each ring is a tenth of the one outside it."
        onChange={setScale}
      />
      <div className="pl-[8.7rem]">
        <svg
          viewBox="36 0 128 88"
          className="h-24 w-full"
          role="img"
          aria-label={`Phase function: ${times(1)} times isotropic forward, ${times(0)} sideways, ${times(-1)} backward`}
        >
          <line x1="38" y1="44" x2="162" y2="44" stroke="oklch(0.4 0 0)" strokeWidth="0.6" />
          {rings.map((r) => (
            <circle key={r} cx="100" cy="44" r={40 * r} fill="none" stroke="oklch(0.35 0 0)" strokeWidth="0.5" />
          ))}
          <circle
            cx="100"
            cy="44"
            r={40 * lobeRadius(isotropic, peak, scale)}
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
              ["backward", -1],
              ["sideways", 0],
              ["forward", 1],
            ] as const
          ).map(([words, cos]) => (
            <span key={words}>
              {words}
              <br />×{times(cos)}
            </span>
          ))}
        </figcaption>
      </div>
    </figure>
  );
}
