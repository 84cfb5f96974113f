import { describe, expect, it } from "vitest";
import { solarPosition } from "./solar";

const at = (iso: string, latitude: number, longitude: number) => solarPosition(Date.parse(iso), latitude, longitude);

describe("the sun's place", () => {
  it("is overhead on the equator at noon of an equinox, and on the tropic at the solstice", () => {
    // the equinox of 2024 fell on 20 March 03:06 UT; apparent noon at Greenwich came 7.5 minutes late
    expect(at("2024-03-20T12:07:30Z", 0, 0).elevation).toBeGreaterThan(89.8);
    // 20 June 2024, equation of time -1.6 minutes
    expect(at("2024-06-20T12:01:40Z", 23.44, 0).elevation).toBeGreaterThan(89.9);
  });

  it("stands as high at noon as latitude and declination say, due south and due north", () => {
    const north = at("2024-12-21T11:58:00Z", 52, 0);
    expect(north.elevation).toBeCloseTo(90 - 52 - 23.44, 1);
    expect(Math.abs(north.bearing - 180)).toBeLessThan(0.3);
    const south = at("2024-12-21T11:58:00Z", -52, 0);
    expect(south.elevation).toBeCloseTo(90 - 52 + 23.44, 1);
    expect(Math.min(south.bearing, 360 - south.bearing)).toBeLessThan(0.3);
  });

  it("agrees with a published worked example: Meeus, Astronomical Algorithms, 25.a: declination -7.785° on 1992 October 13.0", () => {
    // at the pole the elevation is the declination
    expect(at("1992-10-13T00:00:00Z", 90, 0).elevation).toBeCloseTo(-7.785, 1);
  });

  it("rises in the east and sets in the west at an equinox, half a day apart", () => {
    const rise = at("2024-03-20T06:07:30Z", 40, 0),
      set = at("2024-03-20T18:07:30Z", 40, 0);
    expect(Math.abs(rise.elevation)).toBeLessThan(0.3);
    expect(Math.abs(rise.bearing - 90)).toBeLessThan(0.4);
    expect(Math.abs(set.bearing - 270)).toBeLessThan(0.4);
  });
});
