import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { lengthWords } from "#core/document/units";
import { captionOf, layoutSheet, pageForm, pictureForm } from "./contact-sheet";
import type { Numbered } from "./proof-order";

const metric = lengthWords("metric");
const doc = parseDocument({
  fumarium: 2,
  air: [{ name: "haze", density: 0.036, scattering: [1, 1, 1], absorption: [0, 0, 0], anisotropy: 0.6 }],
});
const proof = { number: 2, note: "thin", star: true, samples: 16, seconds: 12.34, noise: 0.041 } as Numbered;

describe("a contact sheet", () => {
  it("tells all settings of the first, and what the others have otherwise", () => {
    const first = captionOf(proof, doc, null, metric);
    expect(first[0]).toBe("2 ★  thin");
    expect(first[1]).toBe("16 samples, 12.3 s, noise 4.1 %");
    expect(first).toContain("haze: 0.036 1/m, g 0.6");
    const thinner = { ...doc, air: doc.air.map((m) => ({ ...m, density: 0.018 })) };
    const other = captionOf(proof, thinner, { number: 1, doc }, metric);
    expect(other[2]).toBe("against 1:");
    expect(other).toHaveLength(4);
    expect(other[3]).toMatch(/^haze .*0\.036.*→.*0\.018/);
    expect(captionOf(proof, doc, { number: 1, doc }, metric)[3]).toBe("the same settings");
    const many = { ...doc, air: Array.from({ length: 20 }, (_, i) => ({ ...doc.air[0]!, name: `m${i}` })) };
    expect(captionOf(proof, many, null, metric)).toHaveLength(8);
    expect(captionOf(proof, many, null, metric).at(-1)).toMatch(/^and \d+ more$/);
  });

  it("puts rows on pages without cutting any, nothing over another", () => {
    const items = Array.from({ length: 23 }, (_, i) => ({ aspect: i % 5 === 0 ? 0.6 : 1.78, lines: 3 + (i % 6) }));
    for (const form of [pageForm(2), pictureForm(23)]) {
      const pages = layoutSheet(items, form);
      expect(pages.flatMap((p) => p.tiles.map((t) => t.item))).toEqual(items.map((_, i) => i));
      for (const { width, height, tiles } of pages)
        for (const t of tiles) {
          const below = t.y + t.height + items[t.item]!.lines * form.line;
          expect(t.x + t.width).toBeLessThanOrEqual(width - form.margin + 1e-6);
          expect(below).toBeLessThanOrEqual(height - form.margin + 1e-6);
          expect(t.width / t.height).toBeCloseTo(items[t.item]!.aspect, 6);
          for (const o of tiles) if (o.item > t.item) expect(o.x >= t.x + t.width || o.y >= below).toBe(true);
        }
    }
    expect(layoutSheet(items, pageForm(2)).length).toBeGreaterThan(2);
    expect(layoutSheet([], pageForm(2))).toEqual([]);
  });

  it("of hundreds stays within what a picture may be", () => {
    for (const count of [1, 4, 60, 800]) {
      const [page] = layoutSheet(
        Array.from({ length: count }, () => ({ aspect: 1.78, lines: 8 })),
        pictureForm(count),
      );
      expect(Math.max(page!.width, page!.height)).toBeLessThanOrEqual(16_384);
    }
  });
});
