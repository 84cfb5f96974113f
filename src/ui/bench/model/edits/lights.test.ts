import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { projectPoint } from "#core/scene/pick";
import { filterDocument } from "../session";
import { withoutMedium } from "../store";
import { changeLights, duplicateLights, LIGHT_KINDS, newLight, removeLights } from "./lights";

const doc = parseDocument({
  fumarium: 2,
  sky: { stars: {} },
  moon: { on: true },
  lights: ["a", "b", "c"].map((name) => ({ kind: "point", name, position: [0, 1, 0], media: name === "a" ? ["haze", "mist"] : null })),
  air: [{ name: "haze", density: 0.1 }, { name: "mist", density: 0.2 }],
}); // prettier-ignore

const nothing = { middle: null, ground: null, room: null, bounds: null };

describe("edits of lights", () => {
  it.each(LIGHT_KINDS.map(([k]) => k))("a new %s has a free name, is in sight and can be stored", (kind) => {
    const twice = { ...doc, lights: [...doc.lights, newLight(doc, kind, nothing)] };
    const light = newLight(twice, kind, nothing);
    expect(light.name).toBe(`${kind} 2`);
    const at = projectPoint(doc, light.position)!;
    expect(at.depth).toBeGreaterThan(0);
    expect(parseDocument({ ...twice, lights: [...twice.lights, light] }).lights).toHaveLength(5);
  });

  it("change, copy and remove many at once", () => {
    expect(changeLights(doc, [0, 2], (l) => ({ stops: l.stops + 1 })).lights.map((l) => l.stops)).toEqual([1, 0, 1]);
    const { doc: more, copies } = duplicateLights(doc, [0, 1]);
    expect(copies).toEqual([3, 4]);
    expect(more.lights.map((l) => l.name)).toEqual(["a", "b", "c", "a 2", "b 2"]);
    expect(removeLights(more, [0, 3]).lights.map((l) => l.name)).toEqual(["b", "c", "b 2"]);
  });

  it("forget a medium that is taken out, unless another bears its name", () => {
    expect(withoutMedium(doc, 0).lights[0]!.media).toEqual(["mist"]);
    const twice = { ...doc, air: [...doc.air, doc.air[0]!] };
    expect(withoutMedium(twice, 0).lights[0]!.media).toEqual(["haze", "mist"]);
    expect(parseDocument(withoutMedium(doc, 1))).toBeTruthy();
  });
});

describe("lights alone", () => {
  it("mute all others for the eye, and change nothing where none is chosen", () => {
    expect(filterDocument(doc, { solo: [], soloMedia: [], balance: false })).toBe(doc);
    const one = filterDocument(doc, { solo: [1], soloMedia: [], balance: false });
    expect([one.sun.on, one.moon.on, one.sky.on, one.sky.stars]).toEqual([false, false, false, null]);
    expect(one.lights.map((l) => l.on)).toEqual([false, true, false]);
    const sky = filterDocument(doc, { solo: ["sky"], soloMedia: [], balance: true });
    expect([sky.sky.on, sky.sky.stars !== null, sky.film.lightGroups]).toEqual([true, true, true]);
  });
});
