import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import type { Medium, SceneDocument } from "../document/schema";
import { extinctionOf } from "../document/medium";
import { fit } from "./fit";
import { lengthWords } from "../document/units";
import { contradiction, solvable, solvePins, withSolved, seenPin, type SeenPin } from "./pins";

/** Level rays at a pin's height (its y, m): depth in closed form, written here. */
function depth(doc: SceneDocument, pin: SeenPin): [number, number, number] {
  const sum = [0, 0, 0];
  for (const m of doc.air) {
    const from = m.start?.distance ?? 0;
    const height = m.height ? Math.exp(-Math.max(0, pin.y - m.height.level) / m.height.scale) : 1;
    extinctionOf(m).forEach((e, k) => (sum[k]! += e * height * Math.max(0, pin.distance - from)));
  }
  return sum as [number, number, number];
}
const doc = (...air: object[]): SceneDocument => parseDocument({ fumarium: 2, air });
const pin = (distance: number, share: number, y = 0): SeenPin => ({ x: 0.5, y, distance, share });

describe("pins", () => {
  it("stay on their points when the lens moves, and are not seen from behind them", () => {
    const level = parseDocument({
      fumarium: 2,
      camera: { position: [0, 0, 0], target: [0, 0, -1], fieldOfView: 90 },
      film: { size: [64, 64] },
    });
    const place = { point: [3, 0, -4] as [number, number, number], share: 0.5 };
    // 3 m aside at 4 m depth: three quarters of the way to the right border
    expect(seenPin(level, place)).toMatchObject({ share: 0.5, distance: 5 });
    expect(seenPin(level, place)!.x).toBeCloseTo(0.5 + 0.75 / 2, 9);
    expect(seenPin({ ...level, camera: { ...level.camera, target: [0, 0, 1] } }, place)).toBeNull();
    const flat = { ...level, camera: { ...level.camera, kind: "orthographic" as const, height: 8 } };
    expect(seenPin(flat, place)).toMatchObject({ distance: 4, x: 0.5 + 3 / 8 });
  });

  it("one sets the density alone", () => {
    const { medium, met } = solvePins(doc({ density: 0.001 }), 0, [pin(40, 0.3)], ["density"], depth);
    expect(medium.density).toBeCloseTo(-Math.log(0.3) / 40, 5);
    expect(met[0]).toBeCloseTo(0.3, 3);
    expect(contradiction([pin(40, 0.3)], met, lengthWords("metric"))).toBeNull();
  });

  it("two set density and start; other air counts", () => {
    const d = doc({ name: "haze", density: 0.002 }, { name: "bank", density: 0.1, start: { distance: 1, fade: 0 } });
    const pins = [pin(20, 0.9), pin(80, 0.2)];
    const { medium, met } = solvePins(d, 1, pins, ["density", "start"], depth);
    // by hand: bank's depths are what the haze leaves over
    const [a, b] = [-Math.log(0.9) - 0.04, -Math.log(0.2) - 0.16];
    const sigma = (b - a) / 60;
    expect(medium.density / sigma).toBeCloseTo(1, 2);
    expect(medium.start!.distance).toBeCloseTo(20 - a / sigma, 1);
    expect(contradiction(pins, met, lengthWords("metric"))).toBeNull();
  });

  it("three at three heights set density, level and scale", () => {
    const d = doc({ density: 0.01, height: { level: 0.2, scale: 5 } });
    const truth: Partial<Medium> = { density: 0.06, height: { ...d.air[0]!.height!, level: 1, scale: 3 } };
    const made = { ...d, air: [{ ...d.air[0]!, ...truth }] };
    const pins = [0.5, 4, 9].map((y) => pin(30, 0, y)).map((p) => ({ ...p, share: Math.exp(-depth(made, p)[1]) }));
    const { medium, met } = solvePins(d, 0, pins, solvable(d.air[0]!), depth);
    met.forEach((v, i) => expect(v).toBeCloseTo(pins[i]!.share, 2));
    expect(medium.height!.scale).toBeCloseTo(3, 1);
    expect(medium.density / 0.06).toBeCloseTo(1, 1);
  });

  it("what cannot be met is said with its numbers, and the solution stays within sense", () => {
    const pins = [pin(20, 0.2), pin(60, 0.8)];
    const { medium, met } = solvePins(doc({ density: 0.01 }), 0, pins, ["density"], depth);
    expect(contradiction(pins, met, lengthWords("metric"))).toMatch(/60 m away should keep more than the one at 20 m/);
    expect(contradiction(pins, met, lengthWords("imperial"))).toMatch(/197 ft away should keep more than the one at 65.6 ft/);
    expect(medium.density).toBeGreaterThan(0);
    expect(Number.isFinite(medium.density)).toBe(true);
    const apart = [pin(20, 0.9), pin(21, 0.1)];
    expect(contradiction(apart, solvePins(doc({ density: 0.01 }), 0, apart, ["density"], depth).met, lengthWords("metric"))).toMatch(
      /instead of/,
    );
  });
});

describe("a solution that comes late", () => {
  it("changes the numbers solved for and nothing that was edited meanwhile", () => {
    const before = doc({ density: 0.01, height: { level: 0, scale: 5 }, start: { distance: 1, fade: 2 } }).air[0]!;
    const solved: Medium = {
      ...before,
      density: 0.5,
      height: { ...before.height!, level: 3, scale: 9 },
      start: { ...before.start!, distance: 7 },
    };
    const edited: Medium = { ...before, height: { ...before.height!, shape: "linear" }, start: { ...before.start!, fade: 4 } };
    expect(withSolved(edited, solved, ["density", "scale"])).toEqual({ ...edited, density: 0.5, height: { ...edited.height!, scale: 9 } });
    expect(withSolved(edited, solved, ["start", "level"])).toEqual({
      ...edited,
      start: { distance: 7, fade: 4, min: 0 },
      height: { ...edited.height!, level: 3 },
    });
    expect(withSolved({ ...edited, height: null, start: null }, solved, ["start", "level", "scale"])).toEqual({
      ...edited,
      height: null,
      start: null,
    });
  });
});

describe("least squares", () => {
  it("finds a valley's floor, and stops at bounds", () => {
    const p = { start: 5, min: -10, max: 10, logarithmic: false, scale: 1 };
    const [a, b] = fit([p, { ...p, start: -4 }], ([x, y]) => [10 * (y! - x! * x!), 1 - x!]);
    expect(a).toBeCloseTo(1, 1);
    expect(b).toBeCloseTo(1, 1);
    expect(fit([{ ...p, max: 6 }], ([x]) => [x! - 9])[0]).toBeCloseTo(6, 6);
    expect(fit([{ start: 1, min: 1e-6, max: 1e6, logarithmic: true, scale: 1 }], ([x]) => [Math.log(x! / 300)])[0]! / 300).toBeCloseTo(
      1,
      2,
    );
    expect(fit([p], () => [NaN])[0]).toBeCloseTo(5, 6);
  });
});
