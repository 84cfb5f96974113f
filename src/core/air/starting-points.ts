/**
 * Presets, with physical data behind each: extinction as met in nature, single-scattering albedo and colour by
 * wavelength, phase function, usual falloff. Sources for each in docs/physics.md.
 */
import { middleOf, sizeOf, type Box } from "../math/box";
import { map3 } from "../math/vectors";
import { mediumSchema, type Medium } from "../document/air";
import { visibility } from "../document/medium";
import type { LengthWords } from "../document/units";

export interface StartingPoint {
  id: string;
  name: string;
  /** What it is, in a few words, with {visibility} where that is told. */
  words: string;
  /** Extinction at the level (1/m) as met in nature, at green light. */
  extinction: number;
  /** Extinction of the bands (red, green, blue) against green: what particles' sizes make of colour. */
  bands: readonly [number, number, number];
  /** Single-scattering albedo per band. */
  albedo: readonly [number, number, number];
  phase: Medium["phase"] | { model: "g"; g: number };
  /** Shape and scale height or top (m) in nature, out of doors. */
  height: { shape: "exponential" | "linear" | "quadratic"; scale: number };
  /** Whether it fills a room evenly; else it thins out upwards there too. */
  fills: boolean;
  /** Broken into features of this share of the scene; null where it is even. */
  broken: { character: "soft" | "billow" | "wisps"; size: number; stretch?: [number, number, number] } | null;
  /** Transmittance across the view that it is usually made for. */
  shows: number;
}

const white = [1, 1, 1] as const;

/** Bands of an extinction that goes with the wavelength's power -a: 610, 550 and 465 nm. */
const power = (a: number): [number, number, number] =>
  [610, 550, 465].map((l) => Number(((l / 550) ** -a).toFixed(3))) as [number, number, number];

export const STARTING_POINTS: readonly StartingPoint[] = [
  {
    id: "molecules",
    name: "clear air",
    words: "molecules alone: blue over great distances",
    extinction: 1.35e-5,
    bands: power(4.08),
    albedo: white,
    phase: { model: "rayleigh" },
    height: { shape: "exponential", scale: 8000 },
    fills: true,
    broken: null,
    shows: 0.93,
  },
  {
    id: "country haze",
    name: "country haze",
    words: "dry particles on a fine day, {visibility} of visibility",
    extinction: 1.3e-4,
    bands: power(1.3),
    albedo: [0.94, 0.94, 0.93],
    phase: { model: "g", g: 0.65 },
    height: { shape: "exponential", scale: 1200 },
    fills: true,
    broken: null,
    shows: 0.75,
  },
  {
    id: "damp haze",
    name: "damp haze",
    words: "particles swollen by humidity, {visibility} of visibility",
    extinction: 6e-4,
    bands: power(0.7),
    albedo: [0.98, 0.98, 0.97],
    phase: { model: "g", g: 0.74 },
    height: { shape: "exponential", scale: 900 },
    fills: true,
    broken: null,
    shows: 0.6,
  },
  {
    id: "town haze",
    name: "town haze",
    words: "soot and sulphates: brownish, {visibility} of visibility",
    extinction: 3.7e-4,
    bands: power(1.2),
    albedo: [0.89, 0.86, 0.82],
    phase: { model: "g", g: 0.64 },
    height: { shape: "exponential", scale: 1000 },
    fills: true,
    broken: null,
    shows: 0.6,
  },
  {
    id: "mist",
    name: "mist",
    words: "small droplets, {visibility} of visibility",
    extinction: 2e-3,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 7 },
    height: { shape: "exponential", scale: 60 },
    fills: true,
    broken: null,
    shows: 0.45,
  },
  {
    id: "ground fog",
    name: "ground fog",
    words: "lies on cold ground on still nights, knee to house high",
    extinction: 0.03,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 10 },
    height: { shape: "exponential", scale: 1.5 },
    fills: false,
    broken: { character: "soft", size: 0.16, stretch: [1.6, 0.7, 1.6] },
    shows: 0.25,
  },
  {
    id: "low fog",
    name: "low fog",
    words: "cold air held down on the floor: densest below, gone just above it",
    extinction: 0.2,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 10 },
    height: { shape: "linear", scale: 1 },
    fills: false,
    broken: null,
    shows: 0.4,
  },
  {
    id: "radiation fog",
    name: "radiation fog",
    words: "fills valleys up to a flat top, {visibility} of visibility",
    extinction: 0.015,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 11 },
    height: { shape: "linear", scale: 60 },
    fills: true,
    broken: null,
    shows: 0.2,
  },
  {
    id: "sea fog",
    name: "sea fog",
    words: "drifts in from the water, larger droplets, {visibility} of visibility",
    extinction: 0.01,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 17 },
    height: { shape: "quadratic", scale: 180 },
    fills: true,
    broken: { character: "soft", size: 0.3, stretch: [1.8, 0.8, 1.8] },
    shows: 0.25,
  },
  {
    id: "dense fog",
    name: "dense fog",
    words: "{visibility} of visibility: things end",
    extinction: 0.06,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 14 },
    height: { shape: "exponential", scale: 150 },
    fills: true,
    broken: null,
    shows: 0.06,
  },
  {
    id: "wood smoke",
    name: "wood smoke",
    words: "fresh and fine: bluish against dark, brown against light",
    extinction: 0.05,
    bands: power(1.8),
    albedo: [0.9, 0.89, 0.86],
    phase: { model: "g", g: 0.6 },
    height: { shape: "exponential", scale: 30 },
    fills: true,
    broken: { character: "wisps", size: 0.2 },
    shows: 0.4,
  },
  {
    id: "soot",
    name: "black smoke",
    words: "soot of oil and rubber: swallows most of what it meets",
    extinction: 0.2,
    bands: power(0.9),
    albedo: [0.27, 0.26, 0.24],
    phase: { model: "g", g: 0.4 },
    height: { shape: "exponential", scale: 40 },
    fills: true,
    broken: { character: "billow", size: 0.18 },
    shows: 0.15,
  },
  {
    id: "stage haze",
    name: "stage haze",
    words: "fine glycol or oil droplets, even through a hall: shows beams",
    extinction: 0.02,
    bands: power(0.5),
    albedo: white,
    phase: { model: "two-lobe", forward: 0.78, backward: -0.15, mix: 0.12 },
    height: { shape: "exponential", scale: 15 },
    fills: true,
    broken: null,
    shows: 0.7,
  },
  {
    id: "steam",
    name: "steam",
    words: "condensing over hot water, white and torn",
    extinction: 0.8,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 8 },
    height: { shape: "quadratic", scale: 2.5 },
    fills: false,
    broken: { character: "wisps", size: 0.1 },
    shows: 0.2,
  },
  {
    id: "dust",
    name: "mineral dust",
    words: "stirred up from dry ground: takes the blue away",
    extinction: 6e-3,
    bands: power(0.2),
    albedo: [0.97, 0.94, 0.85],
    phase: { model: "g", g: 0.72 },
    height: { shape: "exponential", scale: 25 },
    fills: true,
    broken: { character: "soft", size: 0.25 },
    shows: 0.45,
  },
  {
    id: "room dust",
    name: "dust in a room",
    words: "motes of fibre and skin: seen only in a shaft of sun",
    extinction: 2e-4,
    bands: white,
    albedo: [0.96, 0.95, 0.93],
    phase: { model: "two-lobe", forward: 0.9, backward: -0.2, mix: 0.25 },
    height: { shape: "exponential", scale: 10 },
    fills: true,
    broken: null,
    shows: 0.92,
  },
  {
    id: "spray",
    name: "spray",
    words: "large drops torn off waves and falls, low over the water",
    extinction: 0.03,
    bands: white,
    albedo: white,
    phase: { model: "droplets", diameter: 50 },
    height: { shape: "exponential", scale: 2 },
    fills: false,
    broken: { character: "wisps", size: 0.12 },
    shows: 0.5,
  },
];

