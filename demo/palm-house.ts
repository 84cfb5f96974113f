/**
 * A palm house at dawn: an iron and glass hall of 36 × 16 m and 11 m height, its glazing open to the
 * light, canvas drawn over some bays of the roof, palms and ferns in beds either side of a paved way
 * that leads round a pool to a far door.
 */
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { Material } from "#core/data/material";
import { Dice, Model, type V3 } from "./kit/model";
import { broadleaf, fern, palm } from "./kit/plants";

const HALF_WIDTH = 8;
const HALF_LENGTH = 18;
const WALL = 4.2;
const RISE = 6.6;
const BAY = 3;

const MATERIALS: Record<string, Partial<Material>> = {
  iron: { baseColor: [0.3, 0.33, 0.31], roughness: 0.55, metallic: 0 },
  bars: { baseColor: [0.5, 0.53, 0.5], roughness: 0.6 },
  stone: { baseColor: [0.42, 0.39, 0.34], roughness: 0.9 },
  "slab a": { baseColor: [0.36, 0.33, 0.29], roughness: 0.55 },
  "slab b": { baseColor: [0.42, 0.39, 0.34], roughness: 0.65 },
  "slab c": { baseColor: [0.3, 0.28, 0.26], roughness: 0.45 },
  soil: { baseColor: [0.07, 0.05, 0.035], roughness: 1, specular: 0.3 },
  lawn: { baseColor: [0.09, 0.13, 0.05], roughness: 1, specular: 0.2 },
  water: { baseColor: [0.012, 0.02, 0.018], roughness: 0.09, specular: 1 },
  canvas: { baseColor: [0.72, 0.68, 0.58], roughness: 1, specular: 0.1, diffuseTransmission: 0.18 },
  wood: { baseColor: [0.33, 0.2, 0.11], roughness: 0.6 },
  door: { baseColor: [0.13, 0.2, 0.17], roughness: 0.5 },
  clay: { baseColor: [0.47, 0.22, 0.13], roughness: 0.85 },
  trunk: { baseColor: [0.23, 0.17, 0.12], roughness: 0.95, specular: 0.4 },
  stem: { baseColor: [0.2, 0.27, 0.1], roughness: 0.7 },
  "palm a": { baseColor: [0.13, 0.26, 0.06], roughness: 0.5, diffuseTransmission: 0.42 },
  "palm b": { baseColor: [0.18, 0.3, 0.07], roughness: 0.55, diffuseTransmission: 0.45 },
  "palm c": { baseColor: [0.1, 0.21, 0.06], roughness: 0.5, diffuseTransmission: 0.4 },
  "fern a": { baseColor: [0.16, 0.33, 0.07], roughness: 0.65, diffuseTransmission: 0.48 },
  "fern b": { baseColor: [0.23, 0.37, 0.09], roughness: 0.65, diffuseTransmission: 0.48 },
  "broad a": { baseColor: [0.15, 0.31, 0.09], roughness: 0.4, diffuseTransmission: 0.45 },
  "broad b": { baseColor: [0.22, 0.35, 0.1], roughness: 0.45, diffuseTransmission: 0.45 },
  hedge: { baseColor: [0.06, 0.09, 0.04], roughness: 1, specular: 0.1 },
};
const PALM = ["palm a", "palm b", "palm c"] as const;
const FERN = ["fern a", "fern b"] as const;
const BROAD = ["broad a", "broad b"] as const;

/** Point of the hall's outline: t = 0 at the foot of the left wall, 1 at the foot of the right one. */
function outline(t: number, z: number, inset = 0): V3 {
  const w = HALF_WIDTH - inset;
  const straight = 0.2;
  if (t < straight) return [-w, 1 + ((WALL - 1) * t) / straight, z];
  if (t > 1 - straight) return [w, 1 + ((WALL - 1) * (1 - t)) / straight, z];
  const a = Math.PI * ((t - straight) / (1 - 2 * straight));
  return [-w * Math.cos(a), WALL + (RISE - inset) * Math.sin(a), z];
}

function arch(z: number, steps: number, inset = 0): V3[] {
  return Array.from({ length: steps + 1 }, (_, i) => outline(i / steps, z, inset));
}

