/** The Section: an upright cut along the line of sight, with the fate of light above it on the same distances. */
import { contours } from "d3-contour";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { useStore } from "zustand";
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { automaticStep } from "#core/optics/medium";
import { sunDirection } from "#core/scene/directions";
import type { Section, Window } from "#core/section/probe";
import { placeIn, regionCut, type Place, type Plane } from "#core/section/region";
import { along } from "#core/section/scale";
import { useBench, useDocument, useView } from "../context";
import { FateChart, fateAt } from "./FateChart";
import { marksOf, type Mark } from "./marks";
import { paintSection } from "./paint";
import { stretchedTicks, ticks } from "./ruler";

/** Room for heights at the left, for distances below, and at the right. */
const [LEFT, BELOW, RIGHT] = [46, 17, 10];
const HEAD = 27;

export default function SectionView() {
  const { session } = useBench();
  const doc = useDocument();
  const { at, cut, scale, cutHeight } = useView((s) => s);
  const state = useStore(session.section.state);
  const room = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<[number, number]>([0, 0]);
  /** Null: what the ray passes. */
  const [window_, setWindow] = useState<Window | null>(null);
  const [held, setHeld] = useState<Window | null>(null);

  useEffect(() => {
    const element = room.current!;
    const observer = new ResizeObserver(() => setSize([element.clientWidth, element.clientHeight]));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const [width, height] = [size[0] - LEFT - RIGHT, size[1]];
  const fateHeight = Math.max(56, Math.round(height * 0.32));
  const drawn = height - fateHeight - BELOW;

  // the cut from above lies at the lens's height unless moved
  const plane: Plane = cut === "upright" ? { kind: "upright" } : { kind: "level", height: cutHeight ?? doc.camera.position[1] };
  const planeKey = JSON.stringify(plane);
  const shownWindow = held ?? window_;
  const asked = JSON.stringify([at, planeKey, scale, shownWindow, width, drawn]);
  useEffect(() => {
    if (width < 60 || drawn < 30) return;
    session.section.ask(doc, {
      x: at.x,
      y: at.y,
      plane,
      scale,
      window: shownWindow,
      columns: Math.max(40, Math.min(280, Math.round(width / 3))),
      rows: Math.max(20, Math.min(110, Math.round(drawn / 3))),
    });
    // the key holds what else the request depends on
  }, [doc, asked, session]);
  // another ray or plane is looked at as a whole
  useEffect(() => setWindow(null), [at, planeKey]);

  const section = state.section && JSON.stringify(state.section.plane) === planeKey && state.section.scale === scale ? state.section : null;
  return (
    <section aria-label="Section" className="flex h-[44%] min-h-56 shrink-0 flex-col border-t hair bg-base-200">
      <SectionHead
        section={section}
        fits={window_ === null}
        fit={() => setWindow(null)}
        milliseconds={state.section?.milliseconds ?? null}
      />
      <div
        ref={room}
        className="relative min-h-0 flex-1 overflow-hidden select-none"
        data-testid="section"
        data-ready={section ? "yes" : ""}
        data-lit={section?.lit ? "yes" : ""}
      >
        {state.problem && (
          <p role="alert" className="absolute inset-0 flex items-center justify-center p-4 text-sm text-error">
            The section cannot be drawn: {state.problem}
          </p>
        )}
        {!section && !state.problem && (
          <p role="status" className="absolute inset-0 flex items-center justify-center text-sm quiet">
            Cutting …
          </p>
        )}
        {section && width > 60 && drawn > 30 && (
          <Drawing section={section} width={width} fateHeight={fateHeight} height={drawn} hold={setHeld} move={setWindow} />
        )}
      </div>
    </section>
  );
}

function SectionHead(p: { section: Section | null; fits: boolean; fit(): void; milliseconds: number | null }) {
  const { view } = useBench();
  const doc = useDocument();
  const { cut, scale, cutHeight } = useView((s) => s);
  const total = p.section?.fate.gains.reduce((a, g) => a + g.total, 0) ?? 0;
  const end = p.section?.fate.end;
  const toggle = (words: string, on: boolean, title: string, onClick: () => void) => (
    <button className={`btn btn-xs ${on ? "btn-outline hair" : "btn-ghost quiet"}`} aria-pressed={on} title={title} onClick={onClick}>
      {words}
    </button>
  );
  return (
    <div className="flex shrink-0 items-center gap-1 overflow-hidden px-3 text-xs whitespace-nowrap" style={{ height: HEAD }}>
      <h2 className="mr-1 text-sm font-semibold">Section</h2>
      {toggle("from the side", cut === "upright", "The upright cut along the line of sight.", () => view.setState({ cut: "upright" }))}
      {toggle("from above", cut === "level", "A level cut, as a plan.", () => view.setState({ cut: "level" }))}
      {cut === "level" && (
        <label className="flex items-center gap-1 quiet" title="Height of the level cut; empty, that of the lens.">
          at
          <input
            type="number"
            step="any"
            aria-label="Height of the cut"
            className="input input-xs figures w-18 px-1"
            placeholder={formatNumber(doc.camera.position[1], 3)}
            value={cutHeight ?? ""}
            onChange={(e) => {
              const v = e.target.value === "" ? null : Number(e.target.value);
              if (v === null || (Number.isFinite(v) && Math.abs(v) < 1e6)) view.setState({ cutHeight: v });
            }}
          />
          m
        </label>
      )}
      <span className="mx-1 h-4 border-l hair" />
      {toggle("stretched", scale === "stretched", "Distances ever closer together, so that near and far are both seen.", () =>
        view.setState({ scale: scale === "even" ? "stretched" : "even" }),
      )}
      <button className="btn btn-xs btn-ghost quiet" disabled={p.fits} title="All that the ray passes. Double click." onClick={p.fit}>
        Whole way
      </button>
      {p.section && (
        <span
          className="figures ml-3 truncate quiet"
          title="Where the ray ends, and the light that air adds to it on its way, scattered once."
        >
          {end === null || end === undefined ? "to the background" : `to what stands ${formatNumber(end, 3)} m away`}
          {doc.air.length > 0 && `, air adds ${formatNumber(total, 3)} cd/m²`}
        </span>
      )}
      <span className="figures ml-auto w-14 text-right quiet" title="What it took to compute this section.">
        {p.milliseconds !== null ? `${Math.round(p.milliseconds)} ms` : ""}
      </span>
      <button className="btn btn-xs btn-ghost" title="Closes the section. A" onClick={() => view.setState({ section: false })}>
        Close
      </button>
    </div>
  );
}

/** Step through air that has no closed form, m; null where all has one, or is tracked. */
function stepOf(doc: SceneDocument): number | null {
  if (doc.render.estimator !== "stepping") return null;
  const broken = doc.air.filter((m) => m.on && m.breakUp);
  if (broken.length === 0) return null;
  return doc.render.stepSize === "auto" ? Math.min(...broken.map((m) => automaticStep(m))) : doc.render.stepSize;
}

const inside = (v: number, size: number): number => Math.max(7, Math.min(size - 7, v));

interface DrawingProps {
  section: Section;
  width: number;
  height: number;
  fateHeight: number;
  /** Keeps the drawing still while something in it is dragged. */
  hold(w: Window | null): void;
  move(w: Window | null): void;
}

function Drawing(p: DrawingProps) {
  const { section: s, width, height, fateHeight } = p;
  const { store, view } = useBench();
  const doc = useDocument();
  const { lights, medium: opened } = useView((v) => v);
  // as the sheet: the last one where the opened one is gone
  const medium = Math.min(opened, doc.air.length - 1);
  const [pointer, setPointer] = useState<Place | null>(null);
  const [s0, t0, s1, t1] = s.window;
  const scale = useMemo(() => along(s0, s1, s.scale), [s0, s1, s.scale]);
  const X = (d: number): number => scale.share(d) * width;
  const Y = (t: number): number => ((t1 - t) / (t1 - t0)) * height;
  /** Where along the drawing a distance of the ray lies; a steep ray has an axis of its own. */
  const level = s.frame.level || (s1 - Math.max(0, s0)) / Math.max(s.far, 1e-9) / 1.06;
  const rayX = (t: number): number => X(t * level);
  const top = fateHeight;

  const svg = useRef<SVGSVGElement>(null);
  const placeOf = (e: { clientX: number; clientY: number }): Place => {
    const r = svg.current!.getBoundingClientRect();
    return [scale.distance((e.clientX - r.left - LEFT) / width), t1 - ((e.clientY - r.top - top) / height) * (t1 - t0)];
  };

  // zoom by the wheel (not passive, or the page would scroll), pan by dragging the ground
  const zoom = useRef<(e: WheelEvent) => void>(() => undefined);
  zoom.current = (e) => {
    e.preventDefault();
    const f = Math.exp(Math.max(-1, Math.min(1, e.deltaY * 0.0015)));
    const [d, t] = placeOf(e);
    if (s.scale === "stretched") {
      p.move([s0 * f, t - (t - t0) * f, s1 * f, t + (t1 - t) * f]);
      return;
    }
    const next: Window = [d - (d - s0) * f, t - (t - t0) * f, d + (s1 - d) * f, t + (t1 - t) * f];
    if (next[2] - next[0] > 0.02 && next[2] - next[0] < 1e6) p.move(next);
  };
  useEffect(() => {
    const element = svg.current!;
    const wheel = (e: WheelEvent): void => zoom.current(e);
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, []);
  const pan = useRef<{ x: number; y: number; from: Window } | null>(null);
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    pan.current = { x: e.clientX, y: e.clientY, from: s.window };
  };
  const moved = (e: PointerEvent): void => {
    setPointer(placeOf(e));
    const d = pan.current;
    if (!d || Math.hypot(e.clientX - d.x, e.clientY - d.y) < 3 || s.scale === "stretched") return;
    const [a, b, c, q] = d.from;
    const [ds, dt] = [(-(e.clientX - d.x) * (c - a)) / width, ((e.clientY - d.y) * (q - b)) / height];
    p.move([a + ds, b + dt, c + ds, q + dt]);
  };

  const marks = marksOf({ doc, frame: s.frame, plane: s.plane, medium, lights });
  const across = s1 - s0;
  const outlines = doc.air.map((m) => regionCut(s.frame, s.plane, m.region));
  const path = (points: readonly Place[]): string =>
    points.map((q, i) => `${i ? "L" : "M"}${X(q[0]).toFixed(1)} ${Y(q[1]).toFixed(1)}`).join("");
  const chosen = doc.air[medium];
  const fade = chosen?.start ? [chosen.start.distance, chosen.start.distance + chosen.start.fade] : [];

  const origin: Place = s.plane.kind === "upright" ? [0, s.frame.origin[1]] : [0, 0];
  const end: Place =
    s.plane.kind === "upright" ? [s.far * s.frame.level, s.frame.origin[1] + s.far * s.frame.direction[1]] : [s.far * s.frame.level, 0];
  const ray: Place[] = Array.from({ length: 33 }, (_, i) => [
    origin[0] + ((end[0] - origin[0]) * i) / 32,
    origin[1] + ((end[1] - origin[1]) * i) / 32,
  ]);
  const known = pointer && s.frame.level > 0 ? fateAt(s.fate, pointer[0] / s.frame.level) : null;

  return (
    <>
      <Air section={s} width={width} height={height} top={top} />
      <svg
        ref={svg}
        className="absolute inset-0 h-full w-full touch-none"
        onPointerDown={down}
        onPointerMove={moved}
        onPointerUp={() => (pan.current = null)}
        onPointerCancel={() => (pan.current = null)}
        onPointerLeave={() => setPointer(null)}
        onDoubleClick={() => p.move(null)}
      >
        <clipPath id="section-fate">
          <rect width={width} height={fateHeight} />
        </clipPath>
        <clipPath id="section-air">
          <rect width={width} height={height} />
        </clipPath>
        <g transform={`translate(${LEFT} 0)`} clipPath="url(#section-fate)">
          <FateChart fate={s.fate} width={width} height={fateHeight} step={stepOf(doc)} x={rayX} />
        </g>
        <g transform={`translate(${LEFT} ${top})`}>
          <g clipPath="url(#section-air)">
            <Contours section={s} width={width} height={height} />
            <Cut section={s} x={X} y={Y} />
            {outlines.map(
              (points, i) =>
                points.length > 2 && (
                  <path
                    key={i}
                    d={`${path(points)}Z`}
                    fill="transparent"
                    className={i === medium ? "stroke-primary/70" : "stroke-base-content/30"}
                    strokeWidth="1"
                    strokeDasharray={i === medium ? undefined : "3 3"}
                    pointerEvents={i === medium ? "none" : "stroke"}
                    onPointerDown={(e) => {
                      e.stopPropagation();
                      view.setState({ medium: i, open: "air" });
                    }}
                  />
                ),
            )}
            {fade.map((r, i) => (
              <path
                key={i}
                d={path(
                  Array.from({ length: 49 }, (_, k): Place => {
                    const a = (Math.PI * (k - 24)) / 48;
                    return [r * Math.cos(a), origin[1] + r * Math.sin(a)];
                  }),
                )}
                className="fill-none stroke-primary/60"
                strokeDasharray={i ? "2 4" : undefined}
              />
            ))}
            <path d={path(ray)} className="fill-none stroke-base-content/80" strokeWidth="1" strokeDasharray="5 3" />
            <circle cx={X(origin[0])} cy={Y(origin[1])} r="4" className="fill-base-content" />
            {s.fate.end !== null && (
              <circle cx={X(end[0])} cy={Y(end[1])} r="3" className="fill-none stroke-base-content" strokeWidth="1.4" />
            )}
            <SunArrow section={s} width={width} />
            {marks.map((m) => (
              <Handle
                key={m.key}
                mark={m}
                // what lies past the drawing waits at its edge
                x={m.shape === "lamp" || m.shape === "aim" ? X(m.at[0]) : inside(X(m.at[0]), width)}
                y={m.shape === "lamp" || m.shape === "aim" ? Y(m.at[1]) : inside(Y(m.at[1]), height)}
                width={width}
                faint={Math.abs(m.away) > 0.06 * across}
                placeOf={placeOf}
                step={[across / 100, (t1 - t0) / 100]}
                onChoose={() => {
                  const light = /^position (\d+)/.exec(m.key);
                  if (light) view.setState({ lights: [Number(light[1])], open: "lights" });
                }}
                onGesture={(active) => {
                  store.gesture(active);
                  p.hold(active ? s.window : null);
                }}
                onMove={(to) => store.getState().set((d) => m.move(d, to))}
              />
            ))}
          </g>
          <Rulers section={s} width={width} height={height} x={X} y={Y} share={scale.share} />
        </g>
        {pointer && pointer[0] >= s0 && pointer[0] <= s1 && (
          <path d={`M${LEFT + X(pointer[0])} 0V${top + height}`} className="pointer-events-none stroke-primary/50" />
        )}
      </svg>
      {pointer && (
        <p
          className="figures pointer-events-none absolute rounded-sm bg-base-200/80 px-1.5 text-xs"
          style={{ left: LEFT + 6, top: fateHeight - 19 }}
        >
          {formatNumber(pointer[0], 3)} m
          {s.plane.kind === "upright" ? ` away, ${formatNumber(pointer[1], 3)} m up` : ` away, ${formatNumber(pointer[1], 3)} m aside`}
          {known &&
            `: ${formatNumber(100 * known.survives, 2)} % survives, ${formatNumber(known.gained, 2)} cd/m² gained (${Math.round(100 * known.share)} %)`}
        </p>
      )}
    </>
  );
}

/** The air as a picture. */
function Air({ section, width, height, top }: { section: Section; width: number; height: number; top: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current!;
    const [w, h] = [Math.max(1, Math.round(width / 2)), Math.max(1, Math.round(height / 2))];
    c.width = w;
    c.height = h;
    const image = new ImageData(w, h);
    paintSection(section, w, h, image);
    c.getContext("2d")!.putImageData(image, 0, 0);
    c.dataset.drawn = String(Number(c.dataset.drawn ?? 0) + 1);
  }, [section, width, height]);
  return <canvas ref={canvas} role="img" aria-label="Section of the air" className="absolute" style={{ left: LEFT, top, width, height }} />;
}

/** Lines of equal density, as shares of the densest air in the drawing. */
const SHARES = [0.5, 0.1, 0.02];

function Contours({ section: s, width, height }: { section: Section; width: number; height: number }) {
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
          let before: number[] | null = null;
          for (const [x, y] of ring) {
            // the frame of the drawing is no line of equal density
            const edge = (a: number[]): boolean => a[0]! <= 0 || a[1]! <= 0 || a[0]! >= s.columns || a[1]! >= s.rows;
            const q = [x!, y!];
            const along = before && edge(before) && edge(q);
            d += `${before && !along ? "L" : "M"}${(x! * kx).toFixed(1)} ${(height - y! * ky).toFixed(1)}`;
            if (!edge(q) && (!label || x! > label[0])) label = [x!, y!];
            before = q;
          }
        }
      return { share, d, label: label && [label[0] * kx, height - label[1] * ky] };
    });
  }, [s, width, height]);
  return lines.map(({ share, d, label }) => (
    <g key={share} className="pointer-events-none">
      <path d={d} className="fill-none stroke-base-content/25" strokeWidth="1" />
      {label && (
        <text x={Math.min(label[0]!, width - 4)} y={label[1]! - 3} textAnchor="end" fontSize="10" className="figures fill-base-content/55">
          {100 * share} %
        </text>
      )}
    </g>
  ));
}

