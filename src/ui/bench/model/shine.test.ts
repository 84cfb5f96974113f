import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { sunDirection } from "#core/math/vectors";
import { shone } from "./shine";

const doc = parseDocument({
  fumarium: 2,
  sun: { on: false, azimuth: 10, elevation: 50 },
  lights: [
    { kind: "spot", name: "beam", position: [3, 10, 0], target: [0, 10, 0], on: false },
    { kind: "point", name: "bulb", position: [0, 1, 1] },
  ],
});

describe("light from here to there", () => {
  it("turns the sun onto the line through both points, and switches it on", () => {
    // 3 m up and 4 m along +x: azimuth 90, elevation of a 3-4-5 triangle
    const next = shone(doc, "sun", [4, 3, 1], [0, 0, 1]);
    if (typeof next === "string") throw new Error(next);
    expect(next.sun).toMatchObject({ on: true, azimuth: 90, elevation: 36.87 });
    const d = sunDirection(next.sun.azimuth, next.sun.elevation);
    [0.8, 0.6, 0].forEach((v, k) => expect(d[k]).toBeCloseTo(v, 3));
    expect(next.lights).toBe(doc.lights);
  });

  it("stands a lamp behind the opening on that line, no nearer than it was, and aims it", () => {
    const next = shone(doc, 0, [4, 3, 0], [0, 0, 0]);
    if (typeof next === "string") throw new Error(next);
    // it stood sqrt(109) m from where the light lands
    const [x, y, z] = next.lights[0]!.position;
    expect(Math.hypot(x, y, z)).toBeCloseTo(Math.sqrt(109), 4);
    expect([y / x, z]).toEqual([expect.closeTo(0.75, 4), 0]);
    expect(next.lights[0]).toMatchObject({ on: true, target: [0, 0, 0] });
    const near = shone(doc, 1, [4, 3, 0], [0, 0, 0]);
    if (typeof near === "string") throw new Error(near);
    expect(Math.hypot(...near.lights[1]!.position)).toBeCloseTo(5.5, 4);
    expect(() => parseDocument(JSON.parse(JSON.stringify(near)))).not.toThrow();
  });

  it("says why it cannot: light from below, one place twice, a lamp that is gone", () => {
    expect(shone(doc, "sun", [1, 0, 0], [0, 2, 0])).toMatch(/upwards/);
    expect(shone(doc, "sun", [1, 1, 1], [1, 1, 1])).toMatch(/same place/);
    expect(shone(doc, 7, [1, 1, 1], [0, 0, 0])).toMatch(/no such light/);
    // a lamp may shine upwards
    expect(typeof shone(doc, 0, [1, 0, 0], [0, 2, 0])).toBe("object");
  });
});
