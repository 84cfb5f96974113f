/** Settings of a document in words: what they are called on the bench, and their values with units. */
import type { Motion } from "./motion";
import type { Balance, GroupBalance } from "./balance";
import { formatNumber } from "./quantities";
import type { LengthWords } from "./units";

/** Keys from the part of a document down to a setting, without names of things. */
export type SettingKind = string;

/** What stands in front of a setting is said only where it tells settings of one name apart. */
const SAID: ReadonlySet<string> = new Set([
  "height", "noise", "grid", "proximity", "start", "emission", "seen", "region", "gobo", "stars", "fade", "cleanUp", "curves", "phase", "parts", "tint", "temperature", "sequence",
]); // prettier-ignore

/** Names on the bench that a key does not say by itself. */
const WORDS: Readonly<Record<string, string>> = {
  "air.density": "extinction",
  "air.scattering": "scattered colour",
  "air.absorption": "absorbed colour",
  "air.anisotropy": "anisotropy g",
  "air.on": "medium",
  "air.edge": "soft edge",
  "air.height": "height falloff",
  "air.height.scale": "height falloff: scale height",
  "air.start": "distance shaping",
  "film.cleanUp": "clean-up",
  "film.finish.on": "finish",
  "film.finish.black": "black level",
  "film.finish.white": "white level",
  "film.finish.rollOff": "highlight roll-off",
  "camera.motion": "motion by time",
  "lights.motion": "motion by time",
  "sun.motion": "motion by time",
  "film.finish.curves.all": "tone curve",
  "film.finish.curves.red": "tone curve of red",
  "film.finish.curves.green": "tone curve of green",
  "film.finish.curves.blue": "tone curve of blue",
  "film.finish.lut": "look-up table",
  "film.finish.lut.asset": "look-up table",
  "film.finish.lut.strength": "strength of the look-up table",
  "film.finish.glare.halo": "glare: halo",
  "film.finish.glare.starburst": "glare: starburst",
  "film.finish.glare.width": "glare: width",
  "film.finish.glare.blades": "glare: blades",
  "film.finish.glare.turn": "glare: turn",
  "film.finish.glare.threshold": "glare: threshold",
  "render.level": "light transport",
  "lights.on": "light",
  "sun.on": "sun",
  "moon.on": "moon",
  "sky.on": "sky",
  "sun.air": "air contribution",
  "sun.surfaces": "surface contribution",
  "moon.air": "air contribution",
  "moon.surfaces": "surface contribution",
  "sky.air": "air contribution",
  "sky.surfaces": "surface contribution",
  "lights.air": "air contribution",
  "lights.surfaces": "surface contribution",
};

type Unit = "m" | "1/m" | "m/s" | "°" | "share" | "K" | "EV" | "lx" | "cd/m²" | "µm" | "s" | "stops" | "Duv" | "samples" | "";

/** Units of numbers, by the end of their path; the first that fits. */
const UNITS: readonly (readonly [RegExp, Unit])[] = [
  [/^air\.density$/, "1/m"],
  [/^air\.(scattering|absorption|anisotropy)$/, ""],
  [/^air\.emission\.colour$/, ""],
  [/^air\.emission\.strength$/, "cd/m²"],
  [/^air\.phase\.diameter$/, "µm"],
  [/^air\.phase\.(forward|backward)$/, ""],
  [/^air\.(height\.(scale|level)|edge|start\.(distance|fade))$/, "m"],
  [/^air\.region\.(centre|size|radius|height|level)$/, "m"],
  [/^air\.(height|region)\.up$|\.noise\.axis$/, ""],
  [/^air\.noise\.size$/, "m"],
  [/^air\.noise\.drift$/, "m/s"],
  [/^air\.noise\.(roughness|low|high|knee|evenness)$/, "share"],
  [/^air\.grid\.(low|high|scale|sequence\.rate|temperature\..*|tint\..*)$/, ""],
  [/\.seen\.[a-z]+$|\.(softness|mix|start\.min|hueVariation|open)$/, "share"],
  [/\.cleanUp\.[a-z]+$|\.finish\.(rollOff|black|white)$|\.region$/, "share"],
  [/\.glare\.(halo|starburst|width)$|\.lut\.strength$/, "share"],
  [/\.glare\.turn$/, "°"],
  [/^film\.balance\..*\.colour$|\.glare\.blades$/, ""],
  [/\.finish\.pivot$|\.glare\.threshold$|^film\.balance\..*\.stops$|^lights\.stops$/, "stops"],
  [/\.motion\.times$/, "s"],
  [/\.motion\.rolls$/, "°"],
  [/^film\.exposure$/, "EV"],
  [/^film\.(whiteBalance)$|^(sun|moon|lights)\.temperature$/, "K"],
  [/^film\.tint$/, "Duv"],
  [/^film\.size$/, ""],
  [/^render\.(samples|minSamples|airSamples)$|\.airSamples$/, "samples"],
  [/^render\.stepSize$/, "m"],
  [/^render\.(noiseThreshold|indirectRoughness)$/, "share"],
  [/^(sun|moon)\.illuminance$/, "lx"],
  [/^sky\.luminance$|^sky\.stars\.brightness$/, "cd/m²"],
  [/^(sun|moon|sky|lights)\.(air|surfaces)$/, "share"],
  [/\.(azimuth|elevation|angularDiameter|rotation|roll|fieldOfView|cone|soft|horizonHeight|horizonBlur)$|^sky\.stars\.size$/, "°"],
  [/^plate\.(unit|position)$/, "m"],
  [/^plate\.(tilt|heading)$/, "°"],
  [/^plate\.(range|sky|across)$/, ""],
  [/^plate\.light$/, "stops"],
  [/^time$/, "s"],
  [/^camera\.(position|target|height|aperture|focus)$/, "m"],
  [/^(lights|objects)\.(position|target|size|radius|height|length|width)$|^air\.grid\.position$/, "m"],
  [/\.fade\.[a-zA-Z]+$|\.gobo\.(size|distance)$|\.parts\.position$/, "m"],
  [/^materials\.attenuationDistance$/, "m"],
  [/^materials\.emission$/, "cd/m²"],
  [/^materials\.(metallic|roughness|specular|diffuseTransmission|opacity|transmission)$/, "share"],
];

