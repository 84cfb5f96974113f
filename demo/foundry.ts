/**
 * A bell foundry: a brick hall of 40 × 18 m with tall windows high in its south wall, a pour under way at the pit, a furnace
 * with its door open, bells and moulds standing about, lamps over the pit. Lengths in metres.
 */
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { Material } from "#core/data/material";
import { PUFF_NAMES, PUFF_RATE } from "./puff";
import { add, Dice, Model, type V3 } from "./kit/model";

const [HALF_L, HALF_W, EAVES, RIDGE] = [20, 9, 9, 12.5];
const PIT: V3 = [-2, 0, -1];
const FURNACE: V3 = [-15.5, 0, -4];
const LADLE: V3 = [-2.6, 3.1, -1.2];

const MATERIALS: Record<string, Partial<Material>> = {
  "brick a": { baseColor: [0.3, 0.13, 0.08], roughness: 0.95 },
  "brick b": { baseColor: [0.36, 0.17, 0.11], roughness: 0.9 },
  "brick c": { baseColor: [0.24, 0.11, 0.08], roughness: 0.95 },
  mortar: { baseColor: [0.2, 0.18, 0.16], roughness: 1 },
  sand: { baseColor: [0.14, 0.11, 0.085], roughness: 1, specular: 0.2 },
  beam: { baseColor: [0.11, 0.075, 0.05], roughness: 0.85 },
  board: { baseColor: [0.09, 0.065, 0.05], roughness: 0.95 },
  iron: { baseColor: [0.07, 0.07, 0.075], roughness: 0.5 },
  "old bronze": { baseColor: [0.28, 0.24, 0.15], metallic: 1, roughness: 0.5 },
  "new bronze": { baseColor: [0.72, 0.5, 0.26], metallic: 1, roughness: 0.32 },
  loam: { baseColor: [0.3, 0.2, 0.13], roughness: 1 },
  melt: { baseColor: [0, 0, 0], emission: [26_000, 9_600, 1_500] },
  ember: { baseColor: [0, 0, 0], emission: [9_000, 2_600, 300] },
  lining: { baseColor: [0.25, 0.16, 0.11], roughness: 1, emission: [60, 12, 1] },
  crate: { baseColor: [0.26, 0.18, 0.1], roughness: 0.8 },
};

type Opening = [number, number, number, number];

/** A wall of single bricks in courses, along a line, with openings left out. @param at place along and up to a point */
function brickwork(
  m: Model,
  dice: Dice,
  length: number,
  height: number,
  openings: readonly Opening[],
  at: (s: number, y: number, out: number) => V3,
): void {
  const [l, h] = [0.5, 0.25];
  const joint = 0.018;
  for (let row = 0; row * h < height; row++) {
    const y = row * h;
    for (let s = row % 2 ? -l / 2 : 0; s < length; s += l) {
      const [a, b] = [Math.max(0, s), Math.min(length, s + l)];
      if (b - a < 0.08) continue;
      if (openings.some(([s0, y0, s1, y1]) => b > s0 + 0.01 && a < s1 - 0.01 && y + h > y0 + 0.01 && y < y1 - 0.01)) continue;
      const out = dice.between(-0.012, 0.012);
      const [p, q, r, t] = [
        at(a + joint, y + joint, out),
        at(b - joint, y + joint, out),
        at(b - joint, y + h - joint, out),
        at(a + joint, y + h - joint, out),
      ];
      const k = dice.pick(["brick a", "brick b", "brick c"] as const);
      m.polygon(k, p, q, r, t);
      // the edges that catch light
      const [tp, rp] = [at(a + joint, y + h - joint, -0.03), at(b - joint, y + h - joint, -0.03)];
      m.polygon(k, t, r, rp, tp);
      m.polygon(k, q, r, rp, at(b - joint, y + joint, -0.03));
    }
  }
  // mortar behind, in panels around the openings
  const cuts = [...new Set([0, length, ...openings.flatMap(([a, , b]) => [a, b])])].sort((a, b) => a - b);
  for (let i = 0; i + 1 < cuts.length; i++) {
    const [a, b] = [cuts[i]!, cuts[i + 1]!];
    const hole = openings.find(([s0, , s1]) => a >= s0 - 1e-6 && b <= s1 + 1e-6);
    for (const [y0, y1] of hole ? [[0, hole[1]], [hole[3], height]] : [[0, height]]) if (y1! > y0!) m.polygon("mortar", at(a, y0!, -0.03), at(b, y0!, -0.03), at(b, y1!, -0.03), at(a, y1!, -0.03)); // prettier-ignore
  }
}

