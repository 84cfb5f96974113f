/** Tables that change with an edit (lights, sky, coarse grids): gathered first, then placed in kernel memory. */

/** Collects blocks of numbers; addresses are relative to the first until the tables are placed. */
export class Tables {
  private readonly blocks: { at: number; bytes: Uint8Array; filled: boolean }[] = [];
  private size = 0;

  /** Bytes in all, a multiple of 16. */
  get byteLength(): number {
    return this.size;
  }

  /**
   * Adds a block. @param filled whether the kernel fills it as it goes, so that it may be kept for a later run
   * @returns where it begins, in bytes from the first
   */
  add(values: Float32Array | Float64Array, filled = false): number {
    const at = this.size;
    this.blocks.push({ at, filled, bytes: new Uint8Array(values.buffer, values.byteOffset, values.byteLength) });
    this.size = Math.ceil((at + values.byteLength) / 16) * 16;
    return at;
  }

  /** Copies everything to its place. @param keep leaves what the kernel has filled as it is */
  write(memory: ArrayBufferLike, base: number, keep = false): void {
    const out = new Uint8Array(memory, base, this.size);
    for (const { at, bytes, filled } of this.blocks) if (!(keep && filled)) out.set(bytes, at);
  }
}
