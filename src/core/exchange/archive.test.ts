import { zipSync } from "fflate";
import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { readArchive, writeArchive } from "./archive";

const encode = (s: string): Uint8Array => new TextEncoder().encode(s);
const decode = (b: Uint8Array): string => new TextDecoder().decode(b);
const doc = parseDocument({
  fumarium: 2,
  title: "Ünter dem Bogen",
  assets: { set: { uri: "a.glb", sha256: "0".repeat(64) }, other: { uri: "A.glb" }, lamp: { uri: "lamps/l.ies" } },
  objects: [{ kind: "model", asset: "set" }],
  lights: [{ kind: "profile", asset: "lamp", position: [0, 1, 0], target: [0, 0, 0] }],
});
const bytes: Record<string, Uint8Array> = { set: encode("first"), other: encode("second"), lamp: encode("third") };

describe("projects as one file", () => {
  it("come back as they were, whatever their files are called", async () => {
    const file = await writeArchive(doc, "bogen", encode, (n) => Promise.resolve(bytes[n]!));
    const { document, assets } = readArchive(file, "bogen.zip", decode);
    expect({ ...document, assets: {} }).toEqual({ ...doc, assets: {} });
    expect(Object.values(document.assets).map((a) => a.uri)).toEqual(["a.glb", "A-2.glb", "lamps/l.ies"]);
    for (const [name, { bytes: b }] of assets) expect(b).toEqual(bytes[name]);
    expect([...assets].map(([n, a]) => [n, a.use])).toEqual([["set", "model"], ["other", null], ["lamp", "profile"]]); // prettier-ignore
    // equal projects, equal files
    expect(await writeArchive(doc, "bogen", encode, (n) => Promise.resolve(bytes[n]!))).toEqual(file);
  });

  it("say what is missing or wrong", () => {
    const file = JSON.stringify(doc);
    const read = (files: Record<string, Uint8Array>) => () => readArchive(zipSync(files), "p.zip", decode);
    expect(read({ "x.fumarium.json": encode(file) })).toThrow("p.zip: assets.set (a.glb) is not in the archive");
    expect(read({ "x.txt": encode("hello") })).toThrow("p.zip: holds 0 scene documents");
    expect(read({ "x.fumarium.json": encode("{") })).toThrow("p.zip: x.fumarium.json");
    expect(read({ "../x.fumarium.json": encode(file) })).toThrow("leads outside the archive");
    expect(() => readArchive(encode("PK"), "p.zip", decode)).toThrow("not readable as a zip archive");
  });
});
