/** The open medium's region over the picture: its outline, and handles that move and shape it as the lens sees it. */
import { along, add, sub } from "#core/math/vectors";
import { useCallback, useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Region } from "#core/document/air";
import type { SceneDocument } from "#core/document/schema";
import { cameraFrame } from "#core/document/camera";
import { acrossFrame, alongAxis, projectPoint } from "#core/scene/pick";
import { middleOf, regionSides, withMiddleAt, withSideAt, type Side } from "#core/section/sides";
import { useBench, useSession, useView } from "../model/context";
import { gridBox } from "../model/grid-box";
import { mediumOutline, segmentsInFrame } from "../drawings/outlines";
import { eyeOf, useContours } from "../drawings/use-contour";
import { withMedium } from "../model/store";
import { useLengths } from "../../shared/units";

type Pair = [number, number];
/** A side, and the way out of the region. */
const PULL = "M-2 -6V6M2.5 -3.5L6 0L2.5 3.5";
type V3 = [number, number, number];
const tidy = (v: readonly number[]): V3 => v.map((c) => Number(c.toPrecision(6))) as V3;

export function RegionHandles({ doc, box }: { doc: SceneDocument; box: Pair }) {
  const { store } = useBench();
  const { open, medium: opened, front, tool, below } = useView((s) => s);
  const volumes = useSession((s) => s.volumes);
  const index = Math.min(opened, doc.air.length - 1);
  const m = doc.air[index];
  const contours = useContours(doc, m && open === "air" ? [m.region] : [], eyeOf(doc, cameraFrame(doc.camera).forward));
  if (!m?.on || open !== "air" || front !== "live" || tool !== "none" || below === "lights") return null;
  const reach = Math.max(1, Math.hypot(...doc.camera.target.map((t, k) => t - doc.camera.position[k]!)));
  const contour = m.region.kind === "mesh" ? contours[m.region.object] : undefined;
  const path = segmentsInFrame(doc, mediumOutline(m, 2 * reach, gridBox(m, volumes, doc.time), contour))
    .map(([a, b]) => `M${a[0] * box[0]} ${a[1] * box[1]}L${b[0] * box[0]} ${b[1] * box[1]}`)
    .join("");
  const middle = middleOf(m);
  if (!path && !middle) return null;
  const set = (change: (region: Region) => Region): void =>
    store.getState().set((d) => (d.air[index] ? withMedium(d, index, { region: change(d.air[index].region) }) : d));
  const sides = regionSides(m.region, doc.camera.target);
  return (
    // only under the hand or the keyboard: the picture is judged without it
    <svg
      data-testid="region-grips"
      className="pointer-events-none absolute inset-0 h-full w-full overflow-hidden opacity-0 transition-opacity group-hover/picture:opacity-100 focus-within:opacity-100"
      viewBox={`0 0 ${box[0]} ${box[1]}`}
    >
      <path aria-hidden d={path} className="fill-none stroke-black/35" strokeWidth="2.5" />
      <path aria-hidden d={path} className="fill-none stroke-base-content/70" strokeWidth="1" strokeDasharray="5 4" />
      {sides.map((side, i) => (
        <Grip
          key={side.name}
          doc={doc}
          box={box}
          name={`${side.name} of ${m.name}, in the picture`}
          at={side.at}
          side={side}
          onMove={(to) => set((r) => withSideAt(r, i, to, doc.camera.target))}
        />
      ))}
      {middle && (
        <Grip
          doc={doc}
          box={box}
          name={`Middle of ${m.name}, in the picture`}
          at={middle}
          side={null}
          onMove={(to) => store.getState().set((d) => ({ ...d, air: d.air.map((x, i) => (i === index ? withMiddleAt(x, tidy(to)) : x)) }))}
        />
      )}
    </svg>
  );
}

interface GripProps {
  doc: SceneDocument;
  box: Pair;
  name: string;
  at: Readonly<V3>;
  /** The side it is; null for the middle. */
  side: Side | null;
  onMove(to: V3): void;
}

