import { crc32, deflateSync } from "node:zlib";
import { describe, expect, it } from "vitest";
import { readPicture } from "./image";
import { readPng } from "./png";

/** A PNG file of rows of bytes, made after the specification. */
function png(
  width: number,
  height: number,
  depth: number,
  kind: number,
  rows: readonly (readonly number[])[] | Uint8Array,
  parts: readonly [string, Uint8Array][] = [],
): Uint8Array {
  const chunk = (type: string, body: Uint8Array): Buffer => {
    const named = Buffer.concat([Buffer.from(type, "latin1"), body]);
    const out = Buffer.alloc(named.length + 8);
    out.writeUInt32BE(body.length, 0);
    named.copy(out, 4);
    out.writeUInt32BE(crc32 ? crc32(named) : checksum(named), named.length + 4);
    return out;
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(height, 4);
  header.set([depth, kind, 0, 0, 0], 8);
  const raw = rows instanceof Uint8Array ? rows : Buffer.from(rows.flatMap((r) => [0, ...r]));
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk("IHDR", header),
    ...parts.map(([type, body]) => chunk(type, body)),
    chunk("IDAT", deflateSync(raw)),
    chunk("IEND", Buffer.alloc(0)),
  ]);
}
/** The checksum of PNG parts, for versions of Node that have none. */
function checksum(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const b of bytes) {
    c ^= b;
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  }
  return (c ^ 0xffffffff) >>> 0;
}
const reds = (bytes: Uint8Array): number[] => {
  const { rgba, top } = readPng(bytes, "x.png", 1e6);
  return Array.from({ length: rgba.length / 4 }, (_, i) => rgba[4 * i]! / top);
};

describe("PNG", () => {
  it("of one, two and four bits a sample gives each pixel its own", () => {
    expect(reds(png(9, 2, 1, 0, [[0b10101010, 0x80], [0xff, 0]]))).toEqual([1, 0, 1, 0, 1, 0, 1, 0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 0]); // prettier-ignore
    expect(reds(png(5, 1, 2, 0, [[0b00011011, 0b11000000]]))).toEqual([0, 1 / 3, 2 / 3, 1, 1]);
    expect(reds(png(3, 1, 4, 0, [[0x0f, 0x80]]))).toEqual([0, 1, 8 / 15]);
    expect(reds(png(1, 1, 16, 0, [[0x12, 0x34]]))).toEqual([0x1234 / 65535]);
  });

  it("of a palette takes its colours, and refuses those it has not", () => {
    const colours: [string, Uint8Array] = ["PLTE", Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255])];
    const { rgba } = readPng(png(3, 1, 4, 3, [[0x01, 0x20]], [colours]), "x.png", 100);
    expect([...rgba]).toEqual([255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255]);
    expect(() => readPng(png(3, 1, 8, 3, [[0, 1, 9]], [colours]), "x.png", 100)).toThrow(/x\.png: .*colour 9 of a palette of 3/);
    expect(() => readPng(png(3, 1, 8, 3, [[0, 1, 2]]), "x.png", 100)).toThrow(/no palette/);
    expect(() => readPng(png(3, 1, 3, 0, [[0]]), "x.png", 100)).toThrow(/colour type 0 of 3 bits/);
  });

  it("is decompressed no further than its size needs, and what decorates it not at all", () => {
    const bomb = png(4, 4, 8, 0, Buffer.alloc(200_000_000));
    expect(bomb.length).toBeLessThan(250_000);
    const before = process.memoryUsage().arrayBuffers;
    expect(() => readPicture(bomb, "bomb.png")).toThrow(/bomb\.png: .*more than 4 × 4 pixels/);
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(40e6);
    const profile: [string, Uint8Array] = ["iCCP", Buffer.concat([Buffer.from("x\0\0"), deflateSync(Buffer.alloc(50_000_000))])];
    expect(readPicture(png(1, 1, 8, 0, [[255]], [profile])).rgb[0]).toBe(1);
    expect(() => readPng(png(2000, 2000, 8, 0, [[0]]), "x.png", 100)).toThrow(/2000 × 2000 pixels/);
    const whole = png(2, 1, 8, 0, [[1, 2]]);
    for (let n = 9; n < whole.length; n++) expect(() => readPng(whole.slice(0, n), "x.png", 100)).toThrow(/^x\.png: /);
  });
});
