/** PIZ blocks of OpenEXR: values looked up in a table of those that occur, wavelets over each channel, Huffman codes. */
import { HALF, type Block } from "./exr-block";

/** Symbols of the Huffman code: all values of 16 bits, and one for runs. */
const SYMBOLS = 65537;
/** Codes up to this many bits are looked up at once. */
const QUICK = 12;
/** Longest code that is read: a number holds no more bits. */
const LONGEST = 52;

/** Bits of bytes, the highest first. */
class Bits {
  private at = 0;
  constructor(
    private readonly bytes: Uint8Array,
    /** How many there are. */
    readonly count: number,
  ) {
    if (count > 8 * bytes.length) throw new Error("it is cut short");
  }
  get left(): number {
    return this.count - this.at;
  }
  get bytesRead(): number {
    return (this.at + 7) >> 3;
  }
  take(n: number): number {
    if (n > this.left) throw new Error("its codes end early");
    const v = this.look(n);
    this.at += n;
    return v;
  }
  /** The next bits without taking them, zeros past the end. @param n at most 16 */
  look(n: number): number {
    const i = this.at >> 3;
    const three = ((this.bytes[i] ?? 0) << 16) | ((this.bytes[i + 1] ?? 0) << 8) | (this.bytes[i + 2] ?? 0);
    return (three >> (24 - n - (this.at & 7))) & ((1 << n) - 1);
  }
  skip(n: number): void {
    this.at += n;
  }
}

/** Lengths of the codes of symbols from `first` to `last`; runs of symbols without a code are counted. */
function readLengths(bits: Bits, first: number, last: number): Uint8Array {
  const lengths = new Uint8Array(SYMBOLS);
  for (let symbol = first; symbol <= last; symbol++) {
    const l = bits.take(6);
    if (l < 59) lengths[symbol] = l;
    else {
      const run = l === 63 ? bits.take(8) + 6 : l - 59 + 2;
      if (symbol + run > last + 1) throw new Error("its table of codes is broken");
      symbol += run - 1;
    }
  }
  return lengths;
}

/** Undoes the Huffman code. @param wanted how many values there are @throws Error where they are not */
export function decodeHuffman(bytes: Uint8Array, wanted: number): Uint16Array {
  if (bytes.length < 20) throw new Error("it is cut short");
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [first, last, bitCount] = [view.getUint32(0, true), view.getUint32(4, true), view.getUint32(12, true)];
  if (first >= SYMBOLS || last >= SYMBOLS || first > last) throw new Error("its table of codes is broken");
  const table = bytes.subarray(20);
  const head = new Bits(table, 8 * table.length);
  const lengths = readLengths(head, first, last);
  const bits = new Bits(table.subarray(head.bytesRead), bitCount);
  // canonical codes: those of a length follow each other in the order of their symbols, the longest are the least
  const count = new Float64Array(60);
  for (let s = first; s <= last; s++) if (lengths[s]! > 0) count[lengths[s]!]!++;
  const start = new Float64Array(60);
  for (let l = 58, code = 0; l > 0; l--) {
    start[l] = code;
    code = Math.floor((code + count[l]!) / 2);
  }
  for (let l = LONGEST + 1; l < 60; l++) if (count[l]! > 0) throw new Error(`its codes have up to ${l} bits`);
  const order: number[][] = Array.from({ length: 60 }, () => []);
  for (let s = first; s <= last; s++) if (lengths[s]! > 0) order[lengths[s]!]!.push(s);
  // the symbol of each beginning, and the length of its code
  const quick = new Int32Array(1 << QUICK).fill(-1);
  for (let l = 1; l <= QUICK; l++)
    order[l]!.forEach((s, k) => {
      const from = (start[l]! + k) * 2 ** (QUICK - l);
      for (let i = from; i < Math.min(quick.length, from + 2 ** (QUICK - l)); i++) quick[i] = (s << 6) | l;
    });
  const out = new Uint16Array(wanted);
  let to = 0;
  while (bits.left > 0) {
    let symbol = -1;
    const found = quick[bits.look(QUICK)]!;
    if (found >= 0 && (found & 63) <= bits.left) {
      symbol = found >> 6;
      bits.skip(found & 63);
    } else {
      let code = 0;
      for (let l = 1; l <= LONGEST && symbol < 0; l++) {
        code = 2 * code + bits.take(1);
        const k = code - start[l]!;
        if (k >= 0 && k < count[l]!) symbol = order[l]![k]!;
      }
      if (symbol < 0) throw new Error("it holds a code that means nothing");
    }
    if (symbol === last) {
      const run = bits.take(8);
      if (to === 0 || to + run > wanted) throw new Error("runs reach past its end");
      out.fill(out[to - 1]!, to, to + run);
      to += run;
    } else {
      if (to >= wanted) throw new Error("it holds more values than belong to it");
      out[to++] = symbol;
    }
  }
  if (to !== wanted) throw new Error(`${to} values where ${wanted} belong`);
  return out;
}

