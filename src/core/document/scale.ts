/** A document made larger or smaller as a whole: the same picture of a set whose real size is another. */
import { documentSchema, type Camera, type Medium, type SceneDocument, type SceneObject } from "./schema";
import type { Gobo, Light } from "./lights";
import { motionBy } from "./motion";
import { problemsOf } from "./parse";
import { InputError } from "../errors";

type V3 = [number, number, number];

const tidy = (v: number): number => Number(v.toPrecision(9));

/**
 * Multiplies every length by `k`. Coefficients are divided by it and light that falls with distance is made
 * stronger by its square, so that the picture stays what it was (docs/physics.md, invariants).
 * @throws InputError where something would leave its limits; nothing is changed then
 */
export function scaleDocument(doc: SceneDocument, k: number): SceneDocument {
  const m = (v: number): number => tidy(v * k);
  const v3 = (v: readonly number[]): V3 => v.map(m) as V3;
  const v2 = (v: readonly number[]): [number, number] => v.map(m) as [number, number];
  const camera = (c: Camera): Camera => ({
    ...c,
    position: v3(c.position),
    target: v3(c.target),
    height: m(c.height),
    aperture: m(c.aperture),
    focus: m(c.focus),
    motion: motionBy(c.motion, v3),
  });
  const gobo = <T extends Gobo | null>(g: T): T => (g ? { ...g, size: m(g.size), distance: m(g.distance) } : g);
  const object = (o: SceneObject): SceneObject => {
    const position = v3(o.position);
    switch (o.kind) {
      case "model":
        return { ...o, position, scale: m(o.scale) };
      case "box":
        return { ...o, position, size: v3(o.size) };
      case "rectangle":
        return { ...o, position, size: v2(o.size) };
      case "cylinder":
        return { ...o, position, radius: m(o.radius), height: m(o.height) };
      case "sphere":
      case "disk":
        return { ...o, position, radius: m(o.radius) };
      case "plate":
        return { ...o, position };
    }
  };
  const result = documentSchema.safeParse({
    ...doc,
    objects: doc.objects.map(object),
    materials: Object.fromEntries(
      Object.entries(doc.materials).map(([name, x]) => [name, { ...x, attenuationDistance: Math.min(1e6, m(x.attenuationDistance)) }]),
    ),
    camera: camera(doc.camera),
    lenses: doc.lenses.map((l) => ({ ...l, camera: camera(l.camera) })),
    sun: { ...doc.sun, gobo: gobo(doc.sun.gobo) },
    lights: doc.lights.map((light) => scaleLight(light, k, v3, gobo)),
    air: doc.air.map((medium) => scaleMedium(medium, k, v3)),
    pins: doc.pins.map((p) => ({ ...p, point: v3(p.point) })),
    // depth stays as the file has it: its unit grows
    plate: doc.plate && { ...doc.plate, unit: m(doc.plate.unit), position: v3(doc.plate.position) },
    render: { ...doc.render, stepSize: doc.render.stepSize === "auto" ? "auto" : m(doc.render.stepSize) },
  });
  if (!result.success) throw new InputError(`scale: ${k} times leads past what a document may hold`, problemsOf(result.error));
  return result.data;
}

function scaleLight(light: Light, k: number, v3: (v: readonly number[]) => V3, gobo: <T extends Gobo | null>(g: T) => T): Light {
  const m = (v: number): number => tidy(v * k);
  const f = light.fade;
  const far = (v: number): number => Math.min(1e7, m(v));
  const common = {
    position: v3(light.position),
    motion: motionBy(light.motion, v3),
    intensity: light.unit === "cd/m2" ? light.intensity : tidy(light.intensity * k * k),
    fade: f && { nearFrom: m(f.nearFrom), nearTo: m(f.nearTo), farFrom: far(f.farFrom), farTo: far(f.farTo) },
  };
  switch (light.kind) {
    case "spot":
      return { ...light, ...common, target: v3(light.target), radius: m(light.radius), gobo: gobo(light.gobo) };
    case "rectangle":
      return { ...light, ...common, target: v3(light.target), size: [m(light.size[0]), m(light.size[1])], gobo: gobo(light.gobo) };
    case "disk":
      return { ...light, ...common, target: v3(light.target), radius: m(light.radius), gobo: gobo(light.gobo) };
    case "sphere":
      return { ...light, ...common, radius: m(light.radius) };
    case "tube":
      return { ...light, ...common, radius: m(light.radius), length: m(light.length) };
    case "profile":
      return { ...light, ...common, intensity: light.intensity, target: v3(light.target), scale: tidy(light.scale * k * k) };
    case "point":
      return { ...light, ...common };
  }
}

function scaleMedium(a: Medium, k: number, v3: (v: readonly number[]) => V3): Medium {
  const m = (v: number): number => tidy(v * k);
  const region = ((): Medium["region"] => {
    const r = a.region;
    switch (r.kind) {
      case "box":
        return { ...r, centre: v3(r.centre), size: v3(r.size) };
      case "sphere":
        return { ...r, centre: v3(r.centre), radius: m(r.radius) };
      case "cylinder":
      case "cone":
        return { ...r, centre: v3(r.centre), radius: m(r.radius), height: m(r.height) };
      case "layer":
        return { ...r, level: m(r.level) };
      case "everywhere":
      case "mesh":
        return r;
    }
  })();
  return {
    ...a,
    density: tidy(a.density / k),
    region,
    edge: m(a.edge),
    height: a.height && { ...a.height, level: m(a.height.level), scale: m(a.height.scale) },
    noise: a.noise && { ...a.noise, size: m(a.noise.size), drift: v3(a.noise.drift) },
    grid: a.grid && { ...a.grid, position: v3(a.grid.position), scale: m(a.grid.scale) },
    proximity: a.proximity && { ...a.proximity, curve: a.proximity.curve.map(([d, s]) => [m(d), s] as [number, number]) },
    emission: a.emission && { ...a.emission, strength: tidy(a.emission.strength / k) },
    start: a.start && { ...a.start, distance: m(a.start.distance), fade: m(a.start.fade) },
  };
}
