// Makes src/core/kernel/assembly/mask.ts: a dither mask of 64 × 64 ranks by void and cluster (Ulichney 1993). Run by hand; its
// output is kept, so that every build samples alike.
import { writeFileSync } from "node:fs";

const SIDE = 64;
const COUNT = SIDE * SIDE;
const SIGMA = 1.9;

const weights = new Float64Array(COUNT);
for (let y = 0; y < SIDE; y++)
  for (let x = 0; x < SIDE; x++) {
    const [a, b] = [Math.min(x, SIDE - x), Math.min(y, SIDE - y)];
    weights[y * SIDE + x] = Math.exp(-(a * a + b * b) / (2 * SIGMA * SIGMA));
  }
const on = new Uint8Array(COUNT);
const energy = new Float64Array(COUNT);
function put(i, sign) {
  on[i] = sign > 0 ? 1 : 0;
  const [x0, y0] = [i % SIDE, Math.floor(i / SIDE)];
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) energy[y * SIDE + x] += sign * weights[((y - y0 + SIDE) % SIDE) * SIDE + ((x - x0 + SIDE) % SIDE)];
}
function find(state, better) {
  let best = -1;
  for (let i = 0; i < COUNT; i++) if (on[i] === state && (best < 0 || better(energy[i], energy[best]))) best = i;
  return best;
}
const cluster = () => find(1, (a, b) => a > b);
const gap = () => find(0, (a, b) => a < b);

let state = 1;
const random = () => (state = (state * 48271) % 2147483647) / 2147483647;
const ones = Math.floor(COUNT / 10);
for (let placed = 0; placed < ones;) {
  const i = Math.floor(random() * COUNT);
  if (on[i]) continue;
  put(i, 1);
  placed++;
}
for (;;) {
  const from = cluster();
  put(from, -1);
  const to = gap();
  put(to, 1);
  if (from === to) break;
}
const rank = new Uint16Array(COUNT);
const [keptOn, keptEnergy] = [on.slice(), energy.slice()];
for (let r = ones - 1; r >= 0; r--) {
  const i = cluster();
  put(i, -1);
  rank[i] = r;
}
on.set(keptOn);
energy.set(keptEnergy);
for (let r = ones; r < COUNT; r++) {
  const i = gap();
  put(i, 1);
  rank[i] = r;
}
const rows = Array.from({ length: SIDE }, (_, y) => `  ${[...rank.subarray(y * SIDE, (y + 1) * SIDE)].join(", ")},`);
writeFileSync(
  new URL("../src/core/kernel/assembly/mask.ts", import.meta.url),
  `/** Dither mask, 64 × 64 ranks of 0 … 4095 by void and cluster (Ulichney 1993): written by scripts/make-mask.mjs. */
export const MASK: usize = memory.data<u16>([
${rows.join("\n")}
]);
`,
);
