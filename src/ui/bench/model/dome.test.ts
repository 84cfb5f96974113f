import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { anglesOnDome, DOME_SIDE, domeDirections, frameOnDome, headingOf, HORIZON, LOWEST, placeOnDome } from "./dome";

describe("the sky on a disk", () => {
  it("has the zenith in its middle, the horizon as a ring, and what the lens looks at above", () => {
    // the lens looks along +x: azimuth 90
    const doc = parseDocument({ fumarium: 2, camera: { position: [0, 2, 0], target: [5, 2, 0] } });
    const heading = headingOf(doc);
    expect(heading).toBeCloseTo(90, 9);
    const at = (azimuth: number, elevation: number) => placeOnDome({ azimuth, elevation }, heading).map((v) => Number(v.toFixed(6)) + 0);
    expect(at(17, 90)).toEqual([0, 0]);
    expect(at(90, 0)).toEqual([0, -Number(HORIZON.toFixed(6))]);
    // south, azimuth 180, lies to the right of one who looks east
    expect(at(180, 0)).toEqual([Number(HORIZON.toFixed(6)), 0]);
    expect(Math.hypot(...at(40, -80))).toBeCloseTo(1, 5);
  });

  it("leads from angles to a place and back, and holds at the rim", () => {
    for (const heading of [0, 137, -90])
      for (const [azimuth, elevation] of [
        [-170, 5],
        [0, 45],
        [93, 89],
        [179, LOWEST],
      ] as const) {
        // prettier-ignore
        const back = anglesOnDome(placeOnDome({ azimuth, elevation }, heading), heading);
        expect(back.azimuth).toBeCloseTo(azimuth, 6);
        expect(back.elevation).toBeCloseTo(elevation, 6);
      }
    expect(anglesOnDome([0, -7], 30)).toEqual({ azimuth: 30, elevation: LOWEST });
  });

  it("looks straight up and down with what is above it on the disk", () => {
    const down = parseDocument({ fumarium: 2, camera: { position: [0, 9, 0], target: [0, 0, 0] } });
    expect(Number.isFinite(headingOf(down))).toBe(true);
  });

  it("asks for directions above the horizon alone, and draws the frame about the lens's axis", () => {
    const directions = domeDirections(20);
    expect(directions).toHaveLength(DOME_SIDE ** 2);
    const asked = directions.filter((d) => d !== null);
    expect(asked.length / directions.length).toBeCloseTo((Math.PI * HORIZON ** 2) / 4, 1);
    expect(Math.min(...asked.map((d) => d[1]))).toBeGreaterThan(-1e-9);
    const doc = parseDocument({ fumarium: 2, camera: { position: [0, 0, 0], target: [0, 1, -1], fieldOfView: 20 } });
    const border = frameOnDome(doc, headingOf(doc));
    // 45° high, straight ahead
    const middle = [0, 1].map((k) => border.reduce((sum, p) => sum + p[k as 0 | 1], 0) / border.length);
    expect(middle[0]).toBeCloseTo(0, 6);
    expect(middle[1]).toBeCloseTo(-45 / (90 - LOWEST), 1);
  });
});
