/** What is read from a film beside the interface: pictures to show, figures, still copies. */
import { lookedBlocks } from "#core/budget/forecast";
import type { LiveLook } from "#core/budget/live";
import type { Lut } from "#core/data/lut";
import { loneBalance, type Balance } from "#core/document/balance";
import type { Finish } from "#core/document/finish";
import { develop, isLight, usualOf, type Development } from "#core/film/develop";
import { cleanedSides, SIDES } from "#core/film/cleaned";
import { difference, type Difference, type DifferenceKind, type Picture } from "#core/film/difference";
import { HalfLight } from "#core/film/half-light";
import { heatOf, type Heat } from "#core/film/heat";
import { frameOfFilm, measureFilm, type Film, type FilmStatistics, type FrameWindow } from "#core/film/film";
import { lightBalance, type LightBalance } from "#core/film/light-balance";
import { waveform, type Waveform } from "#core/film/waveform";
import type { PassName } from "#core/film/passes";
import { smallFilm } from "#core/film/small";
import { histogram, paintClipping, paintStops, type Histogram } from "#core/film/tones";
import { filmFacts, type FilmFacts } from "#core/air/film-facts";
import { reachOf } from "#core/scene/pick";

/** How a film is looked at. */
export interface Look {
  pass: PassName;
  /** EV at ISO 100 */
  exposure: number;
  /** kelvin */
  whiteBalance: number;
  /** Duv */
  tint: number;
  finish: Finish;
  balance: Balance;
  /** A light group that is shown alone, where the film keeps it. */
  light?: string | null;
  lut: Lut | null;
  tones: "picture" | "stops" | "clipping";
  /** Half of the pixels each way will do, as while its development is dragged; the same mark while the film and what is cleaned of it stay. */
  half?: string | null;
}

/** A film with how it is looked at. */
export interface Looked {
  film: Film;
  look: Look;
}

/** A film as it is looked at: RGBA bytes of the whole frame, of which those of the crop count. */
export interface Developed {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  width: number;
  height: number;
  crop: Film["crop"];
  /** Where it lies in the frame. */
  frame: FrameWindow;
  /** Whether it shows what was cleaned. */
  cleaned: boolean;
  /** What it shows, and what its grey levels are told against (usualOf); null of colours. */
  pass: PassName;
  usual: number | null;
  /** The light group that it shows alone. */
  light: string | null;
}

/** Figures of a film. */
export interface Measured {
  statistics: FilmStatistics;
  /** Distances in the frame: what stands in its middle, the farthest, and what half of it is nearer than. */
  reach: ReturnType<typeof reachOf>;
  /** What each light group gives and costs; null where the film keeps none. */
  balance: LightBalance[] | null;
}

/** What develops and measures films; a promise each, since it may be another thread that does. */
export interface FilmReader {
  developed(film: Film, look: Look): Promise<Developed>;
  /** Small pictures of a film, each as it is looked at. @param width most pixels across */
  small(film: Film, looks: readonly Look[], width: number): Promise<Developed[]>;
  measured(film: Film): Promise<Measured>;
  histogram(film: Film, development: Development): Promise<Histogram>;
  /** What of the display each column of the picture fills. */
  waveform(film: Film, look: Look): Promise<Waveform>;
  /** What the second of two pictures has otherwise than the first. */
  difference(first: Looked, second: Looked, kind: DifferenceKind, scale: number): Promise<Difference>;
  /** What the film says of the air. @param white luminance of white, cd/m² */
  facts(film: Film, white: number): Promise<FilmFacts>;
  /** How noisy its blocks are, for the price of a final. @param enlarged pixels of the final for one of the film, each way */
  looked(film: Film, enlarged: number): Promise<LiveLook>;
  /** Where its time and its noise are. @param dark luminance that no pixel's is taken to be below, cd/m² */
  heat(film: Film, across: number, dark: number): Promise<Heat>;
  still(film: Film): Promise<Film>;
  dispose(): void;
}