function shell(m: Model, dice: Dice): void {
  const bays = (2 * HALF_LENGTH) / BAY;
  for (let i = 0; i <= bays; i++) {
    const z = -HALF_LENGTH + i * BAY;
    m.bar("iron", arch(z, 36, 0.16), 0.17, 0.3, [0, 0, 1]);
    // lattice of the rib: a lighter inner chord and struts
    m.bar("iron", arch(z, 36, 0.62), 0.09, 0.09, [0, 0, 1]);
    for (let k = 11; k <= 37; k += 2) m.bar("iron", [outline(k / 48, z, 0.2), outline((k + 1) / 48, z, 0.62)], 0.06, 0.05, [0, 0, 1]);
    for (const side of [-1, 1]) {
      m.box("stone", [side * (HALF_WIDTH + 0.22), 0, z - 0.34], [side * (HALF_WIDTH - 0.34), 3.3, z + 0.34]);
      m.box("stone", [side * (HALF_WIDTH + 0.28), 3.3, z - 0.4], [side * (HALF_WIDTH - 0.4), 3.48, z + 0.4]);
      m.tube(
        "iron",
        [
          [side * (HALF_WIDTH - 0.1), 3.4, z],
          [side * (HALF_WIDTH - 0.1), WALL, z],
        ],
        [0.1, 0.1],
        10,
      );
    }
  }
  // glazing bars along the arch and purlins along the hall
  for (let i = 0; i < bays; i++)
    for (let k = 1; k < 6; k++) m.bar("bars", arch(-HALF_LENGTH + i * BAY + (k * BAY) / 6, 26), 0.035, 0.06, [0, 0, 1]);
  for (const t of [0.02, 0.2, 0.27, 0.34, 0.42, 0.5, 0.58, 0.66, 0.73, 0.8, 0.98]) {
    const heavy = t === 0.2 || t === 0.5 || t === 0.8;
    const [a, b] = [outline(t, -HALF_LENGTH), outline(t, HALF_LENGTH)];
    m.bar("bars", [a, b], heavy ? 0.16 : 0.05, heavy ? 0.16 : 0.07, unitNormal(t));
  }
  for (const side of [-1, 1]) m.box("stone", [side * (HALF_WIDTH + 0.2), 0, -HALF_LENGTH], [side * (HALF_WIDTH - 0.22), 1, HALF_LENGTH]);
  for (const side of [-1, 1]) m.box("stone", [side * (HALF_WIDTH + 0.28), 1, -HALF_LENGTH], [side * (HALF_WIDTH - 0.3), 1.09, HALF_LENGTH]);
  // canvas blinds drawn over parts of the roof and walls, so that the sun comes in by slots
  for (let i = 0; i < bays; i++) {
    const z0 = -HALF_LENGTH + i * BAY + 0.12,
      z1 = z0 + BAY - 0.24;
    // the sunny side is closed but for every other bay, where the blinds leave slots: each throws one shaft
    const wobble = dice.between(-0.006, 0.006);
    const spans: [number, number][] =
      i % 2
        ? (
            [
              [0.52, 0.592],
              [0.632, 0.676],
              [0.714, 0.76],
              [0.8, 0.856],
              [0.9, 0.945],
            ] as [number, number][]
          ).map(([x, y]) => [x + wobble, y + wobble])
        : [
            [0.52, 0.795],
            [0.805, dice.between(0.93, 0.955)],
          ];
    if (i % 2) spans.push([dice.between(0.25, 0.33), 0.47]);
    for (const [from, to] of spans) blind(m, dice, from, to, z0, z1);
  }
  gable(m, -HALF_LENGTH, true);
  gable(m, HALF_LENGTH, false);
}

function unitNormal(t: number): V3 {
  const [a, b] = [outline(t - 0.01, 0), outline(t + 0.01, 0)];
  const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return [(b[0] - a[0]) / d, (b[1] - a[1]) / d, 0];
}

