/** Lights and regions that move along with an object or a light: how an edit of the one carries the other. */
import { AXES, cross, sub } from "../math/vectors";
import { anglesOf, rotationOf } from "../math/rotation";
import { product3, times3, transposed3, type Matrix3 } from "../math/matrix";
import type { Light, Medium, SceneDocument, SceneObject } from "./schema";

type V3 = [number, number, number];
/** A turn about a place, then a move: p → rotation · (p - from) · scale + to. */
interface Carry {
  rotation: Readonly<Matrix3>;
  scale: number;
  from: Readonly<V3>;
  to: Readonly<V3>;
}

const tidy = (v: readonly number[]): V3 => v.map((c) => Number(c.toPrecision(9))) as V3;
const same = (a: readonly number[], b: readonly number[]): boolean => a.every((v, k) => v === b[k]);

const at = (c: Carry, p: Readonly<V3>): V3 => tidy(times3(c.rotation, sub(p, c.from)).map((v, k) => v * c.scale + c.to[k]!));

/** How an object was moved, turned and scaled; null where it was not. */
function carryOfObject(a: SceneObject, b: SceneObject): Carry | null {
  const scales = a.kind === "model" && b.kind === "model" ? b.scale / a.scale : 1;
  if (scales === 1 && same(a.position, b.position) && same(a.rotation, b.rotation)) return null;
  return {
    rotation: product3(rotationOf(b.rotation), transposed3(rotationOf(a.rotation))),
    scale: scales,
    from: a.position,
    to: b.position,
  };
}

/** The least turn that takes unit vector a to unit vector b (Rodrigues). */
function smallestRotation(a: Readonly<V3>, b: Readonly<V3>): Matrix3 {
  const c = a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const v = cross(a, b);
  if (c < -0.999999) {
    // half a turn about any axis across
    const w: V3 = Math.abs(a[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0];
    const along = a[0] * w[0] + a[1] * w[1];
    const u = sub(w, [a[0] * along, a[1] * along, a[2] * along]);
    const l = Math.hypot(...u);
    return AXES.flatMap((r) => AXES.map((k) => (2 * u[r] * u[k]) / (l * l) - (r === k ? 1 : 0))) as Matrix3;
  }
  const k = 1 / (1 + c);
  return [
    v[0] * v[0] * k + c, v[0] * v[1] * k - v[2], v[0] * v[2] * k + v[1],
    v[0] * v[1] * k + v[2], v[1] * v[1] * k + c, v[1] * v[2] * k - v[0],
    v[0] * v[2] * k - v[1], v[1] * v[2] * k + v[0], v[2] * v[2] * k + c,
  ]; // prettier-ignore
}

/** The direction a light shines in or lies along; null for those that have none. */
function axisOf(l: Light): V3 | null {
  const v = "target" in l ? sub(l.target, l.position) : l.kind === "tube" ? l.direction : null;
  if (!v) return null;
  const length = Math.hypot(...v);
  return [v[0] / length, v[1] / length, v[2] / length];
}

function carryOfLight(a: Light, b: Light): Carry | null {
  const [u, v] = [axisOf(a), axisOf(b)];
  if (same(a.position, b.position) && (u && v ? same(u, v) : true)) return null;
  return { rotation: u && v ? smallestRotation(u, v) : [1, 0, 0, 0, 1, 0, 0, 0, 1], scale: 1, from: a.position, to: b.position };
}

function carriedLight(l: Light, c: Carry): Light {
  const moved = { ...l, position: at(c, l.position) };
  if ("target" in moved) moved.target = at(c, moved.target);
  if (moved.kind === "tube") moved.direction = tidy(times3(c.rotation, moved.direction));
  return moved;
}

function carriedMedium(m: Medium, c: Carry): Medium {
  const r = m.region;
  const turned = (angles: V3): V3 => tidy(anglesOf(product3(c.rotation, rotationOf(angles))));
  const grid = m.grid && { ...m.grid, position: at(c, m.grid.position), rotation: turned(m.grid.rotation) };
  if (!("centre" in r)) return grid ? { ...m, grid } : m;
  const region = { ...r, centre: at(c, r.centre), ...("rotation" in r ? { rotation: turned(r.rotation) } : {}) } as Medium["region"];
  return { ...m, grid, region };
}

const named = <T extends { name?: string | undefined }>(list: readonly T[], name: string): number => list.findIndex((x) => x.name === name);

/**
 * An edit as it is with all that follows: what hangs on a moved, turned or scaled object or light is carried along (sizes
 * stay), names that were changed are followed, and links to what is gone are let go. What the edit itself moved stays where
 * the edit put it.
 */
export function withFollowers(before: SceneDocument, after: SceneDocument): SceneDocument {
  if (before === after || (before.objects === after.objects && before.lights === after.lights && before.air === after.air)) return after;
  if (!after.lights.some((l) => l.follows !== null) && !after.air.some((m) => m.follows)) return after;

  const renamed = <T extends { name?: string | undefined }>(a: readonly T[], b: readonly T[], name: string): string | null => {
    if (named(b, name) >= 0) return name;
    const i = named(a, name);
    return a.length === b.length && i >= 0 ? (b[i]!.name ?? null) : null;
  };
  const carryObject = (name: string): Carry | null => {
    const [i, j] = [named(before.objects, name), named(after.objects, name)];
    return i >= 0 && j >= 0 ? carryOfObject(before.objects[i]!, after.objects[j]!) : null;
  };

  const lights = after.lights.map((l, i) => {
    if (l.follows === null) return l;
    const follows = renamed(before.objects, after.objects, l.follows);
    const kept = follows === l.follows ? l : { ...l, follows };
    const was = before.lights[i];
    const carry = follows !== null && was?.follows === follows && same(was.position, l.position) ? carryObject(follows) : null;
    return carry ? carriedLight(kept, carry) : kept;
  });
  const carryLight = (name: string): Carry | null => {
    const [i, j] = [named(before.lights, name), named(lights, name)];
    return i >= 0 && j >= 0 ? carryOfLight(before.lights[i]!, lights[j]!) : null;
  };
  const air = after.air.map((m, i) => {
    if (!m.follows) return m;
    const { kind } = m.follows;
    const name =
      kind === "object" ? renamed(before.objects, after.objects, m.follows.name) : renamed(before.lights, lights, m.follows.name);
    const kept: Medium = name === m.follows.name ? m : { ...m, follows: name === null ? null : { kind, name } };
    const was = before.air[i];
    const still =
      name !== null && was?.follows?.name === name && was.follows.kind === kind && was.region === m.region && was.grid === m.grid;
    const carry = !still ? null : kind === "object" ? carryObject(name) : carryLight(name);
    return carry ? carriedMedium(kept, carry) : kept;
  });
  return { ...after, lights, air };
}
