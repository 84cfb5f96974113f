import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { addMedium, duplicateMedium, moveMedium, reach, renameMedium } from "./air";

const doc = parseDocument({
  fumarium: 2,
  air: [{ name: "haze" }, { name: "smoke" }],
  sun: { media: ["smoke"] },
  lights: [{ kind: "point", position: [0, 0, 0], media: ["haze"] }],
});

describe("the stack of media", () => {
  it("keeps names apart, and what lights name", () => {
    expect(addMedium(doc, doc.air[0]!).air.map((m) => m.name)).toEqual(["haze", "smoke", "haze 2"]);
    const twice = duplicateMedium(doc, 1);
    expect(twice.air.map((m) => m.name)).toEqual(["haze", "smoke", "smoke 2"]);
    expect(twice.sun.media).toEqual(["smoke", "smoke 2"]);
    const renamed = renameMedium(doc, 0, "smoke");
    expect(renamed.air[0]!.name).toBe("smoke 2");
    expect(renamed.lights[0]!.media).toEqual(["smoke 2"]);
    expect(parseDocument(JSON.parse(JSON.stringify({ ...renamed, fumarium: 2 })))).toBeTruthy();
    expect(moveMedium(doc, 0, 1).air.map((m) => m.name)).toEqual(["smoke", "haze"]);
    expect(moveMedium(doc, 0, -1)).toBe(doc);
  });

  it("a light that reaches all media names none", () => {
    const none = reach(doc, 0, "haze", false);
    expect(none.lights[0]!.media).toEqual([]);
    expect(reach(doc, "sun", "haze", true).sun.media).toBeNull();
    expect(reach(reach(doc, "sun", "haze", true), "sun", "smoke", false).sun.media).toEqual(["haze"]);
  });
});
