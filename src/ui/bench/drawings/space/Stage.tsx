/** What the drawings of space show, and what pointers do in them. */
import { cornersOf, middleOf as boxMiddle, sizeOf, type Box } from "#core/math/box";
import { useFrame, useThree } from "@react-three/fiber";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { TransformControls } from "three/addons/controls/TransformControls.js";
import { map3, along, sunDirection } from "#core/math/vectors";
import { placementMatrix } from "#core/math/affine";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useScene, useSession, useView } from "../../model/context";
import { aimAt } from "../../model/point-tools";
import type { Grip } from "../../model/view";
import { anglesOf } from "#core/math/rotation";
import { canMove, moved, placeOf, turned, turnOf } from "../../model/space-handles";
import { middleOf, regionSides } from "#core/section/sides";
import { goboKnob, sunGoboKnob, type GoboKnob } from "../../model/gobo-handles";
import { gridBox } from "../../model/grid-box";
import { boxOutline, goboOutline, lensOutline, lightOutline, mediumOutline } from "../outlines";
import { Latest } from "../../../shared/latest";
import { useContours } from "../use-contour";
import { Picker } from "./picking";
import { sizeOfPiece, type SetPiece } from "./pieces";
import { SetMeshes } from "./SetMeshes";
import { usePaced } from "./use-paced";

type V3 = [number, number, number];
const ACCENT = "#7fd6c2",
  QUIET = "#9a9a9a",
  AMBER = "#e8c37a";

/** Line segments that never hide the scene: thin, and seen through it faintly. */
function Lines({ points, colour, faint = true }: { points: number[]; colour: string; faint?: boolean }) {
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
    return g;
  }, [points]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <>
      <lineSegments geometry={geometry} frustumCulled={false}>
        <lineBasicMaterial color={colour} />
      </lineSegments>
      {faint && (
        <lineSegments geometry={geometry} frustumCulled={false} renderOrder={1}>
          <lineBasicMaterial color={colour} transparent opacity={0.25} depthTest={false} />
        </lineSegments>
      )}
    </>
  );
}

/** Marks of even size on the screen, however many: all in one draw. */
function Marks({ at, colour, size }: { at: readonly (readonly number[])[]; colour: string; size: number }) {
  const points = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute("position", new THREE.Float32BufferAttribute(at.flat(), 3));
    return g;
  }, [at]);
  useEffect(() => () => points.dispose(), [points]);
  return (
    <points geometry={points} frustumCulled={false} renderOrder={2}>
      <pointsMaterial color={colour} size={size} sizeAttenuation={false} depthTest={false} transparent />
    </points>
  );
}

function Mark({ at, colour, size }: { at: readonly number[]; colour: string; size: number }) {
  const one = useMemo(() => [at], [at]);
  return <Marks at={one} colour={colour} size={size} />;
}

/** A chosen lamp's gobo, with the knobs that move it along the axis and turn it. */
function GoboMarks({ knob, cone, grip, index }: { knob: GoboKnob; cone: boolean; grip: Grip | null; index: number | null }) {
  const lines = useMemo(() => goboOutline(knob, cone), [knob, cone]);
  const turns: Grip = index === null ? { kind: "sunGobo" } : { kind: "goboTurn", index };
  return (
    <>
      <Lines points={lines} colour={ACCENT} />
      {index !== null && <Mark at={knob.middle} colour={ACCENT} size={sameGrip(grip, { kind: "gobo", index }) ? 10 : 6} />}
      <Mark at={knob.rim} colour={ACCENT} size={sameGrip(grip, turns) ? 10 : 7} />
    </>
  );
}

/** The eye's ray through a place of the drawing, from -1 to 1 to the right and upwards. */
function rayOfPixel(eye: THREE.Camera, x: number, y: number): { origin: V3; direction: V3 } {
  const near = new THREE.Vector3(x, y, -1).unproject(eye);
  const far = new THREE.Vector3(x, y, 1).unproject(eye);
  return { origin: near.toArray(), direction: far.sub(near).normalize().toArray() };
}

/** A step that suits a scene of some size: 1, 2 or 5 × 10ⁿ m, about a two-hundredth of it. */
function stepFor(reach: number): number {
  const raw = reach / 200;
  const power = 10 ** Math.floor(Math.log10(raw));
  return (raw / power >= 5 ? 5 : raw / power >= 2 ? 2 : 1) * power;
}

