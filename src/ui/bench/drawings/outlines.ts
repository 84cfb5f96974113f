/** Outlines of lights, media and the lens as line segments: pairs of points, 6 numbers each. */
import { columns3 } from "#core/math/matrix";
import { projectPoint } from "#core/scene/pick";
import { cameraFrame } from "#core/document/camera";
import { map3, dot, sub, across, unit, type V3 } from "#core/math/vectors";
import { rotationOf } from "#core/math/rotation";
import type { Light, Medium, SceneDocument } from "#core/document/schema";

import type { GoboKnob } from "../model/gobo-handles";

type Lines = number[];
const NONE: V3 = [0, 0, 0];
const along = (o: Readonly<V3>, a: Readonly<V3>, s: number, b: Readonly<V3> = NONE, t = 0): V3 =>
  map3(o, (v, k) => v + s * a[k] + t * b[k]);
const line = (out: Lines, a: Readonly<V3>, b: Readonly<V3>): void => void out.push(...a, ...b);

function ring(out: Lines, centre: Readonly<V3>, u: Readonly<V3>, v: Readonly<V3>, n = 40): void {
  for (let i = 0; i < n; i++) {
    const [a, b] = [(2 * Math.PI * i) / n, (2 * Math.PI * (i + 1)) / n];
    line(out, along(centre, u, Math.cos(a), v, Math.sin(a)), along(centre, u, Math.cos(b), v, Math.sin(b)));
  }
}
const scaled = (v: Readonly<V3>, s: number): V3 => map3(v, (c) => c * s);

/** Shape and beam of a light. @param reach length to draw beams of, m */
export function lightOutline(light: Light, reach: number): Lines {
  const out: Lines = [];
  const p = light.position;
  const axis: V3 = "target" in light ? unit(sub(light.target, p)) : light.kind === "tube" ? unit(light.direction) : [0, -1, 0];
  const [u, v] = across(axis, "roll" in light ? light.roll : 0);
  switch (light.kind) {
    case "spot": {
      const length = Math.min(reach, Math.hypot(...sub(light.target, p)));
      const r = length * Math.tan((Math.min(light.cone, 170) * Math.PI) / 360);
      const end = along(p, axis, length);
      ring(out, end, scaled(u, r), scaled(v, r));
      for (const [a, b] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) line(out, p, along(end, u, a * r, v, b * r)); // prettier-ignore
      break;
    }
    case "rectangle": {
      const [w, h] = [light.size[0] / 2, light.size[1] / 2];
      const corner = (a: number, b: number): V3 => along(p, u, a * w, v, b * h);
      line(out, corner(-1, -1), corner(1, -1));
      line(out, corner(1, -1), corner(1, 1));
      line(out, corner(1, 1), corner(-1, 1));
      line(out, corner(-1, 1), corner(-1, -1));
      line(out, p, along(p, axis, Math.min(reach / 4, 2 * Math.max(w, h))));
      break;
    }
    case "disk":
      ring(out, p, scaled(u, light.radius), scaled(v, light.radius));
      line(out, p, along(p, axis, Math.min(reach / 4, 2 * light.radius)));
      break;
    case "sphere":
      for (const [a, b] of [[u, v], [u, axis], [v, axis]] as const) ring(out, p, scaled(a, light.radius), scaled(b, light.radius)); // prettier-ignore
      break;
    case "tube":
      line(out, along(p, axis, -light.length / 2), along(p, axis, light.length / 2));
      for (const s of [-0.5, 0.5]) ring(out, along(p, axis, s * light.length), scaled(u, light.radius), scaled(v, light.radius), 16);
      break;
    case "profile":
      line(out, p, along(p, axis, reach / 12));
      ring(out, along(p, axis, reach / 12), scaled(u, reach / 40), scaled(v, reach / 40), 20);
      break;
    case "point":
      break;
  }
  return out;
}

/** A gobo before its lamp and the border of its light, with a spoke towards the knob that turns it. */
export function goboOutline(knob: GoboKnob, cone: boolean): Lines {
  const out: Lines = [];
  const square = (centre: Readonly<V3>, half: number): void => {
    const corner = (a: number, b: number): V3 => along(along(centre, knob.right, a * half), knob.up, b * half);
    const corners = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
    corners.forEach((c, i) => line(out, c, corners[(i + 1) % 4]!));
  };
  square(knob.middle, knob.own);
  if (cone) square(knob.end, knob.half);
  line(out, cone ? knob.end : knob.middle, knob.rim);
  return out;
}

/** Edges of a box by its corners, whose numbers' bits say the side along each axis. */
export function boxOutline(out: Lines, corners: readonly V3[]): void {
  for (let i = 0; i < 8; i++) for (const bit of [1, 2, 4]) if (!(i & bit)) line(out, corners[i]!, corners[i | bit]!);
}

