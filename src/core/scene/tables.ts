/** Tables that change with an edit (lights, sky, coarse grids): gathered first, then placed in kernel memory. */

/** Collects blocks of numbers; addresses are relative to the first until the tables are placed. */
export class Tables {
  private readonly blocks: { at: number; bytes: Uint8Array; key: string | null }[] = [];
  private readonly shared = new Map<Float32Array, number>();
  private size = 0;

  /** Bytes in all, a multiple of 16. */
  get byteLength(): number {
    return this.size;
  }

  /**
   * Adds a block. @param key for one that the kernel fills as it goes: what its numbers depend on, so that those found
   * by an earlier run may be kept
   * @returns where it begins, in bytes from the first
   */
  add(values: Float32Array | Float64Array, key: string | null = null): number {
    const at = this.size;
    this.blocks.push({ at, key, bytes: new Uint8Array(values.buffer, values.byteOffset, values.byteLength) });
    this.size = Math.ceil((at + values.byteLength) / 16) * 16;
    return at;
  }

  /** Adds a block that others of the scene may share; it must not change later. @returns where it begins */
  addOnce(values: Float32Array): number {
    let at = this.shared.get(values);
    if (at === undefined) this.shared.set(values, (at = this.add(values)));
    return at;
  }

  /** Keys of the blocks that the kernel fills, with the places they will have. */
  filledAt(base: number): Set<string> {
    return new Set(this.blocks.flatMap(({ at, key }) => (key === null ? [] : [`${base + at} ${key}`])));
  }

  /** Copies everything to its place. @param kept blocks (as of filledAt) that are there already, and stay as they are */
  write(memory: ArrayBufferLike, base: number, kept: ReadonlySet<string> = new Set()): void {
    const out = new Uint8Array(memory, base, this.size);
    for (const { at, bytes, key } of this.blocks) if (key === null || !kept.has(`${base + at} ${key}`)) out.set(bytes, at);
  }
}
