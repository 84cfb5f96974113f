import { describe, expect, it } from "vitest";
import { atMoment, movedTo, withMotion, type Motion } from "./motion";
import { parseDocument } from "./parse";
import { placeSet } from "./place";
import { scaleDocument } from "./scale";
import type { SceneDocument } from "./schema";

const motion: Motion = {
  times: [0, 2, 2, 4],
  positions: [[0, 0, 0], [4, 2, 0], [10, 0, 0], [10, 0, 8]], // prettier-ignore
  targets: [[0, 0, -5], [4, 2, -5], [0, 0, 0], [0, 0, 0]], // prettier-ignore
  rolls: [350, 10, 0, 0],
};
const scene = (time: number): SceneDocument =>
  parseDocument({
    fumarium: 2,
    time,
    camera: { motion },
    lights: [
      { kind: "point", name: "lamp", position: [0, 0, 0], motion: { times: [1, 3], positions: [[0, 1, 0], [2, 1, 0]] } }, // prettier-ignore
      { kind: "spot", name: "still", position: [1, 2, 3], target: [0, 0, 0] },
    ],
  });

describe("what moves", () => {
  it("goes straight between keys, holds at its ends, jumps where two are alike, and rolls the shorter way about", () => {
    const at = (time: number) => movedTo({ position: [9, 9, 9], target: [9, 9, 9], roll: 5, motion }, time);
    expect(at(-1)).toMatchObject({ position: [0, 0, 0], target: [0, 0, -5], roll: 350 });
    // 350° to 370°
    expect(at(0.5)).toMatchObject({ position: [1, 0.5, 0], target: [1, 0.5, -5], roll: 355 });
    expect(at(1.5).roll).toBe(365 - 360);
    expect(at(1.999999).position[0]).toBeCloseTo(4, 4);
    expect(at(2)).toMatchObject({ position: [10, 0, 0], target: [0, 0, 0], roll: 0 });
    expect(at(3).position).toEqual([10, 0, 4]);
    expect(at(99).position).toEqual([10, 0, 8]);
    expect(movedTo({ position: [1, 2, 3], motion: null }, 2).position).toEqual([1, 2, 3]);
  });

  it("is aimed somewhere at every moment, turning right about too", () => {
    const about: Motion = { times: [0, 1], positions: [[0, 0, 0], [0, 0, 0]], targets: [[0, 0, -5], [0, 0, 5]], rolls: null }; // prettier-ignore
    const at = movedTo({ position: [0, 0, 0], target: [0, 0, 1], motion: about }, 0.5);
    expect(at.target).toEqual([0, 0, -5]);
  });

  it("stands where its moment has it in any document that is read", () => {
    const doc = scene(2);
    expect(doc.camera).toMatchObject({ position: [10, 0, 0], target: [0, 0, 0], roll: 0 });
    expect(doc.lights.map((l) => l.position)).toEqual([[1, 1, 0], [1, 2, 3]]); // prettier-ignore
    expect(atMoment(doc)).toEqual(doc);
  });

  it("goes along with the moment of an edit; what is put elsewhere by hand moves no more", () => {
    const doc = scene(0);
    const later = withMotion(doc, { ...doc, time: 3 });
    expect(later.camera.position).toEqual([10, 0, 4]);
    expect(later.lights[0]).toMatchObject({ position: [2, 1, 0], motion: doc.lights[0]!.motion });
    const orbited = withMotion(later, { ...later, camera: { ...later.camera, position: [1, 1, 1] } });
    expect(orbited.camera).toMatchObject({ position: [1, 1, 1], motion: null });
    expect(orbited.lights).toBe(later.lights);
    // other edits leave it
    const wide = withMotion(later, { ...later, camera: { ...later.camera, fieldOfView: 90 } });
    expect(wide.camera.motion).toBe(doc.camera.motion);
    // and a lens that is looked through again moves again
    expect(withMotion(orbited, { ...orbited, camera: doc.camera }).camera.position).toEqual([10, 0, 4]);
    const lit = withMotion(doc, { ...doc, lights: doc.lights.map((l) => ({ ...l, intensity: 5 })) });
    expect(lit.lights[0]!.motion).toBe(doc.lights[0]!.motion);
    expect(withMotion(doc, doc)).toBe(doc);
  });

  it("turns a sun between its directions, until it is put elsewhere by hand", () => {
    const motion = { times: [0, 2, 2, 4], directions: [[1, 0, 0], [0, 3, 0], [0, 1, 1], [0, -1, -1]] }; // prettier-ignore
    const doc = parseDocument({ fumarium: 2, time: 1, sun: { motion } });
    // half way from the east to above
    expect(doc.sun).toMatchObject({ azimuth: 90, elevation: 45 });
    const later = withMotion(doc, { ...doc, time: 2 });
    expect(later.sun).toMatchObject({ azimuth: 180, elevation: 45, motion: doc.sun.motion });
    // right about there is no way: it stays until it is there
    expect(withMotion(later, { ...later, time: 3 }).sun).toMatchObject({ azimuth: 180, elevation: 45 });
    expect(withMotion(later, { ...later, time: 9 }).sun).toMatchObject({ azimuth: 0, elevation: -45 });
    const brighter = withMotion(later, { ...later, sun: { ...later.sun, illuminance: 5 } });
    expect(brighter.sun.motion).toBe(doc.sun.motion);
    expect(withMotion(later, { ...later, sun: { ...later.sun, azimuth: 3 } }).sun).toMatchObject({ azimuth: 3, motion: null });
  });

  it("is made larger with its document, and placed with its set", () => {
    const large = scaleDocument(scene(3), 10);
    expect(large.camera).toMatchObject({ position: [100, 0, 40] });
    expect(parseDocument({ ...large, time: 1 }).camera).toMatchObject({ position: [20, 10, 0], target: [20, 10, -50] });
    expect(parseDocument({ ...large, time: 3 }).lights[0]!.position).toEqual([20, 10, 0]);
    const { camera, lights } = scene(0);
    const set = { name: "set.glb", bounds: [0, 0, 0, 1, 1, 1] as [number, number, number, number, number, number], lenses: [{ name: "shot", camera }], lights: [lights[0]!], sun: null }; // prettier-ignore
    const placing = { sha256: "0".repeat(64), uri: "a", replace: true, lights: true, lenses: true, scale: 0.01, up: "z" } as const;
    const placed = placeSet(parseDocument({ fumarium: 2, time: 1 }), set, placing);
    // z up of the file is y up of the document
    expect(placed.camera.position.map((v) => Number(v.toFixed(6)))).toEqual([0.02, 0, -0.01]);
    expect(placed.lights[0]!.motion!.positions.map((p) => p.map((v) => Number(v.toFixed(6))))).toEqual([[0, 0, -0.01], [0.02, 0, -0.01]]); // prettier-ignore
  });

  it.each([
    [{ times: [1, 0], positions: [[0, 0, 0], [1, 1, 1]] }, /times\[1\]: is earlier/],
    [{ times: [0, 1], positions: [[0, 0, 0]] }, /positions: 1 where there are 2 times/],
    [{ times: [0], positions: [[0, 0, 0]], rolls: [] }, /rolls: 0 where/],
    [{ times: [], positions: [] }, /times/],
    [{ times: [0], positions: [[0, 0, Infinity]] }, /positions/],
    [{ times: [0], positions: [[1, 2, 3]], targets: [[1, 2, 3]] }, /targets\[0\]: must differ/],
    [{ times: [1, 0], directions: [[1, 0, 0], [0, 1, 0]] }, /times\[1\]: is earlier/],
    [{ times: [0], directions: [[0, 0, 0]] }, /directions\[0\]: must not be zero/],
    [{ times: [0, 1], directions: [[1, 0, 0]] }, /directions: 1 where there are 2/],
  ])("is refused with words where it is broken: %o", (broken, words) => {
    let said = "";
    try {
      parseDocument({ fumarium: 2, ["directions" in broken ? "sun" : "camera"]: { motion: broken } });
    } catch (error) {
      said = JSON.stringify([(error as Error).message, (error as { problems?: string[] }).problems ?? ""]);
    }
    expect(said).toMatch(words);
  });
}); // prettier-ignore