/** A roller blind that sags a little between the bars. */
function blind(m: Model, dice: Dice, from: number, to: number, z0: number, z1: number): void {
  const rows = 14,
    columns = 6;
  for (let c = 0; c < columns; c++) {
    const left: V3[] = [],
      right: V3[] = [];
    for (let r = 0; r <= rows; r++) {
      const t = from + ((to - from) * r) / rows;
      for (const [list, k] of [
        [left, c],
        [right, c + 1],
      ] as const) {
        const u = k / columns;
        const sag = 0.1 + 0.05 * Math.sin(Math.PI * ((u * 3) % 1)) + 0.01 * dice.next();
        list.push(outline(t, z0 + (z1 - z0) * u, sag));
      }
    }
    m.ribbon("canvas", left, right);
  }
  m.tube("wood", [outline(from, z0, 0.16), outline(from, z1, 0.16)], [0.05, 0.05], 8);
  m.tube("wood", [outline(to, z0, 0.13), outline(to, z1, 0.13)], [0.025, 0.025], 6);
}

/** End wall: bars under the arch, and in the far one a doorway standing open under a fanlight. */
function gable(m: Model, z: number, door: boolean): void {
  const top = (x: number): number => WALL + RISE * Math.sqrt(Math.max(0, 1 - (x / HALF_WIDTH) ** 2));
  for (let x = -7.5; x <= 7.51; x += 0.5) {
    if (door && Math.abs(x) < 1.6) {
      m.bar(
        "bars",
        [
          [x, 4.2, z],
          [x, top(x), z],
        ],
        0.035,
        0.06,
        [1, 0, 0],
      );
      continue;
    }
    m.bar(
      "bars",
      [
        [x, 1, z],
        [x, top(x), z],
      ],
      0.035,
      0.06,
      [1, 0, 0],
    );
  }
  for (const y of [2.1, 3.2, 4.2, 5.4, 6.6, 7.8, 9]) {
    const half = y <= WALL ? HALF_WIDTH : HALF_WIDTH * Math.sqrt(Math.max(0, 1 - ((y - WALL) / RISE) ** 2));
    if (door && y < 4.2) {
      m.bar(
        "bars",
        [
          [-half, y, z],
          [-1.6, y, z],
        ],
        0.05,
        0.07,
        [0, 1, 0],
      );
      m.bar(
        "bars",
        [
          [1.6, y, z],
          [half, y, z],
        ],
        0.05,
        0.07,
        [0, 1, 0],
      );
    } else
      m.bar(
        "bars",
        [
          [-half, y, z],
          [half, y, z],
        ],
        y === 4.2 ? 0.2 : 0.05,
        y === 4.2 ? 0.16 : 0.07,
        [0, 1, 0],
      );
  }
  const gap = door ? 1.6 : 1.3;
  m.box("stone", [-HALF_WIDTH, 0, z - 0.2], [-gap, 1, z + 0.2]);
  m.box("stone", [gap, 0, z - 0.2], [HALF_WIDTH, 1, z + 0.2]);
  if (!door) return;
  for (const side of [-1, 1]) {
    m.box("stone", [side * 1.25, 0, z - 0.3], [side * 1.65, 4.1, z + 0.3]);
    // leaves of the door, opened inwards
    const open = (u: number): V3 => [side * (1.22 - 0.25 * u), 0, z + 0.3 + 1.1 * u];
    const [a, b] = [open(0), open(1)];
    m.bar(
      "door",
      [
        [(a[0] + b[0]) / 2, 0.1, (a[2] + b[2]) / 2],
        [(a[0] + b[0]) / 2, 0.95, (a[2] + b[2]) / 2],
      ],
      1.1,
      0.06,
      [b[0] - a[0], 0, b[2] - a[2]],
    );
    for (const u of [0.03, 0.5, 0.97])
      m.bar(
        "door",
        [
          [open(u)[0], 0.1, open(u)[2]],
          [open(u)[0], 3, open(u)[2]],
        ],
        0.08,
        0.06,
        [1, 0, 0],
      );
    for (const y of [0.95, 2, 2.96])
      m.bar(
        "door",
        [
          [a[0], y, a[2]],
          [b[0], y, b[2]],
        ],
        0.08,
        0.06,
        [0, 1, 0],
      );
  }
  const fan: V3[] = Array.from({ length: 17 }, (_, i) => [
    -1.4 * Math.cos((Math.PI * i) / 16),
    3.05 + 1.05 * Math.sin((Math.PI * i) / 16),
    z,
  ]);
  m.bar("iron", fan, 0.12, 0.1, [0, 0, 1]);
  m.bar(
    "iron",
    [
      [-1.4, 3.05, z],
      [1.4, 3.05, z],
    ],
    0.12,
    0.1,
    [0, 0, 1],
  );
  for (let i = 2; i < 16; i += 2) m.bar("bars", [[0, 3.05, z], fan[i]!], 0.03, 0.03, [0, 0, 1]);
}

