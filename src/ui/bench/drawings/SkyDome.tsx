/** A small drawing of the whole sky: where sun and moon stand, what the lens sees of it, what the set hides; the light is dragged in it. */
import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { along, sub } from "#core/math/vectors";
import { pickPoint } from "#core/scene/pick";
import { Latest } from "../../shared/latest";
import { contextOf } from "../../shared/canvas";
import { useBench, useScene, useSession, useView } from "../model/context";
import { anglesOnDome, DOME_SIDE, domeDirections, frameOnDome, headingOf, HORIZON, placeOnDome, type Angles } from "../model/dome";

/** Half the drawing's side in its own units. */
const R = 60;
/** How far towards the lens a point is taken off its surface, as a share of the way. */
const OFF = 0.002;
const KEYS: Readonly<Record<string, readonly [azimuth: number, elevation: number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

export function SkyDome({ light, className = "" }: { light: "sun" | "moon"; className?: string }) {
  const { store } = useBench();
  const doc = useScene();
  const id = useId();
  const heading = headingOf(doc);
  const hidden = useHidden(heading);
  const dragging = useRef(false);
  const { azimuth, elevation } = doc[light];
  const tidy = (v: number): number => Number(v.toFixed(2));
  const set = (to: Angles): void =>
    store.getState().set((d) => ({
      ...d,
      [light]: {
        ...d[light],
        azimuth: tidy(to.azimuth - 360 * Math.round(to.azimuth / 360)),
        elevation: tidy(Math.max(-90, Math.min(90, to.elevation))),
      },
    }));
  const follow = (e: PointerEvent<SVGSVGElement>): void => {
    const r = e.currentTarget.getBoundingClientRect();
    set(anglesOnDome([(2 * (e.clientX - r.left)) / r.width - 1, (2 * (e.clientY - r.top)) / r.height - 1], heading));
  };
  const end = (): void => {
    if (!dragging.current) return;
    dragging.current = false;
    store.gesture(false);
  };
  const onKey = (e: KeyboardEvent): void => {
    const by = KEYS[e.key];
    if (!by) return;
    e.preventDefault();
    const step = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
    set({ azimuth: azimuth + by[0] * step, elevation: elevation + by[1] * step });
  };
  const frame = frameOnDome(doc, heading)
    .map(([x, y], i) => `${i === 0 ? "M" : "L"}${(R * x).toFixed(1)} ${(R * y).toFixed(1)}`)
    .join("");
  const [x, y] = placeOnDome(doc[light], heading).map((v) => v * R) as [number, number];
  const other = light === "sun" ? "moon" : "sun";
  const [ox, oy] = placeOnDome(doc[other], heading).map((v) => v * R) as [number, number];
  return (
    <div className={`relative ${className}`} data-testid="sky-dome" data-looked={hidden ? "yes" : "no"}>
      <Hidden share={hidden} />
      <svg
        viewBox={`${-R} ${-R} ${2 * R} ${2 * R}`}
        className="relative block aspect-square w-full cursor-crosshair touch-none outline-offset-1 focus-visible:outline focus-visible:outline-primary/60"
        role="slider"
        tabIndex={0}
        aria-label={`Place of the ${light} in the sky`}
        aria-valuemin={-180}
        aria-valuemax={180}
        aria-valuenow={azimuth - 360 * Math.floor((azimuth + 180) / 360)}
        aria-valuetext={`azimuth ${azimuth}°, elevation ${elevation}°`}
        aria-describedby={`${id}-about`}
        onKeyDown={onKey}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          dragging.current = true;
          store.gesture(true);
          follow(e);
        }}
        onPointerMove={(e) => {
          if (!dragging.current) return;
          e.stopPropagation();
          follow(e);
        }}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <title>
          The sky all round: overhead in the middle, the horizon as a ring, ahead of the camera upwards. Drag the light; hatched is what the
          set hides from the point last clicked in the picture.
        </title>
        {[30, 60].map((e) => (
          <circle key={e} r={(R * (90 - e) * HORIZON) / 90} className="fill-none stroke-base-content/15" strokeWidth="0.5" />
        ))}
        <path d={`M0 ${-R}V${R}M${-R} 0H${R}`} className="stroke-base-content/15" strokeWidth="0.5" />
        <circle r={R * HORIZON} className="fill-none stroke-base-content/55" strokeWidth="0.8" />
        <path d={`${frame}Z`} className="fill-none stroke-base-content/75" strokeWidth="0.9" strokeDasharray="3 2" />
        {doc[other].on && <circle cx={ox} cy={oy} r="2.5" className="fill-none stroke-base-content/60" strokeWidth="1" />}
        <g transform={`translate(${x} ${y})`} className={doc[light].on ? "stroke-primary" : "stroke-base-content/50"} strokeWidth="1.2">
          <circle r="5" className="fill-base-200/60" />
          <circle r="1" className="fill-primary stroke-none" />
        </g>
      </svg>
      <p id={`${id}-about`} className="sr-only">
        Arrow keys turn and raise it by a degree, with Shift by ten, with Alt by a tenth.
      </p>
    </div>
  );
}

/** For each square of the disk whether the set hides it from the point last clicked in the picture, or from the lens; null until it is known. */
function useHidden(heading: number): Uint8Array | null {
  const { session } = useBench();
  const doc = useScene();
  const point = useView((s) => s.at);
  // the set, and a picture to find the point in
  const built = useSession((s) => s.bounds);
  const seen = useSession((s) => s.covered !== null);
  const [share, setShare] = useState<Uint8Array | null>(null);
  const asked = useMemo(
    () =>
      new Latest(async ([from, directions]: [readonly [number, number, number], ReturnType<typeof domeDirections>]) => {
        try {
          const worker = await session.section.asked();
          setShare(await worker.hidden(session.seen(), from, directions));
        } catch {
          setShare(null); // the drawing does without
        }
      }),
    [session],
  );
  const camera = doc.camera;
  useEffect(() => {
    if (!built || !seen) return;
    const film = session.live();
    const at = film && pickPoint(session.seen(), film, point.x, point.y)?.point;
    // a little before the surface that the point lies on
    const from = at ? along(at, sub(camera.position, at), OFF) : camera.position;
    asked.ask([from, domeDirections(heading)]);
  }, [asked, session, built, seen, point, camera, heading]);
  return share;
}

/** Hatching over what is hidden. */
function Hidden({ share }: { share: Uint8Array | null }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current;
    if (!c || !share) return;
    // three pixels a square
    const side = 3 * DOME_SIDE;
    c.width = c.height = side;
    const image = new ImageData(side, side);
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const of = share[Math.floor(y / 3) * DOME_SIDE + Math.floor(x / 3)];
        if (of === 0) image.data.set([150, 190, 235, 170], 4 * (y * side + x));
        else if (of === 1 && (x + y) % 5 === 0) image.data.set([255, 255, 255, 55], 4 * (y * side + x));
      }
    contextOf(c).putImageData(image, 0, 0);
  }, [share]);
  return <canvas ref={canvas} aria-hidden className="absolute inset-0 h-full w-full" />;
}
