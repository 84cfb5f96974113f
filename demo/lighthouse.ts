/**
 * A lighthouse at the end of a breakwater on a foggy night: a stone mole that bends out into the sea, rocks either side,
 * lamps along it, cliffs across the bay, stars and a low moon. Two beams leave the lantern, one each way.
 */
import { encode } from "fast-png";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { Material } from "#core/data/material";
import { add, Dice, Model, mul, sub, unit, type V3 } from "./kit/model";

const TOWER: V3 = [34, 2.6, -92];
const LANTERN = 24.4;

const MATERIALS: Record<string, Partial<Material>> = {
  sea: { baseColor: [0.012, 0.022, 0.03], roughness: 0.16 },
  "far sea": { baseColor: [0.012, 0.022, 0.03], roughness: 0.3 },
  "block a": { baseColor: [0.3, 0.29, 0.27], roughness: 0.85 },
  "block b": { baseColor: [0.24, 0.23, 0.22], roughness: 0.75 },
  "block c": { baseColor: [0.36, 0.34, 0.31], roughness: 0.9 },
  paving: { baseColor: [0.22, 0.21, 0.2], roughness: 0.42 },
  rock: { baseColor: [0.13, 0.125, 0.12], roughness: 0.6 },
  "wet rock": { baseColor: [0.06, 0.06, 0.058], roughness: 0.28 },
  cliff: { baseColor: [0.2, 0.18, 0.16], roughness: 1 },
  grass: { baseColor: [0.05, 0.07, 0.03], roughness: 1, specular: 0.2 },
  white: { baseColor: [0.78, 0.76, 0.72], roughness: 0.7 },
  red: { baseColor: [0.42, 0.06, 0.04], roughness: 0.6 },
  iron: { baseColor: [0.06, 0.065, 0.07], roughness: 0.5 },
  brass: { baseColor: [0.7, 0.5, 0.22], metallic: 1, roughness: 0.35 },
  lamp: { baseColor: [0, 0, 0], emission: [5200, 3300, 1500] },
  window: { baseColor: [0, 0, 0], emission: [26, 15, 6] },
  hull: { baseColor: [0.1, 0.16, 0.2], roughness: 0.5 },
  wood: { baseColor: [0.2, 0.13, 0.08], roughness: 0.8 },
};

/** Middle line of the breakwater: t from the shore (0) to its head (1). */
function mole(t: number): V3 {
  const a = 0.75 * t;
  return [-3 + 46 * (1 - Math.cos(a * 1.15)) + 18 * t * t, 2.2, 16 - 112 * t];
}
const ACROSS = (t: number): V3 => {
  const d = unit(sub(mole(t + 0.01), mole(t - 0.01)));
  return [-d[2], 0, d[0]];
};

/** Swell of a few wavelengths, m. */
function swell(x: number, z: number): number {
  return (
    0.22 * Math.sin(0.31 * x + 0.12 * z) +
    0.16 * Math.sin(0.17 * x - 0.41 * z + 1.3) +
    0.07 * Math.sin(0.9 * x + 0.63 * z + 0.4) +
    0.04 * Math.sin(1.9 * x - 1.3 * z + 2.1) +
    0.018 * Math.sin(4.1 * x + 2.7 * z)
  );
}

function breakwater(m: Model, dice: Dice): void {
  const steps = 150;
  for (let i = 0; i < steps; i++) {
    const t = i / steps;
    const [p, q] = [mole(t), mole(t + 1 / steps)];
    const w = ACROSS(t);
    // a course of facing blocks on either side, each set a little differently
    for (const side of [-1, 1])
      for (let k = 0; k < 4; k++) {
        const out = 2.9 + 0.35 * k + dice.between(-0.04, 0.04);
        const y = 2.05 - 0.72 * k;
        const place = (u: V3): V3 => add(u, add(mul(w, side * (out + 0.3)), [0, y - 2.54, 0]));
        const joint = mul(unit(sub(p, q)), 0.03);
        m.bar(dice.pick(["block a", "block b", "block c"]), [place(p), add(place(q), joint)], 0.62, 0.69, w);
      }
    // slabs of the way
    for (let k = -2; k <= 2; k++) {
      const at = (u: V3): V3 => add(u, add(mul(w, 1.1 * k), [0, dice.between(-0.012, 0.012) - 0.1, 0]));
      m.bar("paving", [at(p), add(at(q), mul(unit(sub(p, q)), 0.02))], 1.07, 0.2, w);
    }
    // a parapet on the weather side, with gaps
    if (i % 12 !== 0) {
      const at = (u: V3): V3 => add(u, add(mul(w, -2.75), [0, 0.42, 0]));
      m.bar(dice.pick(["block a", "block c"]), [at(p), at(q)], 0.55, 0.9, w);
    }
  }
}

