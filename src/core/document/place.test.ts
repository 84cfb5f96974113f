import { describe, expect, it } from "vitest";
import { cameraFrame } from "./camera";
import { frameAround, type Bounds } from "./framing";
import { parseDocument } from "./parse";
import { freeName, likelyScale, placedBounds, placeSet, type BroughtIn, type Placing } from "./place";
import { cameraSchema, lightSchema } from "./schema";

const set: BroughtIn = {
  name: "hall.glb",
  bounds: [-1, 0, -2, 3, 4, 6],
  lenses: [{ name: "gate", camera: cameraSchema.parse({ position: [0, 2, 8], target: [0, 1, 0], focus: 4 }) }],
  lights: [lightSchema.parse({ kind: "spot", name: "lantern", position: [1, 3, 0], target: [1, 0, 0], fade: { farFrom: 5, farTo: 8 } })],
  sun: { azimuth: 0, elevation: 30, illuminance: 9000, tint: [1, 0.9, 0.8], motion: null },
};
const how: Placing = { sha256: "a".repeat(64), uri: "hall.glb", replace: false, lights: true, lenses: true, scale: 1, up: "y" };
const empty = parseDocument({ fumarium: 2 });

describe("placing a set", () => {
  it("the first is looked at through its own lens; lights, lenses and sun come with it", () => {
    const doc = placeSet(empty, set, how);
    expect(doc.objects).toMatchObject([{ kind: "model", name: "hall", asset: "hall", scale: 1 }]);
    expect(doc.assets.hall).toEqual({ uri: "hall.glb", sha256: how.sha256 });
    expect(doc.camera).toEqual(set.lenses[0]!.camera);
    expect(doc.lenses.map((l) => l.name)).toEqual(["gate"]);
    expect(doc.sun).toMatchObject({ on: true, azimuth: 0, elevation: 30, illuminance: 9000 });
    const plain = placeSet(empty, set, { ...how, lights: false, lenses: false });
    expect([plain.lights, plain.lenses, plain.sun]).toEqual([[], [], empty.sun]);
  });

  it("a second of the same file shares its asset, and leaves the lens where it is", () => {
    const one = placeSet(empty, set, how);
    const two = placeSet({ ...one, camera: cameraSchema.parse({ position: [9, 9, 9] }) }, set, how);
    expect(Object.keys(two.assets)).toEqual(["hall"]);
    expect(two.objects.map((o) => o.name)).toEqual(["hall", "hall 2"]);
    expect(two.lenses.map((l) => l.name)).toEqual(["gate", "gate 2"]);
    expect(two.camera.position).toEqual([9, 9, 9]);
  });

  it("in other units and with z up everything lies where the set does, the sun too", () => {
    const doc = placeSet(empty, set, { ...how, scale: 0.01, up: "z" });
    expect(doc.objects[0]).toMatchObject({ scale: 0.01, rotation: [-90, 0, 0] });
    expect(doc.camera.position.map((v) => v + 0)).toEqual([0, 0.08, -0.02]);
    expect(doc.lights[0]).toMatchObject({ fade: { farFrom: 0.05, farTo: 0.08 } });
    expect(placedBounds(set.bounds, { scale: 0.01, up: "z" }).map((v) => Number(v.toFixed(4)) + 0)).toEqual([
      -0.01, -0.02, -0.04, 0.03, 0.06, 0,
    ]);
    // towards -z and up by 30 degrees in the file: its z is up here, its y lies along -z
    expect(doc.sun.elevation).toBeCloseTo(-60, 4);
  });

  it("in place of another, what needs the old set goes, and no light names media that are gone", () => {
    const old = parseDocument({
      fumarium: 2,
      materials: { m: {} },
      objects: [{ kind: "sphere", name: "cloud", material: "m", radius: 2 }],
      sun: { media: ["inside", "haze"] },
      lights: [{ kind: "point", position: [0, 1, 0], media: ["inside"] }],
      air: [
        { name: "inside", density: 1, region: { kind: "mesh", object: "cloud" } },
        { name: "haze", density: 0.1 },
      ],
    });
    const doc = placeSet(old, set, { ...how, replace: true, lights: false });
    expect(doc.objects.map((o) => o.name)).toEqual(["hall"]);
    expect(doc.air.map((m) => m.name)).toEqual(["haze"]);
    expect(doc.sun.media).toEqual(["haze"]);
    expect(doc.lights[0]!.media).toEqual([]);
    // without its lights being taken, and with: both are documents that can be stored
    expect(parseDocument(placeSet(old, set, { ...how, replace: true }))).toBeTruthy();
  });

  it("names are free ones", () => {
    expect(freeName("a", [])).toBe("a");
    expect(freeName("a", ["a", "a 2"])).toBe("a 3");
    expect(freeName("", [])).toBe("set");
  });
});

describe("framing", () => {
  it.each([1.78, 0.5])("holds most of what is framed, at frames of %s to 1, and keeps the direction where asked", (aspect) => {
    const b: Bounds = [-3, 0, -5, 7, 6, 2];
    const before = cameraSchema.parse({ position: [0, 40, 1], target: [0, 0, 0], fieldOfView: 35 });
    const c = frameAround(b, aspect, before, true);
    const { forward } = cameraFrame(c);
    cameraFrame(before).forward.forEach((v, k) => expect(forward[k]).toBeCloseTo(v, 4));
    expect(c.target).toEqual([2, 3, -1.5]);
    const radius = Math.hypot(10, 6, 7) / 2;
    const distance = Math.hypot(...c.position.map((v, k) => v - c.target[k]!));
    const half = Math.atan(Math.tan((35 * Math.PI) / 360) * Math.min(1, aspect));
    expect((distance * Math.sin(half)) / radius).toBeCloseTo(0.8, 3);
  });
});

describe("units of a file", () => {
  it("are suggested where its size in metres is none that sets have", () => {
    for (const metres of [0.8, 4, 12, 36, 150]) expect(likelyScale(metres), `${metres} m`).toBeNull();
    // a room of 8.9 m, a hall of 60 m, a table of 2 m, in centimetres, millimetres and inches
    expect(likelyScale(890)).toBe(0.01);
    expect(likelyScale(6000)).toBe(0.01);
    expect(likelyScale(8900)).toBe(0.001);
    expect(likelyScale(60_000)).toBe(0.001);
    expect(likelyScale(200)).toBe(0.01);
    // nothing makes a room of a grain, or of a planet
    for (const odd of [1e-4, 0.3, 1e7, 0, Infinity]) expect(likelyScale(odd), String(odd)).toBeNull();
  });
});