const POOL: V3 = [0, 0, -1];
const POOL_RADIUS = 2.3;

/** Whether a point belongs to the paved way: along the middle, and round the pool. */
function paved(x: number, z: number): boolean {
  const r = Math.hypot(x - POOL[0], z - POOL[2]);
  if (r < POOL_RADIUS + 0.35) return false;
  return Math.abs(x) < 1.5 || r < POOL_RADIUS + 2.1;
}

function ground(m: Model, dice: Dice): void {
  m.lathe(
    "lawn",
    [0, -0.12, 0],
    [
      [0, 0],
      [30, 0],
      [180, 0],
    ],
    40,
  );
  m.box("stone", [-HALF_WIDTH, -0.1, -HALF_LENGTH], [HALF_WIDTH, -0.05, HALF_LENGTH]);
  const slab = 0.75;
  for (let z = -HALF_LENGTH; z < HALF_LENGTH; z += slab)
    for (let x = -4.5; x < 4.5; x += slab) {
      const c: [number, number] = [x + slab / 2, z + slab / 2];
      if (!paved(...c)) continue;
      const lift = dice.between(-0.006, 0.006);
      m.box(dice.pick(["slab a", "slab b", "slab b", "slab c"]), [x + 0.012, -0.06, z + 0.012], [x + slab - 0.012, lift, z + slab - 0.012]);
    }
  for (const side of [-1, 1]) {
    const bump = (x: number, z: number): number => {
      if (paved(x, z) || Math.hypot(x - POOL[0], z - POOL[2]) < POOL_RADIUS + 0.4) return -0.07;
      return 0.1 + 0.05 * Math.sin(3.1 * x + 1.3 * z) * Math.sin(2.3 * z) + 0.03 * Math.sin(9 * x) * Math.sin(7.7 * z);
    };
    m.field("soil", side > 0 ? 0.4 : -7.8, side > 0 ? 7.8 : -0.4, -17.7, 17.7, 30, 90, bump);
  }
  // kerb along the beds
  for (const side of [-1, 1])
    for (let z = -17.5; z < 17.4; z += 0.5) {
      const r = Math.hypot(1.5, z + 0.25 - POOL[2]);
      if (r < POOL_RADIUS + 2.2) continue;
      m.box("stone", [side * 1.5, -0.05, z + 0.01], [side * 1.66, 0.14 + dice.between(0, 0.012), z + 0.49]);
    }
  for (let i = 0; i < 46; i++) {
    const a = (2 * Math.PI * i) / 46;
    const r = POOL_RADIUS + 2.18;
    const p: V3 = [POOL[0] + r * Math.cos(a), 0.07, POOL[2] + r * Math.sin(a)];
    if (Math.abs(p[0]) < 1.6) continue;
    m.tube(
      "stone",
      [
        [p[0] - 0.28 * Math.sin(a), 0.06, p[2] + 0.28 * Math.cos(a)],
        [p[0] + 0.28 * Math.sin(a), 0.06, p[2] - 0.28 * Math.cos(a)],
      ],
      [0.1, 0.1],
      6,
    );
  }
}

