/**
 * A cistern: 230 columns four metres apart in still water under groin vaults, three round wells to the daylight, a timber
 * walk, and small lamps on posts in the water between the columns. Lengths in metres.
 */
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { Material } from "#core/data/material";
import { Dice, Model, type V3 } from "./kit/model";

const SPAN = 4;
const [ACROSS, ALONG] = [10, 22];
const SPRING = 5.2;
const RISE = 1.55;
const WATER = 0;

const MATERIALS: Record<string, Partial<Material>> = {
  "stone a": { baseColor: [0.36, 0.31, 0.25], roughness: 0.8 },
  "stone b": { baseColor: [0.3, 0.27, 0.23], roughness: 0.75 },
  "stone c": { baseColor: [0.42, 0.36, 0.28], roughness: 0.85 },
  vault: { baseColor: [0.4, 0.27, 0.19], roughness: 0.95 },
  wall: { baseColor: [0.27, 0.23, 0.19], roughness: 0.9 },
  water: { baseColor: [0.01, 0.018, 0.016], roughness: 0.05 },
  bed: { baseColor: [0.06, 0.06, 0.05], roughness: 1 },
  wood: { baseColor: [0.16, 0.1, 0.06], roughness: 0.7 },
  iron: { baseColor: [0.08, 0.08, 0.085], roughness: 0.5 },
  lamp: { baseColor: [0, 0, 0], emission: [46, 26, 10] },
};

/** Place of column (i, j). */
const column = (i: number, j: number): [number, number] => [(i - (ACROSS - 1) / 2) * SPAN, (j - (ALONG - 1) / 2) * SPAN];

/** Bays whose vault is open to a well. */
const WELLS: [number, number][] = [
  [4, 13],
  [6, 8],
  [2, 5],
];
const isWell = (i: number, j: number): boolean => WELLS.some(([a, b]) => a === i && b === j);

function columns(m: Model, dice: Dice): void {
  for (let i = 0; i < ACROSS; i++)
    for (let j = 0; j < ALONG; j++) {
      const [x, z] = column(i, j);
      const stone = dice.pick(["stone a", "stone b", "stone c"] as const);
      const r = dice.between(0.3, 0.36);
      // plinth, base, shaft with a slight belly, necking, bell of the capital
      m.box(stone, [x - 0.55, -1.4, z - 0.55], [x + 0.55, 0.12, z + 0.55]);
      const shaft = Array.from({ length: 9 }, (_, k): [number, number] => [
        r * (1 + 0.035 * Math.sin((Math.PI * k) / 8)) - 0.02 * (k / 8),
        0.5 + (3.85 * k) / 8,
      ]);
      m.lathe(stone, [x, 0, z], [[0.5, 0.12], [0.52, 0.2], [0.47, 0.28], [0.42, 0.31], [0.45, 0.38], [0.4, 0.46], ...shaft, [r + 0.05, 4.4], [r + 0.05, 4.46], [r, 4.5], [r + 0.02, 4.6], [r + 0.1, 4.8], [r + 0.24, 4.98], [r + 0.26, 5.02]], 30); // prettier-ignore
      m.box(stone, [x - 0.62, 5.02, z - 0.62], [x + 0.62, SPRING, z + 0.62]);
    }
}

/** Height of a groin vault over a bay, by place in it from -1 to 1: two barrels that cross. */
function groin(u: number, v: number): number {
  const barrel = (t: number): number => Math.sqrt(Math.max(0, 1 - t * t));
  return SPRING + RISE * Math.max(barrel(u), barrel(v)) * 0.999;
}

