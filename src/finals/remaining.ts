/** How long a frame still takes, and how far off that may be. */

/** Parts of the later half that speeds are compared of. */
const PARTS = 6;

export class Remaining {
  private readonly marks: { share: number; seconds: number }[] = [];

  /** @returns seconds left and the standard error of that; null before there is anything to tell by */
  after(share: number, seconds: number): { left: number; error: number | null } | null {
    const last = this.marks.at(-1);
    if (!last || share > last.share) this.marks.push({ share, seconds });
    const first = this.marks[0]!;
    // what is only done once at its beginning says nothing of the rest
    const from = this.marks.findLast((m) => m.share <= first.share + (share - first.share) / 2) ?? first;
    const later = this.marks.slice(this.marks.indexOf(from));
    const end = later.at(-1)!;
    if (later.length < 3 || !(end.share > from.share)) return null;
    const speed = (end.share - from.share) / (end.seconds - from.seconds);
    const left = Math.max(0, 1 - share) / speed;
    if (later.length < PARTS + 1) return { left, error: null };
    const at = (i: number): { share: number; seconds: number } => later[Math.round((i * (later.length - 1)) / PARTS)]!;
    const paces = Array.from({ length: PARTS }, (_, i) => (at(i + 1).seconds - at(i).seconds) / (at(i + 1).share - at(i).share));
    const mean = paces.reduce((a, p) => a + p, 0) / PARTS;
    const variance = paces.reduce((a, p) => a + (p - mean) ** 2, 0) / (PARTS - 1);
    // the mean pace is uncertain by its standard error, and what is left scatters itself
    const parts = Math.max(1e-9, ((1 - share) * PARTS) / (end.share - from.share));
    return { left, error: (1 - share) * Math.sqrt(variance * (1 / PARTS + 1 / parts)) };
  }
}