const WINDOWS: Opening[] = Array.from({ length: 7 }, (_, i) => [2.5 + i * 5.3, 3.5, 4.9 + i * 5.3, 8.1]);

function walls(m: Model, dice: Dice): void {
  const south = (s: number, y: number, out: number): V3 => [-HALF_L + s, y, HALF_W - out];
  brickwork(m, dice, 2 * HALF_L, EAVES, WINDOWS, south);
  brickwork(m, dice, 2 * HALF_L, EAVES, [], (s, y, out) => [HALF_L - s, y, -HALF_W + out]);
  brickwork(m, dice, 2 * HALF_W, EAVES, [[7, 0, 11, 4.4]], (s, y, out) => [HALF_L - out, y, HALF_W - s]);
  brickwork(m, dice, 2 * HALF_W, EAVES, [], (s, y, out) => [-HALF_L + out, y, -HALF_W + s]);
  // thickness of the window wall, so that shafts have a depth to come through
  for (const [s0, y0, s1, y1] of WINDOWS) {
    const [x0, x1, z0, z1] = [-HALF_L + s0, -HALF_L + s1, HALF_W, HALF_W + 0.6];
    m.polygon("mortar", [x0, y0, z0], [x0, y0, z1], [x0, y1, z1], [x0, y1, z0]);
    m.polygon("mortar", [x1, y0, z0], [x1, y1, z0], [x1, y1, z1], [x1, y0, z1]);
    m.polygon("mortar", [x0, y0, z0], [x1, y0, z0], [x1, y0, z1], [x0, y0, z1]);
    m.polygon("mortar", [x0, y1, z0], [x0, y1, z1], [x1, y1, z1], [x1, y1, z0]);
    for (let i = 1; i < 4; i++)
      m.box("iron", [x0 + ((x1 - x0) * i) / 4 - 0.03, y0, z0 + 0.2], [x0 + ((x1 - x0) * i) / 4 + 0.03, y1, z0 + 0.26]);
    for (let i = 1; i < 8; i++)
      m.box("iron", [x0, y0 + ((y1 - y0) * i) / 8 - 0.025, z0 + 0.2], [x1, y0 + ((y1 - y0) * i) / 8 + 0.025, z0 + 0.26]);
  }
  // outside of the hall: closed, so that light comes through the windows and the gate alone
  const cuts = [0, ...WINDOWS.flatMap(([a, , b]) => [a, b]), 2 * HALF_L];
  for (let i = 0; i + 1 < cuts.length; i++) {
    const [a, b] = [-HALF_L + cuts[i]!, -HALF_L + cuts[i + 1]!];
    const hole = i % 2 === 1;
    for (const [y0, y1] of hole ? [[0, 3.5], [8.1, EAVES]] : [[0, EAVES]]) m.polygon("mortar", [a, y0!, HALF_W + 0.6], [b, y0!, HALF_W + 0.6], [b, y1!, HALF_W + 0.6], [a, y1!, HALF_W + 0.6]); // prettier-ignore
  }
}

