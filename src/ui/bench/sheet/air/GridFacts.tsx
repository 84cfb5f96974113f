/** What a channel of a volume file holds: how far it spans, voxels, values. */
import { formatNumber, lengthText } from "#core/document/quantities";
import type { VolumeContent } from "../../model/scene-worker";
import { Readout } from "../../../shared/controls";

export function GridFacts({ grid: g, scale }: { grid: VolumeContent["grids"][number]; scale: number }) {
  const size = [0, 1, 2].map((k) => lengthText((g.bounds[k + 3]! - g.bounds[k]!) * scale)).join(" × ");
  const top = Math.max(...g.histogram, 1);
  return (
    <>
      <Readout label="Extent">
        <span className="figures text-xs quiet">{size}</span>
      </Readout>
      <Readout label="Voxels">
        <span className="figures text-xs quiet">
          {g.voxels.toLocaleString("en")} of {lengthText(g.voxelSize[0] * scale)}
          {g.kind ? `, ${g.kind}` : ""}
        </span>
      </Readout>
      <Readout label="Values">
        <span className="block">
          <svg
            viewBox={`0 0 ${g.histogram.length * 4} 26`}
            preserveAspectRatio="none"
            className="h-7 w-full"
            role="img"
            aria-label={`Values of ${g.name}, from ${formatNumber(g.min, 3)} to ${formatNumber(g.max, 3)}`}
          >
            {g.histogram.map((n, i) => (
              // roots, so that rare values are seen
              <rect
                key={i}
                x={4 * i}
                width="3"
                y={26 - 26 * Math.sqrt(n / top)}
                height={26 * Math.sqrt(n / top)}
                className="fill-base-content/50"
              />
            ))}
          </svg>
          <span className="figures flex justify-between text-xs quiet">
            <span>{formatNumber(g.min, 3)}</span>
            <span>{formatNumber(g.max, 3)}</span>
          </span>
        </span>
      </Readout>
    </>
  );
}