function rocks(m: Model, dice: Dice): void {
  for (let i = 0; i < 1500; i++) {
    const t = dice.between(0, 1.06);
    const side = dice.next() < 0.62 ? -1 : 1;
    const out = 4.2 + 6.5 * dice.next() ** 1.6;
    const p = add(mole(Math.min(t, 1)), mul(ACROSS(Math.min(t, 1)), side * out));
    if (t > 1) {
      const a = dice.between(0, 6.28);
      p[0] = TOWER[0] + (9 + out) * Math.cos(a);
      p[2] = TOWER[2] + (9 + out) * Math.sin(a);
    }
    const s = dice.between(0.4, 1.5);
    const y = 1.6 - 0.34 * (out - 3.4) + dice.between(-0.5, 0.3);
    m.stone(
      y < 0.5 ? "wet rock" : "rock",
      dice,
      [p[0], y - 0.4, p[2]],
      [s, s * dice.between(0.5, 0.8), s * dice.between(0.7, 1.1)],
      0.22,
      6,
      10,
    );
  }
}

function tower(m: Model): void {
  const at: V3 = [TOWER[0], 0, TOWER[2]];
  m.lathe("block b", at, [[8.5, -2], [8.2, 2.4], [7.6, 2.6], [0, 2.6]], 56); // prettier-ignore
  const radius = (y: number): number => 3.1 - 0.055 * y - 0.5 * Math.exp(-y / 4) + 0.5;
  // bands of red and white
  for (let b = 0; b < 6; b++) {
    const [y0, y1] = [2.6 + b * 3.2, 2.6 + (b + 1) * 3.2];
    m.lathe(b % 2 ? "red" : "white", at, Array.from({ length: 9 }, (_, i) => [radius(y0 - 2.6 + ((y1 - y0) * i) / 8), y0 + ((y1 - y0) * i) / 8] as [number, number]), 56); // prettier-ignore
  }
  const top = 2.6 + 6 * 3.2;
  m.lathe("white", at, [[radius(19), top], [3.6, top + 0.5], [3.6, top + 0.75], [0, top + 0.75]], 56); // prettier-ignore
  // gallery rail
  for (let i = 0; i < 40; i++) {
    const a = (2 * Math.PI * i) / 40;
    const p: V3 = [at[0] + 3.45 * Math.cos(a), top + 0.75, at[2] + 3.45 * Math.sin(a)];
    m.tube("iron", [p, add(p, [0, 1.05, 0])], [0.03, 0.03], 6);
  }
  for (const h of [0.55, 1.05])
    m.tube("iron", Array.from({ length: 41 }, (_, i) => [at[0] + 3.45 * Math.cos((Math.PI * i) / 20), top + 0.75 + h, at[2] + 3.45 * Math.sin((Math.PI * i) / 20)] as V3), Array.from({ length: 41 }, () => 0.03), 6); // prettier-ignore
  // lantern room: glazing bars and a dome, open between
  for (let i = 0; i < 16; i++) {
    const a = (2 * Math.PI * (i + 0.5)) / 16;
    const p: V3 = [at[0] + 1.9 * Math.cos(a), top + 0.75, at[2] + 1.9 * Math.sin(a)];
    m.tube("iron", [p, add(p, [0, 3, 0])], [0.045, 0.045], 6);
  }
  m.lathe("white", at, [[1.95, top + 0.75], [1.95, top + 1.25], [1.8, top + 1.25]], 48); // prettier-ignore
  m.lathe("iron", at, [[2.15, top + 3.7], [2.1, top + 3.95], [1.5, top + 4.8], [0.6, top + 5.4], [0.25, top + 5.6], [0.25, top + 6.1], [0, top + 6.3]], 48); // prettier-ignore
  m.lathe("brass", at, [[0.35, top + 0.75], [0.3, top + 1.5], [0.5, top + 1.6], [0, top + 1.65]], 32); // prettier-ignore
  // small lit windows up the stair
  for (let i = 0; i < 4; i++) {
    const y = 6.5 + i * 4.2;
    const a = 1.25 + 0.35 * i;
    const r = radius(y - 2.6) + 0.02;
    const c: V3 = [at[0] + r * Math.cos(a), y, at[2] + r * Math.sin(a)];
    const t: V3 = [-Math.sin(a), 0, Math.cos(a)];
    m.polygon(
      "window",
      add(c, add(mul(t, -0.24), [0, -0.45, 0])),
      add(c, add(mul(t, 0.24), [0, -0.45, 0])),
      add(c, add(mul(t, 0.24), [0, 0.45, 0])),
      add(c, add(mul(t, -0.24), [0, 0.45, 0])),
    );
  }
  // keeper's house by its foot
  m.box("white", [at[0] - 7, 2.6, at[2] + 1], [at[0] - 3.4, 5.2, at[2] + 5.5]);
  const [x0, x1, z0, z1] = [at[0] - 7.3, at[0] - 3.1, at[2] + 0.7, at[2] + 5.8];
  m.polygon("iron", [x0, 5.2, z1], [x1, 5.2, z1], [(x0 + x1) / 2, 6.8, z1], [(x0 + x1) / 2, 6.8, z0], [x0, 5.2, z0]);
  m.polygon("iron", [x1, 5.2, z1], [x1, 5.2, z0], [(x0 + x1) / 2, 6.8, z0], [(x0 + x1) / 2, 6.8, z1]);
  m.polygon("white", [x0, 5.2, z1 - 0.3], [x1, 5.2, z1 - 0.3], [(x0 + x1) / 2, 6.8, z1 - 0.3]);
  m.polygon(
    "window",
    [at[0] - 5.7, 3.7, z1 - 0.28],
    [at[0] - 4.9, 3.7, z1 - 0.28],
    [at[0] - 4.9, 4.6, z1 - 0.28],
    [at[0] - 5.7, 4.6, z1 - 0.28],
  );
}

