import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { otherFrame } from "./FittedNote";

const doc = parseDocument({ fumarium: 2, film: { size: [640, 360] } });

describe("frames that are compared", () => {
  it("are of one kind where only pixels, exposure or focus differ, else it is said what is other", () => {
    expect(otherFrame(doc, doc)).toBeNull();
    expect(otherFrame(doc, { ...doc, film: { ...doc.film, size: [1920, 1080], exposure: 3 } })).toBeNull();
    expect(otherFrame(doc, { ...doc, camera: { ...doc.camera, focus: 3, aperture: 0.01 } })).toBeNull();
    expect(otherFrame(doc, { ...doc, camera: { ...doc.camera, position: [1, 2, 3] } })).toBe("another lens");
    const square = { ...doc, film: { ...doc.film, size: [500, 500] as [number, number] } };
    expect(otherFrame(doc, square)).toBe("a frame of another shape");
  });
});
