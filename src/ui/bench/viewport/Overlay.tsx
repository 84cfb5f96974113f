/** Outlines over the picture: what was measured, a person to compare with, what is chosen. They never hide the scene. */
import { seenPin } from "#core/air/pins";
import { cornersOf } from "#core/math/box";
import { type V3, sub } from "#core/math/vectors";
import type { SceneDocument } from "#core/document/schema";
import { projectPoint } from "#core/scene/pick";
import { useSession, useView } from "../model/context";
import { isPointTool } from "../model/point-tools";
import { FIGURE, PERSON } from "../drawings/SizeDrawing";
import { useLengths } from "../../shared/units";

export function Overlay({ doc, box }: { doc: SceneDocument; box: [number, number] }) {
  const lengths = useLengths();
  const { measured, person, chosen, front, open, lights, below, at: point, tool, shineFrom, gaps } = useView((s) => s);
  const bounds = useSession((s) => (chosen && chosen.part === null ? (s.objectBounds[chosen.object] ?? null) : null));
  if (front !== "live") return null;
  const at = (p: Readonly<V3>): [number, number] | null => {
    const q = projectPoint(doc, p);
    return q && [q.x * box[0], q.y * box[1]];
  };
  const corners = bounds && cornersOf(bounds).map(at);
  const edges = corners ? corners.flatMap((a, i) => [1, 2, 4].flatMap((bit) => (i & bit ? [] : [[a, corners[i | bit]!] as const]))) : [];
  const ends = measured.map(at);
  // lights chosen in the sheet or the table, where they stand in the frame
  const shownLights =
    open === "lights" || below === "lights" ? lights.flatMap((i) => (typeof i === "number" && doc.lights[i] ? [doc.lights[i]] : [])) : [];
  const [from, to] = measured;
  const length = from && to ? Math.hypot(...sub(from, to)) : null;
  const foot = person && at(person);
  const opening = shineFrom && at(shineFrom);
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
            {lengths.exact(length, 3)}
          </text>
        </>
      )}
      {(below === "section" || isPointTool(tool)) && (
        <g className="fill-none stroke-primary" strokeWidth="1.2" transform={`translate(${point.x * box[0]} ${point.y * box[1]})`}>
          <path d="M0 -12V-4M0 4V12" />
          <circle r="4" />
          <path d={`M0 ${-point.y * box[1]}V-14M0 14V${(1 - point.y) * box[1]}`} className="stroke-primary/25" strokeDasharray="1 5" />
        </g>
      )}
      {open === "air" &&
        doc.pins.map((pin, i) => {
          const p = seenPin(doc, pin);
          return (
            p && (
              <g key={i} transform={`translate(${p.x * box[0]} ${p.y * box[1]})`} data-pin={i}>
                <path d="M0 0L-5 -13A6.5 6.5 0 1 1 5 -13Z" className="fill-base-200/70 stroke-primary" strokeWidth="1.3" />
                <text y="-13" textAnchor="middle" fontSize="9" className="figures fill-primary">
                  {i + 1}
                </text>
                <text
                  x="9"
                  y="-12"
                  fontSize="12"
                  className="figures fill-primary"
                  stroke="#000"
                  strokeOpacity=".6"
                  strokeWidth="3"
                  paintOrder="stroke"
                >
                  {Math.round(100 * p.share)} %
                </text>
              </g>
            )
          );
        })}
      {shownLights.slice(0, MAX_MARKS).map((l, i) => (
        <LightMark
          key={i}
          name={shownLights.length === 1 ? l.name : ""}
          at={at(l.position)}
          aim={"target" in l ? at(l.target) : null}
          box={box}
        />
      ))}
      {gaps && (
        <g data-mark="gaps" className="stroke-warning" strokeWidth="2">
          {Array.from({ length: Math.min(MAX_GAPS, gaps.edges.length / 6) }, (_, i) => {
            const [x0, y0, z0, x1, y1, z1] = gaps.edges.slice(6 * i, 6 * i + 6) as [number, number, number, number, number, number];
            const [a, b] = [at([x0, y0, z0]), at([x1, y1, z1])];
            return a && b && <path key={i} d={`M${a}L${b}`} />;
          })}
        </g>
      )}
      {opening && (
        <g className="fill-none stroke-primary" strokeWidth="1.5" transform={`translate(${opening})`} data-mark="opening">
          <circle r="7" />
          <path d="M0 -13V-9M0 9V13M-13 0H-9M9 0H13M-9.2 -9.2L-6.4 -6.4M6.4 6.4L9.2 9.2M-9.2 9.2L-6.4 6.4M6.4 -6.4L9.2 -9.2" />
        </g>
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

/** Open edges drawn at most. */
const MAX_GAPS = 2000;
/** Marks drawn at most. */
const MAX_MARKS = 300;

/** A light in the frame: a ring, and a line towards where it is aimed. Out of the frame it is marked at the border. */
function LightMark({
  name,
  at,
  aim,
  box,
}: {
  name: string;
  at: [number, number] | null;
  aim: [number, number] | null;
  box: [number, number];
}) {
  if (!at) return null;
  const inside = at[0] >= 0 && at[1] >= 0 && at[0] <= box[0] && at[1] <= box[1];
  const x = Math.max(8, Math.min(box[0] - 8, at[0])),
    y = Math.max(8, Math.min(box[1] - 8, at[1]));
  return (
    <g data-mark={name || undefined}>
      {inside && aim && <path d={`M${at}L${aim}`} className="stroke-primary/50" strokeWidth="1" strokeDasharray="2 4" />}
      <circle cx={x} cy={y} r={inside ? 6 : 3} className={inside ? "fill-none stroke-primary" : "fill-primary"} strokeWidth="1.5" />
      {name && (
        <text
          x={x > box[0] * 0.7 ? x - 10 : x + 10}
          y={y < 20 ? y + 14 : y - 8}
          textAnchor={x > box[0] * 0.7 ? "end" : "start"}
          className="fill-primary"
          stroke="#000"
          strokeOpacity=".6"
          strokeWidth="3"
          paintOrder="stroke"
          fontSize="12"
        >
          {inside ? name : `${name}, out of frame`}
        </text>
      )}
    </g>
  );
}
