/** Bytes in words. */
const UNITS = ["bytes", "kB", "MB", "GB", "TB"] as const;

export function sizeText(bytes: number): string {
  const n = Math.min(UNITS.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, bytes)) / 3)));
  return `${Number((bytes / 1000 ** n).toPrecision(3))} ${UNITS[n]}`;
}