function vaults(m: Model): void {
  const n = 16;
  const inner = (SPAN - 0.7) / 2;
  for (let i = 0; i < ACROSS - 1; i++)
    for (let j = 0; j < ALONG - 1; j++) {
      const [ax, az] = column(i, j);
      const [x, z] = [ax + SPAN / 2, az + SPAN / 2];
      if (isWell(i, j)) {
        well(m, x, z);
        continue;
      }
      m.field("vault", x - SPAN / 2, x + SPAN / 2, z - SPAN / 2, z + SPAN / 2, n, n, (px, pz) =>
        groin(Math.max(-1, Math.min(1, (px - x) / inner)), Math.max(-1, Math.min(1, (pz - z) / inner))),
      );
    }
  // above the vaults all is closed but for the wells
  const [x0, z0] = column(0, 0),
    [x1, z1] = column(ACROSS - 1, ALONG - 1);
  for (let i = 0; i < ACROSS - 1; i++)
    for (let j = 0; j < ALONG - 1; j++) {
      if (isWell(i, j)) continue;
      const [ax, az] = column(i, j);
      m.polygon("wall", [ax, 8.4, az], [ax, 8.4, az + SPAN], [ax + SPAN, 8.4, az + SPAN], [ax + SPAN, 8.4, az]);
    }
  const e = 2.4;
  m.box("wall", [x0 - e, -1.4, z0 - e], [x0 - e - 0.6, 8.4, z1 + e]);
  m.box("wall", [x1 + e, -1.4, z0 - e], [x1 + e + 0.6, 8.4, z1 + e]);
  m.box("wall", [x0 - e, -1.4, z0 - e], [x1 + e, 8.4, z0 - e - 0.6]);
  m.box("wall", [x0 - e, -1.4, z1 + e], [x1 + e, 8.4, z1 + e + 0.6]);
  // roof over the strip between the outer columns and the walls
  for (const [a, b, c, d] of [[x0 - e, x0, z0 - e, z1 + e], [x1, x1 + e, z0 - e, z1 + e], [x0, x1, z0 - e, z0], [x0, x1, z1, z1 + e]] as const) m.box("vault", [a, SPRING + 1.2, c], [b, 8.4, d]); // prettier-ignore
}

/** A round shaft up to the day, with a kerb and bars. */
function well(m: Model, x: number, z: number): void {
  const r = 1.25;
  m.lathe("stone b", [x, 0, z], [[r, 6.4], [r, 10.4], [r + 0.25, 10.4], [r + 0.25, 6.4]], 48); // prettier-ignore
  // a flat ring from the round to the square bay
  const n = 48;
  for (let k = 0; k < n; k++) {
    const [a, b] = [(2 * Math.PI * k) / n, (2 * Math.PI * (k + 1)) / n];
    const outer = (t: number): [number, number] => {
      const s = SPAN / 2 / Math.max(Math.abs(Math.cos(t)), Math.abs(Math.sin(t)));
      return [x + s * Math.cos(t), z + s * Math.sin(t)];
    };
    const [p, q] = [outer(a), outer(b)];
    m.polygon(
      "vault",
      [x + r * Math.cos(a), 6.6, z + r * Math.sin(a)],
      [x + r * Math.cos(b), 6.6, z + r * Math.sin(b)],
      [q[0], 6.6, q[1]],
      [p[0], 6.6, p[1]],
    );
    m.polygon(
      "wall",
      [x + r * Math.cos(a), 8.4, z + r * Math.sin(a)],
      [p[0], 8.4, p[1]],
      [q[0], 8.4, q[1]],
      [x + r * Math.cos(b), 8.4, z + r * Math.sin(b)],
    );
  }
  for (let k = -2; k <= 2; k++) {
    const w = Math.sqrt(r * r - (k * 0.42) ** 2);
    m.tube("iron", [[x + k * 0.42, 9.9, z - w], [x + k * 0.42, 9.9, z + w]], [0.035, 0.035], 8); // prettier-ignore
  }
  m.tube("iron", [[x - r, 9.9, z], [x + r, 9.9, z]], [0.04, 0.04], 8); // prettier-ignore
}

/** The timber walk between two rows of columns. */
function walk(m: Model, dice: Dice): void {
  const x = 0;
  const [, z0] = column(0, 0),
    [, z1] = column(0, ALONG - 1);
  for (let z = z0 - 1.5; z < z1 + 1.5; z += 0.2) {
    const y = 0.42 + dice.between(-0.006, 0.006);
    m.box("wood", [x - 0.72 + dice.between(-0.02, 0.02), y - 0.05, z], [x + 0.72 + dice.between(-0.02, 0.02), y, z + 0.185]);
  }
  for (let z = z0 - 1; z < z1 + 1.5; z += 2) {
    for (const s of [-0.62, 0.62]) {
      m.box("wood", [x + s - 0.05, -1.4, z - 0.05], [x + s + 0.05, 0.4, z + 0.05]);
      m.tube("iron", [[x + s, 0.4, z], [x + s, 1.35, z]], [0.022, 0.022], 6); // prettier-ignore
    }
  }
  for (const s of [-0.62, 0.62]) m.tube("iron", [[x + s, 1.35, z0 - 1], [x + s, 1.35, z1 + 1]], [0.026, 0.026], 6); // prettier-ignore
}

