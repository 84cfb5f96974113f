/** Where a section lies: the upright plane through a ray of the lens. */
import type { SceneDocument } from "../document/schema";
import { cameraFrame } from "../document/camera";
import { sub, type V3 } from "../math/vectors";
import { rayOf } from "../scene/pick";

/** Steeper rays (sine of the angle above the level) are drawn along themselves: a level axis would squeeze them to nothing. */
const STEEP = 0.985;

export interface SectionFrame {
  /** The lens's ray: its origin (m) and unit direction. */
  origin: V3;
  direction: V3;
  /** Level unit vector that distances run along; heights run along +y. */
  right: V3;
  /** Level metres per metre of the ray. */
  level: number;
}

/** The plane of a ray through a point of the frame (shares from the upper left). */
export function sectionFrame(doc: SceneDocument, x: number, y: number): SectionFrame {
  const { origin, direction } = rayOf(doc, x, y);
  const flat = Math.hypot(direction[0], direction[2]);
  // looking straight up or down, the plane stands as the frame does
  const { up, forward } = cameraFrame(doc.camera);
  const heading = Math.abs(direction[1]) < STEEP ? direction : Math.hypot(forward[0], forward[2]) > 0.1 ? forward : up;
  const l = Math.hypot(heading[0], heading[2]);
  return { origin, direction, right: [heading[0] / l, 0, heading[2] / l], level: Math.abs(direction[1]) < STEEP ? flat : 0 };
}

/** A point of the scene in the section: distance from the lens, height, and how far it stands behind the plane (m). */
export function toSection(f: SectionFrame, p: Readonly<V3>): { s: number; y: number; away: number } {
  const d = sub(p, f.origin);
  return { s: d[0] * f.right[0] + d[2] * f.right[2], y: p[1], away: d[0] * -f.right[2] + d[2] * f.right[0] };
}

/** A point of the section in the scene, `away` metres behind the plane. */
export function fromSection(f: SectionFrame, s: number, y: number, away = 0): V3 {
  return [f.origin[0] + s * f.right[0] - away * f.right[2], y, f.origin[2] + s * f.right[2] + away * f.right[0]];
}
