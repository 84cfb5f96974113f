/** Look-up tables as `.cube` files (Cube LUT Specification 1.0): text, one colour a line, red fastest. */
import type { Lut } from "../data/lut";
import { InputError } from "../errors";

/** Most characters of a file, and places of a side that are read; the standard's own limits are 65536 and 256. */
export const CUBE_LIMITS = { bytes: 32_000_000, cube: 65, curve: 65_536 } as const;

/** Places a side of cubes that are written. */
export const CUBE_SIZE = 33;

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;

/**
 * Reads a table. @param id what it is told from others by
 * @throws InputError saying what is wrong, and in which line
 */
export function readCube(text: string, what: string, id: string): Lut {
  if (text.length > CUBE_LIMITS.bytes) throw new InputError(`${what}: ${text.length} characters, more than ${CUBE_LIMITS.bytes}`);
  let dimensions: 1 | 3 | null = null;
  let size = 0;
  let [from, to]: [Triple, Triple] = [
    [0, 0, 0],
    [1, 1, 1],
  ];
  let values: Float32Array | null = null;
  let count = 0;
  for (const { line, number } of linesOf(text)) {
    const at = `${what}, line ${number}`;
    const [first, ...rest] = line.split(/\s+/) as [string, ...string[]];
    if (NUMBER.test(first)) {
      if (!dimensions) throw new InputError(`${at}: colours before the table's size is said`);
      values ??= new Float32Array(3 * size ** dimensions);
      if (count === values.length) throw new InputError(`${at}: more than the ${values.length / 3} colours of a table of ${size}`);
      values.set(numbers([first, ...rest], 3, at), count);
      count += 3;
      continue;
    }
    switch (first) {
      case "TITLE":
        break;
      case "LUT_1D_SIZE":
      case "LUT_3D_SIZE": {
        if (dimensions) throw new InputError(`${at}: a second size`);
        dimensions = first === "LUT_1D_SIZE" ? 1 : 3;
        const most = dimensions === 1 ? CUBE_LIMITS.curve : CUBE_LIMITS.cube;
        [size] = numbers(rest, 1, at) as [number];
        if (!Number.isInteger(size) || size < 2 || size > most) throw new InputError(`${at}: the size must be whole, from 2 to ${most}`);
        break;
      }
      case "DOMAIN_MIN":
        from = numbers(rest, 3, at) as Triple;
        break;
      case "DOMAIN_MAX":
        to = numbers(rest, 3, at) as Triple;
        break;
      default:
        throw new InputError(`${at}: "${first.slice(0, 40)}" is neither a colour nor a word of this format`);
    }
  }
  if (!dimensions || !values) throw new InputError(`${what}: holds no table of colours`);
  if (count < values.length)
    throw new InputError(`${what}: ${count / 3} colours, where a table of ${size} has ${values.length / 3}: the file is cut short`);
  if (to.some((v, k) => !(v - from[k]! > 1e-9))) throw new InputError(`${what}: DOMAIN_MAX must lie above DOMAIN_MIN`);
  return { id, dimensions, size, from, to, values };
}

type Triple = [number, number, number];

/** Lines that say something, without what surrounds them, by their number. */
function* linesOf(text: string): Generator<{ line: string; number: number }> {
  let number = 0;
  for (let from = 0; from <= text.length;) {
    let end = text.indexOf("\n", from);
    if (end < 0) end = text.length;
    number++;
    const line = text.slice(from, end).trim();
    from = end + 1;
    if (line !== "" && !line.startsWith("#")) yield { line, number };
  }
}

/** Largest number of a table: beyond it no display value lies. */
const MOST = 1e6;

function numbers(words: readonly string[], count: number, at: string): number[] {
  if (words.length !== count) throw new InputError(`${at}: ${count === 1 ? "one number is" : `${count} numbers are`} needed here`);
  return words.map((word) => {
    const v = NUMBER.test(word) ? Number(word) : NaN;
    if (!(Math.abs(v) <= MOST)) throw new InputError(`${at}: "${word.slice(0, 40)}" is no number that a table can hold`);
    return v;
  });
}

/**
 * Writes a cube. @param title and comments must be plain lines @param look display values (0 to 1) of those of a place
 */
export function writeCube(
  title: string,
  comments: readonly string[],
  look: (r: number, g: number, b: number) => readonly [number, number, number],
  size: number = CUBE_SIZE,
): string {
  const lines = [
    `TITLE "${title.replace(/["\r\n]+/g, " ").slice(0, 200)}"`,
    ...comments.map((c) => `# ${c.replace(/[\r\n]+/g, " ")}`),
    `LUT_3D_SIZE ${size}`,
    "DOMAIN_MIN 0 0 0",
    "DOMAIN_MAX 1 1 1",
  ];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++)
        lines.push(
          look(r / (size - 1), g / (size - 1), b / (size - 1))
            .map((v) => v.toFixed(6))
            .join(" "),
        );
  return `${lines.join("\n")}\n`;
}
