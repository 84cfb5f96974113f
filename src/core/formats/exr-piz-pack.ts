/** PIZ blocks of OpenEXR, packed: a table of the values that occur, wavelets over each channel, Huffman codes (the other way: exr-piz.ts). */
import { HALF, type Block } from "./exr-block";

/** Symbols of the Huffman code: all values of 16 bits, and one for runs. */
const SYMBOLS = 65537;
/** Longest run that is counted. */
const LONGEST_RUN = 255;
/** Runs of symbols without a code: so many are told in six bits, from so many on in fourteen. */
const SHORT_RUNS = 59,
  LONG_RUN = 63,
  FIRST_LONG = 6;

/** Bits into bytes, the highest first. */
class BitWriter {
  private bytes = new Uint8Array(65536);
  private at = 0;
  private held = 0;
  private count = 0;
  /** @param n at most 24 */
  put(value: number, n: number): void {
    // fewer than eight bits are held
    this.held = (this.held << n) | value;
    this.count += n;
    if (this.at + 4 > this.bytes.length) {
      const next = new Uint8Array(2 * this.bytes.length);
      next.set(this.bytes);
      this.bytes = next;
    }
    while (this.count >= 8) {
      this.count -= 8;
      this.bytes[this.at++] = this.held >>> this.count;
    }
    this.held &= (1 << this.count) - 1;
  }
  get bits(): number {
    return 8 * this.at + this.count;
  }
  done(): Uint8Array {
    if (this.count > 0) this.bytes[this.at] = this.held << (8 - this.count);
    return this.bytes.subarray(0, this.at + (this.count > 0 ? 1 : 0));
  }
}

/** Lengths of Huffman codes by how often each symbol comes; 0 for one that does not. At least two symbols must. */
function codeLengths(often: Float64Array): Uint8Array {
  const symbols = [...often.keys()].filter((s) => often[s]! > 0).sort((a, b) => often[a]! - often[b]! || a - b);
  const n = symbols.length;
  // leaves in order, then the nodes that join two: those come in order too, so the two rarest are at the fronts of two rows
  const weight = new Float64Array(2 * n - 1);
  const parent = new Int32Array(2 * n - 1);
  symbols.forEach((s, i) => (weight[i] = often[s]!));
  let leaf = 0,
    node = n;
  for (let made = n; made < 2 * n - 1; made++)
    for (let k = 0; k < 2; k++) {
      const rarest = leaf < n && (node >= made || weight[leaf]! <= weight[node]!) ? leaf++ : node++;
      weight[made]! += weight[rarest]!;
      parent[rarest] = made;
    }
  const depth = new Uint8Array(2 * n - 1);
  for (let i = 2 * n - 3; i >= 0; i--) depth[i] = depth[parent[i]!]! + 1;
  const lengths = new Uint8Array(often.length);
  symbols.forEach((s, i) => (lengths[s] = depth[i]!));
  return lengths;
}

/** Canonical codes: those of a length follow each other in the order of their symbols, the longest are the least. */
function canonicalCodes(lengths: Uint8Array): Float64Array {
  const next = new Float64Array(60);
  for (const l of lengths) if (l > 0) next[l]!++;
  for (let l = 58, code = 0; l > 0; l--) {
    const count = next[l]!;
    next[l] = code;
    code = Math.floor((code + count) / 2);
  }
  return Float64Array.from(lengths, (l) => (l > 0 ? next[l]!++ : 0));
}

/** Codes values by Huffman: where the table begins and ends, bytes of the table, bits of the data, then both. */
export function encodeHuffman(values: Uint16Array): Uint8Array {
  const often = new Float64Array(SYMBOLS);
  for (const v of values) often[v]!++;
  const first = often.findIndex((n) => n > 0);
  const last = often.findLastIndex((n) => n > 0) + 1;
  // the symbol of runs stands behind all others
  often[last] = 1;
  const lengths = codeLengths(often);
  const codes = canonicalCodes(lengths);
  const table = new BitWriter();
  for (let s = first; s <= last; s++) {
    if (lengths[s]! > 0) {
      table.put(lengths[s]!, 6);
      continue;
    }
    let run = 1;
    while (s + run <= last && lengths[s + run] === 0 && run < LONGEST_RUN + FIRST_LONG) run++;
    if (run === 1) table.put(0, 6);
    else if (run < FIRST_LONG) table.put(SHORT_RUNS + run - 2, 6);
    else {
      table.put(LONG_RUN, 6);
      table.put(run - FIRST_LONG, 8);
    }
    s += run - 1;
  }
  const data = new BitWriter();
  const send = (symbol: number): void => {
    const [code, l] = [codes[symbol]!, lengths[symbol]!];
    if (l > 24) data.put(Math.floor(code / 2 ** 24), l - 24);
    data.put(l > 24 ? code % 2 ** 24 : code, Math.min(l, 24));
  };
  for (let i = 0; i < values.length;) {
    const symbol = values[i]!;
    let more = 0;
    while (more < LONGEST_RUN && values[i + more + 1] === symbol) more++;
    const l = lengths[symbol]!;
    if (l + lengths[last]! + 8 < l * more) {
      send(symbol);
      send(last);
      data.put(more, 8);
    } else for (let k = 0; k <= more; k++) send(symbol);
    i += more + 1;
  }
  const [head, body] = [table.done(), data.done()];
  const out = new Uint8Array(20 + head.length + body.length);
  const view = new DataView(out.buffer);
  [first, last, head.length, data.bits, 0].forEach((v, i) => view.setUint32(4 * i, v, true));
  out.set(head, 20);
  out.set(body, 20 + head.length);
  return out;
}

