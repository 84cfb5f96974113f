/** The Picture: what the lens sees, live or as a proof, alone or two against each other. */
import type { V3 } from "#core/math/vectors";
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { useStore } from "zustand";
import type { PassName } from "#core/film/passes";
import { sunAngles, sunDirection } from "#core/math/vectors";
import { cameraFrame, frameOf, rayThrough } from "#core/document/camera";
import type { SceneDocument } from "#core/document/schema";
import type { Pin } from "#core/document/air";
import { pickPoint } from "#core/scene/pick";
import { RegionHandles } from "./RegionHandles";
import { Solver } from "../model/solve-pins";
import { useBench, useScene, useSession, useView } from "../model/context";
import { inSight, keptInside, zoomedBox } from "../model/zoom";
import { Beside, Caption } from "./Beside";
import { DifferenceView } from "./DifferenceView";
import { FilmCanvas } from "./FilmCanvas";
import { FittedNote } from "./FittedNote";
import { LensTool } from "./LensTool";
import { Loupe } from "./Loupe";
import { Overlay } from "./Overlay";
import { isPointTool, takePoint, type PointTool } from "../model/point-tools";
import { SkyDome } from "../drawings/SkyDome";
import { SunHidden } from "./SunHidden";
import { ReprojectionCanvas } from "./ReprojectionCanvas";
import type { Developed } from "../model/film-readings";
import { seenBox, useBeside, usePlaces } from "./places";
import { ProbeMarks } from "./ProbeMarks";
import { Patches } from "./Patches";
import { PlateGuides } from "./PlateGuides";
import { PassLegend } from "./PassLegend";
import { WipeHandle } from "./WipeHandle";
import { clipBefore, edgeThrough, pastEdge, tidyAngle } from "./wipe-edge";
import { ZoomNote } from "./ZoomNote";

const SAID = {
  sun: "Drag: the sun will stand behind that point; where it is hatched, the set hides it.",
  region: "Drag a rectangle: only it will be rendered.",
  measure: "Click two points to measure their distance. The sheet can correct it.",
  person: "Click where a person should stand.",
  expose: "Click what should be middle grey.",
  white: "Click something that should look neutral.",
  focus: "Click what should be in focus.",
  pin: "Click points: each gets a pin with its transmittance.",
  aim: "Click what the light should point at.",
  look: "Click what the camera should look at.",
  limit: "Click where visibility should end: 5 % of contrast is left there.",
  lens: "Drag: the camera goes round what you press. Shift moves it along, Alt looks round, the wheel comes nearer, arrows walk.",
  probe: "Click places whose values should stay in the table.",
  shine: "Click where the light should come in: a window, a gap, the sky.",
} as const;

