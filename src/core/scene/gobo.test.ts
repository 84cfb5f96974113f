import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { usedAssets, goboAsset } from "../document/assets";
import { geometryKey } from "./keys";
import { goboPicture } from "./gobo";

const sequence = (time: number, loop = true) =>
  parseDocument({
    fumarium: 2,
    time,
    assets: { a: { uri: "a.png" }, b: { uri: "b.png" }, c: { uri: "c.png" } },
    lights: [
      { kind: "spot", position: [0, 2, 0], target: [0, 0, 0], gobo: { pattern: "sequence", frames: ["a", "b", "c"], rate: 10, loop } },
    ],
  });
const shown = (time: number, loop = true): string | null => {
  const doc = sequence(time, loop);
  const [light] = doc.lights;
  return goboAsset((light as { gobo: NonNullable<Parameters<typeof goboAsset>[0]> }).gobo, doc.time);
};

describe("gobo sequences", () => {
  it("show the frame of the document's time, over and over or to their end", () => {
    expect([0, 0.1, 0.15, 0.2, 0.3, -0.1].map((t) => shown(t))).toEqual(["a", "b", "b", "c", "a", "c"]);
    expect([0.2, 0.9, -3].map((t) => shown(t, false))).toEqual(["c", "c", "a"]);
  });
  it("need that frame alone, and a scene made for another frame is another scene", () => {
    expect([...usedAssets(sequence(0.1)).keys()]).toEqual(["b"]);
    expect(geometryKey(sequence(0.1))).not.toBe(geometryKey(sequence(0.2)));
    expect(geometryKey(sequence(0.11))).toBe(geometryKey(sequence(0.12)));
  });
  it("say which frame is missing, and refuse frames without assets", () => {
    const doc = sequence(0.2);
    const { gobo } = doc.lights[0] as { gobo: Parameters<typeof goboPicture>[0] };
    expect(() => goboPicture(gobo, 0.2, {}, 1, 0)).toThrow('picture "c" is missing');
    const bad = structuredClone(doc);
    delete (bad.assets as Record<string, unknown>).b;
    expect(() => parseDocument(bad)).toThrow(/lights\[0\]\.gobo\.frames\[1\].*no asset named "b"/);
  });
});
