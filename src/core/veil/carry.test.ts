import { describe, expect, it } from "vitest";
import { documentSchema } from "../document/schema";
import { emptyFilm } from "../film/film";
import { F_AIR, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_DISTANCE, F_HITS, F_SURFACES } from "../layout/layout";
import { carriedFilm, carries } from "./carry";

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
    expect(carries(doc, { ...changed(0, { density: 1 }), sun: { ...doc.sun } })).toBe(false);
    expect(carries(doc, { ...doc, air: doc.air.slice(1) })).toBe(false);
  });
});

describe("the film that is carried", () => {
  it("is the means of every pixel, far where less than half is covered, or none", () => {
    const film = emptyFilm(2, 1);
    const set = (i: number, values: Record<number, number>): void => {
      for (const [at, v] of Object.entries(values)) film.data[i * film.stride + Number(at)] = v;
    };
    set(0, { [F_COUNT]: 4, [F_CLEAR_COUNT]: 2, [F_HITS]: 4, [F_DISTANCE]: 20, [F_AIR]: 8, [F_CLEAR + 1]: 6, [F_SURFACES + 2]: 4 });
    expect(carriedFilm(film)).toBeNull();
    set(1, { [F_COUNT]: 4, [F_CLEAR_COUNT]: 1, [F_HITS]: 1, [F_DISTANCE]: 7 });
    const out = carriedFilm(film)!;
    expect([...out.clear.subarray(0, 4)]).toEqual([0, 3, 0, 5]);
    expect([out.air[0], out.surfaces[2]]).toEqual([2, 1]);
    expect(out.clear[7]).toBeCloseTo(1e30, -24);
    expect(carriedFilm({ ...film, crop: [0, 0, 1, 1] })).toBeNull();
  });
});