/** Undoes the wavelets of one plane in place. @param most largest value: above 14 bits they are taken modulo 16 bits */
function unwavelet(v: Uint16Array, from: number, nx: number, ox: number, ny: number, oy: number, most: number): void {
  const small = most < 1 << 14;
  let a = 0,
    b = 0;
  const undo = (l: number, h: number): void => {
    if (small) {
      const high = (h << 16) >> 16;
      const mean = ((l << 16) >> 16) + (high & 1) + (high >> 1);
      a = mean & 0xffff;
      b = (mean - high) & 0xffff;
    } else {
      b = (l - (h >> 1)) & 0xffff;
      a = (h + b - 0x8000) & 0xffff;
    }
  };
  const n = Math.min(nx, ny);
  let p = 1;
  while (p <= n) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  while (p >= 1) {
    const [ox1, ox2, oy1, oy2] = [ox * p, ox * p2, oy * p, oy * p2];
    let py = from;
    for (const ey = from + oy * (ny - p2); py <= ey; py += oy2) {
      let px = py;
      for (const ex = py + ox * (nx - p2); px <= ex; px += ox2) {
        const [p01, p10, p11] = [px + ox1, px + oy1, px + oy1 + ox1];
        undo(v[px]!, v[p10]!);
        const [i00, i10] = [a, b];
        undo(v[p01]!, v[p11]!);
        const [i01, i11] = [a, b];
        undo(i00, i01);
        v[px] = a;
        v[p01] = b;
        undo(i10, i11);
        v[p10] = a;
        v[p11] = b;
      }
      if (nx & p) {
        undo(v[px]!, v[px + oy1]!);
        v[px] = a;
        v[px + oy1] = b;
      }
    }
    if (ny & p) {
      let px = py;
      for (const ex = py + ox * (nx - p2); px <= ex; px += ox2) {
        undo(v[px]!, v[px + ox1]!);
        v[px] = a;
        v[px + ox1] = b;
      }
    }
    p2 = p;
    p >>= 1;
  }
}

/** A block's plain bytes. */
export function unpackPiz(data: Uint8Array, { channels, width, lines }: Block): Uint8Array {
  if (data.length < 4) throw new Error("it is cut short");
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [low, high] = [view.getUint16(0, true), view.getUint16(2, true)];
  const bitmap = new Uint8Array(8192);
  let at = 4;
  if (low <= high) {
    if (high >= 8192 || at + high - low + 1 > data.length) throw new Error("its table of values is broken");
    bitmap.set(data.subarray(at, at + high - low + 1), low);
    at += high - low + 1;
  }
  const values = new Uint16Array(65536);
  let n = 0;
  for (let i = 0; i < 65536; i++) if (i === 0 || bitmap[i >> 3]! & (1 << (i & 7))) values[n++] = i;
  if (at + 4 > data.length) throw new Error("it is cut short");
  const length = view.getUint32(at, true);
  at += 4;
  if (at + length > data.length) throw new Error("it is cut short");
  const words = channels.map((c) => (c.type === HALF ? 1 : 2));
  const total = width * lines * words.reduce((a, b) => a + b, 0);
  const v = decodeHuffman(data.subarray(at, at + length), total);
  let from = 0;
  const starts = words.map((w) => {
    const start = from;
    for (let j = 0; j < w; j++) unwavelet(v, start + j, width, w, lines, width * w, n - 1);
    from += width * lines * w;
    return start;
  });
  const out = new Uint8Array(2 * total);
  const written = new DataView(out.buffer);
  let to = 0;
  for (let y = 0; y < lines; y++)
    words.forEach((w, c) => {
      const row = starts[c]! + y * width * w;
      for (let i = 0; i < width * w; i++, to += 2) written.setUint16(to, values[v[row + i]!]!, true);
    });
  return out;
}
