import { describe, expect, it } from "vitest";
import { sub, unit, type V3 } from "../math/vectors";
import { projectPoint } from "../scene/pick";
import { cameraFrame } from "./camera";
import { dolly, lookRound, orbit, pan, tidyLens, walk } from "./lens-moves";
import { parseDocument } from "./parse";
import type { Camera } from "./schema";

const doc = (camera: object) => parseDocument({ fumarium: 2, film: { size: [160, 90] }, camera });
const lens = doc({ position: [0, 2, 10], target: [0, 2, 0] }).camera;
const near = (a: Readonly<V3>, b: Readonly<V3>, by = 6): void => a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, by));
const seen = (camera: Camera, p: V3) => projectPoint({ ...doc({}), camera }, p)!;
const distance = (camera: Camera, p: V3): number => Math.hypot(...sub(p, camera.position));

describe("moves of a lens", () => {
  it("a quarter round a point on the axis stands beside it and looks at it", () => {
    // to the right of what looks along -z lies +x
    const beside = orbit(lens, [0, 2, 0], 90, 0);
    near(beside.position, [10, 2, 0]);
    near(beside.target, [0, 2, 0]);
    near(orbit(lens, [0, 2, 0], 0, 30).position, [0, 2 + 5, 10 * Math.cos(Math.PI / 6)]);
  });

  it("a point that is gone round keeps its distance and its place in the frame, and the horizon stays level", () => {
    for (const pivot of [
      [3, 0, -2],
      [-4, 5, 1],
      [0, 2, 9],
    ] as V3[]) {
      let camera = doc({ position: [1, 3, 10], target: [-2, 1, 0] }).camera;
      const [before, from] = [seen(camera, pivot), distance(camera, pivot)];
      for (const [aside, up] of [
        [20, 10],
        [-75, 5],
        [140, -30],
      ] as const)
        camera = orbit(camera, pivot, aside, up);
      expect(distance(camera, pivot)).toBeCloseTo(from, 9);
      const after = seen(camera, pivot);
      expect(after.depth).toBeCloseTo(before.depth, 6);
      expect(after.x).toBeCloseTo(before.x, 6);
      expect(after.y).toBeCloseTo(before.y, 6);
      expect(cameraFrame(camera).right[1]).toBeCloseTo(0, 12);
    }
  });

  it("never passes the zenith, however far it is turned", () => {
    for (const up of [200, -200]) {
      const steep = lookRound(lens, 0, up);
      const [, y, z] = unit(sub(steep.target, steep.position));
      expect(Math.abs(y)).toBeLessThan(1);
      expect(z).toBeLessThan(0);
      expect(orbit(lens, [0, 2, 0], 0, up).position[2]).toBeGreaterThan(0);
    }
  });

  it("looks to the right and up from where it stands", () => {
    const round = lookRound(lens, 90, 0);
    near(round.position, [0, 2, 10]);
    near(unit(sub(round.target, round.position)), [1, 0, 0]);
    expect(unit(sub(lookRound(lens, 0, 30).target, lens.position))[1]).toBeCloseTo(0.5, 9);
  });

  it("comes nearer to a point, which stays in its place; an orthographic lens shows less about it", () => {
    const pivot: V3 = [2, 1, 3];
    const closer = dolly(lens, pivot, 0.5);
    expect(distance(closer, pivot)).toBeCloseTo(distance(lens, pivot) / 2, 9);
    near(unit(sub(closer.target, closer.position)), [0, 0, -1]);
    expect(seen(closer, pivot).x).toBeCloseTo(seen(lens, pivot).x, 9);
    const flat = doc({ kind: "orthographic", height: 8, position: [0, 2, 10], target: [0, 2, 0] }).camera;
    const less = dolly(flat, pivot, 0.5);
    expect(less.height).toBe(4);
    expect(seen(less, pivot).x).toBeCloseTo(seen(flat, pivot).x, 9);
    expect(seen(less, pivot).y).toBeCloseTo(seen(flat, pivot).y, 9);
    // any number of steps leaves a line of sight
    let camera = lens;
    for (let i = 0; i < 200; i++) camera = dolly(camera, [0, 2, 0], 0.8);
    expect(Math.hypot(...sub(camera.target, camera.position))).toBeGreaterThan(0);
  });

  it("pans along the frame and walks on the level", () => {
    near(pan(lens, 2, 1).position, [2, 3, 10]);
    near(pan(lens, 2, 1).target, [2, 3, 0]);
    const down = doc({ position: [0, 5, 0], target: [0, 0, -5] }).camera;
    near(walk(down, 2, 0, 0).position, [0, 5, -2]);
    near(walk(down, 0, 3, 1).position, [3, 6, 0]);
    near(sub(walk(down, 2, 3, 1).target, walk(down, 2, 3, 1).position), [0, -5, -5]);
  });

  it("what it makes can be stored", () => {
    const moved = tidyLens(orbit(pan(lens, 0.1, 0.2), [3, 1, 4], 33.3, 12.1));
    expect(doc(moved).camera).toEqual(moved);
  });
});
