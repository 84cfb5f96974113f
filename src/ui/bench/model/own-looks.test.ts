import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { lookOf, ownLooks, withLook } from "./own-looks";

const sha256 = "ab".repeat(32);
const doc = parseDocument({
  fumarium: 2,
  assets: { warm: { uri: "warm.cube", sha256 } },
  film: { finish: { contrast: 1.4, on: false, lut: { asset: "warm", strength: 0.5 } } },
});

describe("looks", () => {
  it("go from one project to another with the file of their table", () => {
    const look = lookOf(doc, "evening");
    const [back] = ownLooks.fromText(ownLooks.toFile([look]), "looks.json");
    const bare = parseDocument({ fumarium: 2, assets: { warm: { uri: "other.png", sha256: "cd".repeat(32) } } });
    const next = withLook(bare, back!);
    expect(next.film.finish).toMatchObject({ contrast: 1.4, on: true, lut: { asset: "warm 2", strength: 0.5 } });
    expect(next.assets["warm 2"]).toEqual({ uri: "warm.cube", sha256 });
    expect(parseDocument(JSON.parse(JSON.stringify(next)))).toEqual(next);
    // where the file is one of the project's already, it is not named twice
    expect(withLook(doc, back!).assets).toEqual(doc.assets);
    expect(withLook(bare, { ...back!, asset: null }).film.finish.lut).toBeNull();
  });

  it.each([
    ["not JSON", "{", /is not JSON/],
    ["of something else", '{"fumariumAirs":2,"airs":[]}', /fumariumLooks/],
    ["a contrast that is none", '{"fumariumLooks":1,"looks":[{"name":"x","finish":{"contrast":-1}}]}', /looks\.0\.finish\.contrast/],
  ])("a file that is %s is refused with the place", (_, text, said) => {
    expect(() => ownLooks.fromText(text, "looks.json")).toThrow(said);
  });
});
