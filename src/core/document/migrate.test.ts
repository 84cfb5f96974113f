import { readdirSync, readFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { describe, expect, it } from "vitest";
import { migrateDocument } from "./migrate";
import { parseDocument, parseDocumentText } from "./parse";

const folder = resolve(import.meta.dirname, "../../../tests/fixtures/v1");

describe("documents of version 1", () => {
  it.each(readdirSync(folder))("%s opens, and is the same when it is opened again as it was saved", (file) => {
    const doc = parseDocumentText(readFileSync(join(folder, file), "utf8"), file);
    expect(doc.fumarium).toBe(2);
    expect(parseDocument(JSON.parse(JSON.stringify(doc)))).toEqual(doc);
  });

  it("keep every value under its new name", () => {
    const doc = parseDocument({
      fumarium: 1,
      assets: { grid: { uri: "a.vdb" } },
      materials: { m: {} },
      objects: [{ kind: "sphere", name: "ball", material: "m", radius: 1 }],
      sun: { gobo: { pattern: "bars", turn: 11 } },
      sky: { turn: 22 },
      lights: [{ kind: "spot", position: [0, 1, 0], target: [0, 0, 0], gobo: { pattern: "leaves", turn: 33 } }],
      air: [
        {
          breakUp: { character: "wisps", size: 3 },
          near: { object: "ball" },
          start: { distance: 4, least: 0.25 },
          phase: { model: "molecular" },
        },
        { phase: { model: "one-lobe" }, grid: { asset: "grid", heat: { channel: "temp", strength: 5 } } },
      ],
      render: { mostSteps: 100, leastSamples: 7, outlierLimit: 20 },
      film: { lightParts: true },
    });
    expect(doc.air[0]).toMatchObject({
      noise: { character: "wisps", size: 3 },
      proximity: { object: "ball" },
      start: { distance: 4, min: 0.25 },
      phase: { model: "rayleigh" },
    });
    expect(doc.air[1]).toMatchObject({ phase: { model: "henyey-greenstein" }, grid: { temperature: { channel: "temp", strength: 5 } } });
    expect(doc.render).toMatchObject({ maxSteps: 100, minSamples: 7, fireflyClamp: 20 });
    expect([doc.film.lightGroups, doc.sky.rotation, doc.sun.gobo!.rotation]).toEqual([true, 22, 11]);
    expect(doc.lights[0]).toMatchObject({ gobo: { rotation: 33 } });
  });

  it("are refused for what is wrong in them, by the name of the place", () => {
    expect(() => parseDocument({ fumarium: 1, render: { mostSteps: -1 } })).toThrow(/render\.maxSteps/);
    expect(() => parseDocument({ fumarium: 1, air: [{ breakUp: {}, noise: {} }] })).toThrow(/air\[0\]\.breakUp: unknown field/);
    expect(() => parseDocument({ fumarium: 2, air: [{ breakUp: { size: 1 } }] })).toThrow(/air\[0\]\.breakUp: unknown field/);
    expect(() => parseDocument({ fumarium: 3 })).toThrow(/newer than this program/);
    expect(() => parseDocument({ fumarium: 0 })).toThrow(/fumarium/);
  });

  it("of any shape, however broken, are passed on to be refused", () => {
    for (const value of [
      null,
      1,
      "x",
      [],
      { fumarium: 1, air: 7, lights: {}, render: null, film: [], sun: 3 },
      { fumarium: 1, air: [null, 3, []] },
    ])
      // prettier-ignore
      expect(() => migrateDocument(value)).not.toThrow();
    expect(migrateDocument({ fumarium: 1, air: 7 })).toEqual({ fumarium: 2, air: 7 });
  });
});