function roof(m: Model, dice: Dice): void {
  for (let x = -HALF_L; x < HALF_L; x += 0.32) {
    const y = (z: number): number => EAVES + ((RIDGE - EAVES) * (HALF_W + 0.7 - Math.abs(z))) / (HALF_W + 0.7);
    for (const s of [-1, 1]) {
      const d = dice.between(-0.015, 0.015);
      m.polygon(
        "board",
        [x, y(0) + d, 0],
        [x + 0.36, y(0) + d, 0],
        [x + 0.36, y(s * (HALF_W + 0.7)) + d, s * (HALF_W + 0.7)],
        [x, y(s * (HALF_W + 0.7)) + d, s * (HALF_W + 0.7)],
      );
    }
  }
  // the gap between wall and roof
  for (const s of [-1, 1]) m.box("mortar", [-HALF_L, EAVES - 0.02, s * HALF_W], [HALF_L, EAVES + 0.3, s * (HALF_W + 0.8)]);
  // the ends, but for the gate
  m.box("mortar", [-HALF_L - 0.4, 0, -HALF_W - 1], [-HALF_L - 0.05, RIDGE + 0.1, HALF_W + 1]);
  m.box("mortar", [HALF_L + 0.05, 4.4, -HALF_W - 1], [HALF_L + 0.4, RIDGE + 0.1, HALF_W + 1]);
  for (const s of [-1, 1]) m.box("mortar", [HALF_L + 0.05, 0, s * 2], [HALF_L + 0.4, 4.4, s * (HALF_W + 1)]);
  // slates over the boards: no light comes through
  for (const s of [-1, 1])
    m.polygon(
      "iron",
      [-HALF_L - 0.4, RIDGE + 0.12, 0],
      [HALF_L + 0.4, RIDGE + 0.12, 0],
      [HALF_L + 0.4, EAVES + 0.1, s * (HALF_W + 0.9)],
      [-HALF_L - 0.4, EAVES + 0.1, s * (HALF_W + 0.9)],
    );
  for (const x of [-HALF_L, HALF_L]) m.polygon("mortar", [x, EAVES, -HALF_W - 0.7], [x, EAVES, HALF_W + 0.7], [x, RIDGE, 0]);
  for (let x = -HALF_L + 2; x <= HALF_L - 2; x += 4) {
    m.bar("beam", [[x, EAVES - 0.1, -HALF_W], [x, EAVES - 0.1, HALF_W]], 0.24, 0.34, [1, 0, 0]); // prettier-ignore
    for (const s of [-1, 1]) {
      m.bar("beam", [[x, EAVES, s * HALF_W], [x, RIDGE - 0.25, 0]], 0.2, 0.28, [1, 0, 0]); // prettier-ignore
      m.bar("beam", [[x, EAVES, s * 4.2], [x, EAVES + 1.75, s * 4.2]], 0.16, 0.16, [1, 0, 0]); // prettier-ignore
      m.bar("beam", [[x, EAVES, s * 1.2], [x, EAVES + 1.75, s * 4.2]], 0.14, 0.14, [1, 0, 0]); // prettier-ignore
    }
    m.bar("beam", [[x, EAVES, 0], [x, RIDGE - 0.3, 0]], 0.2, 0.2, [1, 0, 0]); // prettier-ignore
  }
  for (const z of [-6, -3, 0, 3, 6]) m.bar("beam", [[-HALF_L, EAVES + (RIDGE - EAVES) * (1 - Math.abs(z) / 9.7) - 0.15, z], [HALF_L, EAVES + (RIDGE - EAVES) * (1 - Math.abs(z) / 9.7) - 0.15, z]], 0.14, 0.2, [0, 0, 1]); // prettier-ignore
}

/** A bell of the given height: outside, lip and inside, after the usual profile. */
function bell(m: Model, material: string, at: V3, h: number, upright = true): void {
  const r = h * 0.62;
  const outer: [number, number][] = [[0.995, 0], [0.985, 0.03], [0.93, 0.09], [0.83, 0.18], [0.74, 0.28], [0.665, 0.4], [0.61, 0.54], [0.575, 0.68], [0.55, 0.8], [0.53, 0.87], [0.47, 0.93], [0.33, 0.965], [0, 0.975]]; // prettier-ignore
  const inner: [number, number][] = [[0, 0.9], [0.34, 0.89], [0.45, 0.83], [0.49, 0.7], [0.53, 0.52], [0.6, 0.36], [0.7, 0.22], [0.8, 0.12], [0.88, 0.05], [0.93, 0.01], [0.995, 0]]; // prettier-ignore
  const place = ([a, b]: [number, number]): [number, number] => [r * a, upright ? h * b : h * (1 - b)];
  m.lathe(material, at, [...inner, ...outer].map(place), 56);
  for (const y of [0.1, 0.3, 0.33, 0.84]) m.tube(material, Array.from({ length: 57 }, (_, i) => {
    const k = outer.findIndex(([, b], n) => n + 1 < outer.length && y >= b && y <= outer[n + 1]![1]);
    const [p, q] = [outer[k]!, outer[k + 1]!];
    const rr = r * (p[0] + ((q[0] - p[0]) * (y - p[1])) / (q[1] - p[1]));
    const a = (2 * Math.PI * i) / 56;
    return [at[0] + rr * Math.cos(a), at[1] + (upright ? h * y : h * (1 - y)), at[2] + rr * Math.sin(a)] as V3;
  }), Array.from({ length: 57 }, () => 0.012 * h), 6); // prettier-ignore
  for (const a of [0, Math.PI / 2, Math.PI / 4, -Math.PI / 4])
    if (upright) {
      const [c, s] = [Math.cos(a) * 0.11 * h, Math.sin(a) * 0.11 * h];
      m.tube(material, [[at[0] - c, at[1] + 0.96 * h, at[2] - s], [at[0] - c, at[1] + 1.1 * h, at[2] - s], [at[0], at[1] + 1.16 * h, at[2]], [at[0] + c, at[1] + 1.1 * h, at[2] + s], [at[0] + c, at[1] + 0.96 * h, at[2] + s]], [0.03, 0.028, 0.026, 0.028, 0.03].map((v) => v * h), 8); // prettier-ignore
    }
}

