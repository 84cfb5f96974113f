/**
 * The artist's handles on a medium's amount, all of the same coefficient: extinction (1/m), mean free
 * path (m), visibility (m) and transmittance over a distance.
 */
import { map3 } from "../math/vectors";
import { MAX_DENSITY } from "./air";
import type { Medium } from "./schema";
import { luminance, type Rgb } from "../optics/colour";
import {
  draine,
  dropletDraineAlpha,
  dropletDraineG,
  dropletDraineShare,
  dropletForward,
  henyeyGreenstein,
  rayleigh,
} from "../optics/phase";

/** The medium's phase function (1/sr) of the cosine between the directions of travel. */
export function phaseFunction(m: Medium): (cos: number) => number {
  const { phase } = m;
  switch (phase.model) {
    case "henyey-greenstein":
      return (c) => henyeyGreenstein(c, m.anisotropy);
    case "two-lobe":
      return (c) => (1 - phase.mix) * henyeyGreenstein(c, phase.forward) + phase.mix * henyeyGreenstein(c, phase.backward);
    case "rayleigh":
      return rayleigh;
    case "droplets": {
      const d = phase.diameter;
      const [g, gd, alpha, share] = [dropletForward(d), dropletDraineG(d), dropletDraineAlpha(d), dropletDraineShare(d)];
      return (c) => (1 - share) * henyeyGreenstein(c, g) + share * draine(c, gd, alpha);
    }
  }
}

/** Contrast left at the visibility limit: 5 % is the meteorological optical range, 2 % Koschmieder's. */
export const VISIBILITY_THRESHOLD = 0.05;

export function scatteringOf(m: Medium): Rgb {
  return m.scattering.map((c) => c * m.density) as Rgb;
}
export function absorptionOf(m: Medium): Rgb {
  return m.absorption.map((c) => c * m.density) as Rgb;
}
/** Extinction coefficient per band, 1/m. */
export function extinctionOf(m: Medium): Rgb {
  return map3(m.scattering, (c, i) => (c + m.absorption[i]) * m.density);
}
/** One figure for the amount: luminance-weighted extinction, 1/m. */
export function meanExtinction(m: Medium): number {
  return luminance(...extinctionOf(m));
}
/** Mean extinction for each unit of density. */
function extinctionPerDensity(m: Medium): number {
  return luminance(...map3(m.scattering, (c, i) => c + m.absorption[i]));
}
/** The density that gives a wanted mean extinction; the present one where the colours are all zero. */
export function densityForExtinction(m: Medium, extinction: number): number {
  const perDensity = extinctionPerDensity(m);
  return perDensity > 0 ? extinction / perDensity : m.density;
}

/**
 * The medium in other colours and of the same amount: density makes up for what they add or take, so that extinction, visibility and
 * transmittance stay as they were said. Where all colours are zero the density remembers the amount, and gives it back.
 */
export function recoloured(m: Medium, colours: Partial<Pick<Medium, "scattering" | "absorption">>): Medium {
  const next = { ...m, ...colours };
  const [before, after] = [extinctionPerDensity(m), extinctionPerDensity(next)];
  const amount = m.density * (before > 0 ? before : 1);
  return { ...next, density: Math.min(MAX_DENSITY, Number((after > 0 ? amount / after : amount).toPrecision(9))) };
}

export const meanFreePath = (extinction: number): number => 1 / extinction;
export const visibility = (extinction: number): number => -Math.log(VISIBILITY_THRESHOLD) / extinction;
export const surviving = (extinction: number, distance: number): number => Math.exp(-extinction * distance);
export const extinctionForVisibility = (v: number): number => -Math.log(VISIBILITY_THRESHOLD) / v;
export const extinctionForSurviving = (share: number, distance: number): number => -Math.log(share) / distance;

/** How the medium glows against dark under white light: single-scattering albedo per band (0 where there is none). */
export function scatteringAlbedo(m: Medium): Rgb {
  const e = extinctionOf(m);
  const s = scatteringOf(m);
  return map3(s, (v, i) => (e[i] > 0 ? v / e[i] : 0));
}

/** Colour left of white light after `distance` metres. */
export function colourLeft(m: Medium, distance: number): Rgb {
  return extinctionOf(m).map((e) => Math.exp(-e * distance)) as Rgb;
}

/**
 * Absorption (against density) with which light that passes `distance` metres turns into a colour. Scattering stays, so where it
 * already takes more than the colour allows, all bands are dimmed alike: the hue is met, and no more is absorbed than that needs.
 */
export function absorptionForColour(m: Medium, colour: Rgb, distance: number): Rgb {
  if (!(m.density > 0) || !(distance > 0)) return m.absorption;
  const s = scatteringOf(m);
  const lost = colour.map((c) => -Math.log(Math.max(c, 1e-6)) / distance);
  const alike = Math.max(0, ...s.map((v, k) => v - lost[k]!));
  return lost.map((l, k) => Math.min(100, Math.max(0, (l + alike - s[k]!) / m.density))) as Rgb;
}

/**
 * Step size (m) the stepping estimator takes when left to itself: half the smallest feature of the
 * break-up (or what else `feature` says, m), and no more than a third of the mean free path, so that neither is stepped over.
 */
export function automaticStep(m: Medium, feature = Infinity): number {
  const densest = Math.max(...extinctionOf(m), 1e-9);
  if (!m.noise && feature < Infinity) return Math.max(1e-4, Math.min(feature, 1 / (3 * densest)));
  if (!m.noise) return Math.max(1e-3, 0.5 / Math.max(meanExtinction(m), 1e-6));
  const { size, stretch, lacunarity, octaves } = m.noise;
  const smallest = (size * Math.min(...stretch)) / Math.pow(lacunarity, octaves - 1);
  return Math.max(1e-4, Math.min(0.5 * smallest, feature, 1 / (3 * densest)));
}
