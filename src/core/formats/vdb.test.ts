import type { Affine } from "../math/affine";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { InputError } from "../errors";
import { volumeAt, voxelAt, VolumeBuilder } from "../data/volume";
import { readVdb, writeVdb } from "./vdb";

const fixture = (name: string): Buffer => readFileSync(fileURLToPath(new URL(`../../../tests/fixtures/${name}`, import.meta.url)));
/** Written by the OpenVDB library 10 (blosc, active masks): a level set, halves under a turned transform, colours, a mask. */
const theirs = new Uint8Array(fixture("library.vdb"));

describe("OpenVDB files", () => {
  it("of the library itself are read as the library reads them", async () => {
    const known = JSON.parse(fixture("library.json").toString()) as Record<
      string,
      { voxels: number; points: [[number, number, number], number][] }
    >;
    const file = await readVdb(theirs, "library.vdb");
    for (const [name, { voxels, points }] of Object.entries(known)) {
      const v = file.channels[name]!;
      expect(v.active).toBe(voxels);
      for (const [p, value] of points) expect(voxelAt(v, ...p), `${name} at ${p.join(",")}`).toBe(value);
    }
    expect(file.grids.map((g) => [g.name, g.type, g.kind])).toEqual([
      ["ball", "float", "level set"],
      ["half", "float, half", ""],
      ["colour.x", "vec3s", ""],
      ["colour.y", "vec3s", ""],
      ["colour.z", "vec3s", ""],
    ]);
    expect([..."xyz"].map((k) => voxelAt(file.channels[`colour.${k}`]!, 9, 2, -9))).toEqual([4.5, 1, -2.25]);
    expect(file.left).toEqual(["mask: values of bool are not read"]);
    expect(file.channels.half!.toWorld).toEqual([0, -0.2, 0, 1, 0.2, 0, 0, -2, 0, 0, 0.2, 3]);
  });

  it("come back as they were written, at negative places and far apart, with their transform", async () => {
    const b = new VolumeBuilder(0.5);
    for (let i = 0; i < 400; i++) b.set(((i * 37) % 500) - 4300, ((i * 11) % 90) - 45, (i * 53) % 300, i / 400);
    b.fill(2, -3, 4, 0.125);
    const toWorld: Affine = [0.1, 0.02, 0, 3, 0, 0.2, 0, -1, 0.01, 0, 0.3, 2];
    const v = b.build(toWorld);
    const back = (await readVdb(writeVdb({ density: v, heat: v }))).channels;
    expect(Object.keys(back)).toEqual(["density", "heat"]);
    expect(back.density!.toWorld).toEqual(toWorld);
    for (let i = 0; i < 400; i++) {
      const p = [((i * 37) % 500) - 4300, ((i * 11) % 90) - 45, (i * 53) % 300] as const;
      expect(voxelAt(back.density!, ...p)).toBe(voxelAt(v, ...p));
    }
    expect(volumeAt(back.heat!, 18.5, -20.5, 35)).toBe(0.125);
    expect(voxelAt(back.heat!, 5000, 0, 0)).toBe(0.5);
  });

  it("that are cut short, not OpenVDB, or too new are refused with the place", async () => {
    await expect(readVdb(new Uint8Array(100), "a.vdb")).rejects.toThrow("a.vdb: is no OpenVDB file (byte 0)");
    const newer = theirs.slice();
    newer[8] = 250;
    await expect(readVdb(newer, "a.vdb")).rejects.toThrow(/has version 250 of the format; 222 to 225 are read/);
    for (let k = 0; k < 25; k++) {
      const n = Math.floor((theirs.length * k) / 25);
      await expect(readVdb(theirs.subarray(0, n), "a.vdb")).rejects.toThrow(InputError);
    }
  });

  it("with any byte broken give an error or numbers, and nothing else", async () => {
    let seed = 5;
    const random = (n: number): number => (seed = (seed * 48271) % 2147483647) % n;
    let refused = 0;
    for (let k = 0; k < 40; k++) {
      const bytes = theirs.slice();
      // half of them in the headers
      bytes[random(k % 2 ? 600 : bytes.length)] = random(256);
      try {
        for (const v of Object.values((await readVdb(bytes, "a.vdb")).channels)) expect(v.data.every(Number.isFinite)).toBe(true);
      } catch (error) {
        expect(error).toBeInstanceOf(InputError);
        refused++;
      }
    }
    expect(refused).toBeGreaterThan(3);
  });

  it("with voxels that are no numbers are read without them, and it is said how many", async () => {
    const b = new VolumeBuilder(0);
    for (const [i, v] of [NaN, Infinity, -Infinity, 2].entries()) b.set(i, 0, 0, v);
    const read = await readVdb(writeVdb({ density: b.build([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]) }), "a.vdb");
    expect(read.left).toEqual(["density: 3 values that are no finite numbers are taken as 0"]);
    const v = read.channels.density!;
    expect([0, 1, 2, 3].map((i) => voxelAt(v, i, 0, 0))).toEqual([0, 0, 0, 2]);
    expect([v.min, v.max]).toEqual([0, 2]);
  });

  it("keeps names of any language, and what it says of itself", async () => {
    const b = new VolumeBuilder(0);
    b.set(0, 0, 0, 1);
    const read = await readVdb(writeVdb({ "霧 – fumée": b.build([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]) }, { unit: "1/m" }), "a.vdb");
    expect(read.grids.map((g) => g.name)).toEqual(["霧 – fumée"]);
  });
});
