/** What PNG files say besides their pixels (PNG, third edition, 11.3): how colours are meant, and text. */
import { strToU8, zlibSync } from "fflate";
import { joinBytes } from "../data/bytes";

const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});
/** Cyclic redundancy code of chunks (PNG, annex D). */
export function crc32(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const b of bytes) c = table[(c ^ b) & 255]! ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  out.set(strToU8(type, true), 4);
  out.set(data, 8);
  view.setUint32(8 + data.length, crc32(out.subarray(4, 8 + data.length)));
  return out;
}

/** Text of any language under a keyword of Latin letters, packed where it is long. */
function textChunk(keyword: string, text: string): Uint8Array {
  const packed = text.length > 200;
  const bytes = strToU8(text);
  // keyword, packed or not, method, no language, no translated keyword
  return chunk(
    "iTXt",
    joinBytes([strToU8(`${keyword}\0`, true), Uint8Array.of(packed ? 1 : 0, 0, 0, 0), packed ? zlibSync(bytes) : bytes]),
  );
}

/** Length of the mark and the header chunk, which come first. */
const HEAD = 8 + 25;

/** Pixels an inch as pixels a metre, across and down. */
function densityChunk(dpi: number): Uint8Array {
  const data = new Uint8Array(9);
  const view = new DataView(data.buffer);
  for (const at of [0, 4]) view.setUint32(at, Math.round(dpi / 0.0254));
  data[8] = 1;
  return chunk("pHYs", data);
}

/** A PNG file whose colours are said to be sRGB, or nothing, with texts by keyword. @param dpi pixels an inch of a print */
export function describedPng(
  png: Uint8Array,
  texts: Readonly<Record<string, string>>,
  { colours = true, dpi = null }: { colours?: boolean; dpi?: number | null } = {},
): Uint8Array {
  // perceptual intent; readers that know no sRGB chunk go by the gamma that is nearest
  const said = colours ? [chunk("sRGB", Uint8Array.of(0)), chunk("gAMA", Uint8Array.of(0, 0, 0xb1, 0x8f))] : [];
  if (dpi !== null) said.push(densityChunk(dpi));
  return joinBytes([png.subarray(0, HEAD), ...said, ...Object.entries(texts).map(([k, t]) => textChunk(k, t)), png.subarray(HEAD)]);
}
