/**
 * The table of passes: what a film holds, how each is read, shown, named in words and stored in files. Film, development, files,
 * command line and interface read this table; a new pass is a new line of it.
 */
import {
  F_AIR,
  F_ALBEDO,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_COUNT,
  F_DEPTH,
  F_DISTANCE,
  F_EMISSION,
  F_HITS,
  F_NORMAL,
  F_POSITION,
  F_RAYS,
  F_SURFACES,
  F_TRANSMITTANCE,
} from "../layout/layout";

/** How a pass becomes grey levels or colours on a screen. */
export type PassDisplay =
  /** Light: exposed, white-balanced, rolled off. */
  | "light"
  /** Shares per band, sRGB-encoded. */
  | "share"
  /** A share of light, as it is. */
  | "even share"
  /** Unit vectors around mid grey. */
  | "vector"
  /** Each number on both sides of mid grey, against their common size. */
  | "place"
  /** From near (bright) to far. */
  | "distance"
  /** On both sides of mid grey, against its median. */
  | "signed"
  /** From black, against its median. */
  | "amount";

export interface Pass {
  /** Label in the interface. */
  words: string;
  /** What it shows, in one sentence. */
  tooltip: string;
  /** Bands in the order they are stored. */
  bands: "RGB" | "XYZ" | "Z" | "V";
  /** First sum in a film pixel, and the count it is divided by; null for what is worked out from several (film.ts). */
  source: { sum: number; count: number } | null;
  /** Layer of an OpenEXR file; empty for the channels without a layer. */
  layer: string;
  /** Names of that layer in files that earlier versions wrote. */
  formerly?: readonly string[];
  /** Whether halves are too coarse for it, as for all of one number. */
  exact?: true;
  display: PassDisplay;
  unit: string;
}

export const PASSES = {
  beauty: {
    words: "beauty",
    tooltip: "The finished light: air and surfaces together.",
    bands: "RGB",
    source: null,
    layer: "",
    display: "light",
    unit: "cd/m²",
  },
  clear: {
    words: "clear air",
    tooltip: "The same frame without any medium.",
    bands: "RGB",
    source: { sum: F_CLEAR, count: F_CLEAR_COUNT },
    layer: "clear",
    display: "light",
    unit: "cd/m²",
  },
  air: {
    words: "air alone",
    tooltip: "Light that the air scatters and emits towards the lens; surfaces are held out.",
    bands: "RGB",
    source: { sum: F_AIR, count: F_COUNT },
    layer: "air",
    display: "light",
    unit: "cd/m²",
  },
  surfaces: {
    words: "surfaces through the air",
    tooltip: "Light of surfaces and sky, as the air between attenuates it.",
    bands: "RGB",
    source: { sum: F_SURFACES, count: F_COUNT },
    layer: "surfaces",
    display: "light",
    unit: "cd/m²",
  },
  transmittance: {
    words: "transmittance",
    tooltip: "Share of the light of surfaces that the air lets through, per band.",
    bands: "RGB",
    source: { sum: F_TRANSMITTANCE, count: F_COUNT },
    layer: "transmittance",
    display: "share",
    unit: "share",
  },
  emission: {
    words: "emission of the air",
    tooltip: "The part of the air's light that media emit themselves.",
    bands: "RGB",
    source: { sum: F_EMISSION, count: F_COUNT },
    layer: "emission",
    formerly: ["glow"],
    display: "light",
    unit: "cd/m²",
  },
  albedo: {
    words: "albedo",
    tooltip: "Base colour of the surfaces that are seen.",
    bands: "RGB",
    source: { sum: F_ALBEDO, count: F_HITS },
    layer: "albedo",
    display: "share",
    unit: "share",
  },
  normal: {
    words: "normal",
    tooltip: "Direction in which the surfaces that are seen face, in the scene's axes.",
    bands: "XYZ",
    source: { sum: F_NORMAL, count: F_HITS },
    layer: "normal",
    display: "vector",
    unit: "unit vector",
  },
  depth: {
    words: "depth",
    tooltip: "Distance along the lens axis; infinite where nothing is hit.",
    bands: "Z",
    source: { sum: F_DEPTH, count: F_HITS },
    layer: "depth",
    display: "distance",
    unit: "m",
  },
  distance: {
    words: "distance",
    tooltip: "Distance along the ray; infinite where nothing is hit.",
    bands: "Z",
    source: { sum: F_DISTANCE, count: F_HITS },
    layer: "distance",
    display: "distance",
    unit: "m",
  },
  height: {
    words: "height",
    tooltip: "Height of the surfaces that are seen.",
    bands: "V",
    source: { sum: F_POSITION + 1, count: F_HITS },
    layer: "height",
    display: "signed",
    unit: "m",
  },
  position: {
    words: "position",
    tooltip: "Where in the scene the surfaces are that are seen: x, y (up) and z.",
    bands: "XYZ",
    source: { sum: F_POSITION, count: F_HITS },
    layer: "position",
    exact: true,
    display: "place",
    unit: "m",
  },
  opacity: {
    words: "air opacity",
    tooltip: "Share of the light of surfaces that the air keeps from the lens.",
    bands: "V",
    source: null,
    layer: "opacity",
    formerly: ["mist"],
    display: "even share",
    unit: "share",
  },
  noise: {
    words: "noise",
    tooltip: "Standard error of each pixel's luminance.",
    bands: "V",
    source: null,
    layer: "noise",
    display: "amount",
    unit: "cd/m²",
  },
  samples: {
    words: "samples",
    tooltip: "Samples of each pixel: where a threshold of noise ended sooner.",
    bands: "V",
    source: null,
    layer: "samples",
    display: "amount",
    unit: "samples",
  },
  rays: {
    words: "rays",
    tooltip: "Rays traced per sample: where the time goes.",
    bands: "V",
    source: { sum: F_RAYS, count: F_COUNT },
    layer: "rays",
    formerly: ["cost"],
    display: "amount",
    unit: "rays per sample",
  },
} as const satisfies Record<string, Pass>;

export type PassName = keyof typeof PASSES;
/** Passes of one number per pixel. */
export type ScalarPass = { [K in PassName]: (typeof PASSES)[K]["bands"] extends "Z" | "V" ? K : never }[PassName];

/** Those of them that are worked out from several sums. */
export type MadePass = { [K in ScalarPass]: (typeof PASSES)[K]["source"] extends null ? K : never }[ScalarPass];

export const PASS_NAMES = Object.keys(PASSES) as PassName[];
export const isScalar = (pass: PassName): pass is ScalarPass => PASSES[pass].bands.length === 1;
export const SCALAR_PASSES = PASS_NAMES.filter(isScalar);

/** Names of a pass's channels in a file: R, depth.Z, normal.X … */
export const channelsOf = (pass: PassName): string[] =>
  [...PASSES[pass].bands].map((band) => (PASSES[pass].layer ? `${PASSES[pass].layer}.${band}` : band));

/** The pass and band that a channel of a file holds, by its present or a former name; null for what is none (a light group's, a matte's). */
export function passOfChannel(name: string): { pass: PassName; band: number } | null {
  const dot = name.lastIndexOf(".");
  const [layer, band] = [name.slice(0, Math.max(0, dot)), name.slice(dot + 1)];
  for (const pass of PASS_NAMES) {
    const p: Pass = PASSES[pass];
    const at = band.length === 1 ? p.bands.indexOf(band) : -1;
    if (at >= 0 && (p.layer === layer || p.formerly?.includes(layer))) return { pass, band: at };
  }
  return null;
}
