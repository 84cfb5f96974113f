/**
 * Completeness: whatever a kind has as a member, the kernel computes, the shader knows, the interface offers, scaling scales, files
 * round-trip, and random documents contain.
 */
import { beforeAll, describe, expect, it } from "vitest";
import { phaseFunction } from "#core/document/medium";
import { parseDocument } from "#core/document/parse";
import { scaleDocument } from "#core/document/scale";
import type { SceneDocument } from "#core/document/schema";
import { strengthOf } from "#core/scene/lights";
import { HEIGHT_CODES, LEVEL_CODES, LIGHT_CODES, NOISE_CODES, PHASE_CODES, REGION_CODES } from "#core/layout/codes";
import * as K from "#core/layout/kinds";
import { veilSource } from "#core/veil/shader";
import * as options from "../../src/ui/bench/model/kind-options";
import * as S from "../support/kind-samples";
import { load, simpson, type PartialDocument } from "../support/kernel";
import { randomDocument } from "../support/random-document";

type Member<T> = (keyof T)[];
const members = <T extends object>(table: T): Member<T> => Object.keys(table) as Member<T>;

const base: PartialDocument = { materials: { m: {} }, objects: [S.HULL], sun: { on: false }, sky: { on: false } };
/** A document with one member of a kind in it, by the kind's name. */
const DOCUMENTS: Record<string, [member: string, input: PartialDocument][]> = {
  region: members(S.REGION_SAMPLES).map((k) => [k, { ...base, air: [{ density: 0.3, region: S.REGION_SAMPLES[k].region as never }] }]),
  phase: members(S.PHASE_SAMPLES).map((k) => [k, { ...base, air: [{ density: 0.3, ...S.PHASE_SAMPLES[k].medium }] }]),
  height: members(S.HEIGHT_SAMPLES).map((shape) => [shape, { ...base, air: [{ density: 0.3, height: { shape, level: 1, scale: 2 } }] }]),
  noise: members(S.NOISE_SAMPLES).map((character) => [character, { ...base, air: [{ density: 0.3, noise: { character, size: 0.7 } }] }]),
  light: members(S.LIGHT_SAMPLES).flatMap((k) => (S.LIGHT_SAMPLES[k] ? [[k, { ...base, lights: [{ position: [0, 0, 0], ...S.LIGHT_SAMPLES[k].light } as never] }] as [string, PartialDocument]] : [])), // prettier-ignore
  gobo: members(S.GOBO_SAMPLES).flatMap((k) => (S.GOBO_SAMPLES[k] ? [[k, { ...base, sun: { gobo: S.GOBO_SAMPLES[k] as never } }] as [string, PartialDocument]] : [])), // prettier-ignore
  sky: members(S.SKY_SAMPLES).flatMap((k) => (S.SKY_SAMPLES[k] ? [[k, { ...base, sky: S.SKY_SAMPLES[k] }] as [string, PartialDocument]] : [])), // prettier-ignore
  object: members(S.OBJECT_SAMPLES).flatMap((k) => (S.OBJECT_SAMPLES[k] ? [[k, { ...base, objects: [S.HULL, S.OBJECT_SAMPLES[k] as never] }] as [string, PartialDocument]] : [])), // prettier-ignore
};
const every = Object.entries(DOCUMENTS).flatMap(([kind, list]) => list.map(([member, input]) => ({ name: `${kind}: ${member}`, input })));
const parsed = (input: PartialDocument): SceneDocument => parseDocument({ fumarium: 2, ...input });

