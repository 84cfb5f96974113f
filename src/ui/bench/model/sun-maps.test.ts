import { describe, expect, it } from "vitest";
import { documentSchema, type SceneDocument } from "#core/document/schema";
import type { SunMap } from "#core/section/sun-map";
import { SunMaps } from "./sun-maps";

const doc = documentSchema.parse({ fumarium: 2, air: [{ name: "haze" }], render: { level: "shafts" } });
const at = (azimuth: number): SceneDocument => ({ ...doc, sun: { ...doc.sun, azimuth } });
const mapOf = (n: number): SunMap => ({ texels: new Float32Array(4), side: n, across: [[1, 0, 0], [0, 1, 0]], low: [0, 0] }); // prettier-ignore

/** Maps whose tracing is answered by hand; their sides count the questions. */
function byHand() {
  const waiting: ((fail?: boolean) => Promise<void>)[] = [];
  let asked = 0;
  const geometry: { now: object | null } = { now: {} };
  const maps = new SunMaps(
    () =>
      new Promise((resolve, reject) => {
        const map = mapOf(++asked);
        waiting.push(async (fail) => {
          if (fail) reject(new Error("no kernel"));
          else resolve(map);
          await new Promise((go) => setTimeout(go));
        });
      }),
    () => geometry.now,
  );
  return { maps, waiting, geometry };
}

describe("maps of sunlight", () => {
  it("are traced one at a time; of what is asked meanwhile only the last", async () => {
    const { maps, waiting } = byHand();
    const told: [number, number | undefined][] = [];
    for (const azimuth of [1, 2, 3]) maps.ask(at(azimuth), (d, map) => told.push([d.sun.azimuth, map?.side]));
    expect([waiting.length, maps.find(at(1))]).toEqual([1, undefined]);
    await waiting[0]!();
    await waiting[1]!();
    expect([waiting.length, told]).toEqual([2, [[1, 1], [3, 2]]]); // prettier-ignore
    expect([maps.find(at(1))?.side, maps.find(at(2)), maps.find(at(3))?.side]).toEqual([1, undefined, 2]);
  });

  it("serve air that fills another space until its own is there, and no other geometry", async () => {
    const { maps, waiting, geometry } = byHand();
    const box = {
      ...doc,
      air: [{ ...doc.air[0]!, region: { kind: "sphere" as const, centre: [0, 0, 0] as [number, number, number], radius: 2 } }],
    };
    maps.ask(doc, () => undefined);
    await waiting[0]!();
    expect([maps.find(box)?.side, maps.has(box), maps.has(doc)]).toEqual([1, false, true]);
    maps.ask(box, () => undefined);
    await waiting[1]!();
    expect([maps.find(box)?.side, maps.find(doc)?.side]).toEqual([2, 1]);
    geometry.now = {};
    expect(maps.find(doc)).toBeUndefined();
  });

  it("are none for a veil without shadows, and where they cannot be had", async () => {
    const { maps, waiting } = byHand();
    const veil = { ...doc, render: { ...doc.render, level: "veil" as const } };
    expect([maps.find(veil), maps.has(veil)]).toEqual([null, true]);
    maps.ask(doc, () => undefined);
    await waiting[0]!(true);
    expect(maps.find(doc)).toBeNull();
  });
});
