import { describe, expect, it } from "vitest";
import { partedDistances } from "./edges";
import { axisDirection, type PlateLens } from "./lens";

const LENS: PlateLens = { fieldOfView: 0.7, width: 40, height: 30 };
const [NEAR, FAR] = [5, 50];
/** Distance along the ray of a plane so far along the axis. */
const at = (depth: number, i: number): number =>
  depth * Math.hypot(...axisDirection(LENS, ((i % 40) + 0.5) / 40, (Math.floor(i / 40) + 0.5) / 30));

/** A near card whose right end lies at column `end`, before a far one: its share of each pixel is known. */
function card(end: number, depthOf: (cover: number) => number, front = [0.9, 0.2, 0.1], behind = [0.2, 0.3, 0.8]) {
  const cover = Float64Array.from({ length: 1200 }, (_, i) => Math.max(0, Math.min(1, end - (i % 40))));
  return {
    cover,
    bands: [0, 1, 2].map((k) => Float32Array.from(cover, (c) => c * front[k]! + (1 - c) * behind[k]!)),
    distance: Float32Array.from(cover, (c, i) => at(depthOf(c), i)),
  };
}

describe("pixels that an edge crosses", () => {
  it.each([
    ["of what is in the middle", (c: number) => (c >= 0.5 ? NEAR : FAR)],
    ["of what is nearest", (c: number) => (c > 0 ? NEAR : FAR)],
    ["a mean of both", (c: number) => c * NEAR + (1 - c) * FAR],
    ["endless behind", (c: number) => (c >= 0.5 ? NEAR : Infinity)],
  ])("are parted by their colours, where their depth is %s", (name, depthOf) => {
    for (const end of [17.25, 17.5, 17.8]) {
      const { bands, distance, cover } = card(end, depthOf);
      const { near, far, cover: found, shares, parted } = partedDistances(bands, distance, LENS);
      expect(parted).toBeGreaterThanOrEqual(30);
      for (const row of [3, 15, 28]) {
        const i = row * 40 + 17;
        expect(found[i]! / 255).toBeCloseTo(cover[i]!, 2);
        expect(near[i]! / at(NEAR, i)).toBeCloseTo(1, 3);
        if (name === "endless behind") expect(far[i]).toBe(Infinity);
        else expect(far[i]! / at(FAR, i)).toBeCloseTo(1, 3);
        // of red most is the front's, of blue what is behind
        const share = (k: number, f: number, b: number): void =>
          expect(shares[3 * i + k]! / 255).toBeCloseTo((cover[i]! * f) / (cover[i]! * f + (1 - cover[i]!) * b), 2);
        share(0, 0.9, 0.2);
        share(2, 0.1, 0.8);
        // beside it nothing changes
        for (const j of [i - 3, i + 3]) expect([near[j], far[j], found[j]]).toEqual([distance[j], distance[j], 255]);
      }
    }
  });

  it("are left as they are where both sides look alike, where asked, and on a slope", () => {
    const alike = card(17.5, (c) => (c >= 0.5 ? NEAR : FAR), [0.5, 0.5, 0.5], [0.51, 0.5, 0.5]);
    expect(partedDistances(alike.bands, alike.distance, LENS).parted).toBe(0);
    const apart = card(17.5, (c) => (c >= 0.5 ? NEAR : FAR));
    expect(partedDistances(apart.bands, apart.distance, LENS, false)).toMatchObject({
      parted: 0,
      near: apart.distance,
      far: apart.distance,
    });
    const slope = Float32Array.from({ length: 1200 }, (_, i) => at(5 + 0.4 * (i % 40), i));
    expect(partedDistances(apart.bands, slope, LENS).parted).toBe(0);
  });

  it("of a depth between two that look alike are parted by the depth", () => {
    const alike = card(17.25, (c) => c * NEAR + (1 - c) * FAR, [0.5, 0.5, 0.5], [0.5, 0.5, 0.5]);
    const { cover } = partedDistances(alike.bands, alike.distance, LENS);
    expect(cover[15 * 40 + 17]! / 255).toBeCloseTo(0.25, 1);
  });
});
