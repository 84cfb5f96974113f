/** Marks of a ruler. */

/** Round numbers (1, 2, 5 × 10ⁿ apart) within [a, b], about `count` of them. */
export function ticks(a: number, b: number, count: number): number[] {
  const raw = (b - a) / Math.max(1, count);
  if (!(raw > 0) || !Number.isFinite(raw)) return [];
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = (raw / power >= 5 ? 10 : raw / power >= 2 ? 5 : raw / power >= 1 ? 2 : 1) * power;
  const out: number[] = [];
  for (let i = Math.ceil(a / step - 1e-9); i * step <= b + 1e-9 * step; i++) out.push(Number((i * step).toPrecision(12)));
  return out;
}

/** Marks of a ruler whose distances are stretched: 0, then 1, 2, 5 × 10ⁿ, as far apart on the drawing as `gap` of its width. */
export function stretchedTicks(a: number, b: number, share: (v: number) => number, gap: number): number[] {
  const all = [0];
  for (let e = -3; e <= 7; e++) for (const m of [1, 2, 5]) all.push(m * 10 ** e, -m * 10 ** e);
  const out: number[] = [];
  // larger marks first, so that they are kept
  for (const v of all.filter((x) => x >= a && x <= b).sort((x, y) => (x === 0 ? -1 : y === 0 ? 1 : Math.abs(y) - Math.abs(x))))
    if (out.every((o) => Math.abs(share(o) - share(v)) >= gap)) out.push(v);
  return out.sort((x, y) => x - y);
}
