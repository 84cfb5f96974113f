import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import type { SceneDocument } from "../document/schema";
import type { LightBalance } from "../film/light-balance";
import { candidatesOf, type FrameFacts } from "./candidates";

const facts: FrameFacts = { bounds: [-5, 0, -5, 5, 4, 5], step: 0.1, lights: [] };
const light = (name: string, air: number, all: number, rays: number): LightBalance => ({
  ...{ name, air, surfaces: all, light: all, rays },
  ...{ mean: { air: 1, surfaces: 1 }, noise: { air: 1, surfaces: 1 } },
});
const doc = (rest: object = {}): SceneDocument => parseDocument({ fumarium: 2, ...rest });
const ids = (d: SceneDocument, f: Partial<FrameFacts> = {}): string[] => candidatesOf(d, { ...facts, ...f }).map((c) => c.id);
const lamp = (name: string): object => ({ kind: "point", name, position: [0, 2, 0] });

describe("what might save time", () => {
  it("has changes that each make another document, which is valid", () => {
    const full = doc({
      render: { level: "full", airBounces: 8, surfaceBounces: 3, estimator: "stepping", stepSize: 0.01 },
      lights: [lamp("a"), lamp("b")],
      air: [
        { name: "haze" },
        { name: "smoke", noise: { size: 1 }, region: { kind: "sphere", centre: [0, 1, 0], radius: 1 }, emission: { strength: 40 } },
      ],
    });
    const all = candidatesOf(full, { ...facts, lights: [light("a", 0.001, 0.01, 0.2)] });
    expect(new Set(all.map((c) => c.id)).size).toBe(all.length);
    for (const c of all) {
      const next = c.apply(full);
      expect(JSON.stringify(next), c.id).not.toBe(JSON.stringify(full));
      expect(() => parseDocument(next), c.id).not.toThrow();
      if (c.tuned) expect(c.tuned(full, 0.5).air.find((m) => m.name === "smoke")!.density).toBeCloseTo(full.air[1]!.density / 2, 9);
      expect(c.words.length).toBeGreaterThan(3);
    }
    expect(all.map((c) => c.group).filter((g) => g === "steps").length).toBeGreaterThan(3);
  });

  it("offers what is lower or coarser, never what is there", () => {
    expect(ids(doc({ render: { airSize: "half" } })).filter((id) => id.startsWith("air size"))).toEqual(["air size quarter"]);
    expect(ids(doc({ render: { level: "veil" } })).filter((id) => id.startsWith("level"))).toEqual([]);
    expect(ids(doc({ render: { level: "shafts", surfaceBounces: 3 } })).filter((id) => id.includes("bounces"))).toEqual(["surface bounces 1", "surface bounces 0"]); // prettier-ignore
    expect(ids(doc({ render: { level: "full", airBounces: 1 } })).filter((id) => id.startsWith("air bounces"))).toEqual([]);
    // nothing is stepped through, so that steps say nothing
    expect(ids(doc({ air: [{ name: "haze" }], render: { estimator: "stepping" } })).some((id) => /step|tracking/.test(id))).toBe(false);
  });

  it("leaves lights that matter alone, and rests those that cost much for little", () => {
    const two = doc({ lights: [lamp("key"), lamp("spill"), lamp("spill")] });
    const lights = [
      light("key", 0.9, 0.9, 0.5),
      light("spill", 0.002, 0.01, 0.4),
      light("sky", 0.02, 0.3, 0.05),
      light("air emission", 0, 0, 0.3),
    ];
    const found = candidatesOf(two, { ...facts, lights });
    expect(found.map((c) => c.id).filter((id) => /^(air of|off)/.test(id))).toEqual(["air of spill", "off spill", "air of sky"]);
    const by = (id: string): SceneDocument => found.find((c) => c.id === id)!.apply(two);
    expect(by("off spill").lights.map((l) => l.on)).toEqual([true, false, false]);
    expect(by("air of spill").lights.map((l) => [l.air, l.surfaces])).toEqual([[1, 1], [0, 1], [0, 1]]); // prettier-ignore
    expect(by("air of sky").sky.air).toBe(0);
    // applied after another light came before them, it is still theirs
    const later = { ...two, lights: [{ ...two.lights[0]!, name: "new" }, ...two.lights] };
    const off = found.find((c) => c.id === "off spill")!.apply(later);
    expect(off.lights.map((l) => [l.name, l.on])).toEqual([["new", true], ["key", true], ["spill", false], ["spill", false]]); // prettier-ignore
    // what rests in the air already is not offered again
    const rests = { ...two, sky: { ...two.sky, air: 0 } };
    expect(candidatesOf(rests, { ...facts, lights }).some((c) => c.id === "air of sky")).toBe(false);
  });

  it("replaces what a medium lights by a lamp of equal output", () => {
    const glowing = doc({
      air: [
        {
          name: "fire",
          density: 0.1,
          region: { kind: "box", centre: [1, 2, 3], size: [1, 2, 3] },
          emission: { strength: 10, colour: [1, 0.5, 0.2] },
        },
      ],
    });
    const next = candidatesOf(glowing, facts)
      .find((c) => c.id === "proxy fire")!
      .apply(glowing);
    // 10 cd/m² for each metre, by 6 m³: a thin medium sends 60 cd every way
    expect(next.lights).toMatchObject([
      { kind: "sphere", intensity: 60, unit: "cd", position: [1, 2, 3], tint: [1, 0.5, 0.2], name: "glow of fire" },
    ]);
    expect(next.air[0]!.seen.indirect).toBe(0);
  });
});