export interface Place {
  /** Longest distance that matters in the scene, m. */
  reach: number;
  /** Height of its ground, m. */
  ground: number;
  /** The room that the lens stands in; null out of doors. */
  inside: Readonly<Box> | null;
}

const tidy = (v: number): number => Number(v.toPrecision(3));
const millimetres = (v: number): number => Number(v.toFixed(3));
/** Share of the reach that a falloff's height takes at most where air is made to show. */
const TALLEST = 0.4;

/** Fills the room: what lies beyond its walls costs time and swallows light on its way in. */
export function roomRegion(box: Readonly<Box>): Medium["region"] {
  return { kind: "box", centre: map3(middleOf(box), millimetres), size: map3(sizeOf(box), (s) => Math.max(0.001, millimetres(s))), rotation: [0, 0, 0] }; // prettier-ignore
}

/**
 * A medium from a starting point. As in nature it has nature's coefficients and heights. Made to show, it leaves its usual share of
 * light over the scene's reach ({@link densityAcross} makes that exact for a view), and its heights are no more than fit the scene. In a
 * room it is bounded by it; out of doors it always thins out upwards, since boundless even air lets no light from outside in.
 */
export function startFrom(point: StartingPoint, place: Place, manner: "nature" | "shows", name: string): Medium {
  const extinction = manner === "nature" ? point.extinction : -Math.log(point.shows) / Math.max(place.reach, 1e-3);
  const t = point.bands.map((b) => b * extinction);
  const s = t.map((e, k) => e * point.albedo[k]!);
  const density = Math.max(...s);
  const ratio = (v: number): number => Number((v / density).toFixed(4));
  const { phase } = point;
  const { inside } = place;
  const scale = tidy(manner === "nature" ? point.height.scale : Math.min(point.height.scale, place.reach * TALLEST));
  return mediumSchema.parse({
    name,
    density: tidy(density),
    scattering: s.map(ratio),
    absorption: t.map((e, k) => Math.max(0, ratio(e - s[k]!))),
    ...(phase.model === "g" ? { anisotropy: phase.g } : { phase }),
    ...(inside ? { region: roomRegion(inside) } : {}),
    height: inside && point.fills ? null : { shape: point.height.shape, level: millimetres(inside ? inside[1] : place.ground), scale },
    noise: point.broken && {
      character: point.broken.character,
      size: tidy(point.broken.size * place.reach),
      ...(point.broken.stretch ? { stretch: point.broken.stretch } : {}),
      low: 0.32,
      high: 0.68,
    },
  });
}

/** What a preset is, with the visibility it has in nature. */
export function describe({ words, extinction }: StartingPoint, lengths: LengthWords): string {
  return words.replace("{visibility}", lengths.rough(visibility(extinction)));
}
