import { describe, expect, it } from "vitest";
import { mediumSchema } from "#core/document/air";
import { ownAirs } from "./own-presets";

describe("airs as files", () => {
  it("come back, but for what ties them to a project", () => {
    const m = mediumSchema.parse({ name: "mill dust", density: 0.03, follows: { kind: "light", name: "lamp" }, region: { kind: "mesh", object: "hall" }, edge: 0.2 }); // prettier-ignore
    const [back] = ownAirs.fromText(ownAirs.toFile([m]), "dust.json");
    expect(back).toEqual({ ...m, follows: null, region: { kind: "everywhere" }, edge: 0 });
  });

  it("kept by version 1 are read by their new names", () => {
    const text = '{"fumariumAirs":1,"airs":[{"breakUp":{"size":4},"phase":{"model":"molecular"},"start":{"least":0.5}}]}';
    expect(ownAirs.fromText(text, "old.json")[0]).toMatchObject({ noise: { size: 4 }, phase: { model: "rayleigh" }, start: { min: 0.5 } });
  });

  it.each([
    ["not JSON at all", "{", /is not JSON/],
    ["of something else", '{"fumarium":2}', /fumariumAirs/],
    ["a negative density", '{"fumariumAirs":1,"airs":[{"density":-1}]}', /airs\.0\.density/],
    ["none", '{"fumariumAirs":1,"airs":[]}', /airs/],
  ])("a file with %s is refused with the place", (_, text, said) => {
    expect(() => ownAirs.fromText(text, "dust.json")).toThrow(said);
  });
});