const sameGrip = (a: Grip | null, b: Grip): boolean =>
  a !== null &&
  a.kind === b.kind &&
  (!("index" in a) || ("index" in b && a.index === b.index)) &&
  (!("side" in a) || ("side" in b && a.side === b.side));

/** The medium whose sides can be pulled: the open one, while air is worked on. */
function shapedMedium(doc: SceneDocument, { open, medium }: { open: string; medium: number }): number | null {
  return open === "air" && doc.air[medium] ? medium : null;
}

/** All that can be taken hold of, nearest to the eye of the artist first: what is chosen, lights, targets, media, the lens. */
function gripsOf(
  doc: SceneDocument,
  chosen: readonly unknown[],
  medium: number | null,
  lighting: boolean,
  through: "free" | "lens" | number,
): { grip: Grip; at: V3 }[] {
  const out: { grip: Grip; at: V3 }[] = [];
  const put = (grip: Grip): void => {
    const at = placeOf(doc, grip);
    if (at) out.push({ grip, at });
  };
  if (lighting) put({ kind: "sunGobo" });
  doc.lights.forEach((_, index) => {
    if (through !== index) put({ kind: "light", index });
    if (!chosen.includes(index)) return;
    put({ kind: "target", index });
    put({ kind: "goboTurn", index });
    put({ kind: "gobo", index });
  });
  doc.air.forEach((_, index) => put({ kind: "medium", index }));
  if (medium !== null)
    for (let side = 0; side < regionSides(doc.air[medium]!.region).length; side++) put({ kind: "side", index: medium, side });
  if (through !== "lens") {
    put({ kind: "lens" });
    put({ kind: "aim" });
  }
  return out;
}

interface StageProps {
  plan: boolean;
  frame: number;
  pieces: readonly SetPiece[];
  shown: (triangles: number) => void;
}

