import { describe, expect, it } from "vitest";
import { numberAt, numbersOf, numberText, withNumber } from "./numbers";
import { parseDocument } from "./parse";
import { lengthWords } from "./units";

const doc = parseDocument({
  fumarium: 2,
  air: [
    { name: "haze", density: 0.02, anisotropy: 0.5, height: { level: 0, scale: 8 }, noise: { size: 2, axis: [0, 1, 0] } },
    { name: "smoke", density: 0.4, scattering: [0.9, 0.8, 0.7] },
    { name: "haze", density: 0.1 },
  ],
  lights: [{ name: "lamp", kind: "point", position: [1, 2, 3], intensity: 300 }],
  materials: { wall: { roughness: 0.3 } },
});
const find = (of: string, setting: string) => numbersOf(doc).find((n) => n.of === of && n.setting === setting)!;

describe("numbers of a document", () => {
  it("are found by what they are called, and are told with their units", () => {
    expect(find("haze", "extinction").value).toBe(0.02);
    expect(find("haze 2", "extinction").value).toBe(0.1);
    expect(find("smoke", "scattered colour green").value).toBe(0.8);
    expect(find("lamp", "position y").value).toBe(2);
    expect(find("wall", "roughness").value).toBe(0.3);
    expect(find("Picture", "exposure").value).toBe(doc.film.exposure);
    const metric = lengthWords("metric");
    expect(numberText(8, find("haze", "height falloff: scale height").id, metric)).toBe("8 m");
    expect(numberText(0.018, find("haze", "extinction").id, metric)).toBe("0.018 1/m");
  });

  it("that a picture of a wedge does not go by are none of them", () => {
    const adaptive = { ...doc, render: { ...doc.render, noiseThreshold: 0.02 } };
    const ids = numbersOf(adaptive).map((n) => n.id);
    for (const key of ["samples", "minSamples", "noiseThreshold", "seed"]) expect(ids).not.toContain(JSON.stringify(["render", key]));
    expect(ids.some((id) => id.startsWith('["film","size"'))).toBe(false);
    expect(ids).toContain('["render","airBounces"]');
  });

  it("each can be set to what it is, and changes nothing else", () => {
    const all = numbersOf(doc);
    expect(new Set(all.map((n) => n.id)).size).toBe(all.length);
    for (const { id, value } of all) {
      expect(numberAt(doc, id)).toBe(value);
      expect(withNumber(doc, id, value)).toEqual(doc);
    }
    const next = withNumber(doc, find("smoke", "scattered colour green").id, 0.25);
    expect(next.air[1]!.scattering).toEqual([0.9, 0.25, 0.7]);
    expect({ ...next, air: [] }).toEqual({ ...doc, air: [] });
  });

  it("that the document cannot have, or has no more, are refused with words", () => {
    expect(() => withNumber(doc, find("haze", "anisotropy g").id, 3)).toThrow(/air\.0\.anisotropy/);
    expect(() => withNumber({ ...doc, air: [] }, find("haze", "extinction").id, 1)).toThrow(/no such setting/);
    expect(() => withNumber(doc, "[]", 1)).toThrow(/no path/);
    expect(numberAt({ ...doc, air: [] }, find("haze", "extinction").id)).toBeNull();
  });
});