function Grip({ doc, box, name, at, side, onMove }: GripProps) {
  const { store } = useBench();
  const lengths = useLengths();
  const from = useRef<{ place: V3; side: Side | null; grabbed: V3 | number } | null>(null);
  const p = projectPoint(doc, at);
  const end = useCallback((): void => {
    if (!from.current) return;
    from.current = null;
    store.gesture(false);
  }, [store]);
  // a grip that goes while it is dragged (behind the lens, with its sheet) hears of no pointer's end
  const gone = p === null;
  useEffect(() => {
    if (gone) end();
  }, [gone, end]);
  useEffect(() => end, [end]);
  // what is dragged out of the frame stays in hand
  if (!p || (!from.current && (p.x < 0 || p.x > 1 || p.y < 0 || p.y > 1))) return null;
  const place = (e: PointerEvent): Pair => {
    const r = e.currentTarget.closest("svg")!.getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height];
  };
  const read = (e: PointerEvent, on: V3, s: Side | null): V3 | number | null =>
    s ? alongAxis(doc, ...place(e), on, s.direction) : acrossFrame(doc, ...place(e), on);
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    e.stopPropagation();
    const grabbed = read(e, [...at], side);
    if (grabbed === null) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    from.current = { place: [...at], side, grabbed };
    store.gesture(true);
  };
  const move = (e: PointerEvent): void => {
    const f = from.current;
    if (!f) return;
    e.stopPropagation();
    const now = read(e, f.place, f.side);
    if (now === null) return;
    // a side is read as a number along its direction, a middle as a place
    if (typeof now === "number" || typeof f.grabbed === "number") {
      if (f.side) onMove(along(f.place, f.side.direction, Number(now) - Number(f.grabbed)));
    } else onMove(add(f.place, sub(now, f.grabbed)));
  };
  const up = (e: PointerEvent): void => {
    if (!from.current) return;
    e.stopPropagation();
    end();
  };
  const key = (e: KeyboardEvent): void => {
    const { right, up: above, forward } = cameraFrame(doc.camera);
    // about three pixels at this distance
    const step = (3 * p.depth * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1)) / Math.max(...box);
    const axis = { ArrowRight: right, ArrowLeft: right, ArrowUp: above, ArrowDown: above, PageUp: forward, PageDown: forward }[e.key];
    if (!axis) return;
    e.preventDefault();
    e.stopPropagation();
    const sign = e.key === "ArrowLeft" || e.key === "ArrowDown" || e.key === "PageDown" ? -1 : 1;
    onMove(along(at, side ? side.direction : axis, sign * step));
  };
  const [x, y] = [p.x * box[0], p.y * box[1]];
  // which way a pull goes on the screen
  const ahead = side && projectPoint(doc, along(at, side.direction, p.depth * 0.02)); // prettier-ignore
  const angle = ahead ? (Math.atan2((ahead.y - p.y) * box[1], (ahead.x - p.x) * box[0]) * 180) / Math.PI : 0;
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuenow={Number(p.depth.toPrecision(4))}
      aria-valuetext={`${lengths.rough(p.depth)} from the lens`}
      className="group pointer-events-auto cursor-move outline-none"
      transform={`translate(${x} ${y})`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onKeyDown={key}
    >
      <title>{`${name}: drag it, or arrow keys${side ? "" : "; Page Up and Down move it away and near"}`}</title>
      <circle r="10" fill="transparent" />
      {side ? (
        <>
          <path d={PULL} transform={`rotate(${angle})`} className="fill-none stroke-black/60" strokeWidth="4.5" strokeLinecap="round" />
          <path
            d={PULL}
            transform={`rotate(${angle})`}
            className="fill-none stroke-primary group-hover:stroke-[3] group-focus-visible:stroke-[3]"
            strokeWidth="1.8"
          />
        </>
      ) : (
        <circle
          r="5"
          className="fill-base-200/60 stroke-primary group-hover:fill-primary/40 group-focus-visible:fill-primary/60"
          strokeWidth="1.6"
        />
      )}
    </g>
  );
}