const LAMPS = [0.16, 0.34, 0.52, 0.7, 0.88];
const lampAt = (t: number): V3 => add(mole(t), add(mul(ACROSS(t), 2.3), [0, 3.5, 0]));

function lamps(m: Model, dice: Dice): void {
  for (const t of LAMPS) {
    const p = lampAt(t);
    m.tube("iron", [[p[0], 2.1, p[2]], [p[0], 5.4, p[2]], add(p, [0, 0.05, 0])], [0.07, 0.05, 0.05]); // prettier-ignore
    m.lathe("iron", p, [[0.22, 0], [0.24, 0.05], [0.05, 0.28], [0, 0.3]], 20); // prettier-ignore
    m.stone("lamp", dice, add(p, [0, -0.16, 0]), [0.09, 0.1, 0.09], 0, 6, 10);
  }
  // bollards and a mooring line's coil
  for (let i = 0; i < 24; i++) {
    const t = 0.03 + i * 0.041;
    const p = add(mole(t), mul(ACROSS(t), 2.55));
    m.lathe("iron", [p[0], 2.1, p[2]], [[0.16, 0], [0.13, 0.35], [0.2, 0.42], [0.18, 0.5], [0, 0.54]], 20); // prettier-ignore
  }
}

/** A fishing boat on the lee side. */
function boat(m: Model): void {
  const c: V3 = [19, 0.1, -26];
  const rib = (s: number, y: number): number => 1.25 * (1 - Math.abs(s) ** 2.6) * (0.62 + 0.38 * y);
  const line = (y: number, side: number): V3[] => Array.from({ length: 25 }, (_, i) => {
    const s = -1 + (2 * i) / 24;
    return [c[0] + 3.9 * s, c[1] - 0.5 + 1.5 * y + 0.45 * s * s * y, c[2] + side * rib(s, y)] as V3;
  }); // prettier-ignore
  for (const side of [-1, 1]) for (let k = 0; k < 5; k++) m.ribbon("hull", line(k / 5, side), line((k + 1) / 5, side));
  m.ribbon("wood", line(0.86, -1), line(0.86, 1));
  m.box("white", [c[0] - 2.4, c[1] + 0.8, c[2] - 0.7], [c[0] - 0.9, c[1] + 2.5, c[2] + 0.7]);
  m.tube("wood", [[c[0] + 0.6, c[1] + 0.8, c[2]], [c[0] + 0.5, c[1] + 5.4, c[2]]], [0.08, 0.04]); // prettier-ignore
}

/** Cliffs across the bay: a kilometre off, a hundred metres high. */
function cliffs(m: Model): void {
  const ragged = (x: number, z: number): number =>
    9 * Math.sin(0.031 * x + 1) + 6 * Math.sin(0.083 * x + 0.02 * z) + 3.5 * Math.sin(0.21 * x + 0.05 * z);
  const height = (x: number, z: number): number => {
    const edge = -700 - 0.22 * x + 5 * ragged(x, 0);
    const rise = Math.max(0, Math.min(1, (edge - z) / 55));
    const steep = rise * rise * (3 - 2 * rise);
    return -6 + (74 + 0.03 * x + ragged(x, z)) * steep + 2.5 * Math.sin(0.4 * z + 0.3 * x) * steep;
  };
  m.field("cliff", -1500, 1100, -1150, -520, 220, 90, height);
}

/** Builds the set. */
export function buildLighthouse(): Model {
  const m = new Model(MATERIALS);
  const dice = new Dice(1887);
  m.field("sea", -90, 130, -190, 60, 300, 320, swell);
  // the far sea meets the near one under it
  m.polygon("far sea", [-3000, -0.62, 900], [3000, -0.62, 900], [3000, -0.62, -3000], [-3000, -0.62, -3000]);
  breakwater(m, dice);
  rocks(m, dice);
  tower(m);
  lamps(m, dice);
  boat(m);
  cliffs(m);
  return m;
}

