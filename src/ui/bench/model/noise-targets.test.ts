import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { targetsAbout, type NoiseTarget, type PriceOfTarget } from "./noise-targets";

const doc = parseDocument({ fumarium: 2, budget: { noise: { threshold: 0.02, of: "rendered" } } });
/** Time goes with the inverse square of the noise: 100 s at 2 % raw, a quarter of it cleaned. */
const seconds = ({ threshold, of }: NoiseTarget): number => (100 * (0.02 / threshold) ** 2) / (of === "cleaned" ? 4 : 1);
const priced: PriceOfTarget = (t) => ({
  span: { seconds: seconds(t), low: 0.8 * seconds(t), high: 1.2 * seconds(t) },
  samples: 8,
  unreached: 0,
});

describe("noise targets", () => {
  it("lie about the final's, which is marked, raw ones before cleaned ones", () => {
    const rows = targetsAbout(doc, null, priced);
    expect(rows.filter((r) => r.of === "rendered").map((r) => r.threshold)).toEqual([0.01, 0.014, 0.02, 0.028, 0.04, 0.08]);
    expect(rows.map((r) => r.of)).toEqual([...Array<string>(6).fill("rendered"), ...Array<string>(6).fill("cleaned")]);
    expect(rows.filter((r) => r.now)).toMatchObject([{ threshold: 0.02, of: "rendered" }]);
    expect(rows.some((r) => r.keeps)).toBe(false);
  });

  it("have the quietest that keeps the budget among them, rounded so that it does", () => {
    const rows = targetsAbout(doc, 30, priced).filter((r) => r.keeps);
    // 100 s (0.02 / t)² = 0.95 · 30 s at t = 3.746 %; cleaned at 1.873 %
    expect(rows.map((r) => [r.of, r.threshold])).toEqual([
      ["rendered", 0.038],
      ["cleaned", 0.019],
    ]);
    for (const r of rows) expect(r.span.seconds).toBeLessThanOrEqual(30);
  });

  it("say none where every one keeps it, or none does, or nothing is known", () => {
    expect(targetsAbout(doc, 1e9, priced).some((r) => r.keeps)).toBe(false);
    expect(targetsAbout(doc, 1e-6, priced).some((r) => r.keeps)).toBe(false);
    expect(targetsAbout(doc, 30, () => null)).toEqual([]);
    // of a picture that is not cleaned only raw ones are told
    expect(targetsAbout(doc, 30, (t) => (t.of === "cleaned" ? null : priced(t))).every((r) => r.of === "rendered")).toBe(true);
  });

  it("leave out what costs as much as quieter ones do", () => {
    const least: PriceOfTarget = (t) => {
      const s = Math.max(50, seconds(t));
      return { span: { seconds: s, low: s, high: s }, samples: 16, unreached: 0 };
    };
    const rows = targetsAbout(doc, null, least);
    expect(rows.map((r) => [r.of, r.threshold])).toEqual([
      ["rendered", 0.01],
      ["rendered", 0.014],
      ["rendered", 0.02],
      ["rendered", 0.028],
      ["cleaned", 0.01],
      ["cleaned", 0.014],
    ]);
  });

  it("are those about the usual one where the final ends at its samples", () => {
    const rows = targetsAbout(parseDocument({ fumarium: 2, render: { noiseThreshold: null } }), null, priced);
    expect(rows.some((r) => r.threshold === 0.02)).toBe(true);
    expect(rows.some((r) => r.now)).toBe(false);
  });
});
