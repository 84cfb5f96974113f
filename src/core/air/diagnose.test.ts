import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import type { Box } from "../math/box";
import { diagnose, type Frame } from "./diagnose";
import { frameReach, reachOfSet } from "./reach";
import type { FilmFacts } from "./film-facts";

const film: FilmFacts = { changed: 0.6, airClipped: 0, airNoise: 0.3, noise: 0.02, samples: 64, mean: 300, median: 300 };
const place: Frame["air"]["place"] = { room: null, inSolid: false, outside: [], onNothing: [] };
const frame = (air: Partial<Frame["air"]> = {}, more: Partial<FilmFacts> = {}): Frame => ({
  air: { sunLeft: 0.9, skyLeft: 0.8, median: { distance: 20, left: 0.5 }, crossed: [1, 1, 1], place, ...air },
  film: { ...film, ...more },
  ground: 0.5,
  reach: 40,
  bounds: [-5, 0, -5, 5, 4, 5],
});
const room = { box: [-4, 0, -3, 4, 3, 3] as Box, opening: null, places: [] };
const doc = (more: object) => parseDocument({ fumarium: 2, air: [{ name: "haze", density: 0.03, height: { scale: 5 } }], ...more });
const found = (d: ReturnType<typeof doc>, f: Frame) => diagnose(d, f).map((x) => x.id);

