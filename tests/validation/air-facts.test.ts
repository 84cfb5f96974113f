import { readFileSync } from "node:fs";
import { beforeAll, describe, expect, it } from "vitest";
import { airFacts } from "#core/air/facts";
import { filmFacts } from "#core/air/film-facts";
import { solvePins } from "#core/air/pins";
import { parseDocument } from "#core/document/parse";
import { whiteAt } from "#core/optics/exposure";
import { compileScene } from "#core/scene/compile";
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import { SectionProbe, withoutLights } from "#core/section/probe";
import { render, type PartialDocument } from "../support/kernel";

let probe: SectionProbe;
beforeAll(async () => {
  probe = await SectionProbe.create(new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm")));
});
const base: PartialDocument = {
  materials: { m: { baseColor: [0.4, 0.4, 0.4], specular: 0 } },
  objects: [{ kind: "box", material: "m", position: [0, 0, -40.5], size: [400, 400, 1] }],
  camera: { position: [0, 2, 0], target: [0, 2, -10], fieldOfView: 40 },
  sun: { azimuth: 0, elevation: 90, illuminance: 40000 },
  film: { size: [48, 48], exposure: 13 },
};
const load = (input: PartialDocument) => {
  const doc = parseDocument({ fumarium: 2, ...base, ...input });
  probe.setGeometry(compileScene(doc, { models: new Map() }));
  return doc;
};

describe("what is measured on a frame", () => {
  it("light lost on its way: none of it in boundless air, Beer's law under a layer", () => {
    const endless = airFacts(load({ air: [{ density: 0.01 }] }), probe, 50);
    expect(endless.sunLeft).toBe(0);
    expect(endless.skyLeft).toBe(0);
    const layer = airFacts(load({ air: [{ density: 0.05, region: { kind: "layer", level: 200 } }] }), probe, 50);
    // every point looked from lies near the lens's height
    expect(layer.sunLeft! / Math.exp(-0.05 * 198)).toBeGreaterThan(0.3);
    expect(layer.sunLeft! / Math.exp(-0.05 * 198)).toBeLessThan(3);
    expect(layer.median!.distance).toBeGreaterThan(40);
    expect(layer.median!.left).toBeCloseTo(Math.exp(-0.05 * layer.median!.distance), 4);
  });

  it("which media the frame's rays pass", () => {
    const facts = airFacts(
      load({
        air: [
          { density: 1, region: { kind: "sphere", centre: [0, 2, -20], radius: 2 } },
          { name: "behind", density: 1, region: { kind: "sphere", centre: [0, 2, 20], radius: 2 } },
          { name: "wall", density: 1, region: { kind: "sphere", centre: [0, 2, -60], radius: 5 } },
        ],
      }),
      probe,
      50,
    );
    expect(facts.crossed[0]).toBeGreaterThan(0);
    expect(facts.crossed.slice(1)).toEqual([0, 0]);
  });

  it("whether the air changes the picture, and clips it", async () => {
    const facts = async (density: number, exposure: number) => {
      const film = await render({ ...base, air: [{ density, height: { scale: 20 } }] }, 16, PASS_AIR | PASS_SURFACES | PASS_CLEAR);
      return filmFacts(film, whiteAt(exposure));
    };
    expect((await facts(1e-8, 13)).changed).toBe(0);
    const seen = await facts(0.01, 13);
    expect(seen.changed).toBeGreaterThan(0.7);
    expect(seen.airClipped).toBe(0);
    expect((await facts(0.01, 2)).airClipped).toBeGreaterThan(0.9);
  });

  it("pins are solved through the same air as the picture's, broken up and over a falloff", () => {
    const doc = load({
      air: [
        { name: "base", density: 0.004 },
        { name: "bank", density: 0.01, height: { level: 0, scale: 4 }, noise: { size: 3, low: 0.3, high: 0.7 } },
      ],
    });
    const depth = (d: typeof doc, p: { x: number; y: number; distance: number }) => probe.depth(d, p.x, p.y, p.distance);
    const pins = [
      { x: 0.5, y: 0.5, distance: 40, share: 0.3 },
      { x: 0.5, y: 0.1, distance: 41, share: 0.7 },
    ];
    const { met, medium } = solvePins(withoutLights(doc), 1, pins, ["density", "scale"], depth);
    met.forEach((v, i) => expect(v).toBeCloseTo(pins[i]!.share, 2));
    expect(medium.noise).toEqual(doc.air[1]!.noise);
  });
});