describe("the kernel computes", () => {
  it.each(members(REGION_CODES))("region %s as an own inside test does", async (kind) => {
    const { region, inside } = S.REGION_SAMPLES[kind];
    const { kernel } = await load({ ...base, air: [{ density: 0.3, region: region as never }] });
    for (const [o, d] of [
      [
        [-4, 1, 0],
        [1, 0, 0],
      ],
      [
        [0.5, 6, -0.2],
        [0, -1, 0],
      ],
      [
        [0.3, 1, 0.1],
        [0.6, 0, 0.8],
      ],
      [
        [3, 4, 3],
        [-0.6, -0.48, -0.64],
      ],
    ] as [S.V3, S.V3][]) {
      // prettier-ignore
      const steps = 20_000,
        far = 9;
      let length = 0;
      for (let i = 0; i < steps; i++) if (inside(o.map((v, k) => v + ((i + 0.5) / steps) * far * d[k]!))) length += far / steps;
      expect(-Math.log(kernel.transmittance(...o, ...d, far, 0, 0)) / 0.3).toBeCloseTo(length, 2);
    }
  });

  it.each(members(PHASE_CODES))("phase function %s as its closed form and as TypeScript does, normalised", async (model) => {
    const { medium, value } = S.PHASE_SAMPLES[model];
    const { kernel, doc } = await load({ ...base, air: [{ density: 1, ...medium }] });
    expect(doc.air[0]!.phase.model).toBe(model);
    const own = phaseFunction(doc.air[0]!);
    for (let c = -1; c <= 1; c += 0.125) {
      if (value) expect(kernel.phase(0, c)).toBeCloseTo(value(c), 9);
      expect(kernel.phase(0, c)).toBeCloseTo(own(c), 9);
    }
    const integral = simpson((t) => kernel.phase(0, Math.cos(Math.PI * t * t)) * Math.sin(Math.PI * t * t) * 4 * Math.PI ** 2 * t, 0, 1, 4000); // prettier-ignore
    expect(integral).toBeCloseTo(1, 4);
  });

  it.each(members(HEIGHT_CODES))("height falloff %s as its closed form does", async (shape) => {
    const { kernel } = await load({ ...base, air: [{ density: 1, height: { shape, level: 1, scale: 2 } }] });
    for (const y of [-3, 1, 1.5, 2.7, 3, 8]) expect(kernel.density(0, 0.3, y, 0.1)).toBeCloseTo(y <= 1 ? 1 : S.HEIGHT_SAMPLES[shape]((y - 1) / 2), 9); // prettier-ignore
  });

  it.each(members(NOISE_CODES))("noise %s: within [0, 1], under its majorant, with its own mean, unlike the others", async (character) => {
    const noise = { character, size: 0.7, low: 0, high: 1, knee: 0 };
    const { kernel } = await load({ ...base, air: [{ density: 1, region: { kind: "box", centre: [0, 0, 0], size: [8, 8, 8] }, noise }] });
    let sum = 0,
      n = 0;
    const seen = new Set<number>();
    for (let x = -3.7; x < 3.8; x += 0.37)
      for (let y = -3.7; y < 3.8; y += 0.41)
        for (let z = -3.7; z < 3.8; z += 0.53) {
          const v = kernel.noiseAt(0, x, y, z);
          expect(v).toBeGreaterThanOrEqual(0);
          expect(v).toBeLessThanOrEqual(1);
          expect(v).toBeLessThanOrEqual(kernel.majorant(0, x, y, z) + 1e-9);
          seen.add(v);
          sum += v;
          n++;
        }
    const [low, high] = S.NOISE_SAMPLES[character];
    expect(sum / n).toBeGreaterThan(low);
    expect(sum / n).toBeLessThan(high);
    expect(seen.size).toBeGreaterThan(n / 2);
    const others = await Promise.all(members(NOISE_CODES).filter((c) => c !== character).map((c) => load({ ...base, air: [{ density: 1, noise: { ...noise, character: c } }] }))); // prettier-ignore
    for (const other of others) expect(other.kernel.noiseAt(0, 0.21, 0.37, 0.11)).not.toBe(kernel.noiseAt(0, 0.21, 0.37, 0.11));
  });

  it.each(members(LIGHT_CODES).filter((k) => S.LIGHT_SAMPLES[k] !== null))("light %s: its illuminance on the axis", async (kind) => {
    const { light, distance, lux } = S.LIGHT_SAMPLES[kind]!;
    const white = { position: [0, 0, 0], temperature: 6500, tint: [1, 1, 1] };
    const { kernel, doc } = await load({ ...base, lights: [{ ...white, ...light } as never] });
    expect(strengthOf(doc.lights[0]!)).toBeGreaterThan(0);
    // the mean over the emitter, of luminance, so that the colour of the light does not matter
    let sum = 0;
    const n = 64;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const at = (v: number): number => kernel.lightAt(0, 0, 0, -distance, (i + 0.5) / n, (j + 0.5) / n, v);
        // normal to the plane: the direction towards the light
        sum += (0.2126 * at(0) + 0.7152 * at(1) + 0.0722 * at(2)) * Math.max(0, at(5));
      }
    expect(sum / (n * n) / lux).toBeCloseTo(1, 2);
  });
});

