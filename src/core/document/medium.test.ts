import { describe, expect, it } from "vitest";
import { noiseSchema } from "./air";
import { mediumSchema } from "./schema";
import { temperatureRgb, whiteBalanceMatrix, luminance } from "../optics/colour";
import {
  absorptionForColour,
  automaticStep,
  colourLeft,
  densityForExtinction,
  extinctionForSurviving,
  extinctionForVisibility,
  extinctionOf,
  scatteringAlbedo,
  meanExtinction,
  recoloured,
  surviving,
  visibility,
} from "./medium";

const m = mediumSchema.parse({ density: 0.1, scattering: [1, 0.5, 0], absorption: [0, 0.5, 0.25] });

describe("handles on the amount of air", () => {
  it("all say the same: each way there and back gives the same extinction", () => {
    const s = meanExtinction(m);
    expect(s).toBeCloseTo(0.1 * (0.2126 + 0.7152 + 0.0722 * 0.25), 12);
    expect(extinctionForVisibility(visibility(s))).toBeCloseTo(s, 12);
    expect(extinctionForSurviving(surviving(s, 7), 7)).toBeCloseTo(s, 12);
    expect(meanExtinction({ ...m, density: densityForExtinction(m, 0.37) })).toBeCloseTo(0.37, 12);
    expect(Math.exp(-s * visibility(s))).toBeCloseTo(0.05, 12);
  });

  it("glow is the albedo per band, and exact zeros behave", () => {
    expect(scatteringAlbedo(m)).toEqual([1, 0.5, 0]);
    expect(colourLeft(m, 10)).toEqual(extinctionOf(m).map((e) => Math.exp(-10 * e)));
    const none = mediumSchema.parse({ density: 0.1, scattering: [0, 0, 0] });
    expect(scatteringAlbedo(none)).toEqual([0, 0, 0]);
    expect(densityForExtinction(none, 1)).toBe(0.1);
  });

  it("the automatic step looks at the finest feature and the mean free path", () => {
    const noise = noiseSchema.parse({ size: 8, octaves: 1 });
    expect(automaticStep({ ...m, density: 1e-4, noise })).toBeCloseTo(4, 9);
    expect(automaticStep({ ...m, density: 10, noise })).toBeCloseTo(1 / 30, 9);
    expect(automaticStep({ ...m, density: 1e-4, noise: { ...noise, octaves: 3 } })).toBeLessThan(1);
  });
});

describe("another colour", () => {
  const start = mediumSchema.parse({ density: 0.05, scattering: [1, 1, 1], absorption: [0, 0, 0] });
  const colours: [number, number, number][] = [
    [1, 0.4, 0.1],
    [0.02, 0.03, 0.9],
    [0.3, 0.3, 0.3],
  ];

  it("keeps extinction, visibility and transmittance, whatever is tinted and in whatever order", () => {
    let tinted = start;
    for (const scattering of colours)
      for (const absorption of colours) {
        tinted = recoloured(recoloured(tinted, { scattering }), { absorption });
        expect(tinted.scattering).toEqual(scattering);
        expect(meanExtinction(tinted)).toBeCloseTo(0.05, 8);
        expect(visibility(meanExtinction(tinted))).toBeCloseTo(-Math.log(0.05) / 0.05, 5);
        // per band from the two coefficients alone, not by way of the handles
        const perBand = tinted.scattering.map((s, k) => (s + tinted.absorption[k]!) * tinted.density);
        expect(0.2126 * perBand[0]! + 0.7152 * perBand[1]! + 0.0722 * perBand[2]!).toBeCloseTo(0.05, 8);
      }
    const back = recoloured(tinted, { scattering: [1, 1, 1], absorption: [0, 0, 0] });
    expect(back.density).toBeCloseTo(start.density, 8);
  });

  it("comes back from no colour at all with the amount it had", () => {
    const gone = recoloured(recoloured(start, { scattering: [0.5, 0, 0] }), { scattering: [0, 0, 0] });
    expect(meanExtinction(gone)).toBe(0);
    expect(meanExtinction(recoloured(gone, { absorption: [0.1, 0.2, 0.3] }))).toBeCloseTo(0.05, 8);
    expect(recoloured({ ...start, density: 0 }, { scattering: [0.2, 0.1, 0] }).density).toBe(0);
    // what would pass the document's limits stays within them
    expect(recoloured({ ...start, density: 1e9 }, { scattering: [1e-3, 0, 0] }).density).toBe(1e9);
  });
});

describe("colour of light", () => {
  it("6500 K is near white, lower is redder, and luminance is 1", () => {
    const [r, g, b] = temperatureRgb(6500);
    for (const v of [r, g, b]) expect(v).toBeCloseTo(1, 1);
    const warm = temperatureRgb(3000);
    expect(warm[0]).toBeGreaterThan(warm[1]);
    expect(warm[1]).toBeGreaterThan(warm[2]);
    expect(luminance(...warm)).toBeCloseTo(1, 12);
  });

  it("white balance makes light of its temperature neutral", () => {
    for (const kelvin of [2800, 4000, 9000]) {
      const w = whiteBalanceMatrix(kelvin),
        c = temperatureRgb(kelvin),
        n = temperatureRgb(6500);
      const out = [0, 1, 2].map((r) => w[3 * r]! * c[0] + w[3 * r + 1]! * c[1] + w[3 * r + 2]! * c[2]);
      for (let k = 0; k < 3; k++) expect(out[k]! / out[1]!).toBeCloseTo(n[k]! / n[1], 3);
    }
  });

  it("light turns the wanted colour on its way, dimmer only where scattering leaves no choice", () => {
    const wanted: [number, number, number] = [0.9, 0.6, 0.3];
    const clear = mediumSchema.parse({ density: 0.01, scattering: [0, 0, 0] });
    colourLeft({ ...clear, absorption: absorptionForColour(clear, wanted, 10) }, 10).forEach((c, k) =>
      expect(c).toBeCloseTo(wanted[k]!, 6),
    );
    const hazy = mediumSchema.parse({ density: 0.05, scattering: [1, 1, 1] });
    const absorption = absorptionForColour(hazy, wanted, 10);
    const left = colourLeft({ ...hazy, absorption }, 10);
    // the same ratios, and nothing absorbed in the band that scattering already dims enough
    expect(left[1] / left[0]).toBeCloseTo(0.6 / 0.9, 6);
    expect(left[2] / left[0]).toBeCloseTo(0.3 / 0.9, 6);
    expect(Math.min(...absorption)).toBeCloseTo(0, 9);
    expect(absorptionForColour({ ...hazy, density: 0 }, wanted, 10)).toEqual([0, 0, 0]);
    expect(absorptionForColour(hazy, [0, 0, 0], 1e-3)).toEqual([100, 100, 100]);
  });
});
