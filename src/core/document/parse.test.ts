import { describe, expect, it } from "vitest";
import { readFileSync } from "node:fs";
import { documentJsonSchema, parseDocument, parseDocumentText } from "./parse";
import { InputError } from "../errors";

const minimal = { fumarium: 2 };
const message = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    expect(error).toBeInstanceOf(InputError);
    return (error as Error).message;
  }
  throw new Error("was accepted");
};

describe("scene documents", () => {
  it("fills in defaults, and what it wrote reads back the same", () => {
    const doc = parseDocument(minimal);
    expect(doc.camera.fieldOfView).toBe(45);
    expect(parseDocumentText(JSON.stringify(doc))).toEqual(doc);
  });

  it.each([
    ["a newer version", { fumarium: 3 }, /version 3 is newer/],
    ["no version", {}, /fumarium/],
    ["an unknown field", { ...minimal, camera: { zoom: 2 } }, /camera\.zoom: unknown field/],
    ["a negative coefficient", { ...minimal, air: [{ density: -1 }] }, /air\[0\]\.density/],
    ["a scattering colour above 1", { ...minimal, air: [{ scattering: [1, 2, 0] }] }, /air\[0\]\.scattering\[1\]/],
    [
      "a missing material",
      { ...minimal, objects: [{ kind: "sphere", radius: 1, material: "x" }] },
      /objects\[0\]\.material: no material named "x"/,
    ],
    [
      "a material name from the prototype",
      { ...minimal, objects: [{ kind: "sphere", radius: 1, material: "constructor" }] },
      /no material named/,
    ],
    ["a missing asset", { ...minimal, objects: [{ kind: "model", asset: "x" }] }, /objects\[0\]\.asset: no asset named "x"/],
    ["a picture of no size", { ...minimal, film: { size: [0, 10] } }, /film\.size\[0\]/],
    ["a picture too large", { ...minimal, film: { size: [16000, 16000] } }, /film\.size: at most/],
    ["a lens that looks at itself", { ...minimal, camera: { position: [0, 0, 0], target: [0, 0, 0] } }, /camera\.target/],
    ["thresholds the wrong way round", { ...minimal, air: [{ noise: { low: 0.8, high: 0.2 } }] }, /noise\.high/],
    ["a path upwards", { ...minimal, assets: { a: { uri: "../../etc/passwd" } } }, /assets\.a\.uri/],
    ["an absolute path", { ...minimal, assets: { a: { uri: "/etc/passwd" } } }, /assets\.a\.uri/],
    ["a backslash path", { ...minimal, assets: { a: { uri: "..\\x.glb" } } }, /assets\.a\.uri/],
    ["a URL", { ...minimal, assets: { a: { uri: "file:///etc/passwd" } } }, /assets\.a\.uri/],
    ["an array", [], /not a valid/],
    ["null", null, /not a valid/],
  ])("refuses %s and says where", (_, value, pattern) => {
    expect(message(() => parseDocument(value))).toMatch(pattern);
  });

  it("refuses numbers that JSON cannot hold, and text that is not JSON", () => {
    expect(message(() => parseDocument({ ...minimal, air: [{ density: NaN }] }))).toMatch(/air\[0\]\.density/);
    expect(message(() => parseDocument({ ...minimal, air: [{ density: Infinity }] }))).toMatch(/air\[0\]\.density/);
    expect(message(() => parseDocumentText('{"fumarium": 1, "air": [{"density": 1e999}]}'))).toMatch(/air\[0\]\.density/);
    expect(message(() => parseDocumentText("{", "x.json"))).toMatch(/x\.json: not JSON/);
    expect(message(() => parseDocumentText(" ".repeat(9_000_000)))).toMatch(/limit/);
  });

  it("the published schema is the present one", () => {
    const published = JSON.parse(readFileSync(new URL("../../../docs/scene-document.schema.json", import.meta.url), "utf8")) as unknown;
    expect(published).toEqual(JSON.parse(JSON.stringify(documentJsonSchema())));
  });
});
