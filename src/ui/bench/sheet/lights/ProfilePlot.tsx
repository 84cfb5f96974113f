/** A photometric profile as a polar drawing with absolute candela, and its lumens against what its file says. */
import { useEffect, useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { useBench, useDocument } from "../../model/context";
import { Readout } from "../../../shared/controls";

/** Angles around the axis a grid has (scene/layout LP_COLUMNS). */
const COLUMNS = 360;
const R = 84;

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
  if (!shown) return null;
  const most = shown.grid.reduce((a, v) => Math.max(a, v), 0);
  /** Half planes `phi` and the one across from it, from straight down round. */
  const curve = (phi: number): string => {
    const points: string[] = [];
    for (let i = -180; i <= 180; i += 2) {
      const v = shown.grid[Math.abs(i) * COLUMNS + ((i < 0 ? phi + 180 : phi) % 360)]! / Math.max(most, 1e-9);
      const a = (i * Math.PI) / 180;
      points.push(`${(R * v * Math.sin(a)).toFixed(1)} ${(R * v * Math.cos(a)).toFixed(1)}`);
    }
    return `M${points.join("L")}`;
  };
  return (
    <>
      <svg
        viewBox={`${-R - 14} ${-R - 8} ${2 * R + 28} ${2 * R + 22}`}
        className="w-full"
        role="img"
        aria-label={`Candela by angle, at most ${formatNumber(most * scale, 3)}`}
      >
        {[0.25, 0.5, 0.75, 1].map((k) => (
          <circle key={k} r={R * k} className="fill-none stroke-base-content/15" />
        ))}
        <path d={`M0 ${-R}V${R}M${-R} 0H${R}`} className="stroke-base-content/15" />
        <path d={curve(90)} className="fill-none stroke-base-content/50" strokeWidth="1.2" strokeDasharray="4 3" />
        <path d={curve(0)} className="fill-none stroke-primary" strokeWidth="1.6" />
        <text x={3} y={R + 10} fontSize="9" className="figures fill-base-content/70">
          {formatNumber(most * scale, 3)} cd
        </text>
        <text x={3} y={R / 2 + 9} fontSize="9" className="figures fill-base-content/50">
          {formatNumber((most * scale) / 2, 3)}
        </text>
      </svg>
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