function pour(m: Model, dice: Dice): void {
  // the pit with the buried mould: its gate glows
  m.lathe("iron", [PIT[0], 0, PIT[2]], [[2.3, 0.02], [2.3, 0.34], [2.15, 0.34], [2.15, 0.02]], 64); // prettier-ignore
  m.lathe("loam", [PIT[0], -0.02, PIT[2]], [[2.15, 0.14], [1.1, 0.2], [0.62, 0.42], [0.34, 0.46]], 64); // prettier-ignore
  m.lathe("melt", [PIT[0], 0.4, PIT[2]], [[0.34, 0.02], [0.2, 0.03], [0, 0.03]], 40); // prettier-ignore
  // ladle on its bail, tipped by a wheel; a stream from its lip
  m.lathe("iron", [LADLE[0], LADLE[1] - 0.7, LADLE[2]], [[0, 0], [0.5, 0.02], [0.58, 0.1], [0.7, 1.2], [0.74, 1.22], [0.64, 1.22], [0.6, 0.98]], 48); // prettier-ignore
  m.lathe("melt", [LADLE[0], LADLE[1] + 0.3, LADLE[2]], [[0.62, 0], [0.3, 0.015], [0, 0.02]], 40); // prettier-ignore
  const lip: V3 = [LADLE[0] + 0.62, LADLE[1] + 0.34, LADLE[2] + 0.1];
  const stream = Array.from({ length: 18 }, (_, i): V3 => {
    const t = i / 17;
    return [lip[0] + (PIT[0] - lip[0]) * Math.sqrt(t), lip[1] + (0.45 - lip[1]) * t, lip[2] + (PIT[2] - lip[2]) * Math.sqrt(t)];
  });
  m.tube("melt", stream, stream.map((_, i) => 0.075 - 0.0022 * i), 14); // prettier-ignore
  for (const s of [-1, 1]) m.tube("iron", [[LADLE[0], LADLE[1], LADLE[2] + 0.72 * s], [LADLE[0], LADLE[1] + 1.5, LADLE[2] + 0.5 * s], [LADLE[0], LADLE[1] + 1.75, LADLE[2]]], [0.06, 0.05, 0.05]); // prettier-ignore
  const chain = Array.from({ length: 26 }, (_, i): V3 => [
    LADLE[0] + 0.012 * (i % 2),
    LADLE[1] + 1.75 + i * 0.13,
    LADLE[2] + 0.012 * ((i + 1) % 2),
  ]);
  m.tube("iron", chain, chain.map(() => 0.03), 6); // prettier-ignore
  m.bar("iron", [[LADLE[0], 8.2, -HALF_W + 0.2], [LADLE[0], 8.2, HALF_W - 0.2]], 0.36, 0.5, [1, 0, 0]); // prettier-ignore
  for (const z of [-HALF_W + 0.3, HALF_W - 0.3]) m.bar("iron", [[-HALF_L, 7.85, z], [HALF_L, 7.85, z]], 0.2, 0.24, [0, 0, 1]); // prettier-ignore
  // drops that fell beside
  for (let i = 0; i < 24; i++) {
    const a = dice.between(0, 6.28),
      d = dice.between(0.5, 2.4);
    m.stone("ember", dice, [PIT[0] + d * Math.cos(a), 0.22, PIT[2] + d * Math.sin(a)], [0.018, 0.008, 0.018], 0.3, 4, 6);
  }
}