/** Wavelets of one plane in place. @param most largest value: above 14 bits they are taken modulo 16 bits */
function wavelet(v: Uint16Array, from: number, nx: number, ox: number, ny: number, oy: number, most: number): void {
  const small = most < 1 << 14;
  /** Puts the mean of two values in the place of the first, and their difference in that of the second. */
  const pair = (i: number, j: number): void => {
    const [a, b] = [v[i]!, v[j]!];
    if (small) {
      const [p, q] = [(a << 16) >> 16, (b << 16) >> 16];
      v[i] = (p + q) >> 1;
      v[j] = p - q;
    } else {
      const shifted = (a + 0x8000) & 0xffff;
      const difference = shifted - b;
      v[i] = ((shifted + b) >> 1) + (difference < 0 ? 0x8000 : 0);
      v[j] = difference;
    }
  };
  for (let p = 1; 2 * p <= Math.min(nx, ny); p *= 2) {
    const [ox1, oy1] = [ox * p, oy * p];
    let y = 0;
    for (; y + 2 * p <= ny; y += 2 * p) {
      let x = 0,
        at = from + y * oy;
      for (; x + 2 * p <= nx; x += 2 * p, at += 2 * ox1) {
        pair(at, at + ox1);
        pair(at + oy1, at + oy1 + ox1);
        pair(at, at + oy1);
        pair(at + ox1, at + oy1 + ox1);
      }
      if (nx & p) pair(at, at + oy1);
    }
    if (ny & p) for (let x = 0, at = from + y * oy; x + 2 * p <= nx; x += 2 * p, at += 2 * ox1) pair(at, at + ox1);
  }
}

/** Packs a block's plain bytes. */
export function packPiz(raw: Uint8Array, { channels, width, lines }: Block): Uint8Array {
  const words = channels.map((c) => (c.type === HALF ? 1 : 2));
  const total = raw.length / 2;
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const v = new Uint16Array(total);
  const starts: number[] = [];
  for (let c = 0, from = 0; c < words.length; from += width * lines * words[c++]!) starts.push(from);
  for (let y = 0, at = 0; y < lines; y++)
    words.forEach((w, c) => {
      const row = starts[c]! + y * width * w;
      for (let i = 0; i < width * w; i++, at += 2) v[row + i] = view.getUint16(at, true);
    });
  // nought counts as there whether it is or not
  const occurs = new Uint8Array(8192);
  for (const value of v) occurs[value >> 3]! |= 1 << (value & 7);
  occurs[0]! &= ~1;
  const low = occurs.findIndex((b) => b > 0),
    high = occurs.findLastIndex((b) => b > 0);
  const place = new Uint16Array(65536);
  let n = 0;
  for (let value = 0; value < 65536; value++) if (value === 0 || occurs[value >> 3]! & (1 << (value & 7))) place[value] = n++;
  for (let i = 0; i < total; i++) v[i] = place[v[i]!]!;
  words.forEach((w, c) => {
    for (let j = 0; j < w; j++) wavelet(v, starts[c]! + j, width, w, lines, width * w, n - 1);
  });
  const coded = encodeHuffman(v);
  const table = low < 0 ? new Uint8Array(0) : occurs.subarray(low, high + 1);
  const out = new Uint8Array(8 + table.length + coded.length);
  const written = new DataView(out.buffer);
  // where nothing occurs but noughts, the table ends before it begins
  written.setUint16(0, low < 0 ? 8191 : low, true);
  written.setUint16(2, low < 0 ? 0 : high, true);
  out.set(table, 4);
  written.setUint32(4 + table.length, coded.length, true);
  out.set(coded, 8 + table.length);
  return out;
}
