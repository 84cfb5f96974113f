/** Radiance HDR pictures (RGBE, run-length coded or flat) after Ward 1991, "Real Pixels". */
import { InputError } from "../errors";
import type { Picture } from "../data/picture";

/** Most pixels of a picture that is read. */
export const MAX_PIXELS = 64_000_000;

/** Reads a Radiance HDR picture; rows from the top. @throws InputError saying what is wrong and where */
export function readHdr(bytes: Uint8Array, what = "picture"): Picture {
  let at = 0;
  const line = (): string => {
    const from = at;
    while (at < bytes.length && bytes[at] !== 10) {
      if (at - from > 4096) throw new InputError(`${what}: a header line at byte ${from} does not end`);
      at++;
    }
    if (at >= bytes.length) throw new InputError(`${what}: ends within the header`);
    // lines may end as on other systems
    return String.fromCharCode(...bytes.subarray(from, at++)).replace(/\r$/, "");
  };
  if (!/^#\?/.test(line())) throw new InputError(`${what}: does not begin like a Radiance HDR picture (#?)`);
  // what the numbers were multiplied with since the light was measured, each time once more
  let exposure = 1;
  for (let text = line(); text !== ""; text = line()) {
    const said = /^EXPOSURE\s*=\s*([-+.\deE]+)\s*$/.exec(text);
    if (said) exposure *= Number(said[1]);
    if (text.startsWith("FORMAT=") && text.trim() !== "FORMAT=32-bit_rle_rgbe")
      throw new InputError(`${what}: ${text}; only 32-bit_rle_rgbe is read`);
  }
  if (!(exposure > 1e-20 && exposure < 1e20)) throw new InputError(`${what}: an exposure of ${exposure} says nothing`);
  // rows run along the second axis, the first row lies at the first one's end that has its sign
  const size = /^([-+])([XY]) (\d+) ([-+])([XY]) (\d+)$/.exec(line());
  if (!size || size[2] === size[5]) throw new InputError(`${what}: its size line is not of the form "-Y height +X width"`);
  const upright = size[2] === "Y";
  const [rows, along] = [Number(size[3]), Number(size[6])];
  const [width, height] = upright ? [along, rows] : [rows, along];
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw new InputError(`${what}: ${width} × ${height} pixels; between 1 and ${MAX_PIXELS} are read`);
  const rgb = new Float32Array(3 * width * height);
  const row = new Uint8Array(4 * along);
  // -Y is downwards, +X to the right
  const forward = (sign: string | undefined, axis: string | undefined): boolean => (sign === "+") === (axis === "X");
  const [rowsForward, alongForward] = [forward(size[1], size[2]), forward(size[4], size[5])];
  for (let j = 0; j < rows; j++) {
    at = readRow(bytes, at, row, along, `${what}: row ${j}`);
    const a = rowsForward ? j : rows - 1 - j;
    for (let x = 0; x < along; x++) {
      const b = alongForward ? x : along - 1 - x;
      const to = 3 * (upright ? a * width + b : b * width + a);
      const scale = row[4 * x + 3]! ? 2 ** (row[4 * x + 3]! - 136) / exposure : 0;
      for (let c = 0; c < 3; c++) rgb[to + c] = (row[4 * x + c]! + 0.5) * scale;
    }
  }
  return { width, height, rgb };
}

function readRow(bytes: Uint8Array, at: number, row: Uint8Array, width: number, where: string): number {
  const need = (n: number): void => {
    if (at + n > bytes.length) throw new InputError(`${where}: the file is cut short`);
  };
  need(4);
  const coded = bytes[at] === 2 && bytes[at + 1] === 2 && ((bytes[at + 2]! << 8) | bytes[at + 3]!) === width && width >= 8 && width < 32768;
  if (!coded) {
    need(4 * width);
    row.set(bytes.subarray(at, at + 4 * width));
    return at + 4 * width;
  }
  at += 4;
  for (let c = 0; c < 4; c++)
    for (let x = 0; x < width;) {
      need(2);
      const count = bytes[at++]!;
      const run = count > 128 ? count - 128 : count;
      if (run === 0 || x + run > width) throw new InputError(`${where}: a run reaches past its end`);
      if (count > 128) {
        const value = bytes[at++]!;
        for (let i = 0; i < run; i++) row[4 * x++ + c] = value;
      } else {
        need(run);
        for (let i = 0; i < run; i++) row[4 * x++ + c] = bytes[at++]!;
      }
    }
  return at;
}