/** The same in this thread. */
export const readHere: FilmReader = {
  developed: async (film, look) => Promise.resolve(developed(film, look)),
  small: async (film, looks, width) => Promise.resolve(smallPictures(film, looks, width)),
  measured: async (film) => Promise.resolve(measured(film)),
  histogram: async (film, development) => Promise.resolve(histogram(film, development)),
  waveform: async (film, look) => Promise.resolve(waveformOf(film, look)),
  difference: async (first, second, kind, scale) => Promise.resolve(differenceOf(first, second, kind, scale)),
  facts: async (film, white) => Promise.resolve(filmFacts(film, white)),
  looked: async (film, enlarged) =>
    Promise.resolve({
      rendered: lookedBlocks(film, enlarged, "rendered"),
      cleaned: cleanedSides(film, "beauty") ? lookedBlocks(film, enlarged, "cleaned") : null,
    }),
  heat: async (film, across, dark) => Promise.resolve(heatOf(film, across, dark)),
  still: async (film) => Promise.resolve(stillOf(film)),
  dispose: () => undefined,
};

/** Of the picture that is dragged. */
const dragged = new HalfLight();

export function developed(film: Film, { pass, tones, half, light, ...given }: Look): Developed {
  const lone = light != null && film.lights.includes(light) ? light : null;
  const development = lone === null ? given : { ...given, balance: loneBalance(given.balance, lone) };
  const { width, height, crop } = film;
  const frame = frameOfFilm(film);
  const whole = crop[2] - crop[0] === width && crop[3] - crop[1] === height;
  // of a region alone the rest of an earlier picture stays in sight, in pixels of its size
  if (half && whole && isLight(pass) && tones === "picture") {
    const small = dragged.develop(film, pass, development, half);
    return {
      ...small,
      crop: [0, 0, small.width, small.height],
      frame: { x: frame.x / 2, y: frame.y / 2, width: frame.width / 2, height: frame.height / 2 },
      cleaned: cleanedSides(film, pass) !== null,
      pass,
      usual: null,
      light: lone,
    };
  }
  const pixels = new Uint8ClampedArray(4 * width * height);
  develop(film, pass, development, pixels);
  if (pass === "beauty" && tones === "stops") paintStops(film, development, pixels);
  if (pass === "beauty" && tones === "clipping") paintClipping(film, development, pixels);
  return {
    pixels,
    width,
    height,
    crop,
    frame,
    cleaned: cleanedSides(film, pass) !== null,
    pass,
    usual: usualOf(film, pass),
    light: lone,
  };
}

function smallPictures(film: Film, looks: readonly Look[], width: number): Developed[] {
  const small = smallFilm(film, width);
  return looks.map((look) => developed(small, look));
}

function differenceOf(first: Looked, second: Looked, kind: DifferenceKind, scale: number): Difference {
  const of = ({ film, look }: Looked): Picture => ({ film, development: look });
  return difference(of(first), of(second), kind, scale);
}

function waveformOf(film: Film, look: Look): Waveform {
  const { pixels, width, crop } = developed(film, { ...look, pass: "beauty", tones: "picture" });
  return waveform(pixels, width, crop);
}

export function measured(film: Film): Measured {
  return { statistics: measureFilm(film), reach: reachOf(film), balance: film.lights.length > 0 ? lightBalance(film) : null };
}

/** A copy that later rendering does not change, in shared memory where the film is: threads pass that on without another copy. */
export function stillOf(film: Film): Film {
  return movedTo(film, isShared(film.data));
}

/** The same film in memory that threads share, where there is such. */
export function sharedFilm(film: Film): Film {
  return globalThis.crossOriginIsolated && !isShared(film.data) ? movedTo(film, true) : film;
}

function movedTo(film: Film, shared: boolean): Film {
  const { cleaned } = film;
  const data = copied(film.data, shared);
  if (!cleaned) return { ...film, data };
  const sides = Object.fromEntries(SIDES.map((side) => [side, cleaned[side] && copied(cleaned[side], shared)]));
  return { ...film, data, cleaned: { ...cleaned, ...sides } };
}

const isShared = ({ buffer }: Float32Array): boolean => typeof SharedArrayBuffer !== "undefined" && buffer instanceof SharedArrayBuffer;

/** The same numbers in memory that threads share, where there is such. */
export const sharedValues = (values: Float32Array): Float32Array => (globalThis.crossOriginIsolated ? copied(values, true) : values);

function copied(values: Float32Array, shared: boolean): Float32Array {
  const copy = shared ? new Float32Array(new SharedArrayBuffer(values.byteLength)) : new Float32Array(values.length);
  copy.set(values);
  return copy;
}