function furnace(m: Model, dice: Dice): void {
  const [x, , z] = FURNACE;
  const w = 2.6;
  // a block with its mouth towards the hall
  for (let row = 0; row < 14; row++)
    for (let k = 0; k < 21; k++) {
      const y = row * 0.25;
      const s = -w + 0.25 * k;
      if (Math.abs(s + 0.12) < 0.8 && y > 0.7 && y < 2) continue;
      m.box(
        dice.pick(["brick a", "brick b", "brick c"]),
        [x + 1.9, y + 0.01, z + s],
        [x + 2.05 + dice.between(0, 0.02), y + 0.24, z + s + 0.235],
      );
    }
  m.box("brick c", [x - 2, 0, z - w], [x + 1.9, 0.75, z + w]);
  m.box("brick c", [x - 2, 2, z - w], [x + 1.9, 3.5, z + w]);
  m.box("brick c", [x - 2, 0.75, z - w], [x + 1.9, 2, z - 0.85]);
  m.box("brick c", [x - 2, 0.75, z + 0.7], [x + 1.9, 2, z + w]);
  m.box("lining", [x - 2, 0.75, z - 0.85], [x - 1.8, 2, z + 0.7]);
  for (let i = 0; i < 130; i++)
    m.stone(
      "ember",
      dice,
      [x + dice.between(-1.6, 1.5), 0.78 + dice.between(0, 0.14), z + dice.between(-0.75, 0.62)],
      [0.11, 0.08, 0.1],
      0.3,
      4,
      7,
    );
  m.lathe("brick b", [x - 0.4, 3.5, z], [[1.3, 0], [0.9, 1.4], [0.8, 9]], 40); // prettier-ignore
}

function things(m: Model, dice: Dice): void {
  const put: [number, number, number][] = [];
  const free = (x: number, z: number, r: number): boolean =>
    Math.hypot(x - PIT[0], z - PIT[2]) > r + 3.4 &&
    !(x < -11.5 && z < 0 && z > -8) &&
    Math.hypot(x - 14.5, z - 6.4) > r + 5.2 &&
    put.every(([a, b, c]) => Math.hypot(x - a, z - b) > r + c + 0.15);
  for (let n = 0; n < 600 && put.length < 74; n++) {
    const h = dice.between(0.5, 1.7);
    const [x, z] = [dice.between(-HALF_L + 1.4, HALF_L - 1.4), dice.between(-HALF_W + 1.2, HALF_W - 1.2)];
    if (!free(x, z, h * 0.65)) continue;
    put.push([x, z, h * 0.65]);
    const kind = dice.next();
    if (kind < 0.45) bell(m, "old bronze", [x, 0.06, z], h);
    else if (kind < 0.62) bell(m, "new bronze", [x, 0.06, z], h);
    else if (kind < 0.8)
      m.lathe("loam", [x, 0, z], [[h * 0.75, 0], [h * 0.72, 0.3 * h], [h * 0.55, h], [h * 0.4, 1.25 * h], [h * 0.14, 1.3 * h], [h * 0.14, 1.45 * h], [0, 1.45 * h]], 48); // prettier-ignore
    else for (let k = 0; k < 5; k++) m.box("crate", [x - 0.5 + 0.04 * k, 0.3 * k, z - 0.4], [x + 0.5 - 0.04 * k, 0.3 * k + 0.27, z + 0.4]);
  }
  for (const [x, y] of [
    [8.5, 3.1],
    [13.5, 2.8],
  ] as const) {
    // bells that hang, to be tuned
    m.tube("iron", [[x, 8.9, -3.4], [x, y + 1.55, -3.4]], [0.04, 0.04], 8); // prettier-ignore
    bell(m, "new bronze", [x, y, -3.4], 1.3);
  }
}

const LAMPS: V3[] = [-10, -4, 2, 8, 14].flatMap((x): V3[] => [[x, 6.4, -4.5], [x, 6.4, 4.2]]); // prettier-ignore

/** Builds the set. */
export function buildFoundry(): Model {
  const m = new Model(MATERIALS);
  const dice = new Dice(1754);
  m.field(
    "sand",
    -HALF_L,
    HALF_L,
    -HALF_W,
    HALF_W + 0.6,
    200,
    96,
    (x, z) => 0.03 * Math.sin(1.1 * x + 0.4 * z) + 0.02 * Math.sin(2.3 * z - 0.7 * x) + 0.012 * Math.sin(5.1 * x + 3.3 * z),
  );
  m.polygon("sand", [-200, -0.3, 200], [200, -0.3, 200], [200, -0.3, -200], [-200, -0.3, -200]);
  walls(m, dice);
  roof(m, dice);
  pour(m, dice);
  furnace(m, dice);
  things(m, dice);
  for (const p of LAMPS) {
    m.tube("iron", [add(p, [0, 2.5, 0]), add(p, [0, 0.4, 0])], [0.02, 0.02], 6); // prettier-ignore
    m.lathe("iron", p, [[0.34, 0], [0.32, 0.06], [0.14, 0.34], [0.09, 0.42], [0, 0.44]], 28); // prettier-ignore
  }
  return m;
}

