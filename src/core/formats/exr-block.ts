/** What a block of an OpenEXR file holds. */

/** Types of channels, by their numbers in the file. */
export const UINT = 0,
  HALF = 1,
  FLOAT = 2;

/** What a block holds. */
export interface Block {
  channels: readonly { name: string; type: number; linear: boolean }[];
  width: number;
  lines: number;
}

export const sizeOfType = (type: number): number => (type === HALF ? 2 : 4);
/** Bytes of a block when it is not compressed. */
export const plainBytes = ({ channels, width, lines }: Block): number =>
  lines * width * channels.reduce((n, c) => n + sizeOfType(c.type), 0);
