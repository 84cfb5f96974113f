import { describe, expect, it } from "vitest";
import { readHdr } from "./hdr";

/** A flat Radiance picture of grey pixels of 1, 2, 3 … quarters. */
const file = (size: string, count: number, head = ""): Uint8Array =>
  Buffer.concat([
    Buffer.from(`#?RADIANCE\n${head}FORMAT=32-bit_rle_rgbe\n\n${size}\n`),
    Buffer.from(Array.from({ length: count }, (_, i) => [32 * (i + 1), 32 * (i + 1), 32 * (i + 1), 129]).flat()),
  ]);
const reds = (bytes: Uint8Array): number[] => {
  const { rgb } = readHdr(bytes, "x.hdr");
  return Array.from({ length: rgb.length / 3 }, (_, i) => Math.round(4 * rgb[3 * i]!));
};

describe("Radiance HDR", () => {
  it("lies as its size line says: all eight ways", () => {
    expect(reds(file("-Y 2 +X 3", 6))).toEqual([1, 2, 3, 4, 5, 6]);
    expect(reds(file("+Y 2 +X 3", 6))).toEqual([4, 5, 6, 1, 2, 3]);
    expect(reds(file("-Y 2 -X 3", 6))).toEqual([3, 2, 1, 6, 5, 4]);
    expect(reds(file("+Y 2 -X 3", 6))).toEqual([6, 5, 4, 3, 2, 1]);
    // columns, one after the other
    expect(reds(file("+X 3 -Y 2", 6))).toEqual([1, 3, 5, 2, 4, 6]);
    expect(reds(file("-X 3 -Y 2", 6))).toEqual([5, 3, 1, 6, 4, 2]);
    expect(reds(file("+X 3 +Y 2", 6))).toEqual([2, 4, 6, 1, 3, 5]);
    expect(reds(file("-X 3 +Y 2", 6))).toEqual([6, 4, 2, 5, 3, 1]);
    expect(() => readHdr(file("-Y 2 +Y 3", 6), "x.hdr")).toThrow(/size line/);
  });

  it("takes back the exposures it was given, and lines that end as elsewhere", () => {
    expect(reds(file("-Y 1 +X 2", 2, "EXPOSURE=0.5\nEXPOSURE= 0.25\n"))).toEqual([8, 16]);
    const bytes = file("-Y 1 +X 2", 2);
    const text = Buffer.from(bytes).toString("latin1").replace(/\n/g, "\r\n");
    expect(reds(Buffer.from(text, "latin1"))).toEqual([1, 2]);
    expect(() => readHdr(file("-Y 1 +X 2", 2, "EXPOSURE=0\n"), "x.hdr")).toThrow(/exposure of 0/);
  });
});
