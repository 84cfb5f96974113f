import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { emptyFilm } from "#core/film/film";
import { PASS_NAMES } from "#core/film/passes";
import { F_AIR, F_COUNT, F_DEPTH, F_HITS, PIXEL_FLOATS } from "#core/layout/layout";
import { shownPicture } from "#core/formats/shown";
import { endingOf, filesOf, lastLayer, PLAIN_WISH, writeFrame } from "./file";
import { fileNameOf } from "./numbers";

const doc = parseDocument({ fumarium: 2, title: 'Fog & <haze> "霧" \u0001', film: { size: [16, 8], exposure: 0 } });
const film = emptyFilm(16, 8);
for (let i = 0; i < 128; i++) {
  const p = i * PIXEL_FLOATS;
  film.data[p + F_COUNT] = film.data[p + F_HITS] = 1;
  film.data[p + F_DEPTH] = i;
  for (let k = 0; k < 3; k++) film.data[p + F_AIR + k] = (i * (k + 1)) / 200;
}
const wish = { ...PLAIN_WISH, ending: ".tif", depth: "16" } as const;

describe("files of a frame", () => {
  it.each(["16", "8"] as const)("a TIFF of %s bits holds the picture exactly, its size on paper, and what it says", async (depth) => {
    const masks = [{ of: "depth", near: 0, far: 127 }, { of: "air" }] as const;
    const files = await filesOf(film, PASS_NAMES, doc, { samples: 1 }, { ...wish, depth, masks, dpi: 300 }, null);
    expect(files.map((f) => f.layer)).toEqual([null, "depth", "air"]);
    const bits = depth === "16" ? 16 : 8;
    const pixels = async (bytes: Uint8Array, space: "rgb16" | "grey16" | "srgb" | "b-w"): Promise<number[]> => {
      const raw = await sharp(bytes)
        .toColourspace(space)
        .raw({ depth: bits === 16 ? "ushort" : "uchar" })
        .toBuffer();
      return [...(bits === 16 ? new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2) : raw)];
    };
    const wanted = shownPicture(film, "beauty", doc, bits, null);
    expect(Math.max(...wanted.values)).toBeGreaterThan(2 ** (bits - 1));
    expect(await pixels(files[0].bytes, bits === 16 ? "rgb16" : "srgb")).toEqual([...wanted.values]);
    const grey = await pixels(files[1]!.bytes, bits === 16 ? "grey16" : "b-w");
    expect([grey[0], grey[127], grey[64]]).toEqual([0, 2 ** bits - 1, Math.round((64 / 127) * (2 ** bits - 1))]);
    const said = await sharp(files[0].bytes).metadata();
    expect(said).toMatchObject({ format: "tiff", width: 16, height: 8, channels: 3, bitsPerSample: bits, density: 300 });
    const xmp = said.xmpAsString!;
    expect(xmp).toContain("Fog &amp; &lt;haze&gt; &quot;霧&quot;");
    expect(xmp).not.toContain("\u0001");
    const document = /<f:document>(.*)<\/f:document>/s.exec(xmp)![1]!.replaceAll("&quot;", '"').replaceAll("&lt;", "<").replaceAll("&gt;", ">").replaceAll("&amp;", "&"); // prettier-ignore
    expect((JSON.parse(document) as { film: object }).film).toMatchObject({ size: [16, 8] });
  });

  it("are told by their names", () => {
    expect(["a.exr", "b/c.TIFF", "d.tif", "e.PNG"].map(endingOf)).toEqual([".exr", ".tif", ".tif", ".png"]);
    for (const name of ["a", "a.jpg", "exr", "a.tif/b"]) expect(() => endingOf(name)).toThrow(/must end in \.exr, \.png or \.tif/);
  });

  it("of layers whose names a file cannot tell apart are as many files", async () => {
    const folder = mkdtempSync(join(tmpdir(), "fumarium-frame-"));
    const bytes = (n: number) => Uint8Array.of(n);
    const files = [{ layer: "beauty", bytes: bytes(0) }, { layer: "air.a/b", bytes: bytes(1) }, { layer: "air.a:b", bytes: bytes(2) }] as const; // prettier-ignore
    const written = await writeFrame([...files], (layer) => join(folder, fileNameOf("fog.exr", 1, layer)));
    expect(written.map(({ path }) => basename(path))).toEqual(["fog.beauty.0001.exr", "fog.air.a_b.0001.exr", "fog.2 air.a_b.0001.exr"]);
    expect(written.map(({ path }) => readFileSync(path)[0])).toEqual([0, 1, 2]);
  });

  it("of a file each, the first is written last", async () => {
    const each = { ...wish, ending: ".exr", depth: "half", layout: "files" } as const;
    for (const passes of [PASS_NAMES, ["depth", "air"]] as const) {
      const files = await filesOf(film, passes, doc, {}, each, null);
      expect(files[0].layer).toBe(lastLayer(each, passes));
    }
    expect(lastLayer(wish, PASS_NAMES)).toBeNull();
  });
});