/**
 * Border of a medium's region, and the box about its grid; nothing for air that is everywhere.
 * @param grid corners of that box, once the file is read @param contour outline of the mesh that it is in
 */
export function mediumOutline(medium: Medium, reach: number, grid: readonly V3[] | null = null, contour: Lines = []): Lines {
  const out: Lines = medium.region.kind === "mesh" ? [...contour] : [];
  if (grid) boxOutline(out, grid);
  const r = medium.region;
  if (r.kind === "layer") {
    const up = unit(r.up);
    const [u, v] = across(up);
    const at = scaled(up, r.level);
    const s = reach / 2;
    for (const t of [-1, 0, 1]) {
      line(out, along(at, u, -s, v, t * s), along(at, u, s, v, t * s));
      line(out, along(at, u, t * s, v, -s), along(at, u, t * s, v, s));
    }
    return out;
  }
  if (!("centre" in r)) return out;
  const m = rotationOf("rotation" in r ? r.rotation : [0, 0, 0]);
  const [x, y, z] = columns3(m);
  const c = r.centre;
  if (r.kind === "sphere")
    for (const [a, b] of [[x, y], [x, z], [y, z]] as const) ring(out, c, scaled(a, r.radius), scaled(b, r.radius)); // prettier-ignore
  else if (r.kind === "box") {
    const corner = (i: number): V3 => along(along(c, x, (((i & 1) - 0.5) * r.size[0])), y, (((i >> 1) & 1) - 0.5) * r.size[1], z, ((i >> 2) - 0.5) * r.size[2]); // prettier-ignore
    boxOutline(
      out,
      Array.from({ length: 8 }, (_, i) => corner(i)),
    );
  } else {
    const [low, high] = [along(c, y, -r.height / 2), along(c, y, r.height / 2)];
    ring(out, low, scaled(x, r.radius), scaled(z, r.radius));
    if (r.kind === "cylinder") ring(out, high, scaled(x, r.radius), scaled(z, r.radius));
    for (const [a, b] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
      const foot = along(low, x, a * r.radius, z, b * r.radius);
      line(out, foot, r.kind === "cone" ? high : along(high, x, a * r.radius, z, b * r.radius));
    } // prettier-ignore
  }
  return out;
}

/** The lens: its frame at a distance, and the edges that lead there. */
export function lensOutline(doc: SceneDocument, reach: number): Lines {
  const out: Lines = [];
  const { camera, film } = doc;
  const { right, up, forward } = cameraFrame(camera);
  const far = Math.min(reach, Math.hypot(...sub(camera.target, camera.position)));
  const perspective = camera.kind === "perspective";
  const hy = perspective ? far * Math.tan((camera.fieldOfView * Math.PI) / 360) : camera.height / 2;
  const hx = (hy * film.size[0]) / film.size[1];
  const end = along(camera.position, forward, far);
  const corners = ([[-1, -1], [1, -1], [1, 1], [-1, 1]] as const).map(([a, b]) => ({ far: along(end, right, a * hx, up, b * hy), near: perspective ? camera.position : along(camera.position, right, a * hx, up, b * hy) })); // prettier-ignore
  corners.forEach((c, i) => {
    line(out, c.near, c.far);
    line(out, c.far, corners[(i + 1) % 4]!.far);
  });
  // a mark that says which side is up
  line(out, along(end, up, hy, right, -hx * 0.15), along(end, up, hy * 1.15));
  line(out, along(end, up, hy, right, hx * 0.15), along(end, up, hy * 1.15));
  return out;
}

type Pair = [number, number];
/** Line segments (6 numbers each, m) as they appear in the frame; what lies behind the lens is cut away. */
export function segmentsInFrame(doc: SceneDocument, lines: readonly number[]): [Pair, Pair][] {
  const { forward } = cameraFrame(doc.camera);
  const near = doc.camera.kind === "perspective" ? 1e-3 : -Infinity;
  const depth = (p: V3): number => dot(forward, sub(p, doc.camera.position));
  const out: [Pair, Pair][] = [];
  for (let i = 0; i < lines.length; i += 6) {
    let [from, to] = [lines.slice(i, i + 3) as V3, lines.slice(i + 3, i + 6) as V3];
    const [a, b] = [depth(from), depth(to)];
    if (a < near && b < near) continue;
    // the end behind the lens moves up to just before it
    const cut = (front: V3, inFront: number, behind: V3, hidden: number): V3 =>
      along(front, sub(behind, front), (inFront - 1.01 * near) / (inFront - hidden));
    if (a < near) from = cut(to, b, from, a);
    else if (b < near) to = cut(from, a, to, b);
    const [p, q] = [projectPoint(doc, from), projectPoint(doc, to)];
    if (p && q) out.push([[p.x, p.y], [q.x, q.y]]); // prettier-ignore
  }
  return out;
}
