/** Outlines over the picture: what was measured, a person to compare with, what is chosen. They never hide the scene. */
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { projectPoint } from "#core/scene/pick";
import { useSession, useView } from "./context";
import { FIGURE, PERSON } from "./incoming/SizeDrawing";

export function Overlay({ doc, box }: { doc: SceneDocument; box: [number, number] }) {
  const { measured, person, chosen, front } = useView((s) => s);
  const bounds = useSession((s) => (chosen && chosen.part === null ? (s.objectBounds[chosen.object] ?? null) : null));
  if (front !== "live") return null;
  const at = (p: readonly number[]): [number, number] | null => {
    const q = projectPoint(doc, p);
    return q && [q.x * box[0], q.y * box[1]];
  };
  const corners = bounds && [0, 1, 2, 3, 4, 5, 6, 7].map((i) => at([0, 1, 2].map((k) => bounds[k + ((i >> k) & 1 ? 3 : 0)]!)));
  const edges = corners ? corners.flatMap((a, i) => [1, 2, 4].flatMap((bit) => (i & bit ? [] : [[a, corners[i | bit]!] as const]))) : [];
  const ends = measured.map(at);
  const length = measured.length === 2 ? Math.hypot(...measured[0]!.map((v, k) => v - measured[1]![k]!)) : null;
  const foot = person && at(person);
  const head = person && at([person[0], person[1] + PERSON, person[2]]);
  return (
    <svg aria-hidden className="pointer-events-none absolute inset-0 h-full w-full" viewBox={`0 0 ${box[0]} ${box[1]}`}>
      {edges.map(
        ([a, b], i) => a && b && <path key={i} d={`M${a}L${b}`} className="stroke-primary/80" strokeWidth="1" strokeDasharray="3 3" />,
      )}
      {ends.map((p, i) => p && <circle key={i} cx={p[0]} cy={p[1]} r="3.5" className="fill-none stroke-primary" strokeWidth="1.5" />)}
      {length !== null && ends[0] && ends[1] && (
        <>
          <path d={`M${ends[0]}L${ends[1]}`} className="stroke-primary" strokeWidth="1.25" />
          <text
            x={(ends[0][0] + ends[1][0]) / 2 + 6}
            y={(ends[0][1] + ends[1][1]) / 2 - 6}
            className="figures fill-primary"
            stroke="#000"
            strokeOpacity=".6"
            strokeWidth="3"
            paintOrder="stroke"
            fontSize="13"
          >
            {formatNumber(length, 3)} m
          </text>
        </>
      )}
      {foot && head && (
        <path
          d={FIGURE}
          className="fill-primary/70"
          transform={`translate(${foot}) scale(${Math.hypot(foot[0] - head[0], foot[1] - head[1]) / PERSON} ${-Math.hypot(foot[0] - head[0], foot[1] - head[1]) / PERSON})`}
        />
      )}
    </svg>
  );
}
