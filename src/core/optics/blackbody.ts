/** Light of hot bodies: Planck's law seen through the CIE 1931 observer. */
import { luminance, xyzToRgb, type Rgb } from "./colour";

/** First (W m²) and second (m K) radiation constants for radiance, CODATA 2018. */
const C1 = 1.191042972e-16;
const C2 = 1.438776877e-2;

/** CIE 1931 colour matching functions at a wavelength in nm. @source the fit of Wyman, Sloan and Shirley, JCGT 2 (2), 2013 */
export function colourMatching(nm: number): Rgb {
  const lobe = (mean: number, below: number, above: number): number => {
    const t = (nm - mean) * (nm < mean ? below : above);
    return Math.exp(-0.5 * t * t);
  };
  return [
    0.362 * lobe(442, 0.0624, 0.0374) + 1.056 * lobe(599.8, 0.0264, 0.0323) - 0.065 * lobe(501.1, 0.049, 0.0382),
    0.821 * lobe(568.8, 0.0213, 0.0247) + 0.286 * lobe(530.9, 0.0613, 0.0322),
    1.217 * lobe(437, 0.0845, 0.0278) + 0.681 * lobe(459, 0.0385, 0.0725),
  ];
}

/** Spectral radiance of a black body, W/m²/sr/m. @param wavelength m @param kelvin above 0 */
export function planck(wavelength: number, kelvin: number): number {
  return C1 / (wavelength ** 5 * Math.expm1(C2 / (wavelength * kelvin)));
}

/**
 * Luminance (cd/m²) of a black body per band of linear Rec. 709; its weighted sum is the luminance in all. Parts outside
 * Rec. 709 are set to 0 with the luminance kept.
 */
export function blackBodyLuminance(kelvin: number): Rgb {
  if (!(kelvin > 100)) return [0, 0, 0];
  const xyz: Rgb = [0, 0, 0];
  for (let nm = 362.5; nm < 830; nm += 5) {
    const k = 683 * planck(nm * 1e-9, kelvin) * 5e-9;
    colourMatching(nm).forEach((c, i) => (xyz[i]! += c * k));
  }
  const rgb = xyzToRgb(xyz).map((v) => Math.max(0, v)) as Rgb;
  const y = luminance(...rgb);
  return y > 0 ? (rgb.map((v) => (v * xyz[1]) / y) as Rgb) : [0, 0, 0];
}
