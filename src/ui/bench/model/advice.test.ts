import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { isOfFrame } from "./advice";
import { finalOf } from "./price";

describe("advice that was found", () => {
  const doc = parseDocument({ fumarium: 2, air: [{ name: "haze" }], budget: { noise: { threshold: 0.05, of: "rendered" } } });
  const of = finalOf(doc).document;

  it("holds for the same scene however it is developed and whatever it may cost", () => {
    expect(isOfFrame(of, doc)).toBe(true);
    expect(isOfFrame(of, { ...doc, film: { ...doc.film, exposure: 3 } })).toBe(true);
    expect(isOfFrame(of, { ...doc, budget: { ...doc.budget, limit: { kind: "frame", minutes: 3 } } })).toBe(true);
  });

  it("holds no more where it was taken, the scene was changed, or another noise is wanted", () => {
    expect(isOfFrame(of, { ...doc, render: { ...doc.render, airSize: "half" } })).toBe(false);
    expect(isOfFrame(of, { ...doc, sun: { ...doc.sun, azimuth: 3 } })).toBe(false);
    expect(isOfFrame(of, { ...doc, air: doc.air.map((m) => ({ ...m, density: 1 })) })).toBe(false);
    expect(isOfFrame(of, { ...doc, budget: { ...doc.budget, noise: { threshold: 0.01, of: "rendered" } } })).toBe(false);
  });
});