describe("every member", () => {
  it.each(every)("$name: comes back from a file as it was", ({ input }) => {
    const doc = parsed(input);
    expect(parseDocument(JSON.parse(JSON.stringify(doc)))).toEqual(doc);
  });

  it.each(every.filter((e) => /^(region|height|noise|phase|light|object)/.test(e.name)))(
    "$name: scaled, the scene looks the same from a scaled place",
    async ({ name, input }) => {
      const doc = parsed(input);
      const k = 2.5;
      const { fumarium: _, ...scaled } = scaleDocument(doc, k);
      const { fumarium: __, ...own } = doc;
      const [a, b] = [await load(own), await load(scaled)];
      if (name.startsWith("light")) {
        const e = (l: typeof a, s: number): number => l.kernel.lightAt(0, 0.1 * s, 0.2 * s, -3 * s, 0.4, 0.6, 1);
        expect(e(b, k)).toBeCloseTo(e(a, 1), 6);
        return;
      }
      if (name.startsWith("object")) {
        const size = (d: SceneDocument): number => Number(JSON.stringify(Object.entries(d.objects[1]!).filter(([f]) => /size|radius|height/.test(f))).match(/[\d.]+/)![0]); // prettier-ignore
        expect(size(scaleDocument(doc, k))).toBeCloseTo(k * size(doc), 6);
        return;
      }
      let least = 1;
      for (const p of [
        [0.3, 0.8, 0.2],
        [0.5, 1.9, -0.4],
        [-0.2, 2.6, 0.1],
        [1.2, 1.4, 1.1],
      ]) {
        // prettier-ignore
        const at = (l: typeof a, s: number): number => l.kernel.density(0, ...(p.map((v) => v * s) as S.V3));
        expect(at(b, k)).toBeCloseTo(at(a, 1), 6);
        // a region is told by what passes it
        const passes = (l: typeof a, s: number): number =>
          l.kernel.transmittance(...(p.map((v) => v * s) as S.V3), 0.6, 0.48, 0.64, 5 * s, 0, 0);
        if (!name.startsWith("noise")) expect(passes(b, k)).toBeCloseTo(passes(a, 1), 6);
        least = Math.min(least, passes(a, 1));
      }
      // what is nowhere scales well
      expect(least).toBeLessThan(0.99);
      expect(b.kernel.phase(0, 0.3)).toBe(a.kernel.phase(0, 0.3));
    },
  );

  it("is a code that the veil's shader names, so that it is drawn or left out on purpose", () => {
    const shader = veilSource(true).replace(/const int \w+ = -?\d+;/g, "");
    for (const prefix of ["LIGHT", "REGION", "PHASE", "HEIGHT"])
      for (const code of Object.keys(K).filter((n) => n.startsWith(`${prefix}_`))) {
        // a mesh is its box, everywhere is no bound, no falloff is none: all are named
        expect(shader, code).toMatch(new RegExp(`\\b${code}\\b`));
      }
  });

  it.each([
    ["region", REGION_CODES, options.REGION_OPTIONS],
    ["phase", PHASE_CODES, options.PHASE_OPTIONS],
    ["height", HEIGHT_CODES, options.HEIGHT_OPTIONS],
    ["noise", NOISE_CODES, options.NOISE_OPTIONS],
    ["light", LIGHT_CODES, options.LIGHT_OPTIONS],
    ["level", LEVEL_CODES, options.LEVEL_OPTIONS],
  ] as const)("of %s is offered by the interface, with a label and a tooltip of its own", (_, codes, table) => {
    const words = table as Record<string, options.Option>;
    expect(Object.keys(words).sort()).toEqual(Object.keys(codes).sort());
    const labels = Object.values(words).map((o) => o.label);
    expect(new Set(labels).size).toBe(labels.length);
    for (const o of Object.values(words)) expect(o.tooltip.length).toBeGreaterThan(5);
  });
});

describe("random documents contain", () => {
  const seen: Record<string, Set<string>> = { region: new Set(), phase: new Set(), height: new Set(), noise: new Set(), light: new Set(), object: new Set(), gobo: new Set(), sky: new Set(), level: new Set() }; // prettier-ignore
  beforeAll(() => {
    for (let seed = 1; seed <= 300; seed++) {
      const d = randomDocument(seed);
      for (const m of d.air ?? []) {
        seen.region!.add(m.region?.kind ?? "everywhere");
        seen.phase!.add(m.phase?.model ?? "henyey-greenstein");
        if (m.height) seen.height!.add(m.height.shape ?? "exponential");
        if (m.noise) seen.noise!.add(m.noise.character ?? "soft");
      }
      for (const l of d.lights ?? []) {
        seen.light!.add(l.kind);
        if ("gobo" in l && l.gobo) seen.gobo!.add(l.gobo.pattern);
      }
      for (const o of d.objects ?? []) seen.object!.add(o.kind);
      seen.sky!.add(d.sky?.model ?? "gradient");
      seen.level!.add(d.render?.level ?? "shafts");
    }
  });
  it.each([
    ["region", members(S.REGION_SAMPLES)],
    ["phase", members(S.PHASE_SAMPLES)],
    ["height", members(S.HEIGHT_SAMPLES)],
    ["noise", members(S.NOISE_SAMPLES)],
    // profiles, images and models come with files: random-model.ts, random-grids.ts and their own tests
    ["light", members(S.LIGHT_SAMPLES).filter((k) => S.LIGHT_SAMPLES[k])],
    ["gobo", members(S.GOBO_SAMPLES).filter((k) => S.GOBO_SAMPLES[k])],
    ["sky", members(S.SKY_SAMPLES).filter((k) => S.SKY_SAMPLES[k])],
    ["object", members(S.OBJECT_SAMPLES).filter((k) => S.OBJECT_SAMPLES[k])],
    ["level", members(LEVEL_CODES)],
  ] as [string, string[]][])("every member of %s", (kind, list) => {
    expect([...list].filter((m) => !seen[kind]!.has(m))).toEqual([]);
  });
});
