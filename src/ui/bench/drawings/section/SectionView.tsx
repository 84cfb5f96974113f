/** The Section: an upright cut along the line of sight, with the fate of light above it on the same distances. */
import { useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { useStore } from "zustand";
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compiled";
import { finestStep } from "#core/scene/media";
import type { Window } from "#core/section/probe";
import type { DrawnSection } from "../../model/section-paint";
import { regionCut, type Place, type Plane } from "#core/section/region";
import { along } from "#core/section/scale";
import { useBench, useScene, useSession, useView } from "../../model/context";
import { FateChart, fateAt } from "./FateChart";
import { Handle } from "./Handle";
import { Air, Contours, Cut, Rulers, SunArrow } from "./layers";
import { marksOf } from "../../model/section-handles";
import { SectionHead } from "./SectionHead";
import { useLengths } from "../../../shared/units";

/** Room for heights at the left, for distances below, and at the right. */
const [LEFT, BELOW, RIGHT] = [46, 17, 10];

export default function SectionView() {
  const { session } = useBench();
  const doc = useScene();
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
      size: [Math.max(1, Math.round(width / 2)), Math.max(1, Math.round(drawn / 2))],
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key holds what else the request depends on
  }, [doc, asked, session]);
  // another ray or plane is looked at as a whole
  useEffect(() => setWindow(null), [at, planeKey]);

  const section = state.section && JSON.stringify(state.section.plane) === planeKey && state.section.scale === scale ? state.section : null;
  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Section"
      className="outline-none flex h-[44%] min-h-56 shrink-0 flex-col border-t hair bg-base-200"
    >
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

/** Step through air that has no closed form, m; null where all has one, or is tracked. */
function stepOf(doc: SceneDocument, geometry: CompiledGeometry | null): number | null {
  if (doc.render.estimator !== "stepping") return null;
  const usual = finestStep(doc, geometry);
  return usual === null || doc.render.stepSize === "auto" ? usual : doc.render.stepSize;
}

const inside = (v: number, size: number): number => Math.max(7, Math.min(size - 7, v));

interface DrawingProps {
  section: DrawnSection;
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
  const geometry = useSession((x) => x.geometry);
  const lengths = useLengths();
  const doc = useScene();
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
  const top = fateHeight;
  const step = stepOf(doc, geometry);
  const fate = useMemo(
    () => <FateChart fate={s.fate} width={width} height={fateHeight} step={step} x={(t) => scale.share(t * level) * width} />,
    [s.fate, width, fateHeight, step, scale, level],
  );

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
    if (s.scale === "logarithmic") {
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
    if (!d || Math.hypot(e.clientX - d.x, e.clientY - d.y) < 3 || s.scale === "logarithmic") return;
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
      <Air section={s} width={width} height={height} left={LEFT} top={top} />
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
          {fate}
        </g>
        <g transform={`translate(${LEFT} ${top})`}>
          <g clipPath="url(#section-air)">
            <Contours section={s} width={width} height={height} />
            <Cut section={s} width={width} height={height} />
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
          {lengths.exact(pointer[0], 3)}
          {s.plane.kind === "upright" ? ` away, ${lengths.exact(pointer[1], 3)} up` : ` away, ${lengths.exact(pointer[1], 3)} aside`}
          {known &&
            `: ${formatNumber(100 * known.transmittance, 2)} % transmitted, ${formatNumber(known.scatteredIn, 2)} cd/m² scattered in (${Math.round(100 * known.share)} %)`}
        </p>
      )}
    </>
  );
}
