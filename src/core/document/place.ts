/** A set that was brought in, as part of a document. */
import { AXES, sunDirection } from "../math/vectors";
import { frameAround, type Bounds } from "./framing";
import { anglesOf, atMoment, motionBy, type SunMotion } from "./motion";
import { problemsOf } from "./parse";
import { InputError } from "../errors";
import type { Colour } from "../data/material";
import { documentSchema, LIMITS, type Lens, type Light, type SceneDocument } from "./schema";

export interface BroughtIn {
  name: string;
  bounds: Bounds;
  lenses: Lens[];
  lights: Light[];
  /** Its colour is a tint of a neutral white. */
  sun: { azimuth: number; elevation: number; illuminance: number; tint: Colour; motion: SunMotion | null } | null;
}

export interface Placing {
  /** The stored model. */
  sha256: string;
  uri: string;
  /** In place of all objects, lenses and lights that are there. */
  replace: boolean;
  lights: boolean;
  lenses: boolean;
  /** Metres that one unit of the file is. */
  scale: number;
  /** Axis of the file that points up; glTF's is y. */
  up: "y" | "z";
}

/** Sizes (m) of sets as they are met: from a table top to a street. What is larger or smaller is more often in other units. */
const USUAL = [0.8, 150] as const;
/** A room or a house: what a set in other units should come to. */
const LIKELY = [1.5, 80] as const;
/** Units (m) that files are in where they are not in metres, the likelier first. */
const UNITS = [0.01, 0.001, 0.0254, 0.3048] as const;

/**
 * Length (m) that one unit of a file probably is, by its longest side in units. The glTF and OBJ of many programs are in centimetres
 * or millimetres, whatever the format says. @returns null where metres give a usual size, or nothing does
 */
export function likelyScale(longest: number): number | null {
  if (longest >= USUAL[0] && longest <= USUAL[1]) return null;
  return UNITS.find((u) => longest * u >= LIKELY[0] && longest * u <= LIKELY[1]) ?? null;
}

/** A name that is not taken yet. */
export function freeName(wanted: string, taken: readonly string[]): string {
  const base = wanted.slice(0, 100) || "set";
  let name = base;
  for (let i = 2; taken.includes(name); i++) name = `${base} ${i}`;
  return name;
}

/** Places a point or length of the file in the document. */
function placed(v: readonly number[], p: Placing): [number, number, number] {
  const [x, y, z] = v.map((c) => c * p.scale) as [number, number, number];
  return p.up === "y" ? [x, y, z] : [x, z, -y];
}

/** Bounds of a set as it will lie in the document. */
export function placedBounds(b: Bounds, p: Pick<Placing, "scale" | "up">): Bounds {
  const at = (v: number[]): number[] => placed(v, { ...p } as Placing);
  const [a, c] = [at(b.slice(0, 3)), at(b.slice(3))];
  return AXES.map((k) => Math.min(a[k]!, c[k]!)).concat(AXES.map((k) => Math.max(a[k]!, c[k]!))) as Bounds;
}

/**
 * Adds a set to a document: its model as an object, its lenses kept by name, its lights and sun where wanted. The
 * first set of an empty document, or one that replaces all, is looked at.
 * @throws InputError where the document would leave its limits
 */
export function placeSet(doc: SceneDocument, set: BroughtIn, p: Placing): SceneDocument {
  const base = p.replace ? emptied(doc, p.lights) : doc;
  const plain = set.name.replace(/\.[^.]*$/, "") || "set";
  const known = Object.entries(base.assets).find(([, a]) => a.sha256 === p.sha256)?.[0];
  const asset = known ?? freeName(plain, Object.keys(base.assets));
  const lensAt = (l: Lens): Lens => ({
    ...l,
    camera: {
      ...l.camera,
      position: placed(l.camera.position, p),
      target: placed(l.camera.target, p),
      height: l.camera.height * p.scale,
      focus: Math.min(LIMITS.coordinate, l.camera.focus * p.scale),
      motion: motionBy(l.camera.motion, (v) => placed(v, p)),
    },
  });
  const lenses = p.lenses ? set.lenses.map(lensAt) : [];
  const kept = [...base.lenses];
  for (const lens of lenses) kept.push({ ...lens, name: freeName(lens.name, kept.map((l) => l.name)) }); // prettier-ignore
  const light = (l: Light): Light => ({
    ...l,
    position: placed(l.position, p),
    ...("target" in l ? { target: placed(l.target, p) } : {}),
    motion: motionBy(l.motion, (v) => placed(v, p)),
    // candela of a file in other units are taken as they are: what they give falls with the real distance
    ...(l.fade ? { fade: { ...l.fade, farFrom: l.fade.farFrom * p.scale, farTo: l.fade.farTo * p.scale } } : {}),
  });
  const first = base.objects.length === 0;
  const aspect = base.film.size[0] / base.film.size[1];
  const result = documentSchema.safeParse({
    ...base,
    assets: known ? base.assets : { ...base.assets, [asset]: { uri: p.uri, sha256: p.sha256 } },
    objects: [
      ...base.objects,
      {
        kind: "model",
        name: freeName(plain, base.objects.flatMap((o) => (o.name ? [o.name] : []))),
        asset,
        scale: p.scale,
        rotation: p.up === "z" ? [-90, 0, 0] : [0, 0, 0],
      },
    ],
    lenses: kept.slice(0, LIMITS.lenses),
    ...(first ? { camera: lenses[0]?.camera ?? frameAround(placedBounds(set.bounds, p), aspect, base.camera) } : {}),
    ...(p.lights ? { lights: [...base.lights, ...set.lights.map(light)] } : {}),
    ...(p.lights && set.sun ? { sun: { ...base.sun, on: true, temperature: 6500, ...turnedSun(set.sun, p) } } : {}),
  }); // prettier-ignore
  if (!result.success) throw new InputError("set: does not fit into the document", problemsOf(result.error));
  return atMoment(result.data);
}

/** The document without its set. Media that lay in or near an object go with it, and no light names them any more. */
function emptied(doc: SceneDocument, lightsToo: boolean): SceneDocument {
  const air = doc.air
    .filter((m) => m.region.kind !== "mesh" && !m.proximity)
    .map((m) => (m.follows && (m.follows.kind === "object" || lightsToo) ? { ...m, follows: null } : m));
  const names = new Set(air.map((m) => m.name));
  const reached = <T extends { media: string[] | null }>(light: T): T => ({
    ...light,
    media: light.media?.filter((n) => names.has(n)) ?? null,
  });
  return {
    ...doc,
    objects: [],
    lights: lightsToo ? [] : doc.lights.map((l) => ({ ...reached(l), follows: null })),
    sun: reached(doc.sun),
    moon: reached(doc.moon),
    lenses: [],
    air,
  };
}

/** A file's sun where the set lies in the document. */
function turnedSun(sun: NonNullable<BroughtIn["sun"]>, p: Placing): NonNullable<BroughtIn["sun"]> {
  const turned = (v: readonly number[]): [number, number, number] => placed(v, { ...p, scale: 1 });
  const motion = sun.motion && { ...sun.motion, directions: sun.motion.directions.map(turned) };
  return { ...sun, ...anglesOf(turned(sunDirection(sun.azimuth, sun.elevation))), motion };
}
