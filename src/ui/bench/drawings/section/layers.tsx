/**
 * What lies in the drawing of a section and cannot be dragged: the air, lines of equal density, the set, the sun, rulers.
 * Long paths are made again only for another section, not for every edit.
 */
import { contextOf } from "../../../shared/canvas";
import { memo, useEffect, useRef } from "react";
import { formatNumber } from "#core/document/quantities";
import { add, sunDirection } from "#core/math/vectors";
import type { Section } from "#core/section/probe";
import { placeIn } from "#core/section/region";
import type { DrawnSection } from "../../model/section-paint";
import { useScene } from "../../model/context";
import { apart } from "./labels";
import { stretchedTicks, ticks } from "./ruler";
import { useLengths } from "../../../shared/units";

interface LayerProps {
  section: DrawnSection;
  width: number;
  height: number;
}

/** The air as a picture. */
export const Air = memo(function Air({ section, width, height, left, top }: LayerProps & { left: number; top: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current!;
    const { pixels, ...size } = section.picture;
    c.width = size.width;
    c.height = size.height;
    contextOf(c).putImageData(new ImageData(pixels, size.width, size.height), 0, 0);
    c.dataset.drawn = String(Number(c.dataset.drawn ?? 0) + 1);
  }, [section]);
  return <canvas ref={canvas} role="img" aria-label="Section of the air" className="absolute" style={{ left: left, top, width, height }} />;
});

/** Lines of equal density. */
export const Contours = memo(function Contours({ section: s, width, height }: LayerProps) {
  const [kx, ky] = [width / s.columns, height / s.rows];
  const places = s.contours.map(({ label }) => label && ([Math.min(label[0] * kx, width - 4), height - label[1] * ky - 3] as const));
  const stands = apart(places);
  return s.contours.map(({ share, path }, i) => (
    <g key={share} className="pointer-events-none">
      <path
        d={path}
        transform={`translate(0 ${height}) scale(${kx} ${-ky})`}
        vectorEffect="non-scaling-stroke"
        className="fill-none stroke-base-content/25"
        strokeWidth="1"
      />
      {stands[i] && (
        <text x={places[i]![0]} y={places[i]![1]} textAnchor="end" fontSize="10" className="figures fill-base-content/55">
          {100 * share} %
        </text>
      )}
    </g>
  ));
});

/** The set where the plane cuts it. */
export const Cut = memo(function Cut({ section: s, width, height }: LayerProps) {
  return (
    <path
      d={s.cutPath}
      transform={`scale(${width} ${height})`}
      vectorEffect="non-scaling-stroke"
      className="pointer-events-none fill-none stroke-[#cfc6b4]"
      strokeWidth="1"
      data-testid="cut"
    />
  );
});

/** Which way the sun stands in the drawing. */
export function SunArrow({ section: s, width }: { section: Section; width: number }) {
  const doc = useScene();
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
  const { unit, size } = useLengths();
  // round in the unit that is read
  const round = (of: number[]): number[] => of.map((v) => v * size);
  const distances = round(
    p.section.scale === "even"
      ? ticks(s0 / size, s1 / size, p.width / 80)
      : stretchedTicks(s0 / size, s1 / size, (v) => p.share(v * size), 46 / p.width),
  );
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
            {formatNumber(v / size, 4)}
            {v === distances.at(-1) ? ` ${unit}` : ""}
          </text>
        </g>
      ))}
      {round(ticks(t0 / size, t1 / size, p.height / 34)).map((v) => (
        <g key={v}>
          <path d={`M-4 ${p.y(v)}h4`} className="stroke-base-content/50" />
          <text x="-7" y={p.y(v) + 4} textAnchor="end" className="figures fill-base-content/75">
            {formatNumber(v / size, 4)}
          </text>
        </g>
      ))}
    </g>
  );
}