/** Small lamps on posts in the water, one in most bays, none in the walk. */
export function cisternLamps(): V3[] {
  const dice = new Dice(77);
  const out: V3[] = [];
  for (let i = 0; i < ACROSS - 1; i++)
    for (let j = 0; j < ALONG - 1; j++) {
      const [x, z] = column(i, j);
      if (Math.abs(x + SPAN / 2) < 1 || dice.next() < 0.05) continue;
      out.push([x + SPAN / 2 + dice.between(-0.35, 0.35), dice.between(0.75, 1.05), z + SPAN / 2 + dice.between(-0.35, 0.35)]);
    }
  return out;
}

/** Builds the set. */
export function buildCistern(): Model {
  const m = new Model(MATERIALS);
  const dice = new Dice(532);
  columns(m, dice);
  vaults(m);
  walk(m, dice);
  const [x0, z0] = column(0, 0),
    [x1, z1] = column(ACROSS - 1, ALONG - 1);
  const ripple = (x: number, z: number): number => {
    // drops fall from the wells
    let y = 0.0015 * Math.sin(1.7 * x + 0.9 * z) + 0.001 * Math.sin(2.9 * z - 1.3 * x);
    for (const [i, j] of WELLS) {
      const [wx, wz] = column(i, j);
      const d = Math.hypot(x - wx - SPAN / 2, z - wz - SPAN / 2);
      y += (0.006 * Math.sin(5 * d)) / (1 + 0.35 * d * d);
    }
    return WATER + y;
  };
  m.field("water", x0 - 2.4, x1 + 2.4, z0 - 2.4, z1 + 2.4, 170, 300, ripple);
  m.polygon("bed", [x0 - 3, -1.4, z1 + 3], [x1 + 3, -1.4, z1 + 3], [x1 + 3, -1.4, z0 - 3], [x0 - 3, -1.4, z0 - 3]);
  for (const p of cisternLamps()) {
    m.stone("lamp", dice, p, [0.04, 0.045, 0.04], 0, 4, 6);
    m.lathe("iron", [p[0], p[1] + 0.06, p[2]], [[0.07, 0], [0.02, 0.05], [0, 0.06]], 10); // prettier-ignore
    m.tube("iron", [[p[0], -1.4, p[2]], [p[0], p[1] - 0.05, p[2]]], [0.02, 0.016], 8); // prettier-ignore
  }
  return m;
}

/** The scene document. @param hashes of its files' bytes, where known */
export function cisternDocument(hashes: Record<string, string> = {}): SceneDocument {
  const sha256 = hashes["cistern.glb"];
  const [wx, wz] = column(WELLS[0]![0], WELLS[0]![1]);
  const aisle = { position: [0.3, 1.75, 41], target: [0, 2.5, 0], fieldOfView: 46 };
  return parseDocument({
    fumarium: 2,
    title: "Cistern",
    assets: { cistern: { uri: "cistern.glb", ...(sha256 ? { sha256 } : {}) } },
    objects: [{ kind: "model", name: "cistern", asset: "cistern" }],
    camera: aisle,
    lenses: [
      { name: "down the aisle", camera: aisle },
      { name: "by the well", camera: { position: [wx + 9, 1.3, wz + 12], target: [wx + 2, 3, wz + 2], fieldOfView: 54 } },
    ],
    sun: { azimuth: 24, elevation: 72, illuminance: 9000, temperature: 5600, airSamples: 4 },
    sky: { luminance: 300, zenith: [0.45, 0.65, 1], horizon: [0.9, 0.95, 1] },
    lights: cisternLamps().map((p, i) => ({
      kind: "sphere",
      name: `lamp ${i + 1}`,
      position: [p[0], p[1], p[2]],
      radius: 0.055,
      intensity: 34,
      temperature: 2300,
      group: "lamps",
    })),
    air: [
      {
        name: "cellar mist",
        density: 0.035,
        scattering: [0.99, 1, 1],
        anisotropy: 0.55,
        region: { kind: "box", centre: [0, 4, 0], size: [42, 9, 92] },
        height: { level: 0.6, scale: 3.4 },
      },
    ],
    render: { level: "shafts", surfaceBounces: 1, airSamples: 4, samples: 256 },
    film: { size: [1280, 720], exposure: 2.5, whiteBalance: 3900 },
  });
}
