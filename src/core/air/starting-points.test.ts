import { describe, expect, it } from "vitest";
import { scatteringAlbedo, meanExtinction, scatteringOf, extinctionOf } from "../document/medium";
import { startFrom, STARTING_POINTS } from "./starting-points";

const place = { reach: 40, ground: 0.2 };
const point = (id: string) => STARTING_POINTS.find((p) => p.id === id)!;

describe("airs to start from", () => {
  it.each(STARTING_POINTS.map((p) => [p.name, p] as const))("%s is a valid medium with its own coefficients", (_, p) => {
    const m = startFrom(p, place, "nature", p.name);
    expect(extinctionOf(m)[1] / (p.extinction * p.bands[1])).toBeCloseTo(1, 2);
    scatteringAlbedo(m).forEach((g, k) => expect(g).toBeCloseTo(p.albedo[k]!, 2));
    if (m.height) expect(m.height.level).toBe(0.2);
    const shown = startFrom(p, place, "shows", p.name);
    expect(meanExtinction(shown)).toBeGreaterThanOrEqual(0.98 * meanExtinction(m));
    expect(Math.exp(-meanExtinction(shown) * place.reach)).toBeLessThanOrEqual(p.shows + 0.01);
  });

  it("molecules scatter blue as Rayleigh's law says: published 5.8, 13.5 and 33.1 per million metres at 680, 550 and 440 nm", () => {
    // Bruneton and Neyret 2008; our bands stand at 610, 550, 465 nm
    const [r, g, b] = scatteringOf(startFrom(point("molecules"), place, "nature", "x"));
    expect(g).toBeCloseTo(13.5e-6, 6);
    expect(r / (5.8e-6 * (680 / 610) ** 4.08)).toBeCloseTo(1, 1);
    expect(b / (33.1e-6 * (440 / 465) ** 4.08)).toBeCloseTo(1, 1);
  });

  it("fogs are what the meteorologists call so: below 1 km of visibility, mist and haze above", () => {
    const visibility = (id: string): number => -Math.log(0.05) / point(id).extinction;
    for (const id of ["ground fog", "radiation fog", "sea fog", "dense fog"]) expect(visibility(id)).toBeLessThan(1000);
    for (const id of ["mist", "damp haze", "town haze", "country haze"]) expect(visibility(id)).toBeGreaterThan(1000);
    expect(new Set(STARTING_POINTS.map((p) => p.id)).size).toBe(STARTING_POINTS.length);
  });
});
