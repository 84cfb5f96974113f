import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { latestScene } from "./scene-part";

const doc = parseDocument({ fumarium: 2, air: [{ name: "haze" }] });

describe("the scene of a document", () => {
  it("stays the same object while its film is developed, or it is called and read otherwise", () => {
    const scene = latestScene(doc);
    const developed = { ...doc, title: "Another", units: "imperial" as const, film: { ...doc.film, exposure: 3, whiteBalance: 4000 } };
    expect(scene(developed)).toBe(doc);
    // what is drawn over the picture is seen
    const pinned = { ...developed, pins: [{ point: [0, 0, 1] as [number, number, number], share: 0.5 }] };
    expect(scene(pinned)).toBe(pinned);
  });

  it("is another where anything in it changed, and is followed from there", () => {
    const scene = latestScene(doc);
    const denser = { ...doc, air: doc.air.map((m) => ({ ...m, density: 0.3 })) };
    expect(scene(denser)).toBe(denser);
    expect(scene({ ...denser, title: "Another" })).toBe(denser);
    const wider = { ...denser, film: { ...denser.film, size: [64, 64] as [number, number] } };
    expect(scene(wider)).toBe(wider);
    expect(scene(doc)).toBe(doc);
  });
});
