/** Over a plate while its group is open: the ground that its lens stands over, the horizon, and a line along something upright, both to drag. */
import { useCallback, useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Plate } from "#core/document/plate";
import { plateCamera, seesPlate } from "#core/document/plate-lens";
import type { SceneDocument } from "#core/document/schema";
import { sunDirection } from "#core/math/vectors";
import { horizonOf } from "#core/plate/lens";
import { lensOf, upIn } from "#core/plate/read";
import { projectPoint } from "#core/scene/pick";
import { useBench, useView } from "../model/context";
import { changePlate, heldByHorizon, rollByUpright } from "../model/edits/plate";
import { isOpen } from "../model/groups";

type Pair = [number, number];

/** Places across the frame at which the horizon is taken hold of. */
const GRIPS = [0.12, 0.88] as const;
/** Lines of the ground to each side of the lens, and ahead of it. */
const ASIDE = 12,
  AHEAD = 40;
/** Points along a line of the ground. */
const POINTS = 48;

export function PlateGuides({ doc, box }: { doc: SceneDocument; box: Pair }) {
  const { store, view } = useBench();
  const { open, folds, front, tool, upright } = useView((s) => s);
  const { plate } = doc;
  if (!plate || open !== "set" || !isOpen(folds, "plate") || front !== "live" || tool !== "none" || !seesPlate(doc)) return null;
  const line = horizonOf(lensOf(plate, { width: doc.film.size[0], height: doc.film.size[1] }), upIn(plate));
  const set = (change: Partial<Plate> | null): void => {
    if (change) store.getState().set((d) => changePlate(d, change));
  };
  const at = (x: number): number => (line ? line.left + x * (line.right - line.left) : 0.5);
  const ends = GRIPS.map((x): Pair => [x, at(x)]);
  const dragHorizon = (k: 0 | 1, to: Pair): void =>
    // each end moves up and down alone
    set(heldByHorizon(plate, doc.film.size, ...(ends.map((e, i) => (i === k ? [e[0], to[1]] : e)) as [Pair, Pair])));
  const dragUpright = (k: 0 | 1, to: Pair): void => {
    if (!upright) return;
    const next: [number, number, number, number] = k === 0 ? [...to, upright[2], upright[3]] : [upright[0], upright[1], ...to];
    view.setState({ upright: next });
    const roll = rollByUpright(plate, doc.film.size, [next[0], next[1]], [next[2], next[3]]);
    if (roll !== null) set({ roll });
  };
  const place = ([x, y]: Pair): string => `${(x * box[0]).toFixed(1)} ${(y * box[1]).toFixed(1)}`;
  return (
    <svg
      data-testid="plate-guides"
      className="pointer-events-none absolute inset-0 h-full w-full overflow-hidden"
      viewBox={`0 0 ${box[0]} ${box[1]}`}
    >
      <path aria-hidden data-mark="ground" d={groundPath(doc, plate, box)} className="fill-none stroke-primary/35" strokeWidth="1" />
      {line && (
        <>
          <path
            aria-hidden
            data-mark="horizon"
            d={`M${place([0, at(0)])}L${place([1, at(1)])}`}
            className="fill-none stroke-primary"
            strokeWidth="1.4"
            strokeDasharray="10 4 2 4"
          />
          {ends.map((e, k) => (
            <Grip
              key={k}
              box={box}
              name={`Horizon, ${k === 0 ? "left" : "right"} end, in the picture`}
              at={e}
              onMove={(to) => dragHorizon(k as 0 | 1, to)}
            />
          ))}
        </>
      )}
      {upright && (
        <>
          <path
            aria-hidden
            d={`M${place([upright[0], upright[1]])}L${place([upright[2], upright[3]])}`}
            className="fill-none stroke-primary"
            strokeWidth="1.4"
          />
          {([0, 1] as const).map((k) => (
            <Grip
              key={k}
              box={box}
              name={`Upright, ${k === 0 ? "first" : "second"} end, in the picture`}
              at={k === 0 ? [upright[0], upright[1]] : [upright[2], upright[3]]}
              onMove={(to) => dragUpright(k, to)}
            />
          ))}
        </>
      )}
    </svg>
  );
}

