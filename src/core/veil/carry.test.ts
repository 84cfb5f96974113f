import { describe, expect, it } from "vitest";
import { documentSchema } from "../document/schema";
import { emptyFilm } from "../film/film";
import { NOT_CLEANED } from "../film/cleaned";
import { F_AIR, F_ALBEDO, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_DISTANCE, F_HITS, F_NORMAL, F_SURFACES, F_TRANSMITTANCE } from "../layout/layout"; // prettier-ignore
import { carriedFilm, carries, sunMapped } from "./carry";

const doc = documentSchema.parse({
  fumarium: 2,
  materials: { stone: {} },
  objects: [{ kind: "sphere", material: "stone", name: "ball", radius: 1 }],
  assets: { puff: { uri: "puff.vdb" } },
  air: [{ name: "haze" }, { name: "cloud", grid: { asset: "puff" } }, { name: "ball", region: { kind: "mesh", object: "ball" } }],
});
const changed = (i: number, change: object) => ({ ...doc, air: doc.air.map((m, k) => (k === i ? { ...m, ...change } : m)) });

describe("what a veil carries", () => {
  it("is a change of the air that a veil shows", () => {
    expect(carries(doc, doc)).toBe(true);
    expect(
      carries(doc, changed(0, { density: 1, height: doc.air[0]!.height, region: { kind: "sphere", centre: [0, 0, 0], radius: 3 } })),
    ).toBe(true);
  });
  it("is no change of break-up, of a grid's or a mesh's air, of anything else, of how many there are", () => {
    expect(carries(doc, changed(0, { edge: 2 }))).toBe(false);
    expect(carries(doc, changed(1, { density: 1 }))).toBe(false);
    expect(carries(doc, changed(2, { density: 1 }))).toBe(false);
    expect(carries(doc, { ...changed(0, { density: 1 }), sky: { ...doc.sky } })).toBe(false);
    expect(carries(doc, { ...doc, air: doc.air.slice(1) })).toBe(false);
  });
});

describe("a sun that moves", () => {
  const moved = (sun: object, of = doc) => ({ ...of, sun: { ...of.sun, ...sun } });
  const shafts = { ...doc, render: { ...doc.render, level: "shafts" as const } };
  it("is carried with its air, where its light has shadows and no gobo", () => {
    expect(carries(shafts, moved({ azimuth: 20, elevation: 7, tint: [1, 0.5, 0.2] }, shafts))).toBe(true);
    expect(carries(shafts, moved({ angularDiameter: 3 }, shafts))).toBe(false);
    expect(carries(shafts, moved({ on: false }, shafts))).toBe(false);
    const gobo = moved({ gobo: { pattern: "leaves" } }, shafts);
    expect([sunMapped(gobo), carries(gobo, moved({ azimuth: 20 }, gobo))]).toEqual([false, false]);
    const level = { ...doc, render: { ...doc.render, level: "veil" as const } };
    expect([sunMapped(shafts), sunMapped(level), carries(level, moved({ azimuth: 20 }, level))]).toEqual([true, false, false]);
  });
});

describe("the film that is carried", () => {
  const film = emptyFilm(2, 1);
  const set = (i: number, values: Record<number, number>): void => {
    for (const [at, v] of Object.entries(values)) film.data[i * film.stride + Number(at)] = v;
  };
  set(0, { [F_COUNT]: 4, [F_HITS]: 4, [F_DISTANCE]: 20, [F_AIR]: 8, [F_SURFACES + 2]: 4, [F_TRANSMITTANCE + 2]: 2, [F_NORMAL + 1]: 4 });
  it("is none before every pixel has a sample, or of a part of the frame", () => {
    expect(carriedFilm(film)).toBeNull();
    set(1, { [F_COUNT]: 4, [F_HITS]: 1, [F_DISTANCE]: 7, [F_ALBEDO]: 0.5 });
    expect(carriedFilm({ ...film, crop: [0, 0, 1, 1] })).toBeNull();
  });
  it("is the means of every pixel, far where less than half is covered", () => {
    const out = carriedFilm(film)!;
    expect([out.air[0], out.surfaces[2], out.normal[1], out.albedo[4]]).toEqual([2, 1, 1, 0.5]);
    expect(out.clear[3]).toBe(5);
    expect(out.clear[7]).toBeCloseTo(1e30, -24);
  });
  it("has what stands behind the air from the frame without any, or until then from what the air leaves of it", () => {
    expect([...carriedFilm(film)!.clear.subarray(0, 3)]).toEqual([0, 0, 2]);
    set(0, { [F_CLEAR_COUNT]: 2, [F_CLEAR + 1]: 6 });
    set(1, { [F_CLEAR_COUNT]: 1 });
    expect([...carriedFilm(film)!.clear.subarray(0, 3)]).toEqual([0, 3, 0]);
  });
  it("is the cleaned light where there is some", () => {
    const cleaned = { ...NOT_CLEANED, air: Float32Array.from([7, 0, 0, 0, 0, 0, 0, 0]) };
    expect(carriedFilm({ ...film, cleaned })!.air[0]).toBe(7);
  });
});
