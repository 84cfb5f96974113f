import { describe, expect, it } from "vitest";
import { scatteringAlbedo, scatteringOf, extinctionOf } from "../document/medium";
import { startFrom, STARTING_POINTS, type Place } from "./starting-points";

const place = { reach: 40, ground: 0.2, inside: null };
const room: Place = { ...place, inside: [1, 0.5, -3, 9, 3.5, 2] };
const point = (id: string) => STARTING_POINTS.find((p) => p.id === id)!;

describe("airs to start from", () => {
  it.each(STARTING_POINTS.map((p) => [p.name, p] as const))("%s is a valid medium with its own coefficients", (_, p) => {
    const m = startFrom(p, place, "nature", p.name);
    expect(extinctionOf(m)[1] / (p.extinction * p.bands[1])).toBeCloseTo(1, 2);
    scatteringAlbedo(m).forEach((g, k) => expect(g).toBeCloseTo(p.albedo[k]!, 2));
    expect(m.region).toEqual({ kind: "everywhere" });
    expect(m.height).toMatchObject({ level: 0.2, shape: p.height.shape });
    const shown = startFrom(p, place, "shows", p.name);
    scatteringAlbedo(shown).forEach((g, k) => expect(g).toBeCloseTo(p.albedo[k]!, 2));
    // as much as it says is left over the reach, at green light
    expect(Math.exp(-extinctionOf(shown)[1] * place.reach)).toBeCloseTo(p.shows ** p.bands[1], 2);
    expect(shown.height!.scale).toBeLessThanOrEqual(0.4 * place.reach);
    for (const manner of ["nature", "shows"] as const) {
      const inside = startFrom(p, room, manner, p.name);
      expect(inside.region).toEqual({ kind: "box", centre: [5, 2, -0.5], size: [8, 3, 5], rotation: [0, 0, 0] });
      expect(inside.height?.level ?? null).toBe(p.fills ? null : 0.5);
    }
  });

  it("fog of a metre says a metre, where the scene has room for it", () => {
    expect(startFrom(point("low fog"), place, "shows", "x").height).toEqual({ shape: "linear", level: 0.2, scale: 1, up: [0, 1, 0] });
    expect(startFrom(point("low fog"), room, "shows", "x").height).toMatchObject({ level: 0.5, scale: 1 });
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