/** Strengths of light, whose changes are also said in stops. */
const STRENGTHS = /\.(illuminance|luminance|intensity|strength)$|^materials\.emission$/;

const key = (kind: readonly SettingKind[]): string => kind.join(".");

/** "horizonBlur" as words. */
const spelt = (name: string): string => name.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);

/** What a setting is called. */
export function settingWords(kind: readonly SettingKind[]): string {
  const known = WORDS[key(kind)];
  if (known !== undefined) return known;
  if (kind[0] === "film" && kind[1] === "balance" && kind.length > 2) return `balance of ${kind.slice(2).map(spelt).join(", ")}`;
  const [, ...below] = kind;
  const last = below.at(-1);
  if (last === undefined) return "";
  const before = below.slice(0, -1).filter((k) => SAID.has(k));
  return before.length > 0 ? `${before.map(spelt).join(", ")}: ${spelt(last)}` : spelt(last);
}

/** What a thing of a list is, where it comes or goes. */
export const textOf = (part: string): string =>
  ({ lights: "a light", air: "a medium", objects: "an object", materials: "a material" })[part] ?? "there";

/** The unit of a number of the document; undefined where none is told. */
export const unitOf = (kind: readonly SettingKind[]): Unit | undefined => UNITS.find(([path]) => path.test(key(kind)))?.[1];

/** A value in words, with its unit. */
export function settingText(value: unknown, kind: readonly SettingKind[], lengths: LengthWords): string {
  if (value === null || value === undefined) return "none";
  if (typeof value === "boolean") return value ? "on" : "off";
  if (typeof value === "string") return value;
  if (typeof value === "number") return numbersText([value], unitOf(kind) ?? "", lengths);
  if (Array.isArray(value)) {
    if (value.every((v) => typeof v === "number")) return numbersText(value, unitOf(kind) ?? "", lengths);
    return value.every((v) => typeof v === "string") ? value.join(", ") || "none" : `${value.length} points`;
  }
  if (kind.at(-1) === "motion") return `${(value as Pick<Motion, "times">).times.length} keys`;
  if (kind[1] === "balance") return balanceText(value as GroupBalance);
  const { kind: own, model, pattern, object, asset } = value as Record<string, unknown>;
  const name = own ?? model ?? pattern ?? object ?? asset;
  return typeof name === "string" ? name : kind.at(-1) === "region" && kind[0] === "film" ? "a part of the frame" : "on";
}

function numbersText(values: readonly number[], unit: Unit, lengths: LengthWords): string {
  const list = (f: (v: number) => string): string => values.map(f).join(", ");
  switch (unit) {
    case "share":
      return `${list((v) => formatNumber(100 * v, 3))} %`;
    case "m":
      return `${list((v) => formatNumber(v / lengths.size))} ${lengths.unit}`;
    case "m/s":
      return `${list((v) => formatNumber(v / lengths.size))} ${lengths.unit}/s`;
    case "1/m":
      return list((v) => lengths.coefficient(v, 4));
    case "°":
      return `${list((v) => formatNumber(v))}°`;
    case "":
      return list((v) => formatNumber(v));
    case "K":
    case "EV":
    case "lx":
    case "cd/m²":
    case "µm":
    case "s":
    case "stops":
    case "Duv":
    case "samples":
      return `${list((v) => formatNumber(v))} ${unit}`;
  }
}

/** Gains of a light group, or how many of them there are. */
function balanceText(balance: GroupBalance | Balance): string {
  if (!("muted" in balance)) return `${Object.keys(balance).length} light groups`;
  const { muted, solo, air, surfaces } = balance as GroupBalance;
  const said = [
    muted ? "muted" : "",
    solo ? "solo" : "",
    `air ${formatNumber(air.stops)}`,
    `surfaces ${formatNumber(surfaces.stops)} stops`,
  ];
  return said.filter(Boolean).join(", ");
}

/** How a strength of light changed, in stops; null of what is no such, or where there is none before or after. */
export function stopsBetween(a: unknown, b: unknown, kind: readonly SettingKind[]): string | null {
  if (typeof a !== "number" || typeof b !== "number" || !STRENGTHS.test(key(kind)) || !(a > 0) || !(b > 0)) return null;
  const stops = Math.log2(b / a);
  return `${stops > 0 ? "+" : "−"}${formatNumber(Math.abs(stops), 2)} stops`;
}
