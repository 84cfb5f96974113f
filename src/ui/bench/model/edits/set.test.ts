import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { addShape, changePart, duplicateObject, newMaterial, partOf, removeObject, renameObject } from "./set";

const doc = parseDocument({
  fumarium: 2,
  assets: { a: { uri: "a.glb" } },
  materials: { m: {} },
  objects: [
    { kind: "model", name: "hall", asset: "a" },
    { kind: "sphere", name: "cloud", material: "m", radius: 2 },
  ],
  air: [
    { name: "inside", density: 1, region: { kind: "mesh", object: "cloud" }, edge: 0.2 },
    { name: "about", density: 1, proximity: { object: "cloud" } },
  ],
});
/** A document that could be stored. */
const valid = (d: typeof doc): boolean => parseDocument(JSON.parse(JSON.stringify(d))) !== null;

describe("edits of the set", () => {
  it("a part changed back leaves no trace", () => {
    const hidden = changePart(doc, 0, "x/y", { hidden: true });
    expect(partOf(hidden.objects[0]!, "x/y").hidden).toBe(true);
    expect(changePart(hidden, 0, "x/y", { hidden: false }).objects).toEqual(doc.objects);
    // a name of every object is no part of one
    expect(partOf(doc.objects[0]!, "constructor").hidden).toBe(false);
  });

  it("renamed objects take media with them; names stay different", () => {
    const named = renameObject(doc, 1, "hall");
    expect(named.objects[1]!.name).toBe("hall 2");
    expect(named.air.map((m) => (m.region.kind === "mesh" ? m.region.object : m.proximity?.object))).toEqual(["hall 2", "hall 2"]);
    expect(valid(named)).toBe(true);
  });

  it("removed objects leave media that need none, muted where they would fill the scene", () => {
    const less = removeObject(doc, 1);
    expect(less.air[0]).toMatchObject({ region: { kind: "everywhere" }, edge: 0, on: false });
    expect(less.air[1]!.proximity).toBeNull();
    expect(valid(less)).toBe(true);
    // where another bears the name, nothing is lost
    const twice = { ...doc, objects: [...doc.objects, doc.objects[1]!] };
    expect(removeObject(twice, 1).air).toEqual(doc.air);
  });

  it("copies, shapes and materials get names of their own", () => {
    expect(duplicateObject(doc, 0).objects.map((o) => o.name)).toEqual(["hall", "hall 2", "cloud"]);
    let d = doc;
    for (const kind of ["box", "sphere", "cylinder", "rectangle", "disk", "box"] as const) d = addShape(d, kind, [1, 0, 2], 3.14159);
    expect(d.objects.slice(2).map((o) => o.name)).toEqual(["box", "sphere", "cylinder", "rectangle", "disk", "box 2"]);
    // what has a height stands on the point
    expect(d.objects[2]!.position).toEqual([1, 1.57, 2]);
    expect(valid(d)).toBe(true);
    expect(newMaterial(doc, "m", { emission: [1, 2, 3] })).toMatchObject({
      name: "m 2",
      doc: { materials: { "m 2": { emission: [1, 2, 3] } } },
    });
  });
});
