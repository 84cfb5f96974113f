import { describe, expect, it } from "vitest";
import { deltaE, labOf } from "./delta-e";

describe("differences of colours", () => {
  // of the published test data (Sharma, Wu, Dalal 2005, table 1): hues on both sides of 0 and of 180, greys, blues, lightness
  it.each([
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, 3.1571, -77.2803], [50, 0, -82.7485], 2.8615],
    [[50, -1.3802, -84.2814], [50, 0, -82.7485], 1.0],
    [[50, 0, 0], [50, -1, 2], 2.3669],
    [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
    [[50, 2.49, -0.001], [50, -2.49, 0.0011], 7.2195],
    [[50, -0.001, 2.49], [50, 0.0009, -2.49], 4.8045],
    [[50, 2.5, 0], [50, 0, -2.5], 4.3065],
    [[50, 2.5, 0], [73, 25, -18], 27.1492],
    [[50, 2.5, 0], [61, -5, 29], 22.8977],
    [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
    [[22.7233, 20.0904, -46.694], [23.0331, 14.973, -42.5619], 2.0373],
    [[90.8027, -2.0831, 1.441], [91.1528, -1.6435, 0.0447], 1.4441],
    [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
  ] as const)("are those that were published: %j and %j", (a, b, expected) => {
    expect(deltaE(a, b)).toBeCloseTo(expected, 4);
    expect(deltaE(b, a)).toBeCloseTo(expected, 4);
    expect(deltaE(a, a)).toBe(0);
  });

  it("L*a*b* of sRGB's primaries and white", () => {
    const close = (lab: readonly number[], to: readonly number[]): void => lab.forEach((v, i) => expect(v).toBeCloseTo(to[i]!, 1));
    close(labOf(1, 1, 1), [100, 0, 0]);
    close(labOf(1, 0, 0), [53.24, 80.09, 67.2]);
    close(labOf(0, 1, 0), [87.73, -86.18, 83.18]);
    close(labOf(0, 0, 1), [32.3, 79.19, -107.86]);
    close(labOf(0.18, 0.18, 0.18), [49.5, 0, 0]);
    close(labOf(0, 0, 0), [0, 0, 0]);
  });
});