/** A deep bowl reflector, measured by nobody: made up for this hall. 12,000 lm lamp, type C, symmetric about its axis. */
export const LAMP_IES = `IESNA:LM-63-2002
[TEST] made up
[MANUFAC] none
[LUMINAIRE] deep bowl over a casting pit
[LAMP] 12000 lm
TILT=NONE
1 12000 1 19 1 1 2 0.68 0 0.44
1 1 120
0 5 10 15 20 25 30 35 40 45 50 55 60 65 70 75 80 85 90
0
5900 5820 5600 5240 4780 4250 3650 3010 2380 1790 1270 830 490 250 110 40 12 3 0
`;

/** The scene document. @param hashes of its files' bytes, where known */
export function foundryDocument(hashes: Record<string, string> = {}): SceneDocument {
  const asset = (uri: string) => ({ uri, ...(hashes[uri] ? { sha256: hashes[uri] } : {}) });
  const across = { position: [14.5, 2, 6.4], target: [-3, 3, -1.8], fieldOfView: 48 };
  return parseDocument({
    fumarium: 2,
    title: "Bell foundry",
    assets: {
      foundry: asset("foundry.glb"),
      "pit lamp": asset("pit-lamp.ies"),
      ...Object.fromEntries(PUFF_NAMES.map((name) => [name.slice(0, -4), asset(name)])),
    },
    time: 1.25,
    objects: [{ kind: "model", name: "bell foundry", asset: "foundry" }],
    camera: across,
    lenses: [
      { name: "across the hall", camera: across },
      { name: "at the pour", camera: { position: [3.4, 1.6, 3.4], target: [-2.4, 2, -1.2], fieldOfView: 50 } },
    ],
    sun: { azimuth: 152, elevation: 33, illuminance: 30_000, temperature: 4300, angularDiameter: 0.6 },
    sky: { luminance: 900, zenith: [0.55, 0.7, 0.95], horizon: [1, 0.9, 0.78] },
    lights: [
      ...LAMPS.map((p, i) => ({
        kind: "profile",
        name: `pit lamp ${i + 1}`,
        position: add(p, [0, -0.02, 0]),
        target: [p[0], 0, p[2]],
        asset: "pit lamp",
        scale: 0.35,
        temperature: 2900,
      })),
      {
        kind: "sphere",
        name: "glow of the ladle",
        position: add(LADLE, [0.1, 0.62, 0.1]),
        radius: 0.28,
        intensity: 900,
        unit: "cd",
        temperature: 1900,
      },
    ],
    air: [
      {
        name: "hall dust",
        density: 0.0085,
        scattering: [0.98, 0.95, 0.9],
        absorption: [0.02, 0.03, 0.04],
        anisotropy: 0.65,
        region: { kind: "box", centre: [0, 6.2, 0], size: [39.8, 12.6, 17.9] },
      },
      {
        name: "smoke of the pour",
        density: 0.5,
        scattering: [0.75, 0.72, 0.68],
        absorption: [0.25, 0.28, 0.32],
        anisotropy: 0.4,
        region: { kind: "cone", centre: [-2.2, 6.6, -1.1], radius: 3.1, height: 9, rotation: [180, 0, 0] },
        edge: 1.2,
        noise: { character: "wisps", size: 2.6, stretch: [1, 1.9, 1], octaves: 5, low: 0.38, high: 0.78, drift: [0.1, 0.7, 0], seed: 4 },
      },
      {
        name: "puff off the melt",
        density: 1.1,
        scattering: [0.82, 0.78, 0.72],
        absorption: [0.18, 0.22, 0.28],
        anisotropy: 0.35,
        grid: {
          asset: PUFF_NAMES[0]!.slice(0, -4),
          sequence: { frames: PUFF_NAMES.map((name) => name.slice(0, -4)), rate: PUFF_RATE, loop: false },
          position: add(LADLE, [0.05, 0.3, 0.05]),
          high: 0.75,
          temperature: { channel: "temperature" },
          // fresh off the melt it is brown, and greys as it cools
          tint: {
            from: "ramp",
            channel: "temperature",
            low: 300,
            high: 1100,
            colours: [
              [0, [1, 1, 1]],
              [0.5, [0.95, 0.82, 0.66]],
              [1, [0.85, 0.6, 0.4]],
            ],
          },
        },
      },
    ],
    render: { level: "shafts", surfaceBounces: 2, airSamples: 4, samples: 256 },
    film: { size: [1280, 720], exposure: 6.9, whiteBalance: 5200 },
  });
}
