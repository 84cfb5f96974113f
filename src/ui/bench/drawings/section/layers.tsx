/** What lies in the drawing of a section and cannot be dragged: the air, lines of equal density, the set, the sun, rulers. */
import { contextOf } from "../../../shared/canvas";
import { contours } from "d3-contour";
import { useEffect, useMemo, useRef } from "react";
import { formatNumber } from "#core/document/quantities";
import { add, sunDirection } from "#core/math/vectors";
import type { Section } from "#core/section/probe";
import { placeIn, type Place } from "#core/section/region";
import { useDocument } from "../../model/context";
import { paintSection } from "./paint";
import { stretchedTicks, ticks } from "./ruler";

/** The air as a picture. */
export function Air({ section, width, height, left, top }: { section: Section; width: number; height: number; left: number; top: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current!;
    const [w, h] = [Math.max(1, Math.round(width / 2)), Math.max(1, Math.round(height / 2))];
    c.width = w;
    c.height = h;
    const image = new ImageData(w, h);
    paintSection(section, w, h, image);
    contextOf(c).putImageData(image, 0, 0);
    c.dataset.drawn = String(Number(c.dataset.drawn ?? 0) + 1);
  }, [section, width, height]);
  return <canvas ref={canvas} role="img" aria-label="Section of the air" className="absolute" style={{ left: left, top, width, height }} />;
}

/** Lines of equal density, as shares of the densest air in the drawing. */
const SHARES = [0.5, 0.1, 0.02];

export function Contours({ section: s, width, height }: { section: Section; width: number; height: number }) {
  const lines = useMemo(() => {
    if (!(s.densest > 0)) return [];
    const values = Array.from({ length: s.columns * s.rows }, (_, i) => s.field[4 * i + 3]!);
    const make = contours().size([s.columns, s.rows]);
    const [kx, ky] = [width / s.columns, height / s.rows];
    return SHARES.map((share) => {
      let d = "";
      let label: Place | null = null;
      for (const polygon of make.contour(values, share * s.densest).coordinates)
        for (const ring of polygon) {
          let before: Place | null = null;
          for (const [x = 0, y = 0] of ring) {
            // the frame of the drawing is no line of equal density
            const edge = (a: Place): boolean => a[0] <= 0 || a[1] <= 0 || a[0] >= s.columns || a[1] >= s.rows;
            const q: Place = [x, y];
            const along = before && edge(before) && edge(q);
            d += `${before && !along ? "L" : "M"}${(x * kx).toFixed(1)} ${(height - y * ky).toFixed(1)}`;
            if (!edge(q) && (!label || x > label[0])) label = q;
            before = q;
          }
        }
      return { share, d, label: label && ([label[0] * kx, height - label[1] * ky] satisfies Place) };
    });
  }, [s, width, height]);
  return lines.map(({ share, d, label }) => (
    <g key={share} className="pointer-events-none">
      <path d={d} className="fill-none stroke-base-content/25" strokeWidth="1" />
      {label && (
        <text x={Math.min(label[0], width - 4)} y={label[1] - 3} textAnchor="end" fontSize="10" className="figures fill-base-content/55">
          {100 * share} %
        </text>
      )}
    </g>
  ));
}

/** The set where the plane cuts it. */
export function Cut({ section: s, x, y }: { section: Section; x(d: number): number; y(t: number): number }) {
  const d = useMemo(() => {
    let out = "";
    const c = s.cut;
    for (let i = 0; i < c.length; i += 4)
      out += `M${x(c[i]!).toFixed(1)} ${y(c[i + 1]!).toFixed(1)}L${x(c[i + 2]!).toFixed(1)} ${y(c[i + 3]!).toFixed(1)}`;
    return out;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- x and y follow the section and the size
  }, [s, x(s.window[2]), y(s.window[1])]);
  return <path d={d} className="pointer-events-none fill-none stroke-[#cfc6b4]" strokeWidth="1" data-testid="cut" />;
}

/** Which way the sun stands in the drawing. */
export function SunArrow({ section: s, width }: { section: Section; width: number }) {
  const doc = useDocument();
  if (!doc.sun.on) return null;
  const d = sunDirection(doc.sun.azimuth, doc.sun.elevation);
  const { at } = placeIn(s.frame, s.plane.kind === "upright" ? s.plane : { kind: "level", height: 0 }, add(s.frame.origin, d)); // prettier-ignore
  const [dx, dy] = s.plane.kind === "upright" ? [at[0], s.frame.origin[1] - at[1]] : [at[0], -at[1]];
  const l = Math.hypot(dx, dy);
  const aside = Math.sqrt(Math.max(0, 1 - l * l));
  const [cx, cy] = [width - 30, 30];
  return (
    <g className="pointer-events-none" transform={`translate(${cx} ${cy})`}>
      <title>{`The sun stands ${Math.round((Math.asin(aside) * 180) / Math.PI)}° off this plane`}</title>
      <circle r="19" className="fill-base-200/60 stroke-base-content/20" />
      {l > 0.05 && <path d={`M${-dx * 16} ${-dy * 16}L${dx * 16} ${dy * 16}`} className="stroke-warning" strokeWidth="1.4" />}
      <circle cx={dx * 16} cy={dy * 16} r="3.4" className="fill-warning" />
    </g>
  );
}

export function Rulers(p: {
  section: Section;
  width: number;
  height: number;
  x(d: number): number;
  y(t: number): number;
  share(d: number): number;
}) {
  const [s0, t0, s1, t1] = p.section.window;
  const distances = p.section.scale === "even" ? ticks(s0, s1, p.width / 80) : stretchedTicks(s0, s1, p.share, 46 / p.width);
  return (
    <g className="pointer-events-none" fontSize="11">
      <path d={`M0 ${p.height + 0.5}H${p.width}M-0.5 0V${p.height}`} className="stroke-base-content/40" />
      {distances.map((v) => (
        <g key={v}>
          <path d={`M${p.x(v)} ${p.height}v4`} className="stroke-base-content/50" />
          <text
            x={Math.max(0, Math.min(p.width - 4, p.x(v)))}
            y={p.height + 14}
            textAnchor={p.x(v) > p.width - 30 ? "end" : "middle"}
            className="figures fill-base-content/75"
          >
            {formatNumber(v, 4)}
            {v === distances.at(-1) ? " m" : ""}
          </text>
        </g>
      ))}
      {ticks(t0, t1, p.height / 34).map((v) => (
        <g key={v}>
          <path d={`M-4 ${p.y(v)}h4`} className="stroke-base-content/50" />
          <text x="-7" y={p.y(v) + 4} textAnchor="end" className="figures fill-base-content/75">
            {formatNumber(v, 4)}
          </text>
        </g>
      ))}
    </g>
  );
}
