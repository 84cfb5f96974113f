/**
 * DWA blocks of OpenEXR. They are decoded by three.js, which waits for ever on broken ones: what it would trust is decoded here first.
 */
import { unzlibSync } from "fflate";
import { decodeHuffman } from "./exr-piz";

/** Numbers at the head of a block, 8 bytes each. */
const HEAD = 11;

/**
 * Checks a block: sizes that fit, codes that are whole.
 * @param pixels of the block @throws Error saying what is wrong
 */
export function checkDwa(data: Uint8Array, pixels: number): void {
  if (data.length < 8 * HEAD) throw new Error("it is cut short");
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [version, , plain, ac, dc, rle, runs, raw, acCount, dcCount, code] = Array.from({ length: HEAD }, (_, i) =>
    Number(view.getBigUint64(8 * i, true)),
  ) as [number, number, number, number, number, number, number, number, number, number, number];
  const limit = 16 * pixels + 65536;
  if (version > 2 || code > 1 || ![plain, ac, dc, rle, runs, raw, acCount, dcCount].every((n) => n <= limit))
    throw new Error("its head is broken");
  let at = 8 * HEAD;
  if (version >= 2) {
    if (at + 2 > data.length) throw new Error("it is cut short");
    const rules = view.getUint16(at, true);
    if (rules < 2) throw new Error("its head is broken");
    at += rules;
  }
  const part = (n: number): Uint8Array => {
    if (at + n > data.length) throw new Error("it is cut short");
    at += n;
    return data.subarray(at - n, at);
  };
  part(plain);
  const coefficients = part(ac);
  const means = part(dc);
  const run = part(rle);
  const whole = (bytes: Uint8Array, wanted: number): void => {
    if (bytes.length > 0 && unzlibSync(bytes, { out: new Uint8Array(wanted) }).length !== wanted)
      throw new Error("its parts are not of the size they say");
  };
  if (ac > 0) {
    if (code === 0) decodeHuffman(coefficients, acCount);
    else whole(coefficients, 2 * acCount);
  }
  if (dc > 0) whole(means, 2 * dcCount);
  if (rle > 0) whole(run, runs);
}
