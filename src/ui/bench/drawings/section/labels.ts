/** Places of words in a drawing, so that none lies on another. */

/** Room that a word of a few characters takes at 10 px, px. */
const [WIDE, HIGH] = [30, 11];

/** Which of the words may stand, the first before the later: their ends lie at `at`, px. */
export function apart(at: readonly (readonly [number, number] | null)[]): boolean[] {
  const kept: (readonly [number, number])[] = [];
  return at.map((p) => {
    if (!p || kept.some((q) => Math.abs(p[0] - q[0]) < WIDE && Math.abs(p[1] - q[1]) < HIGH)) return false;
    kept.push(p);
    return true;
  });
}
