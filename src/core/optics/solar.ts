/**
 * Where the sun stands at a date, time and place: the low-precision formulas of the Astronomical Almanac (section C), good to
 * about a hundredth of a degree between 1950 and 2050; without refraction.
 */

const RAD = Math.PI / 180;

/**
 * @param time milliseconds since 1970, universal time @param latitude degrees north @param longitude degrees east
 * @returns elevation and compass bearing (0 north, 90 east) in degrees
 */
export function solarPosition(time: number, latitude: number, longitude: number): { elevation: number; bearing: number } {
  // days since noon of 1 January 2000
  const n = time / 86_400_000 - 10957.5;
  const mean = 280.46 + 0.9856474 * n;
  const anomaly = (357.528 + 0.9856003 * n) * RAD;
  const longitudeOfSun = (mean + 1.915 * Math.sin(anomaly) + 0.02 * Math.sin(2 * anomaly)) * RAD;
  const obliquity = (23.439 - 4e-7 * n) * RAD;
  const ascension = Math.atan2(Math.cos(obliquity) * Math.sin(longitudeOfSun), Math.cos(longitudeOfSun));
  const declination = Math.asin(Math.sin(obliquity) * Math.sin(longitudeOfSun));
  // sidereal time at Greenwich, degrees
  const sidereal = 280.46061837 + 360.98564736629 * n;
  const hour = (sidereal + longitude) * RAD - ascension;
  const phi = latitude * RAD;
  const elevation = Math.asin(Math.sin(phi) * Math.sin(declination) + Math.cos(phi) * Math.cos(declination) * Math.cos(hour));
  const bearing = Math.atan2(
    -Math.cos(declination) * Math.sin(hour),
    Math.sin(declination) * Math.cos(phi) - Math.cos(declination) * Math.cos(hour) * Math.sin(phi),
  );
  return { elevation: elevation / RAD, bearing: (bearing / RAD + 360) % 360 };
}