export function Picture() {
  const { store, session, view, rooms } = useBench();
  const doc = useScene();
  const { pass, light, clear, raw, front, back, wipe, unfinished, difference, edge, edgeAngle, tool, below, surround, shineFrom, said } =
    useView((s) => s);
  const { zoom, loupe } = useView((s) => s);
  const others = useBeside();
  const helpers = useView((s) => s.helpers && !s.alone);
  const phase = useSession((s) => s.phase);
  const message = useSession((s) => s.message);
  const drawn = useSession((s) => s.exposure > 0 && s.size[0] > 0);
  const { documents: proofDocuments } = useStore(useBench().proofs.state);
  const [error, setError] = useState<string | null>(null);
  const [usual, setUsual] = useState<Pick<Developed, "pass" | "usual" | "light"> | null>(null);
  const { room, columns, place, fit } = usePlaces(doc.film.size, others.length);
  const [hud, setHud] = useState<HTMLDivElement | null>(null);
  const lies = zoomedBox(fit, place, zoom);
  const box: [number, number] = [lies.width, lies.height];

  useEffect(() => session.prefer(clear || pass === "clear" ? "clear" : "air"), [clear, pass, session]);

  const at = (e: PointerEvent): [number, number] => {
    const r = (e.currentTarget as HTMLElement).getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height];
  };
  const dragging = useRef<{ kind: "sun" | "region" | "edge" | "turn" | "cut" | "pan"; from: [number, number]; angle: number } | null>(null);
  const probe = (x: number, y: number) => {
    const film = session.live();
    return film && front === "live" ? pickPoint(doc, film, x, y) : null;
  };
  const click = (name: PointTool, x: number, y: number): void => {
    const film = session.live();
    if (film) takePoint(name, { store, view, film, x, y, limit, room: rooms.getState().lens?.box ?? null });
  };
  const solver = useMemo(() => new Solver(session, store, setError), [session, store]);
  /** The open medium, as dense as one pin asks for. @param set whether the pin was set just now */
  const limit = (pin: Pin, set: boolean): void => {
    const { medium } = view.getState();
    if (!doc.air[medium]) return;
    solver.ask({ index: medium, pins: [pin], which: ["density"], of: set ? store.getState().document : null, done: () => undefined });
  };
  const [draft, setDraft] = useState<{ x: number; y: number; width: number; height: number } | null>(null);

  const placeSun = (x: number, y: number): void =>
    store.getState().set((d) => {
      const a = sunAngles(rayThrough(d, x, y));
      return { ...d, sun: { ...d.sun, azimuth: Number(a.azimuth.toFixed(2)), elevation: Number(a.elevation.toFixed(2)) } };
    });
  /** The section follows the point last clicked. */
  const cutAt = (x: number, y: number): void => view.setState({ at: { x: Math.max(0, Math.min(1, x)), y: Math.max(0, Math.min(1, y)) } });
  const box01 = (a: [number, number], b: [number, number]) => {
    const c = (v: number): number => Math.max(0, Math.min(1, v));
    const [x0, y0, x1, y1] = [c(Math.min(a[0], b[0])), c(Math.min(a[1], b[1])), c(Math.max(a[0], b[0])), c(Math.max(a[1], b[1]))];
    return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
  };

  const panBy = (x: number, y: number): void => {
    const now = view.getState().zoom;
    if (now) view.setState({ zoom: keptInside({ ...now, x: now.x + x, y: now.y + y }, fit, place) });
  };
  const down = (e: PointerEvent): void => {
    const p = at(e);
    if (zoom && (e.button === 1 || (e.button === 0 && e.altKey))) {
      e.preventDefault();
      e.currentTarget.setPointerCapture(e.pointerId);
      dragging.current = { kind: "pan", from: p, angle: edgeAngle };
      return;
    }
    if (e.button !== 0) return;
    const nearEdge =
      (unfinished || (wipe && back !== null)) && Math.abs(pastEdge({ edge, angle: edgeAngle }, box, [p[0] * box[0], p[1] * box[1]])) < 10;
    if (!nearEdge && isPointTool(tool)) return click(tool, ...p);
    const kind = nearEdge ? "edge" : tool === "sun" || tool === "region" ? tool : tool === "none" ? "cut" : null;
    if (!kind || (kind === "sun" && doc.camera.kind === "orthographic")) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    dragging.current = { kind: kind === "edge" && e.shiftKey ? "turn" : kind, from: p, angle: edgeAngle };
    if (kind === "cut") cutAt(...p);
    if (kind === "sun") {
      store.gesture(true);
      placeSun(...p);
    }
  };
  const move = (e: PointerEvent): void => {
    const d = dragging.current;
    const p = at(e);
    if (!d) {
      view.pointer.setState({ distance: probe(...p)?.distance ?? null, at: { x: p[0], y: p[1] } });
      return;
    }
    if (d.kind === "pan") panBy(d.from[0] - p[0], d.from[1] - p[1]);
    else if (d.kind === "sun") placeSun(...p);
    else if (d.kind === "cut") cutAt(...p);
    else if (d.kind === "edge") view.setState({ edge: edgeThrough(edgeAngle, box, [p[0] * box[0], p[1] * box[1]]) });
    else if (d.kind === "turn") {
      const about = ([x, y]: [number, number]): number => (Math.atan2((y - 0.5) * box[1], (x - 0.5) * box[0]) * 180) / Math.PI;
      view.setState({ edgeAngle: tidyAngle(d.angle + about(p) - about(d.from)) });
    } else setDraft(box01(d.from, p));
  };
  const up = (e: PointerEvent): void => {
    const d = dragging.current;
    dragging.current = null;
    if (d?.kind === "sun") store.gesture(false);
    if (d?.kind === "region") {
      const region = box01(d.from, at(e));
      setDraft(null);
      view.setState({ tool: "none" });
      const worth = region.width * box[0] > 8 && region.height * box[1] > 8;
      store.getState().set((s) => ({ ...s, film: { ...s.film, region: worth ? region : null } }));
    }
  };

  // by the keyboard: a point that arrows move, taken by Enter
  const frame = useRef<HTMLDivElement>(null);
  const pointing = isPointTool(tool);
  useEffect(() => {
    if (pointing) frame.current?.focus({ preventScroll: true });
  }, [pointing]);
  const key = (e: KeyboardEvent): void => {
    if (e.target !== e.currentTarget) return;
    const step = e.shiftKey ? 0.1 : e.altKey ? 0.002 : 0.02;
    const by = (
      { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] } as Readonly<
        Record<string, [number, number]>
      >
    )[e.key];
    const { at: point } = view.getState();
    if (by) {
      cutAt(point.x + by[0], point.y + by[1]);
      if (zoom) view.setState({ zoom: inSight(zoom, view.getState().at, fit, place) });
    } else if (e.key === "Enter" && pointing) click(tool, point.x, point.y);
    else return;
    e.preventDefault();
  };

  const sunAt = frameOf(doc, sunDirection(doc.sun.azimuth, doc.sun.elevation));
  const sunInFrame = sunAt !== null && Math.abs(sunAt.x - 0.5) < 0.52 && Math.abs(sunAt.y - 0.5) < 0.52;
  const told = useCallback(
    (of: Pick<Developed, "pass" | "usual" | "light">) => setUsual({ pass: of.pass, usual: of.usual, light: of.light }),
    [],
  );
  const shownPass: PassName = clear ? "clear" : pass;
  // what stands behind the edge of the wipe
  const behind = unfinished ? front : wipe ? back : null;
  const wiping = behind !== null;
  const region = draft ?? doc.film.region;

  const behindProps = { pass: shownPass, onError: setError, width: box[0] };
  return (
    <div ref={room} className="relative min-h-0 min-w-0 flex-1 overflow-hidden" style={{ background: `oklch(${surround} 0 0)` }}>
      {others.map((what, i) => (
        <Beside
          key={what}
          what={what}
          cell={{ left: ((i + 1) % columns) * place[0], top: Math.floor((i + 1) / columns) * place[1], size: place }}
          lies={lies}
          {...behindProps}
        />
      ))}
      <div className="absolute overflow-hidden" style={{ left: 0, top: 0, width: place[0], height: place[1] }}>
        <div
          ref={frame}
          id="picture"
          tabIndex={0}
          role="group"
          aria-label="Frame: arrow keys move the point that is looked at, Enter takes it"
          onKeyDown={key}
          className={`group/picture absolute outline-offset-2 focus-visible:outline focus-visible:outline-primary/60 ${tool === "none" ? "" : "cursor-crosshair"} ${drawn ? "" : "unexposed"} touch-none select-none`}
          style={lies}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerCancel={up}
          onPointerLeave={() => view.pointer.setState({ distance: null, at: null })}
          data-testid="picture"
        >
          {wiping && (
            <FilmCanvas
              width={box[0]}
              key={`behind ${behind}`}
              what={behind}
              pass={shownPass}
              proof={proofDocuments[behind]}
              plain={unfinished}
              label={unfinished ? "Picture without its finish" : "Picture behind the wipe"}
              onError={setError}
            />
          )}
          <FilmCanvas
            width={box[0]}
            what={front}
            pass={shownPass}
            proof={proofDocuments[front]}
            label="Picture"
            onError={setError}
            onUsual={told}
            {...(wiping ? { clip: clipBefore({ edge, angle: edgeAngle }, box) } : {})}
          />
          <ReprojectionCanvas />
          {front === "live" && !wiping && !difference && drawn && <Patches pass={shownPass} width={box[0]} onError={setError} />}
          {difference && back !== null && <DifferenceView front={front} back={back} {...difference} panel={hud} onError={setError} />}
          {wiping && <WipeHandle box={box} />}
          {region && (
            <div
              aria-hidden
              className="pointer-events-none absolute border border-primary/90"
              style={{
                left: `${region.x * 100}%`,
                top: `${region.y * 100}%`,
                width: `${region.width * 100}%`,
                height: `${region.height * 100}%`,
              }}
            />
          )}
          {tool === "lens" && drawn && <LensTool box={box} />}
          {helpers && <Overlay doc={doc} box={box} />}
          {below === "probes" && <ProbeMarks />}
          {helpers && drawn && <RegionHandles doc={doc} box={box} />}
          {helpers && drawn && <PlateGuides doc={doc} box={box} />}
          {(tool === "sun" || (tool === "shine" && !shineFrom)) && front === "live" && drawn && <SunHidden />}
          {tool === "sun" && sunAt && sunInFrame && (
            <div
              aria-hidden
              className="pointer-events-none absolute size-7 -translate-1/2 rounded-full border border-primary"
              style={{ left: `${sunAt.x * 100}%`, top: `${sunAt.y * 100}%` }}
            >
              <div className="absolute top-1/2 left-1/2 size-1 -translate-1/2 rounded-full bg-primary" />
            </div>
          )}
          {tool === "sun" && !sunInFrame && <SunPointer doc={doc} box={box} />}
        </div>
        <div ref={setHud} className="pointer-events-none absolute" style={seenBox(lies, place)}>
          {others.length > 0 && <Caption what={front} />}
          <FittedNote front={front} others={others.length > 0 ? others : back !== null && (wiping || difference) ? [back] : []} />
          {shownPass !== "beauty" && !clear && drawn && (
            <PassLegend
              pass={shownPass}
              usual={usual?.pass === shownPass ? usual.usual : null}
              light={clear ? null : light}
              apart={usual?.light === light}
            />
          )}
          {unfinished && (
            <p role="status" className="pointer-events-none absolute top-2 right-2 bg-base-200/80 px-2 text-xs">
              without the finish
            </p>
          )}
          {tool !== "none" && (
            <p role="status" className="pointer-events-none absolute bottom-2 left-1/2 w-max -translate-x-1/2 bg-base-200/80 px-2 text-xs">
              {said ?? (shineFrom ? "Click where it should land." : SAID[tool])} Esc ends.
            </p>
          )}
          {tool === "sun" && drawn && (
            <div className="pointer-events-auto absolute right-2 bottom-2 w-32 rounded-full bg-base-200/85">
              <SkyDome light="sun" />
            </div>
          )}
          {!drawn && phase !== "failed" && (
            <p className="absolute inset-0 flex items-center justify-center text-sm quiet" role="status">
              {message} …
            </p>
          )}
          {(phase === "failed" || error) && (
            <div
              role="alert"
              className="pointer-events-auto absolute inset-0 flex flex-col items-center justify-center gap-2 bg-base-200/90 p-8 text-center"
            >
              <p className="font-semibold text-error">The picture cannot be rendered</p>
              <p className="max-w-lg text-sm">{error ?? message}</p>
              <p className="max-w-lg text-sm quiet">The project is saved as it is. Undo the last change, or try again.</p>
              {phase === "failed" && (
                <button className="btn btn-sm" onClick={() => session.again()}>
                  Try again
                </button>
              )}
              {error && (
                <button className="btn btn-sm" onClick={() => (setError(null), view.setState({ front: "live", back: null, wipe: false }))}>
                  Back to the live picture
                </button>
              )}
            </div>
          )}
        </div>
        {loupe && <Loupe frame={frame} />}
      </div>
      <ZoomNote />
      {(clear || raw) && (
        <p role="status" className="pointer-events-none absolute top-3 left-4 bg-base-200/80 px-2 text-sm">
          {[clear && "clear air", raw && "as rendered"].filter(Boolean).join(", ")}
        </p>
      )}
    </div>
  );
}

