/**
 * Lights of OpenUSD (UsdLux) as those of a document. Their intensity times two to the exposure is a luminance in cd/m² (nits), or, where they
 * are normalised, that of a light of one square metre.
 */
import { Matrix4, Quaternion, Vector3, type Object3D } from "three";
import { anglesOf } from "../../document/motion";
import { lightSchema, LIMITS, type Light } from "../../document/schema";
import type { BroughtIn } from "../../document/place";
import { temperatureRgb } from "../../optics/colour";
import { map3, type V3 } from "../../math/vectors";

export interface UsdLights {
  lights: Light[];
  sun: BroughtIn["sun"];
}

interface Found {
  typeName: string;
  attributes: Readonly<Record<string, unknown>>;
}

const round = (v: number): number => Number(v.toPrecision(7));

/** Lights of a composed scene. @param left takes note of what is left out */
export function usdLights(scene: Object3D, left: string[]): UsdLights {
  const out: UsdLights = { lights: [], sun: null };
  scene.traverse((object) => {
    const found = object.userData.usdLight as Found | undefined;
    if (!found) return;
    const name = (object.name || found.typeName).slice(0, 100);
    try {
      if (found.typeName === "DistantLight") {
        const sun = sunOf(object, found);
        if (out.sun) left.push(`light "${name}": a document has one sun, the brightest is taken`);
        if (!out.sun || sun.illuminance > out.sun.illuminance) out.sun = sun;
      } else if (out.lights.length < LIMITS.lights) out.lights.push(lightOf(object, found, name));
    } catch {
      left.push(`light "${name}": its numbers are out of range`);
    }
  });
  return out;
}

const number = ({ attributes }: Found, key: string, otherwise: number): number => {
  const v = attributes[`inputs:${key}`] ?? attributes[key];
  return typeof v === "number" && Number.isFinite(v) ? v : otherwise;
};

/** Whether a field is set: text has it as a word. */
const flag = ({ attributes }: Found, key: string): boolean =>
  attributes[key] === true || attributes[key] === "true" || attributes[key] === 1;

/** Colour of a light as a tint of at most 1, and its luminance at that. */
function strength(found: Found, usual: number): { tint: V3; value: number } {
  const given = found.attributes["inputs:color"];
  const colour: V3 = Array.isArray(given) && given.length === 3 ? map3(given as V3, (c) => Math.max(0, Number(c) || 0)) : [1, 1, 1];
  const warm = flag(found, "inputs:enableColorTemperature") ? temperatureRgb(number(found, "colorTemperature", 6500)) : [1, 1, 1];
  const rgb = map3(colour, (c, k) => c * warm[k]!);
  const most = Math.max(...rgb);
  return {
    tint: most > 0 ? map3(rgb, (c) => round(c / most)) : [1, 1, 1],
    value: most * number(found, "intensity", usual) * 2 ** number(found, "exposure", 0),
  };
}

function placeOf(object: Object3D): { position: V3; forward: V3; scale: V3 } {
  const [p, q, s] = [new Vector3(), new Quaternion(), new Vector3()];
  object.matrixWorld.decompose(p, q, s);
  const forward = new Vector3(0, 0, -1).transformDirection(new Matrix4().makeRotationFromQuaternion(q));
  return { position: p.toArray().map(round) as V3, forward: forward.toArray(), scale: s.toArray().map(Math.abs) as V3 };
}

function sunOf(object: Object3D, found: Found): NonNullable<BroughtIn["sun"]> {
  const { forward } = placeOf(object);
  const { tint, value } = strength(found, 50_000);
  const half = (Math.max(0, number(found, "angle", 0.53)) * Math.PI) / 360;
  // what its disk gives a plane that faces it; normalised, its intensity is that itself
  const disk = flag(found, "inputs:normalize") || half === 0 ? 1 : Math.PI * Math.sin(half) ** 2;
  return { ...anglesOf(map3(forward, (c) => -c)), illuminance: round(Math.min(1e7, value * disk)), tint, motion: null };
}

function lightOf(object: Object3D, found: Found, name: string): Light {
  const { position, forward, scale } = placeOf(object);
  const { tint, value } = strength(found, 1);
  const shared = { name, position, tint, temperature: 6500 };
  const target = position.map((c, k) => round(c + 5 * forward[k]!));
  const size = (k: 0 | 1 | 2): number => scale[k];
  const whole = flag(found, "inputs:normalize");
  /** Luminance of an emitter of this area, m². */
  const of = (area: number): { unit: "cd/m2"; intensity: number } => ({
    unit: "cd/m2",
    intensity: round(Math.min(1e9, whole ? value / area : value)),
  });
  switch (found.typeName) {
    case "RectLight": {
      const [w, h] = [number(found, "width", 1) * size(0), number(found, "height", 1) * size(1)];
      return lightSchema.parse({ kind: "rectangle", ...shared, target, size: [round(w), round(h)], ...of(w * h) });
    }
    case "DiskLight": {
      const radius = number(found, "radius", 0.5) * size(0);
      return lightSchema.parse({ kind: "disk", ...shared, target, radius: round(radius), ...of(Math.PI * radius * radius) });
    }
    default: {
      const radius = number(found, "radius", 0.5) * size(0);
      const cone = number(found, "shaping:cone:angle", 180);
      const point = flag(found, "treatAsPoint") || radius <= 1e-4;
      if (!point && cone >= 90)
        return lightSchema.parse({ kind: "sphere", ...shared, radius: round(radius), ...of(4 * Math.PI * radius * radius) });
      // seen as a disk of that radius; normalised, of a sphere of one square metre
      const candela = round(Math.min(1e9, whole ? value / 4 : value * Math.PI * Math.max(radius, 1e-9) ** 2));
      if (cone >= 90) return lightSchema.parse({ kind: "point", ...shared, unit: "cd", intensity: candela });
      return lightSchema.parse({
        kind: "spot",
        ...shared,
        target,
        unit: "cd",
        intensity: candela,
        cone: round(Math.min(178, 2 * cone)),
        softness: Math.max(0, Math.min(1, number(found, "shaping:cone:softness", 0))),
      });
    }
  }
}