/** Lines of the ground before a lens, as it sees them: squares of one, two or five of a power of ten metres, about as wide as it is high. */
function groundPath(doc: SceneDocument, plate: Plate, box: Pair): string {
  const height = Math.abs(plate.position[1]);
  if (!(height > 1e-4)) return "";
  const power = 10 ** Math.floor(Math.log10(height));
  const step = power * ([5, 2, 1].find((k) => k * power <= height) ?? 1);
  const own = { ...doc, camera: plateCamera(plate, doc.camera) };
  const [ax, , az] = sunDirection(plate.heading, 0);
  const point = (aside: number, ahead: number): Pair | null => {
    const p = projectPoint(own, [plate.position[0] + ahead * ax - aside * az, 0, plate.position[2] + ahead * az + aside * ax]);
    return p && p.x > -2 && p.x < 3 && p.y > -2 && p.y < 3 ? [p.x * box[0], p.y * box[1]] : null;
  };
  const line = (of: (t: number) => Pair | null): string => {
    let out = "",
      on = false;
    for (let i = 0; i <= POINTS; i++) {
      const p = of(i / POINTS);
      if (p) out += `${on ? "L" : "M"}${p[0].toFixed(1)} ${p[1].toFixed(1)}`;
      on = p !== null;
    }
    return out;
  };
  const far = AHEAD * step;
  const lines: string[] = [];
  // closer together where they are near, so that a line is drawn wherever it is in the frame
  for (let k = -ASIDE; k <= ASIDE; k++) lines.push(line((t) => point(k * step, far * t * t + 0.02 * step)));
  for (let k = 1; k <= AHEAD; k++) lines.push(line((t) => point((2 * t - 1) * ASIDE * step, k * step)));
  return lines.join("");
}

/** An end of a line over the picture, moved by hand or by arrow keys. */
function Grip(p: { box: Pair; name: string; at: Pair; onMove(to: Pair): void }) {
  const { store } = useBench();
  const from = useRef<{ x: number; y: number; at: Pair } | null>(null);
  const end = useCallback((): void => {
    if (!from.current) return;
    from.current = null;
    store.gesture(false);
  }, [store]);
  // taken away while it is held
  useEffect(() => end, [end]);
  const down = (e: PointerEvent): void => {
    if (e.button !== 0) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    from.current = { x: e.clientX, y: e.clientY, at: p.at };
    store.gesture(true);
  };
  const move = (e: PointerEvent): void => {
    const f = from.current;
    if (!f) return;
    e.stopPropagation();
    const r = e.currentTarget.closest("svg")!.getBoundingClientRect();
    p.onMove([f.at[0] + (e.clientX - f.x) / r.width, f.at[1] + (e.clientY - f.y) / r.height]);
  };
  const up = (e: PointerEvent): void => {
    if (!from.current) return;
    e.stopPropagation();
    end();
  };
  const key = (e: KeyboardEvent): void => {
    const step = (e.shiftKey ? 20 : e.altKey ? 0.2 : 2) / Math.max(...p.box);
    const by = (
      { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] } as Readonly<Record<string, Pair>>
    )[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    p.onMove([p.at[0] + by[0], p.at[1] + by[1]]);
  };
  // one out of the frame stays in reach at its rim
  const [x, y] = p.at.map((v, k) => Math.max(7, Math.min(p.box[k]! - 7, v * p.box[k]!))) as Pair;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={p.name}
      className="pointer-events-auto cursor-move outline-none [&:focus-visible>circle]:stroke-base-content"
      transform={`translate(${x} ${y})`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onKeyDown={key}
    >
      <title>{`${p.name}: drag it, or move it with the arrow keys.`}</title>
      <circle r="11" className="fill-transparent stroke-transparent" />
      <circle r="5" className="fill-base-200/60 stroke-primary" strokeWidth="1.6" />
    </g>
  );
}
