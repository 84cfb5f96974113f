import { describe, expect, it } from "vitest";
import { dot, unit, type V3 } from "../math/vectors";
import { depthReport } from "./claims";
import { PLAIN_CLAIM, readDepth } from "./depth";
import { groundOf } from "./ground";
import { axisDirection, fieldOfViewOf, heldBy, horizonOf, upByHorizon, upOf, type PlateLens } from "./lens";
import { depthMesh } from "./mesh";

const RAD = Math.PI / 180;
const LENS: PlateLens = { fieldOfView: 50 * RAD, width: 160, height: 100 };
const HELD = { tilt: -8 * RAD, roll: 3 * RAD };

/**
 * Distance along the ray of a made-up view: ground h below the lens, a wall of a box that faces the lens, sky past 400 m.
 * In closed form: planes n·p = −h.
 */
function view(held = HELD, h = 1.7): Float32Array {
  const up = upOf(held);
  const { width, height } = LENS;
  return Float32Array.from({ length: width * height }, (_, i) => {
    const d = unit(axisDirection(LENS, ((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height));
    const ground = -h / dot(up, d);
    const wall = -6 / d[2];
    const p: V3 = [wall * d[0], wall * d[1], wall * d[2]];
    const onWall = p[0] > 0.5 && p[0] < 2 && dot(up, p) > -h && dot(up, p) < 1;
    const t = Math.min(ground > 0 ? ground : Infinity, onWall ? wall : Infinity);
    return t < 400 ? t : Infinity;
  });
}
const cosines = (): Float32Array =>
  Float32Array.from({ length: LENS.width * LENS.height }, (_, i) => -unit(axisDirection(LENS, ((i % LENS.width) + 0.5) / LENS.width, (Math.floor(i / LENS.width) + 0.5) / LENS.height))[2]); // prettier-ignore
const axis = (distance: Float32Array): Float32Array => {
  const cos = cosines();
  return distance.map((d, i) => d * cos[i]!);
};

describe("the lens of a plate", () => {
  it("has the angle of its sensor and focal length", () => {
    // 36 × 24 mm, 50 mm: 26.99° upright, the textbook's number
    expect(fieldOfViewOf(36, 50, 3000, 2000) / RAD).toBeCloseTo(26.99, 2);
  });

  it("is held as its up says, and the other way about", () => {
    for (const [tilt, roll] of [[0, 0], [-20, 5], [35, -12], [10, 90]]) {
      const held = heldBy(upOf({ tilt: tilt! * RAD, roll: roll! * RAD }));
      expect(held.tilt / RAD).toBeCloseTo(tilt!, 6);
      expect(held.roll / RAD).toBeCloseTo(roll!, 6);
    } // prettier-ignore
  });

  it("has its horizon where far ground ends, and is told by it", () => {
    // level: in the middle; looking up by a fifth of the angle above the axis: below it
    expect(horizonOf(LENS, upOf({ tilt: 0, roll: 0 }))).toEqual({ left: 0.5, right: 0.5 });
    const up = upOf({ tilt: 10 * RAD, roll: 0 });
    expect(horizonOf(LENS, up)!.left).toBeCloseTo(0.5 + Math.tan(10 * RAD) / (2 * Math.tan(25 * RAD)), 9);
    const line = horizonOf(LENS, upOf(HELD))!;
    const back = heldBy(upByHorizon(LENS, [0, line.left], [1, line.right]));
    expect(back.tilt).toBeCloseTo(HELD.tilt, 9);
    expect(back.roll).toBeCloseTo(HELD.roll, 9);
    expect(() => upByHorizon(LENS, [0.3, 0.5], [0.3, 0.5])).toThrow(/two points/);
  });
});

describe("depth of a plate", () => {
  const truth = view();

  it.each([
    ["along the ray", (d: Float32Array) => d, { along: "ray" }],
    ["along the axis", axis, {}],
    ["in centimetres", (d: Float32Array) => axis(d).map((v) => 100 * v), { metres: 0.01 }],
    ["as one over it", (d: Float32Array) => axis(d).map((v) => 1 / v), { inverted: true }],
    ["with a sky that is far", (d: Float32Array) => axis(d).map((v) => Math.min(v, 1e5)), { sky: 1e4 }],
  ] as const)("is read %s", (_, made, claim) => {
    const { distance, sky, unknown } = readDepth(made(truth), LENS, { ...PLAIN_CLAIM, ...claim });
    distance.forEach((v, i) => expect(truth[i] === Infinity ? v === Infinity : Math.abs(v / truth[i]! - 1) < 1e-5).toBe(true));
    expect([sky, unknown]).toEqual([truth.filter((v) => v === Infinity).length, 0]);
  });

  it("is read of a range of whole numbers, near or far first, to their last digit", () => {
    const [near, far] = [1, 401];
    for (const inverted of [false, true]) {
      const digits = axis(truth).map((v) => {
        const t = Math.min(1, (v - near) / (far - near));
        return Math.round(65535 * (inverted ? 1 - t : t)) / 65535;
      });
      const { distance } = readDepth(digits, LENS, { ...PLAIN_CLAIM, range: [near, far], inverted });
      const cos = cosines();
      distance.forEach((v, i) => {
        if (truth[i]! < Infinity && v < Infinity)
          expect(Math.abs(v - truth[i]!) * cos[i]!).toBeLessThanOrEqual(0.501 * (400 / 65535) + 1e-4);
        else expect(truth[i]! > 390 || truth[i] === Infinity).toBe(true);
      });
    }
  });

  it("counts what says nothing as sky, and says how much", () => {
    const holes = truth.map((v, i) => (i % 10 === 0 ? NaN : i % 10 === 1 ? 0 : i % 10 === 2 ? -3 : v));
    const { unknown, distance } = readDepth(holes, LENS, { ...PLAIN_CLAIM, along: "ray" });
    expect(unknown).toBe((3 * truth.length) / 10);
    expect(distance[0]).toBe(Infinity);
    expect(() => readDepth(truth.subarray(1), LENS, PLAIN_CLAIM)).toThrow(/not as many numbers/);
  });
});

describe("the ground of a plate", () => {
  it("is found with the height and the hold of the lens, whatever stands on it", () => {
    for (const held of [HELD, { tilt: -25 * RAD, roll: -6 * RAD }, { tilt: 2 * RAD, roll: 0 }]) {
      const ground = groundOf(view(held, 2.4), LENS)!;
      const found = heldBy(ground.up);
      expect(ground.height).toBeCloseTo(2.4, 2);
      expect(found.tilt / RAD).toBeCloseTo(held.tilt / RAD, 1);
      expect(found.roll / RAD).toBeCloseTo(held.roll / RAD, 1);
      expect(ground.off).toBeLessThan(5e-4);
    }
    // noise of a percent moves it little
    let state = 3;
    const noisy = view().map((d) => d * (1 + 0.01 * ((state = (state * 16807) % 2147483647) / 2147483647 - 0.5)));
    expect(groundOf(noisy, LENS)!.height).toBeCloseTo(1.7, 1);
  });

  it("is none where nothing is flat, or nothing there", () => {
    expect(groundOf(new Float32Array(LENS.width * LENS.height).fill(Infinity), LENS)).toBeNull();
    // a wall that faces the lens is none
    const wall = Float32Array.from(cosines(), (c) => 5 / c);
    expect(groundOf(wall, LENS)).toBeNull();
  });
});

describe("what depth says of itself", () => {
  const truth = view();
  const claim = { ...PLAIN_CLAIM };

  it("is that all is well where it is as it was said", () => {
    const report = depthReport(axis(truth), LENS, claim);
    expect(report.doubts).toEqual([]);
    expect(report.ground!.height).toBeCloseTo(1.7, 2);
    expect(report.ground!.tilt / RAD).toBeCloseTo(-8, 1);
    expect(report.near).toBeGreaterThan(1);
    const line = horizonOf(LENS, upOf(HELD))!;
    expect(report.ground!.horizon!.left).toBeCloseTo(line.left, 2);
  });

  it.each([
    ["along the ray, said to be along the axis", truth, {}, /flat where depth is along the ray/],
    ["along the axis, said to be along the ray", axis(truth), { along: "ray" }, /flat where depth is along the axis/],
    ["one over depth, said to be depth", axis(truth).map((v) => 1 / v), {}, /flat where numbers are one over depth/],
    ["depth, said to be one over it", axis(truth), { inverted: true }, /numbers are depth, not one over it/],
    ["a range the other way about", axis(truth).map((v) => Math.max(0, 1 - (v - 1) / 60)), { range: [1, 61] }, /the other way about/],
    ["centimetres, said to be metres", axis(truth).map((v) => 1000 * v), {}, /1\.70e\+3 m over the ground/],
    ["nothing", truth.map(() => Infinity), {}, /Nothing has a distance/],
    ["zeros", truth.map((v, i) => (i % 3 === 0 ? 0 : v)), { along: "ray" }, /33 % of it says nothing/],
    ["one number", truth.map(() => 7), { along: "ray" }, /one number/],
  ] as const)("is a doubt where it is %s", (_, values, change, says) => {
    expect(depthReport(Float32Array.from(values), LENS, { ...claim, ...change }).doubts.join("\n")).toMatch(says);
  });
});

describe("the surface through depth", () => {
  const truth = view();
  const mesh = depthMesh(truth, LENS);

  it("has its corners where pixels look, and no side that goes from the box to the ground behind it", () => {
    const up = upOf(HELD);
    const corner = (k: number): V3 => [mesh.positions[3 * k]!, mesh.positions[3 * k + 1]!, mesh.positions[3 * k + 2]!];
    const onGround = (p: V3): boolean => Math.abs(dot(up, p) + 1.7) < 0.01 * Math.hypot(...p);
    const onWall = (p: V3): boolean => Math.abs(p[2] + 6) < 1e-3;
    let across = 0;
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      const all = [0, 1, 2].map((k) => corner(mesh.triangles[t + k]!));
      // at its foot the box meets the ground
      const far = all.some((p) => onGround(p) && Math.hypot(...p) > 7.5);
      if (far && all.some((p) => onWall(p) && !onGround(p))) across++;
    }
    expect(across).toBe(0);
    const { width, height } = LENS;
    mesh.pixels.forEach((i, k) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      const inner = x > 0 && y > 0 && x < width - 1 && y < height - 1;
      if (inner) expect(Math.hypot(...corner(k)) / truth[i]!).toBeCloseTo(1, 5);
      // at the rim it reaches to the end of the frame, as flat as it is
      else if (y === height - 1) expect((dot(up, corner(k)) + 1.7) / Math.hypot(...corner(k))).toBeCloseTo(0, 5);
    });
  });

  it("goes on along the ground to where it is seen most steeply, and leaves out the sky", () => {
    const { width, height } = LENS;
    const covered = new Set(mesh.pixels);
    let [missing, ground] = [0, 0];
    truth.forEach((d, i) => {
      if (d === Infinity) expect(covered.has(i)).toBe(false);
      else if (i % width > 1 && i % width < width - 2 && i < width * (height - 2)) {
        ground++;
        if (!covered.has(i)) missing++;
      }
    });
    expect(missing / ground).toBeLessThan(0.01);
    // as many triangles as two a square, but for the rims
    expect(mesh.triangles.length / 3 / (2 * ground)).toBeGreaterThan(0.95);
  });
});