/** What the lantern's lens lets through: rings of prisms about a bright middle, and the bars of its frame. */
export function lensGobo(): Uint8Array {
  const side = 256;
  const data = new Uint8Array(side * side);
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const [x, y] = [(i + 0.5) / 128 - 1, (j + 0.5) / 128 - 1];
      const r = Math.hypot(x, y);
      const ring = r < 0.34 ? 1 : 0.55 + 0.45 * Math.cos(2 * Math.PI * ((r - 0.34) / 0.11));
      const bar = Math.abs(x) < 0.018 || Math.abs(y) < 0.018 ? 0.12 : 1;
      data[j * side + i] = Math.round(255 * Math.max(0, Math.min(1, r < 0.98 ? ring * bar * (1 - 0.35 * r) : 0)));
    }
  return new Uint8Array(encode({ width: side, height: side, data, channels: 1, depth: 8 }));
}

/** The scene document. @param hashes of its files' bytes, where known */
export function lighthouseDocument(hashes: Record<string, string> = {}): SceneDocument {
  const asset = (uri: string) => ({ uri, ...(hashes[uri] ? { sha256: hashes[uri] } : {}) });
  const lantern: V3 = [TOWER[0], LANTERN, TOWER[2]];
  // the beam sweeps past the lens, a little above it; the other goes out to sea
  const swing = unit([-1, -0.075, 0.46]);
  const beam = (name: string, d: V3) => ({
    kind: "spot",
    name,
    position: add(lantern, mul(d, 2.2)),
    target: add(lantern, mul(d, 80)),
    intensity: 1_600_000,
    temperature: 4300,
    cone: 6,
    softness: 0.5,
    radius: 0.012,
    gobo: { pattern: "image", image: "lens gobo", distance: 0.8 },
    airSamples: 2,
  });
  return parseDocument({
    fumarium: 2,
    title: "Lighthouse in sea fog",
    assets: { lighthouse: asset("lighthouse.glb"), "lens gobo": asset("lens-gobo.png") },
    objects: [{ kind: "model", name: "lighthouse", asset: "lighthouse" }],
    camera: { position: [-3.4, 4, 13], target: [16, 9.4, -60], fieldOfView: 40 },
    lenses: [
      { name: "on the mole", camera: { position: [-3.4, 4, 13], target: [16, 9.4, -60], fieldOfView: 40 } },
      { name: "from the sea", camera: { position: [88, 5, -20], target: [34, 11, -86], fieldOfView: 38 } },
      { name: "from above", camera: { position: [-40, 46, 40], target: [26, 6, -70], fieldOfView: 42 } },
    ],
    sun: { on: false },
    moon: { on: true, azimuth: 118, elevation: 31, illuminance: 0.5, angularDiameter: 0.9 },
    sky: { luminance: 0.012, zenith: [0.25, 0.42, 1], horizon: [0.7, 0.85, 1], stars: { count: 9000, size: 0.05, brightness: 4 } },
    lights: [
      beam("beam", swing),
      beam("beam to sea", mul(swing, -1)),
      { kind: "sphere", name: "lantern", position: lantern, intensity: 1600, temperature: 4300, radius: 0.4 },
      ...LAMPS.map((t, i) => ({
        kind: "sphere",
        name: `mole lamp ${i + 1}`,
        position: add(lampAt(t), [0, -0.4, 0]),
        intensity: 42,
        temperature: 2500,
        radius: 0.12,
      })),
      { kind: "sphere", name: "masthead light", position: [19.5, 5.6, -26], intensity: 3, temperature: 2700, radius: 0.07, visible: true },
    ],
    air: [
      {
        name: "sea fog",
        density: 0.0036,
        scattering: [1, 1, 1],
        absorption: [0, 0, 0],
        phase: { model: "two-lobe", forward: 0.75, backward: -0.3, mix: 0.35 },
        height: { level: 3, scale: 42 },
      },
      {
        name: "drifting bank",
        density: 0.018,
        phase: { model: "droplets", diameter: 14 },
        region: { kind: "box", centre: [18, 5, -62], size: [120, 14, 110] },
        edge: 6,
        height: { level: 2, scale: 5 },
        noise: { character: "wisps", size: 22, stretch: [1.6, 0.6, 1], octaves: 4, low: 0.42, high: 0.8, drift: [1.2, 0, 0.3], seed: 7 },
      },
    ],
    render: { level: "shafts", surfaceBounces: 1, airSamples: 3, airBounces: 8, samples: 256 },
    film: { size: [1280, 640], exposure: 0.4, whiteBalance: 5200 },
  });
}
