/** Edits of a plate as changes of the document: another one, its lens, taken away. */
import { freeName } from "#core/document/place";
import { plateSchema, type Plate } from "#core/document/plate";
import { plateCamera, withPlate } from "#core/document/plate-lens";
import type { SceneDocument } from "#core/document/schema";
import { degreesHeld } from "#core/plate/begin";
import { axisDirection, upByHorizon, type PlateLens } from "#core/plate/lens";

/** Puts what was brought in into a document: its files, its surface, its lens, the size of its picture. Of an empty document the exposure, too. */
export function withBrought(doc: SceneDocument, brought: SceneDocument): SceneDocument {
  const plate = brought.plate!;
  const assets = { ...doc.assets };
  const named = new Map<string, string>();
  for (const [key, asset] of Object.entries(brought.assets)) {
    const had = Object.entries(assets).find(([, a]) => a.sha256 === asset.sha256)?.[0];
    const name = had ?? freeName(key, Object.keys(assets));
    assets[name] = asset;
    named.set(key, name);
  }
  const own = { ...plate, picture: named.get(plate.picture)!, depth: named.get(plate.depth)! };
  const surface = doc.objects.some((o) => o.kind === "plate");
  const empty = doc.objects.length === 0 && doc.plate === null;
  const material = freeName("plate", Object.keys(doc.materials));
  const { exposure, whiteBalance, tint, finish, size } = brought.film;
  return {
    ...doc,
    assets,
    ...(surface
      ? {}
      : {
          materials: { ...doc.materials, [material]: brought.materials["plate"]! },
          objects: [
            ...doc.objects,
            ...brought.objects.map((o) => ({
              ...o,
              ...("material" in o ? { material } : {}),
              name: freeName("plate", doc.objects.flatMap((x) => (x.name ? [x.name] : []))),
            })),
          ] as SceneDocument["objects"],
        }),
    plate: own,
    camera: plateCamera(own, doc.camera),
    film: { ...doc.film, size, ...(empty ? { exposure, whiteBalance, tint, finish } : {}) },
  }; // prettier-ignore
}

/** Changes a plate; its lens goes along where one looks through it. What cannot be leaves all as it is. */
export function changePlate(doc: SceneDocument, change: Partial<Plate>): SceneDocument {
  if (!doc.plate) return doc;
  const next = { ...doc.plate, ...change };
  return plateSchema.safeParse(next).success ? withPlate(doc, next) : doc;
}

/** Takes a plate away, with its surface. */
export const withoutPlate = (doc: SceneDocument): SceneDocument => ({
  ...doc,
  plate: null,
  objects: doc.objects.filter((o) => o.kind !== "plate"),
});

const lensOf = (plate: Plate, [width, height]: readonly [number, number]): PlateLens => ({
  fieldOfView: (plate.fieldOfView * Math.PI) / 180,
  width,
  height,
});

/** How a lens is held whose horizon goes through two points of the frame (shares); null where they are one. */
export function heldByHorizon(
  plate: Plate,
  size: readonly [number, number],
  a: readonly [number, number],
  b: readonly [number, number],
): Pick<Plate, "tilt" | "roll"> | null {
  if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 1e-4) return null;
  const { tilt, roll } = degreesHeld(upByHorizon(lensOf(plate, size), a, b));
  return Math.abs(tilt) < 89.99 ? { tilt, roll } : null;
}

/**
 * How far a lens leans for which something upright goes through two points of the frame (shares), its tilt as it is: up lies in the plane of both
 * directions. Null where no lean does it.
 */
export function rollByUpright(
  plate: Plate,
  size: readonly [number, number],
  a: readonly [number, number],
  b: readonly [number, number],
): number | null {
  const lens = lensOf(plate, size);
  const [p, q] = [axisDirection(lens, ...a), axisDirection(lens, ...b)];
  const n = [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]] as const;
  const tilt = (plate.tilt * Math.PI) / 180;
  // up = (−sin ρ cos τ, cos ρ cos τ, −sin τ), so up·n = 0 is A cos ρ + B sin ρ = C
  const [A, B, C] = [Math.cos(tilt) * n[1], -Math.cos(tilt) * n[0], Math.sin(tilt) * n[2]];
  const size2 = Math.hypot(A, B);
  if (!(size2 > 1e-9) || Math.abs(C) > size2) return null;
  const [about, off] = [Math.atan2(B, A), Math.acos(C / size2)];
  const wrapped = (v: number): number => v - 2 * Math.PI * Math.round(v / (2 * Math.PI));
  const both = [wrapped(about + off), wrapped(about - off)].sort((x, y) => Math.abs(x) - Math.abs(y));
  const degrees = (-180 * both[0]!) / Math.PI;
  return Number(degrees.toFixed(4)) + 0;
}
