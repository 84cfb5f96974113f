/** Corners that are alike in all they have, kept once. */

/** Numbers of one attribute, `size` a corner. */
export interface CornerValues {
  values: Float32Array | Uint16Array;
  size: number;
}

/**
 * Finds corners that are alike to the last bit.
 * @returns for each corner the number of the one kept for it, and which corners are kept, in the order they first come
 */
export function weld(attributes: readonly CornerValues[], corners: number): { indices: Uint32Array<ArrayBuffer>; kept: Uint32Array } {
  const words = attributes.map(({ values, size }) =>
    values instanceof Float32Array
      ? { bits: new Uint32Array(values.buffer, values.byteOffset, values.length), size }
      : { bits: values, size },
  );
  const hash = (i: number): number => {
    let h = 0x811c9dc5;
    for (const { bits, size } of words)
      for (let k = i * size; k < (i + 1) * size; k++) h = Math.imul((h ^ bits[k]!) >>> 0, 0x01000193) ^ (h >>> 15);
    return h >>> 0;
  };
  const alike = (i: number, j: number): boolean => {
    for (const { bits, size } of words) for (let k = 0; k < size; k++) if (bits[i * size + k] !== bits[j * size + k]) return false;
    return true;
  };
  const room = 2 ** Math.ceil(Math.log2(Math.max(2, 2 * corners)));
  // a table with open places: 1 + the number of a kept corner, 0 where none is
  const table = new Uint32Array(room);
  const indices = new Uint32Array(corners),
    kept = new Uint32Array(corners);
  let count = 0;
  for (let i = 0; i < corners; i++) {
    let at = hash(i) & (room - 1);
    while (table[at] !== 0 && !alike(kept[table[at]! - 1]!, i)) at = (at + 1) & (room - 1);
    if (table[at] === 0) {
      kept[count++] = i;
      table[at] = count;
    }
    indices[i] = table[at]! - 1;
  }
  return { indices, kept: kept.slice(0, count) };
}
