/** The compressions that OpenEXR files are written with. */
import { zlibSync } from "fflate";
import type { Compression } from "./depths";
import type { Block } from "./exr-block";
import { packPiz } from "./exr-piz-pack";

/** Another zlib than the built-in, where there is a faster one. */
export type Deflate = (bytes: Uint8Array) => Uint8Array;

interface Packer {
  /** Its number in the file. */
  code: number;
  /** Lines of a block. */
  lines: number;
  pack(raw: Uint8Array, block: Block, deflate: Deflate): Uint8Array;
}

const zip = (raw: Uint8Array, _: Block, deflate: Deflate): Uint8Array => deflate(predict(raw));

/** By their names. */
export const PACKERS = {
  zip: { code: 3, lines: 16, pack: zip },
  zips: { code: 2, lines: 1, pack: zip },
  piz: { code: 4, lines: 32, pack: packPiz },
  none: { code: 0, lines: 1, pack: (raw) => raw },
} as const satisfies Record<Compression, Packer>;

export const deflated: Deflate = (bytes) => zlibSync(bytes, { level: 6 });

/** The reordering and differencing that precede zlib. */
function predict(raw: Uint8Array): Uint8Array {
  const n = raw.length;
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0; i < n; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i]!;
  let last = out[0]!;
  for (let i = 1; i < n; i++) {
    const v = out[i]!;
    out[i] = v - last + 384;
    last = v;
  }
  return out;
}