/** The set where the plane cuts it. */
function Cut({ section: s, x, y }: { section: Section; x(d: number): number; y(t: number): number }) {
  const d = useMemo(() => {
    let out = "";
    const c = s.cut;
    for (let i = 0; i < c.length; i += 4)
      out += `M${x(c[i]!).toFixed(1)} ${y(c[i + 1]!).toFixed(1)}L${x(c[i + 2]!).toFixed(1)} ${y(c[i + 3]!).toFixed(1)}`;
    return out;
    // x and y follow the section and the size
  }, [s, x(s.window[2]), y(s.window[1])]);
  return <path d={d} className="pointer-events-none fill-none stroke-[#cfc6b4]" strokeWidth="1" data-testid="cut" />;
}

/** Which way the sun stands in the drawing. */
function SunArrow({ section: s, width }: { section: Section; width: number }) {
  const doc = useDocument();
  if (!doc.sun.on) return null;
  const d = sunDirection(doc.sun.azimuth, doc.sun.elevation);
  const { at } = placeIn(s.frame, s.plane.kind === "upright" ? s.plane : { kind: "level", height: 0 }, s.frame.origin.map((o, k) => o + d[k]!)); // prettier-ignore
  const v = s.plane.kind === "upright" ? [at[0], at[1] - s.frame.origin[1]] : at;
  const [dx, dy] = [v[0]!, -v[1]!];
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

function Rulers(p: {
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

function Handle(p: {
  mark: Mark;
  x: number;
  y: number;
  width: number;
  faint: boolean;
  step: [number, number];
  placeOf(e: { clientX: number; clientY: number }): Place;
  onChoose(): void;
  onGesture(active: boolean): void;
  onMove(to: Place): void;
}) {
  const { mark: m } = p;
  const dragging = useRef<{ ds: number; dt: number } | null>(null);
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    const [s, t] = p.placeOf(e);
    dragging.current = { ds: m.at[0] - s, dt: m.at[1] - t };
    p.onChoose();
    p.onGesture(true);
  };
  const move = (e: PointerEvent): void => {
    const d = dragging.current;
    if (!d) return;
    e.stopPropagation();
    const [s, t] = p.placeOf(e);
    p.onMove([m.along === "t" ? m.at[0] : s + d.ds, m.along === "s" ? m.at[1] : t + d.dt]);
  };
  const up = (e: PointerEvent): void => {
    if (!dragging.current) return;
    e.stopPropagation();
    dragging.current = null;
    p.onGesture(false);
  };
  const key = (e: KeyboardEvent): void => {
    const k = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
    const by: Place | null =
      e.key === "ArrowLeft"
        ? [-k, 0]
        : e.key === "ArrowRight"
          ? [k, 0]
          : e.key === "ArrowUp"
            ? [0, k]
            : e.key === "ArrowDown"
              ? [0, -k]
              : null;
    if (!by || (m.along === "s" && by[0] === 0) || (m.along === "t" && by[1] === 0)) return;
    e.preventDefault();
    p.onMove([m.at[0] + by[0] * p.step[0], m.at[1] + by[1] * p.step[1]]);
  };
  const cursor = m.along === "s" ? "ew-resize" : m.along === "t" ? "ns-resize" : "move";
  const value = m.along === "s" ? m.at[0] : m.at[1];
  const common = {
    role: "slider",
    tabIndex: 0,
    "aria-label": m.name,
    "aria-valuenow": Number(value.toPrecision(4)),
    "aria-valuetext":
      m.along === "both" ? `${formatNumber(m.at[0], 3)} m away, ${formatNumber(m.at[1], 3)} m` : `${formatNumber(value, 4)} m`,
    onPointerDown: down,
    onPointerMove: move,
    onPointerUp: up,
    onPointerCancel: up,
    onKeyDown: key,
    style: { cursor },
    className: "group outline-none",
    opacity: p.faint ? 0.45 : 1,
  } as const;
  const ring = "stroke-primary group-hover:fill-primary/40 group-focus-visible:fill-primary/60";
  if (m.shape === "line")
    return (
      <g {...common}>
        <title>{m.name}</title>
        <path d={`M0 ${p.y}H${p.width}`} className="stroke-transparent" strokeWidth="11" />
        <path
          d={`M0 ${p.y}H${p.width}`}
          className="stroke-primary/75 group-hover:stroke-primary group-focus-visible:stroke-primary"
          strokeWidth="1.2"
        />
        <rect x={p.width * 0.5 - 13} y={p.y - 3} width="26" height="6" rx="2" className="fill-primary" />
        <text
          x="8"
          y={p.y < 18 ? p.y + 13 : p.y - 4}
          fontSize="11"
          className="figures fill-primary"
          stroke="#000"
          strokeOpacity=".75"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {formatNumber(m.at[1], 4)} m {m.words}
        </text>
      </g>
    );
  if (m.shape === "lamp" || m.shape === "aim")
    return (
      <g {...common}>
        <title>{m.name}</title>
        <circle cx={p.x} cy={p.y} r="9" fill="transparent" />
        {m.shape === "lamp" ? (
          <path
            d={`M${p.x} ${p.y - 5}L${p.x + 5} ${p.y}L${p.x} ${p.y + 5}L${p.x - 5} ${p.y}Z`}
            className="fill-base-200/70 stroke-warning group-hover:fill-warning/60 group-focus-visible:fill-warning"
            strokeWidth="1.4"
          />
        ) : (
          <path d={`M${p.x - 5} ${p.y}h10M${p.x} ${p.y - 5}v10`} className="stroke-warning" strokeWidth="1.4" />
        )}
      </g>
    );
  return (
    <g {...common}>
      <title>{m.name}</title>
      <circle cx={p.x} cy={p.y} r="10" fill="transparent" />
      {m.shape === "side" ? (
        <rect
          x={p.x - (m.along === "s" ? 2.5 : 8)}
          y={p.y - (m.along === "s" ? 8 : 2.5)}
          width={m.along === "s" ? 5 : 16}
          height={m.along === "s" ? 16 : 5}
          rx="2"
          className={`fill-primary/70 ${ring}`}
        />
      ) : (
        <circle cx={p.x} cy={p.y} r="5" className={`fill-base-200/60 ${ring}`} strokeWidth="1.6" />
      )}
      {m.words && (
        <text
          x={p.x + 8}
          y={p.y - 6}
          fontSize="11"
          className="figures fill-primary"
          stroke="#000"
          strokeOpacity=".75"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {m.words} {formatNumber(m.at[0], 3)} m
        </text>
      )}
    </g>
  );
}