describe("diagnosis", () => {
  it("is silent when all is well, and where there is no air", () => {
    expect(diagnose(doc({}), frame())).toEqual([]);
    expect(diagnose(doc({ air: [] }), frame({ sunLeft: 0, median: { distance: 1, left: 0 } }))).toEqual([]);
  });

  it("says when boundless air swallows sun and sky, and lets it thin out", () => {
    const d = doc({ air: [{ name: "murk", density: 0.1 }] });
    const [f] = diagnose(d, frame({ sunLeft: 0, skyLeft: 0 }));
    expect(f!.says).toMatch(/Nothing of the sun and sky .* murk is unbounded/);
    expect(f!.remedies[0]!.apply(d).air[0]!.height).toMatchObject({ level: 0.5, scale: 5, shape: "exponential" });
    // bounded, the share is said and a tenth let through: depth ln 10
    const bounded = doc({ air: [{ name: "lid", density: 2, region: { kind: "layer", level: 3 } }] });
    const [g] = diagnose(bounded, frame({ sunLeft: Math.exp(-6) }));
    expect(g!.says).toMatch(/0\.25 % of the sun/);
    expect(g!.remedies[0]!.apply(bounded).air[0]!.density).toBeCloseTo((2 * Math.log(10)) / 6, 2);
  });

  it("says when nothing is transmitted, or nothing changes, with a density that mends it", () => {
    const d = doc({});
    const [thick] = diagnose(d, frame({ median: { distance: 20, left: 1e-4 } }));
    expect(thick!.says).toMatch(/0\.01 % of light is left .* 20 m away/);
    const k = thick!.remedies[0]!.apply(d).air[0]!.density / 0.03;
    expect(1e-4 ** k).toBeCloseTo(0.3, 2);
    const [thin] = diagnose(d, frame({ median: { distance: 20, left: 0.9995 } }, { changed: 0 }));
    expect(thin!.says).toMatch(/no part of the picture by a grey level: 99\.95 %/);
    expect(0.9995 ** (thin!.remedies[0]!.apply(d).air[0]!.density / 0.03)).toBeCloseTo(0.7, 2);
    expect(found(d, frame({}, { changed: 0, samples: 1 }))).toEqual([]);
    // air that the view does not meet is not to be made a wall
    expect(diagnose(d, frame({ median: { distance: 20, left: 1 } }, { changed: 0 }))[0]!.remedies).toEqual([]);
  });

  it("says when lights give the air nothing, or do not reach it", () => {
    const lamps = [{ kind: "point", name: "lamp", position: [0, 1, 0], air: 0 }];
    const d = doc({ lights: lamps, sun: { air: 0 }, sky: { on: false } });
    const all = diagnose(d, frame({ skyLeft: null }));
    expect(all.map((f) => f.id)).toEqual(["sun share", "lamp share"]);
    expect(all[0]!.remedies[0]!.apply(d).sun.air).toBe(1);
    expect(all[1]!.remedies[0]!.apply(d).lights[0]!.air).toBe(1);
    // a lamp for surfaces alone is a choice while other light shows the air
    expect(found(doc({ lights: lamps }), frame())).toEqual([]);
    const barred = doc({ sun: { media: [] }, sky: { on: false } });
    const [f] = diagnose(barred, frame({ skyLeft: null }));
    expect(f!.says).toMatch(/None of 1 lights reaches haze/);
    expect(f!.remedies[0]!.apply(barred).sun.media).toEqual(["haze"]);
  });

  it("says when a region lies outside the view, and brings it in", () => {
    const d = doc({ air: [{ name: "puff", density: 1, region: { kind: "sphere", centre: [0, 0, 900], radius: 2 } }], camera: { position: [0, 2, 10], target: [0, 2, 0] } }); // prettier-ignore
    const [f] = diagnose(d, frame({ crossed: [0], median: { distance: 8, left: 1 } }));
    expect(f!.says).toMatch(/puff meets none of the camera rays/);
    expect(f!.remedies[0]!.apply(d).air[0]!.region).toMatchObject({ centre: [0, 2, 2] });
  });

  it("says when the air alone is past white, steps pass over features, or the air makes the noise", () => {
    const clipped = diagnose(doc({}), frame({}, { airClipped: 0.5 }));
    expect(clipped[0]!.remedies[0]!.apply(doc({})).film.exposure).toBe(doc({}).film.exposure + 2);
    const steps = doc({ air: [{ density: 0.1, noise: { size: 1, octaves: 1 } }], render: { estimator: "stepping", stepSize: 8 } });
    expect(diagnose(steps, frame())[0]!.remedies[0]!.apply(steps).render.stepSize).toBe("auto");
    const noisy = diagnose(doc({}), frame({}, { airNoise: 0.9, noise: 0.2 }));
    expect(noisy[0]!.says).toMatch(/90 % of the noise/);
    expect(noisy[0]!.remedies[0]!.apply(doc({})).render.airSamples).toBe(8);
  });

  it("says when the picture is dark, and by how much to open up; not of a night that is meant, nor of one that is black", () => {
    const d = doc({ film: { exposure: 12 } });
    // white is 1.2 · 2^12; middle grey 0.18 of it, here seven stops above what half of the picture shows
    const seven = (0.18 * 1.2 * 2 ** 12) / 2 ** 7;
    const [f] = diagnose(d, frame({}, { median: seven }));
    expect(f).toMatchObject({ id: "dark" });
    expect(f!.says).toMatch(/7 stops/);
    // five or six stops: then half of it lies one to two below grey
    expect(12 - f!.remedies[0]!.apply(d).film.exposure).toBeGreaterThanOrEqual(5);
    expect(12 - f!.remedies[0]!.apply(d).film.exposure).toBeLessThanOrEqual(6);
    expect(found(d, frame({}, { median: 16 * seven }))).toEqual([]);
    expect(found(d, frame({}, { median: 0, mean: 0 }))).toEqual([]);
  });

  it("says when a lamp is wider than its gobo", () => {
    const beam = (radius: number) => doc({ lights: [{ kind: "spot", name: "beam", position: [0, 5, 0], target: [0, 0, 0], cone: 6, radius, gobo: { pattern: "bars", distance: 0.8 } }] }); // prettier-ignore
    const [f] = diagnose(beam(0.35), frame());
    expect(f!.says).toMatch(/beam is 0\.7 m wide and its gobo 0\.084 m: 1\.4 % of its light passes/);
    expect(f!.remedies[0]!.apply(beam(0.35)).lights[0]).toMatchObject({ radius: 0.01 });
    expect(found(beam(0.02), frame())).toEqual([]);
  });

  it("keeps boundless air to the room that the lens stands in, before it lets it thin out", () => {
    const d = doc({ air: [{ name: "murk", density: 0.1 }, { name: "fog", density: 0.1, height: { scale: 1 } }] }); // prettier-ignore
    const [f] = diagnose(d, frame({ sunLeft: 0, place: { ...place, room } }));
    expect(f!.remedies.map((r) => r.words)).toEqual(["keep it to the set's inside", "add a height falloff"]);
    const kept = f!.remedies[0]!.apply(d);
    expect(kept.air[0]!.region).toMatchObject({ kind: "box", centre: [0, 1.5, 0], size: [8, 3, 6] });
    expect(kept.air[1]).toEqual(d.air[1]);
  });

  it("says when the lens is in a solid, a lamp outside the room, or a lamp shines on nothing, in clear air too", () => {
    const d = doc({
      air: [],
      lights: [
        { kind: "spot", name: "far", position: [20, 2, 0], target: [30, 2, 0] },
        { kind: "point", name: "near", position: [0, 2, 0] },
      ],
    });
    const all = diagnose(d, frame({ place: { room, inSolid: true, outside: [0], onNothing: [0, 1] } }, { mean: 0 }));
    expect(all.map((f) => f.id)).toEqual(["in solid", "lamp outside", "lamp on nothing"]);
    expect(found(d, frame({ place: { ...place, inSolid: true } }))).toEqual([]);
    const out = all[0]!.remedies[0]!.apply(d).camera.position;
    expect(Math.hypot(out[0], out[1] - 2, out[2])).toBeGreaterThan(7);
    expect(all[1]!.says).toMatch(/far stands outside the room/);
    expect(all[1]!.remedies[0]!.apply(d).lights).toMatchObject([{ position: [0, 2.4, 0], target: [0, 0, 0] }, { position: [0, 2, 0] }]);
    // a lamp that has no aim must be moved by the artist
    expect(all[2]!.remedies).toEqual([]);
    const [aimed] = diagnose(d, frame({ place: { ...place, onNothing: [0] } }));
    expect(aimed!.remedies[0]!.apply(d).lights[0]).toMatchObject({ target: d.camera.target });
  });

  it("every remedy leaves a document that can be read back", () => {
    const cases = [
      [doc({ air: [{ name: "murk", density: 0.1 }] }), frame({ sunLeft: 0, skyLeft: 0 })],
      [doc({ sun: { air: 0 }, sky: { on: false } }), frame({ skyLeft: null, crossed: [0] }, { airClipped: 1, airNoise: 1, noise: 1 })],
    ] as const;
    for (const [d, f] of cases)
      for (const { remedies } of diagnose(d, f))
        for (const { apply } of remedies) expect(() => parseDocument(JSON.parse(JSON.stringify(apply(d))))).not.toThrow();
  });
});

describe("lengths a frame is judged by", () => {
  it("are those of the set, of what is seen, or a usual one where nothing stands yet", () => {
    const d = doc({ camera: { position: [0, 12, 0], target: [0, 0, -5] } });
    expect(reachOfSet(null)).toBe(50);
    expect(reachOfSet([0, 0, 0, 0, 0, 0])).toBe(50);
    expect(reachOfSet([0, 0, 0, 3, 4, 0])).toBe(5);
    expect(reachOfSet([-1e4, 0, 0, 1e4, 1, 1])).toBe(500);
    expect(frameReach(d, [0, 1, 0, 100, 1, 0], 8)).toEqual({ reach: 24, ground: 6 });
    expect(frameReach(d, [0, 1, 0, 100, 1, 0], null)).toEqual({ reach: 100, ground: 1 });
  });
});
