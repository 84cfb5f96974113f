import { describe, expect, it } from "vitest";
import { randomDocument } from "../../../tests/support/random-document";
import { unitOf } from "./change-words";
import { documentChanges, takeChange } from "./changes";
import { numbersOf } from "./numbers";
import { parseDocument } from "./parse";
import type { SceneDocument, SceneDocumentInput } from "./schema";
import { lengthWords } from "./units";

const metric = lengthWords("metric");
const document = (d: Partial<SceneDocumentInput>): SceneDocument => parseDocument({ fumarium: 2, ...d });
const said = (a: SceneDocument, b: SceneDocument, words = metric): string[] =>
  documentChanges(a, b, words).map((c) => `${c.of} ${c.setting}: ${c.from} → ${c.to}${c.stops ? `, ${c.stops}` : ""}`);

/** With a change taken over; as it was where that is refused. */
function takenOr(into: SceneDocument, from: SceneDocument, id: string): SceneDocument {
  try {
    return takeChange(into, from, id);
  } catch (error) {
    expect((error as Error).name).toBe("InputError");
    return into;
  }
}

describe("what two documents differ in", () => {
  const base: Partial<SceneDocumentInput> = {
    materials: { stone: {} },
    objects: [{ kind: "box", material: "stone", name: "pillar", size: [1, 4, 1], position: [0, 2, 0] }],
    air: [{ name: "haze", density: 0.036, height: { level: 0, scale: 6 } }],
    lights: [{ kind: "point", name: "lamp", position: [0, 3, 0], intensity: 800 }],
    sun: { illuminance: 40000, azimuth: 30 },
  };

  it("is said in the bench's words, with units and stops", () => {
    const other = document({
      ...base,
      air: [
        { name: "haze", density: 0.018, scattering: [0.9, 0.95, 1], height: null, noise: { size: 2 } },
        { name: "ground fog", density: 0.1 },
      ],
      lights: [{ kind: "point", name: "lamp", position: [0, 3.5, 0], intensity: 800, air: 0.5 }],
      sun: { illuminance: 40000 * Math.SQRT2, azimuth: 45 },
      objects: [],
      render: { level: "full" },
      film: { exposure: 11.5, finish: { contrast: 1.2, curves: { all: [[0, 0], [0.5, 0.6], [1, 1]] } } }, // prettier-ignore
      title: "Another",
      units: "imperial",
      pins: [{ point: [0, 1, 0], share: 0.5 }],
    });
    expect(said(document(base), other)).toEqual([
      "Picture exposure: 12 EV → 11.5 EV",
      "Picture contrast: 1 → 1.2",
      "Picture tone curve: none → 3 points",
      "Sun azimuth: 30° → 45°",
      "Sun illuminance: 40000 lx → 56569 lx, +0.5 stops",
      "lamp position: 0, 3, 0 m → 0, 3.5, 0 m",
      "lamp air contribution: 100 % → 50 %",
      "haze extinction: 0.036 1/m → 0.018 1/m",
      "haze scattered colour: 1, 1, 1 → 0.9, 0.95, 1",
      "haze height falloff: on → none",
      "haze noise: none → on",
      "ground fog : none → a medium",
      "pillar : an object → none",
      "Render light transport: shafts → full",
    ]);
    expect(said(document(base), document({ ...base, air: [{ ...base.air![0]!, density: 0.018 }] }), lengthWords("imperial"))).toEqual([
      "haze extinction: 0.01097 1/ft → 0.005486 1/ft",
    ]);
    expect(said(other, { ...other, title: "x", units: "metric", pins: [], lenses: [] })).toEqual([]);
  });

  it("keeps things of one name apart, and those that moved together", () => {
    const air = (...densities: number[]) => document({ air: densities.map((density) => ({ name: "fog", density })) });
    expect(said(air(1, 2), air(1, 3))).toEqual(["fog 2 extinction: 2 1/m → 3 1/m"]);
    const [a, b] = [document({ air: [{ name: "a" }, { name: "b" }] }), document({ air: [{ name: "b" }, { name: "a", density: 1 }] })];
    expect(said(a, b)).toEqual(["a extinction: 0.02 1/m → 1 1/m"]);
  });

  it("can be taken over one by one, until nothing differs", () => {
    for (let seed = 1; seed <= 8; seed++) {
      const [a, b] = [document(randomDocument(seed)), document(randomDocument(1000 + seed))];
      let at = a;
      // what names something else needs it first
      for (let round = 0; round < 12; round++)
        for (const { id, setting } of documentChanges(at, b, metric)) {
          const next = takenOr(at, b, id);
          if (next === at) continue;
          const left = documentChanges(next, b, metric);
          // of several of one name another takes the place of one that comes or goes
          if (setting !== "") expect(left.filter((c) => c.id === id).map((c) => `${seed}: ${id} ${c.from} → ${c.to}`)).toEqual([]);
          at = next;
        }
      expect(said(at, b), `documents ${seed}`).toEqual([]);
      expect(at.title).toBe(a.title);
    }
  });

  it("brings what it names along, and is refused where it cannot be had", () => {
    const [plain, other] = [document({}), document(base)];
    const [pillar] = documentChanges(plain, other, metric).filter((c) => c.of === "pillar");
    const taken = takeChange(plain, other, pillar!.id);
    expect(taken.objects).toHaveLength(1);
    expect(Object.keys(taken.materials)).toEqual(["stone"]);
    const [height] = documentChanges(document({ air: [{ name: "haze" }] }), other, metric).filter((c) => c.setting === "height falloff");
    expect(() => takeChange(plain, other, height!.id)).toThrow("there is no haze here that could have it");
    const inside = document({ ...base, air: [{ name: "haze", region: { kind: "mesh", object: "pillar" } }] });
    const [region] = documentChanges(document({ air: [{ name: "haze" }] }), inside, metric).filter((c) => c.setting === "region");
    expect(() => takeChange(document({ air: [{ name: "haze" }] }), inside, region!.id)).toThrow('no object named "pillar"');
  });

  it("tells a motion as one thing", () => {
    const keys = (n: number) => ({ times: [...Array(n).keys()], positions: Array.from({ length: n }, (_, i) => [i, 0, 5] as [number, number, number]) }); // prettier-ignore
    const [still, two, three] = [document({}), document({ camera: { motion: keys(2) } }), document({ camera: { motion: keys(3) } })];
    const told = (a: SceneDocument, b: SceneDocument) => documentChanges(a, b, metric).filter((c) => c.setting === "motion by time").map(({ from, to }) => [from, to]); // prettier-ignore
    expect(told(still, two)).toEqual([["none", "2 keys"]]);
    expect(told(two, three)).toEqual([["2 keys", "3 keys"]]);
    expect(numbersOf(three).some((n) => n.id.includes("motion"))).toBe(false);
  });

  it("has a unit, or none, for every number of a document", () => {
    /** Counts, factors, seeds and indices: numbers without a unit. */
    const PLAIN =
      /\.(seed|octaves|lacunarity|stretch|bend|change|count|rate|density|scale|turbidity|strength|contrast|saturation|airBounces|surfaceBounces|maxSteps|fireflyClamp|ior|intensity|spread|tint|zenith|horizon|ground|baseColor|attenuationColor|direction)$/;
    const unknown = new Set<string>();
    const walk = (value: unknown, kind: string[]): void => {
      if (typeof value === "number" || (Array.isArray(value) && value.length > 0 && value.every((v) => typeof v === "number"))) {
        if (unitOf(kind) === undefined && !PLAIN.test(kind.join("."))) unknown.add(kind.join("."));
      } else if (Array.isArray(value)) value.forEach((v) => typeof v === "object" && !Array.isArray(v) && walk(v, kind));
      else if (typeof value === "object" && value !== null) for (const [k, v] of Object.entries(value)) walk(v, [...kind, k]);
    };
    for (let seed = 1; seed <= 300; seed++) {
      const {
        materials,
        fumarium: _,
        title: __,
        pins: ___,
        lenses: ____,
        assets: _____,
        budget: ______,
        ...rest
      } = document(randomDocument(seed));
      for (const [part, value] of Object.entries(rest)) walk(value, [part]);
      for (const material of Object.values(materials)) walk(material, ["materials"]);
    }
    expect([...unknown].sort()).toEqual([]);
  });
});