function pool(m: Model): void {
  m.lathe(
    "stone",
    POOL,
    [
      [POOL_RADIUS + 0.36, -0.05],
      [POOL_RADIUS + 0.36, 0.42],
      [POOL_RADIUS + 0.3, 0.48],
      [POOL_RADIUS + 0.05, 0.5],
      [POOL_RADIUS, 0.46],
      [POOL_RADIUS, 0.1],
    ],
    72,
  );
  const part = m.part("water");
  const ripple = (x: number, z: number): V3 => {
    const r = Math.hypot(x, z);
    const k = 0.035 * Math.exp(-0.5 * r);
    const [a, b] = [
      k * Math.cos(9 * r) * (x / (r + 0.01)) + 0.012 * Math.cos(7 * x + 3 * z),
      k * Math.cos(9 * r) * (z / (r + 0.01)) + 0.012 * Math.cos(5 * z - 4 * x),
    ];
    const l = Math.hypot(a, 1, b);
    return [-a / l, 1 / l, -b / l];
  };
  const rings = 28,
    sides = 72;
  const at = (i: number, k: number): number => {
    const [r, a] = [(POOL_RADIUS * i) / rings, (2 * Math.PI * k) / sides];
    const [x, z] = [r * Math.cos(a), r * Math.sin(a)];
    return m.vertex(part, [POOL[0] + x, 0.36, POOL[2] + z], ripple(x, z));
  };
  for (let i = 0; i < rings; i++)
    for (let k = 0; k < sides; k++) {
      const [a, b, c, d] = [at(i, k), at(i, k + 1), at(i + 1, k), at(i + 1, k + 1)];
      part.indices.push(a, b, c, b, d, c);
    }
  // a stone bowl on a stem in the middle
  m.lathe(
    "stone",
    POOL,
    [
      [0.34, 0.1],
      [0.3, 0.5],
      [0.14, 0.62],
      [0.11, 1.15],
      [0.2, 1.25],
      [0.62, 1.42],
      [0.7, 1.52],
      [0.64, 1.53],
      [0.3, 1.4],
      [0, 1.38],
    ],
    40,
  );
}

function bench(m: Model, x: number, z: number, facing: 1 | -1): void {
  const w = 0.95;
  for (let k = 0; k < 5; k++) m.box("wood", [x + facing * (0.05 + 0.09 * k), 0.42, z - w], [x + facing * (0.12 + 0.09 * k), 0.45, z + w]);
  for (let k = 0; k < 4; k++)
    m.box("wood", [x - facing * (0.0 + 0.025 * k), 0.55 + 0.11 * k, z - w], [x - facing * (0.03 + 0.025 * k), 0.62 + 0.11 * k, z + w]);
  for (const s of [-1, 1]) {
    const e = z + s * (w - 0.08);
    m.tube(
      "iron",
      [
        [x + facing * 0.48, 0, e],
        [x + facing * 0.44, 0.25, e],
        [x + facing * 0.48, 0.42, e],
        [x + facing * 0.3, 0.64, e],
        [x - facing * 0.02, 0.64, e],
      ],
      [0.022, 0.02, 0.02, 0.02, 0.02],
      8,
    );
    m.tube(
      "iron",
      [
        [x + facing * 0.02, 0, e],
        [x + facing * 0.04, 0.42, e],
        [x - facing * 0.11, 1, e],
      ],
      [0.022, 0.02, 0.018],
      8,
    );
  }
}

function pots(m: Model, dice: Dice, x: number, z: number): void {
  const s = dice.between(0.8, 1.2);
  m.lathe(
    "clay",
    [x, 0, z],
    [
      [0.16 * s, 0],
      [0.24 * s, 0.36 * s],
      [0.27 * s, 0.36 * s],
      [0.27 * s, 0.43 * s],
      [0.23 * s, 0.43 * s],
      [0.22 * s, 0.38 * s],
      [0, 0.38 * s],
    ],
    28,
  );
  fern(m, dice, [x, 0.38 * s, z], 0.7 * s, FERN);
}

