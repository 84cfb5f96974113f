/** Text files as lines. */
/** Bytes as lines; lines that end with a backslash go on. */
export function* textLines(given: Uint8Array, decode: (b: Uint8Array) => string): Generator<[number, string]> {
  const bytes = asBytes(given, decode);
  let number = 0,
    begin = 0,
    held = "";
  for (let i = 0; i <= bytes.length; i++) {
    if (i < bytes.length && bytes[i] !== 10) continue;
    number++;
    let line = decode(bytes.subarray(begin, i));
    begin = i + 1;
    if (line.endsWith("\r")) line = line.slice(0, -1);
    if (line.endsWith("\\")) {
      held += `${line.slice(0, -1)} `;
      continue;
    }
    yield [number, held + line];
    held = "";
  }
}

/** A file in UTF-16, known by its mark, as UTF-8; any other as it is. */
function asBytes(bytes: Uint8Array, decode: (b: Uint8Array) => string): Uint8Array {
  const big = bytes[0] === 0xfe && bytes[1] === 0xff;
  if (!big && !(bytes[0] === 0xff && bytes[1] === 0xfe)) return decode(bytes.subarray(0, 3)) === "\uFEFF" ? bytes.subarray(3) : bytes;
  const out: number[] = [];
  // what such files say lies in the plane of single units; halves of pairs only occur in names
  for (let i = 2; i + 1 < bytes.length; i += 2) {
    const unit = big ? (bytes[i]! << 8) | bytes[i + 1]! : bytes[i]! | (bytes[i + 1]! << 8);
    if (unit < 0x80) out.push(unit);
    else if (unit < 0x800) out.push(0xc0 | (unit >> 6), 0x80 | (unit & 63));
    else out.push(0xe0 | (unit >> 12), 0x80 | ((unit >> 6) & 63), 0x80 | (unit & 63));
  }
  return Uint8Array.from(out);
}
