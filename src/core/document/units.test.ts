import { describe, expect, it } from "vitest";
import { parseQuantity } from "./quantities";
import { lengthWords, shownUnit, UNIT_SYSTEMS } from "./units";

describe("units", () => {
  it("say a length in either system", () => {
    const [metric, imperial] = UNIT_SYSTEMS.map(lengthWords);
    expect(metric!.exact(12.345, 3)).toBe("12.3 m");
    // a fathom is six feet
    expect(imperial!.exact(1.8288, 3)).toBe("6 ft");
    expect(metric!.rough(1999)).toBe("2000 m");
    expect(metric!.rough(23_456)).toBe("23 km");
    expect(imperial!.rough(30)).toBe("98 ft");
    expect(imperial!.rough(1609.344)).toBe("1 mi");
    expect(imperial!.rough(23_000)).toBe("14 mi");
    expect([metric!.rough(Infinity), imperial!.rough(Infinity)]).toEqual(["∞", "∞"]);
    expect(UNIT_SYSTEMS.map((u) => lengthWords(u).exact(lengthWords(u).reference, 3))).toEqual(["10 m", "30 ft"]);
    expect(metric!.box([3, 4.5, 2])).toBe("3 × 4.5 × 2 m");
    expect(imperial!.box([3.048, 6.096, 0.3048])).toBe("10 × 20 × 1 ft");
  });

  it("say a coefficient so that a length times it is the same number", () => {
    expect(lengthWords("metric").coefficient(0.02, 3)).toBe("0.02 1/m");
    expect(lengthWords("imperial").coefficient(1 / 0.3048, 3)).toBe("1 1/ft");
    const depth = (system: "metric" | "imperial"): number =>
      (10 / shownUnit("m", "length", system).size) * (0.2 / shownUnit("1/m", "coefficient", system).size);
    expect(depth("imperial")).toBeCloseTo(depth("metric"), 12);
  });

  it("leave what has no other unit as it is, and know the footcandle", () => {
    for (const unit of ["cd/m²", "K", "°", "EV", "lx", ""]) expect(shownUnit(unit, "plain", "imperial")).toEqual({ unit, size: 1 });
    expect(UNIT_SYSTEMS.map((u) => lengthWords(u).illuminance.short)).toEqual(
      UNIT_SYSTEMS.map((u) => shownUnit("lx", "illuminance", u).unit),
    );
    // 100 footcandles are about 1076 lux
    expect(100 * shownUnit("lx", "illuminance", "imperial").size).toBeCloseTo(1076.39, 2);
  });

  it("are typed as they are shown, or with a unit of their own", () => {
    const { size } = shownUnit("m", "length", "imperial");
    expect(parseQuantity("10", "length", size)).toBeCloseTo(3.048, 12);
    expect(parseQuantity("10 m", "length", size)).toBe(10);
    expect(parseQuantity("5*2 ft", "length")).toBeCloseTo(3.048, 12);
    expect(parseQuantity("10", "length")).toBe(10);
    expect(parseQuantity("1", "coefficient", shownUnit("1/m", "coefficient", "imperial").size)).toBeCloseTo(3.28084, 5);
    expect(parseQuantity("100 fc", "plain")).toBeCloseTo(1076.39, 2);
    expect(parseQuantity("25", "share", 1)).toBe(0.25);
  });
});