function planting(m: Model, dice: Dice): void {
  const palms: [number, number, number, number][] = [
    [-4.6, 10.5, 5.6, 0.06],
    [4.9, 7.6, 4.4, 0.1],
    [-5.4, 4.4, 7.2, 0.03],
    [5.6, 1.2, 6.6, 0.05],
    [-5.6, -3.4, 5.2, 0.08],
    [5.0, -6.4, 7.4, 0.02],
    [-4.6, -9.2, 6.4, 0.05],
    [5.4, -12.4, 5.2, 0.07],
    [-5.2, -14.4, 6.8, 0.04],
    [3.4, 13.2, 2.2, 0.1],
    [-3.0, -6.2, 2.4, 0.12],
  ];
  for (const [x, z, h, lean] of palms) palm(m, dice, [x, 0.05, z], h, PALM, lean);
  for (let i = 0; i < 16; i++) {
    const side = i % 2 ? 1 : -1;
    broadleaf(m, dice, [side * dice.between(2.9, 7), 0.05, -16.5 + i * 2.1 + dice.between(-0.5, 0.5)], dice.between(1.6, 2.9), BROAD);
  }
  for (let i = 0; i < 64; i++) {
    const side = i % 2 ? 1 : -1;
    const z = -17 + (i * 34) / 64 + dice.between(-0.4, 0.4);
    let x = side * dice.between(1.95, 4.2);
    if (Math.hypot(x - POOL[0], z - POOL[2]) < POOL_RADIUS + 2.6) x = side * dice.between(4.9, 6.2);
    fern(m, dice, [x, 0.08, z], dice.between(0.55, 1.05), FERN);
  }
}

/** Trees beyond the glass, as dark masses. */
function outside(m: Model, dice: Dice): void {
  for (let i = 0; i < 46; i++) {
    const a = (2 * Math.PI * i) / 46 + dice.between(-0.05, 0.05);
    const r = dice.between(55, 80);
    const h = dice.between(5, 10);
    const w = dice.between(3.5, 6.5);
    m.lathe(
      "hedge",
      [r * Math.cos(a), -0.2, r * Math.sin(a)],
      [
        [w * 0.7, 0],
        [w, h * 0.35],
        [w * 0.85, h * 0.65],
        [w * 0.45, h * 0.9],
        [0, h],
      ],
      12,
    );
  }
}

/** Builds the set. */
export function buildPalmHouse(): Model {
  const m = new Model(MATERIALS);
  const dice = new Dice(20_11);
  shell(m, dice);
  ground(m, dice);
  pool(m);
  for (const [x, z, f] of [
    [-1.42, 9.2, 1],
    [1.42, 5.2, -1],
    [-1.42, -7.6, 1],
    [1.42, -10.4, -1],
  ] as const)
    bench(m, x, z, f);
  for (const [x, z] of [
    [-1.2, 12.6],
    [1.25, 11.4],
    [1.2, 2.9],
    [-1.25, -5],
    [1.2, -14.6],
    [-1.2, -15.2],
  ] as const)
    pots(m, dice, x, z);
  planting(m, dice);
  outside(m, dice);
  return m;
}

export const PALM_HOUSE_ASSET = "palm-house";

/** The scene document of the palm house. @param hashes of its files' bytes, where known */
export function palmHouseDocument(hashes: Record<string, string> = {}): SceneDocument {
  const sha256 = hashes["palm-house.glb"];
  return parseDocument({
    fumarium: 2,
    title: "Palm house at dawn",
    assets: { [PALM_HOUSE_ASSET]: { uri: "palm-house.glb", ...(sha256 ? { sha256 } : {}) } },
    objects: [{ kind: "model", name: "palm house", asset: PALM_HOUSE_ASSET }],
    camera: { position: [-0.5, 1.7, 14.6], target: [0.2, 3.5, -4], fieldOfView: 50 },
    sun: { azimuth: 46, elevation: 27, illuminance: 42000, temperature: 3900, angularDiameter: 0.53 },
    sky: { luminance: 1000, zenith: [0.42, 0.62, 1], horizon: [1, 0.82, 0.66] },
    lights: [],
    air: [
      {
        name: "morning haze",
        density: 0.036,
        scattering: [0.97, 0.985, 1],
        absorption: [0.01, 0.01, 0.012],
        anisotropy: 0.6,
        region: { kind: "box", centre: [0, 5.4, 0], size: [16.2, 11, 36.2] },
        height: { level: 2, scale: 9 },
      },
    ],
    render: { level: "shafts", airBounces: 6, surfaceBounces: 1, airSamples: 6, samples: 256 },
    film: { size: [1280, 720], exposure: 10, whiteBalance: 5400 },
  });
}
