/** Sizes of prints. */

/** Units that the size of a picture is told in, with how many of one make an inch; pixels have no size of their own. */
export const PRINT_UNITS = { cm: 2.54, in: 1 } as const;
export type PrintUnit = keyof typeof PRINT_UNITS;

/** Pixels of a length. @param dpi pixels an inch */
export const printPixels = (length: number, unit: PrintUnit, dpi: number): number => Math.round((length / PRINT_UNITS[unit]) * dpi);
/** Length of so many pixels. @param dpi pixels an inch */
export const printLength = (pixels: number, unit: PrintUnit, dpi: number): number => (pixels / dpi) * PRINT_UNITS[unit];