/** At the edge of the frame, an arrow towards a sun that stands outside it. */
function SunPointer({ doc, box }: { doc: SceneDocument; box: [number, number] }) {
  const d = sunDirection(doc.sun.azimuth, doc.sun.elevation);
  const { right, up } = cameraFrame(doc.camera);
  const along = (v: Readonly<V3>): number => v[0] * d[0] + v[1] * d[1] + v[2] * d[2];
  const [x, y] = [along(right), -along(up)];
  const l = Math.hypot(x, y) || 1;
  // out from the middle to 16 px inside the nearer edge
  const reach = Math.min((box[0] / 2 - 16) / Math.max(Math.abs(x / l), 1e-6), (box[1] / 2 - 16) / Math.max(Math.abs(y / l), 1e-6));
  return (
    <svg
      aria-hidden
      viewBox="-10 -10 20 20"
      className="pointer-events-none absolute size-6 -translate-1/2"
      style={{ left: box[0] / 2 + (x / l) * reach, top: box[1] / 2 + (y / l) * reach }}
    >
      <g transform={`rotate(${(Math.atan2(y, x) * 180) / Math.PI})`} className="fill-none stroke-primary" strokeWidth="1.6">
        <circle r="3" cx="-4" />
        <path d="M1 0h7m-3.5-3.5L8 0 4.5 3.5" />
      </g>
    </svg>
  );
}