export function Stage({ plan, frame, pieces, shown: tellShown }: StageProps) {
  const { store, view, session } = useBench();
  const doc = useScene();
  const { lights: chosen, grip, turn, snap, through, chosen: inSet, measured, tool } = useView((s) => s);
  const bounds = useSession((s) => s.bounds);
  const objectBounds = useSession((s) => s.objectBounds);
  const { gl, camera, invalidate, size } = useThree();
  const lens = camera as THREE.PerspectiveCamera | THREE.OrthographicCamera;
  const controls = useRef<OrbitControls | null>(null);
  const handles = useRef<TransformControls | null>(null);
  const group = useRef<THREE.Group>(null);
  const [proxy] = useState(() => new THREE.Object3D());
  usePaced(pieces, tellShown);
  const reach = bounds ? Math.max(1, Math.min(400, Math.hypot(bounds[3] - bounds[0], bounds[4] - bounds[1], bounds[5] - bounds[2]))) : 40;
  const picker = useMemo(() => new Picker(pieces), [pieces]);
  useEffect(() => () => picker.dispose(), [picker]);
  const latest = useRef({ doc, grip, through, reach, tool, inSet, objectBounds, bounds });
  latest.current = { doc, grip, through, reach, tool, inSet, objectBounds, bounds };

  useEffect(() => invalidate(), [doc, chosen, grip, pieces, measured, size, invalidate, inSet]);
  // where the present grip is on the screen, and how much of the set is here: read by tests
  useFrame(() => {
    const at = latest.current.grip && placeOf(latest.current.doc, latest.current.grip);
    const p = at && new THREE.Vector3(...at).project(lens);
    gl.domElement.dataset.grip = p ? `${((p.x + 1) / 2) * size.width} ${((1 - p.y) / 2) * size.height}` : "";
    gl.domElement.dataset.set = String(pieces.reduce((n, p) => n + sizeOfPiece(p), 0));
  });

  /** Where the eye goes to see all, or what is chosen. */
  const lookAtAll = useCallback(
    (what: Readonly<Box> | null): void => {
      const b: Readonly<Box> = what ?? latest.current.bounds ?? [-5, 0, -5, 5, 3, 5];
      const middle = new THREE.Vector3(...boxMiddle(b));
      // a ground plane that reaches far is not what is worked on
      const radius = Math.min(200, Math.max(0.2, Math.hypot(...sizeOf(b)) / 2));
      const c = controls.current;
      if (!c) return;
      if (!what && radius >= 60) middle.fromArray(latest.current.doc.camera.target);
      const span =
        !what && radius >= 60
          ? Math.max(8, 1.5 * Math.hypot(...latest.current.doc.camera.target.map((t, k) => t - latest.current.doc.camera.position[k]!)))
          : radius;
      c.target.copy(middle);
      if (lens instanceof THREE.OrthographicCamera) {
        lens.position.set(middle.x, middle.y + 5000, middle.z);
        lens.up.set(0, 0, -1);
        lens.zoom = Math.min(size.width, size.height) / (2.2 * span);
        lens.near = 0.1;
        lens.far = 20000;
      } else lens.position.copy(middle).add(new THREE.Vector3(0.9, 0.75, 1.1).normalize().multiplyScalar(2.3 * span));
      lens.updateProjectionMatrix();
      c.update();
      invalidate();
    },
    [lens, size.width, size.height, invalidate],
  );

  // controls of the eye; through a lens or light they move that
  useEffect(() => {
    const c = new OrbitControls(lens, gl.domElement);
    controls.current = c;
    c.enableDamping = false;
    c.screenSpacePanning = true;
    if (plan) c.enableRotate = false;
    let byHand = false;
    c.addEventListener("start", () => {
      byHand = true;
      if (latest.current.through !== "free") store.gesture(true);
    });
    c.addEventListener("end", () => {
      byHand = false;
      if (latest.current.through !== "free") store.gesture(false);
    });
    c.addEventListener("change", () => {
      invalidate();
      const { through: t } = latest.current;
      // the wheel has no end of its own
      if (t === "free" || (!byHand && !wheeling.current)) return;
      const [p, q] = [lens.position.toArray(), c.target.toArray()];
      store
        .getState()
        .set((d) =>
          t === "lens"
            ? moved(moved(d, { kind: "lens" }, p), { kind: "aim" }, q)
            : moved(moved(d, { kind: "light", index: t }, p), { kind: "target", index: t }, q),
        );
    });
    const wheel = (): void => {
      wheeling.current = true;
      queueMicrotask(() => (wheeling.current = false));
    };
    gl.domElement.addEventListener("wheel", wheel, { capture: true });
    lookAtAll(null);
    return () => {
      gl.domElement.removeEventListener("wheel", wheel, { capture: true });
      c.dispose();
      controls.current = null;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- made once for each eye
  }, [lens, gl, plan, store, invalidate]);
  const wheeling = useRef(false);

  const known = bounds !== null;
  useEffect(() => {
    if (known) lookAtAll(null);
  }, [known, lookAtAll]);
  useEffect(() => {
    if (frame === 0) return;
    const { inSet: s, objectBounds: o, grip: g, doc: d } = latest.current;
    const at = g && placeOf(d, g);
    lookAtAll(s ? (o[s.object] ?? null) : at ? [...map3(at, (v) => v - 1.5), ...map3(at, (v) => v + 1.5)] : null);
  }, [frame, lookAtAll]);

  // looking through something puts the eye there, and follows it when it is moved otherwise
  const seen = through === "free" ? null : through === "lens" ? doc.camera : doc.lights[through];
  useEffect(() => {
    const c = controls.current;
    if (!c || !seen || !("target" in seen) || !(lens instanceof THREE.PerspectiveCamera)) return;
    lens.position.fromArray(seen.position);
    c.target.fromArray(seen.target);
    lens.fov = "fieldOfView" in seen ? seen.fieldOfView : seen.kind === "spot" ? Math.min(120, seen.cone * 1.1) : 70;
    lens.near = reach / 5000;
    lens.far = Math.max(1000, reach * 20);
    lens.updateProjectionMatrix();
    c.update();
    invalidate();
  }, [seen, lens, reach, invalidate]);
  useEffect(() => {
    if (through !== "free" || !(lens instanceof THREE.PerspectiveCamera)) return;
    lens.fov = 45;
    lens.near = reach / 2000;
    lens.far = Math.max(1000, reach * 20);
    lens.updateProjectionMatrix();
    invalidate();
  }, [through, lens, reach, invalidate]);

  // handles
  useEffect(() => {
    const h = new TransformControls(lens, gl.domElement);
    handles.current = h;
    const root = group.current!;
    root.add(h.getHelper(), proxy);
    h.attach(proxy);
    h.setColors("#d98f7a", "#9cc48a", "#8aa6d9", ACCENT);
    let startMatrix: THREE.Matrix4 | null = null;
    const placement = (d: SceneDocument, index: number): THREE.Matrix4 => {
      const o = d.objects[index]!;
      const m = placementMatrix(o.position, o.rotation, o.kind === "model" ? o.scale : 1);
      return new THREE.Matrix4().set(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], 0, 0, 0, 1);
    };
    const apply = (d: SceneDocument, g: Grip): SceneDocument => {
      if (h.getMode() === "rotate") {
        const e = new THREE.Matrix4().makeRotationFromQuaternion(proxy.quaternion).elements;
        return turned(d, g, anglesOf([e[0], e[4], e[8], e[1], e[5], e[9], e[2], e[6], e[10]]));
      }
      return moved(d, g, proxy.position.toArray());
    };
    h.addEventListener("dragging-changed", (e) => {
      const dragging = e.value as boolean;
      if (controls.current) controls.current.enabled = !dragging;
      const { grip: g, doc: d } = latest.current;
      if (!g) return;
      if (g.kind === "object") {
        // a set takes seconds to rebuild: it is moved in this drawing first, and in the document once let go
        if (dragging) startMatrix = placement(d, g.index).invert();
        else {
          startMatrix = null;
          const next = apply(store.getState().document, g);
          store.getState().set(() => next);
        }
        return;
      }
      store.gesture(dragging);
    });
    h.addEventListener("objectChange", () => {
      const { grip: g, doc: d } = latest.current;
      if (!g || !h.dragging) return;
      if (g.kind === "object") {
        const shown = root.parent?.getObjectByName(`object ${g.index}`);
        if (shown && startMatrix) {
          shown.matrixAutoUpdate = false;
          shown.matrix.copy(placement(apply(d, g), g.index)).multiply(startMatrix);
        }
        invalidate();
        return;
      }
      store.getState().set((now) => apply(now, g));
    });
    h.addEventListener("change", () => invalidate());
    return () => {
      h.detach();
      root.remove(h.getHelper(), proxy);
      h.dispose();
      handles.current = null;
    };
  }, [lens, gl, proxy, store, invalidate]);

  const place = grip && canMove(doc, grip) ? placeOf(doc, grip) : null;
  const angles = grip ? turnOf(doc, grip) : null;
  useEffect(() => {
    const h = handles.current;
    if (!h) return;
    const shown = place !== null && !(through === "lens" && (grip?.kind === "lens" || grip?.kind === "aim"));
    h.enabled = shown;
    h.getHelper().visible = shown;
    h.setMode(turn && angles ? "rotate" : "translate");
    h.setSpace(turn && angles ? "local" : "world");
    h.setTranslationSnap(snap ? stepFor(reach) : null);
    h.setRotationSnap(snap ? Math.PI / 12 : null);
    h.setSize(0.7);
    if (place && !h.dragging) {
      proxy.position.fromArray(place);
      const m = placementMatrix([0, 0, 0], angles ?? [0, 0, 0]);
      proxy.setRotationFromMatrix(new THREE.Matrix4().set(m[0], m[1], m[2], 0, m[4], m[5], m[6], 0, m[8], m[9], m[10], 0, 0, 0, 0, 1));
    }
    invalidate();
  }, [place, angles, turn, snap, reach, proxy, grip, through, invalidate]);
  // a set that was built anew stands where it is: what a drag moved here goes back
  useEffect(() => {
    group.current?.parent?.traverse((o) => {
      if (!o.name.startsWith("object ")) return;
      o.matrixAutoUpdate = true;
      o.matrix.identity();
    });
  }, [pieces]);

  // clicks: grips first, then the set
  useEffect(() => {
    const element = gl.domElement;
    let from: [number, number] | null = null;
    const down = (e: PointerEvent): void => void (from = e.button === 0 && !handles.current?.axis ? [e.clientX, e.clientY] : null);
    const up = (e: PointerEvent): void => {
      if (!from || Math.hypot(e.clientX - from[0], e.clientY - from[1]) > 3) return;
      from = null;
      const r = element.getBoundingClientRect();
      const [x, y] = [e.clientX - r.left, e.clientY - r.top];
      const { doc: d, tool: t, through: th } = latest.current;
      if (t === "measure" || t === "person") {
        const hit = picker.at(gl, lens, x, y);
        if (!hit) return;
        if (t === "person") view.setState({ person: hit.point, tool: "none" });
        else view.measure(hit.point);
        return;
      }
      if (t === "aim" || t === "look") {
        const hit = picker.at(gl, lens, x, y);
        if (hit) aimAt(t, store, view, hit.point);
        return;
      }
      const p = new THREE.Vector3();
      let best: Grip | null = null,
        nearest = 11;
      for (const { grip: g, at } of gripsOf(
        d,
        view.getState().lights,
        shapedMedium(d, view.getState()),
        view.getState().open === "lights",
        th,
      )) {
        p.fromArray(at).project(lens);
        if (p.z > 1) continue;
        const away = Math.hypot(((p.x + 1) / 2) * r.width - x, ((1 - p.y) / 2) * r.height - y);
        if (away < nearest) {
          nearest = away;
          best = g;
        }
      }
      if (best) {
        choose(best);
        return;
      }
      const hit = picker.at(gl, lens, x, y);
      if (hit && !d.objects[hit.object]?.locked) choose({ kind: "object", index: hit.object });
      else view.setState({ grip: null, chosen: null });
    };
    const choose = (g: Grip): void => {
      if (g.kind === "light" || g.kind === "target" || g.kind === "gobo" || g.kind === "goboTurn")
        view.setState({ grip: g, lights: [g.index], chosen: null, open: "lights" });
      else if (g.kind === "sunGobo") view.setState({ grip: g, open: "lights" });
      else if (g.kind === "object") view.setState({ grip: g, chosen: { object: g.index, part: null }, open: "set" });
      else if (g.kind === "medium" || g.kind === "side") view.setState({ grip: g, medium: g.index, chosen: null, open: "air" });
      else view.setState({ grip: g, chosen: null });
    };
    // traced beside the page: a pixel drawn to be read back would wait for all that is being drawn
    const told = new Latest(async ([x, y]: [number, number]) => {
      const r = element.getBoundingClientRect();
      const { origin, direction } = rayOfPixel(lens, (2 * x) / r.width - 1, 1 - (2 * y) / r.height);
      try {
        const worker = await session.section.asked();
        const distance = await worker.distance(session.seen(), origin, direction);
        const { camera: c } = latest.current.doc;
        const away = distance === null ? null : Math.hypot(...origin.map((o, k) => o + distance * direction[k]! - c.position[k]!));
        view.pointer.setState({ distance: away });
      } catch {
        view.pointer.setState({ distance: null }); // not built yet
      }
    });
    const hover = (e: PointerEvent): void => {
      if (e.buttons) return;
      const r = element.getBoundingClientRect();
      told.ask([e.clientX - r.left, e.clientY - r.top]);
    };
    element.addEventListener("pointerdown", down, { capture: true });
    element.addEventListener("pointerup", up);
    element.addEventListener("pointermove", hover);
    return () => {
      element.removeEventListener("pointerdown", down, { capture: true });
      element.removeEventListener("pointerup", up);
      element.removeEventListener("pointermove", hover);
      told.clear();
    };
  }, [gl, lens, picker, view, store, session]);

  // lights chosen elsewhere are taken hold of here
  useEffect(() => {
    const last = chosen.at(-1);
    const g = view.getState().grip;
    const held = g && (g.kind === "light" || g.kind === "target" || g.kind === "gobo" || g.kind === "goboTurn") && g.index === last;
    if (typeof last === "number" && !held) view.setState({ grip: { kind: "light", index: last } });
  }, [chosen, view]);
  useEffect(() => {
    if (inSet && inSet.part === null) view.setState({ grip: { kind: "object", index: inSet.object } });
  }, [inSet, view]);

  const lensLines = useMemo(() => lensOutline(doc, reach), [doc, reach]);
  const outlines = useMemo(() => doc.lights.map((l) => lightOutline(l, reach / 2)), [doc.lights, reach]);
  // lights that are not chosen, lit and unlit, in one draw each
  const [lit, unlit] = useMemo(() => {
    const others = doc.lights.filter((_, i) => i !== through && !chosen.includes(i));
    return [others.filter((l) => l.on).map((l) => l.position), others.filter((l) => !l.on).map((l) => l.position)];
  }, [doc.lights, chosen, through]);
  const volumes = useSession((s) => s.volumes);
  const contours = useContours(
    doc,
    doc.air.map((m) => m.region),
    null,
  );
  const media = useMemo(
    () =>
      doc.air.map((m) =>
        mediumOutline(m, reach, gridBox(m, volumes, doc.time), m.region.kind === "mesh" ? contours[m.region.object] : undefined),
      ),
    [doc.air, doc.time, reach, volumes, contours],
  );
  const knobs = useMemo(() => doc.lights.map(goboKnob), [doc.lights]);
  const { open, medium } = useView((s) => s);
  const sunKnob = useMemo(() => (open === "lights" ? sunGoboKnob(doc) : null), [doc, open]);
  const shaped = shapedMedium(doc, { open, medium });
  const shapedRegion = shaped === null ? null : doc.air[shaped]!.region;
  const sides = useMemo(() => (shapedRegion ? regionSides(shapedRegion, doc.camera.target) : []), [shapedRegion, doc.camera.target]);
  const sunLine = useMemo(() => {
    const s = sunDirection(doc.sun.azimuth, doc.sun.elevation);
    const from = doc.camera.target;
    return [...from, ...along(from, s, reach * 0.25)];
  }, [doc.sun.azimuth, doc.sun.elevation, doc.camera.target, reach]);
  const box = inSet && inSet.part === null ? (objectBounds[inSet.object] ?? null) : null;
  const boxLines = useMemo(() => {
    if (!box) return [];
    const out: number[] = [];
    boxOutline(out, cornersOf(box));
    return out;
  }, [box]);
  return (
    <>
      <color attach="background" args={["#262626"]} />
      <SetMeshes pieces={pieces} />
      <group ref={group} />
      {through !== "lens" && <Lines points={lensLines} colour={ACCENT} />}
      {through !== "lens" && <Mark at={doc.camera.position} colour={ACCENT} size={sameGrip(grip, { kind: "lens" }) ? 11 : 7} />}
      {through !== "lens" && <Mark at={doc.camera.target} colour={ACCENT} size={5} />}
      {doc.sun.on && <Lines points={sunLine} colour={AMBER} />}
      {sunKnob && <GoboMarks knob={sunKnob} cone={false} grip={grip} index={null} />}
      {lit.length > 0 && <Marks at={lit} colour={AMBER} size={7} />}
      {unlit.length > 0 && <Marks at={unlit} colour={QUIET} size={7} />}
      {doc.lights.map((l, i) => {
        const picked = chosen.includes(i);
        if (through === i || !(picked || doc.lights.length <= 40)) return null;
        return (
          <group key={i}>
            <Lines points={outlines[i]!} colour={picked ? ACCENT : l.on ? AMBER : QUIET} faint={picked} />
            {picked && <Mark at={l.position} colour={ACCENT} size={11} />}
            {picked && "target" in l && <Mark at={l.target} colour={ACCENT} size={7} />}
            {picked && knobs[i] && <GoboMarks knob={knobs[i]} cone={l.kind === "spot"} grip={grip} index={i} />}
          </group>
        );
      })}
      {media.map((points, i) => points.length > 0 && <Lines key={i} points={points} colour={doc.air[i]!.on ? "#b7c4d8" : QUIET} />)}
      {doc.air.map((m, i) => {
        const at = middleOf(m);
        return at && <Mark key={i} at={at} colour="#b7c4d8" size={sameGrip(grip, { kind: "medium", index: i }) ? 9 : 5} />;
      })}
      {sides.map((side, i) => (
        <Mark key={side.name} at={side.at} colour={ACCENT} size={sameGrip(grip, { kind: "side", index: shaped!, side: i }) ? 10 : 6} />
      ))}
      {boxLines.length > 0 && <Lines points={boxLines} colour={ACCENT} />}
      {measured.map((p, i) => (
        <Mark key={i} at={p} colour={ACCENT} size={8} />
      ))}
      {measured.length === 2 && <Lines points={measured.flat()} colour={ACCENT} />}
    </>
  );
}
