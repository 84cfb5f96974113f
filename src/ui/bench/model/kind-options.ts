/**
 * Labels and tooltips of every kind that can be chosen, one table per kind. The compiler holds each against the document: a new member
 * does not build until it has words here, and with them it is offered.
 */
import type {
  AirSize,
  CameraKind,
  Estimator,
  GoboPattern,
  HeightShape,
  LightKind,
  NoiseCharacter,
  ObjectKind,
  PhaseModel,
  PixelFilter,
  RegionKind,
  SkyModel,
  TransportLevel,
} from "#core/document/kinds";

export interface Option {
  label: string;
  tooltip: string;
}
type Options<K extends string> = Readonly<Record<K, Option>>;

export const PHASE_OPTIONS = {
  "henyey-greenstein": { label: "Henyey–Greenstein", tooltip: "One lobe, forward or backward: haze, dust, smoke." },
  "two-lobe": { label: "two-lobe Henyey–Greenstein", tooltip: "A forward and a backward lobe, mixed." },
  rayleigh: { label: "Rayleigh", tooltip: "Molecules of air: forward and backward alike, less sideways." },
  droplets: { label: "water droplets (Mie)", tooltip: "Fog and cloud, by the diameter of their droplets." },
} satisfies Options<PhaseModel>;

export const REGION_OPTIONS = {
  everywhere: { label: "everywhere", tooltip: "The whole scene." },
  box: { label: "box", tooltip: "A box, placed and rotated." },
  sphere: { label: "sphere", tooltip: "A sphere." },
  cylinder: { label: "cylinder", tooltip: "An upright cylinder, placed and rotated." },
  cone: { label: "cone", tooltip: "A cone with its tip up, placed and rotated." },
  layer: { label: "layer", tooltip: "Everything below a height." },
  mesh: { label: "mesh", tooltip: "The inside of a closed object." },
} satisfies Options<RegionKind>;

export const HEIGHT_OPTIONS = {
  exponential: { label: "exponential", tooltip: "As air under gravity: 37 % one scale height up." },
  linear: { label: "linear, to a top", tooltip: "In a straight line to nothing at the top." },
  quadratic: { label: "quadratic, to a top", tooltip: "Softly to nothing at the top." },
  "inverse-quadratic": { label: "inverse quadratic", tooltip: "With a long tail." },
} satisfies Options<HeightShape>;

export const NOISE_OPTIONS = {
  soft: { label: "soft", tooltip: "Soft swells." },
  billow: { label: "billow", tooltip: "Rounded lumps." },
  ridge: { label: "ridge", tooltip: "Sharp crests." },
  cells: { label: "cells", tooltip: "Round cells." },
  wisps: { label: "wisps", tooltip: "Long, curled wisps." },
  layers: { label: "layers", tooltip: "Bands along an axis, swaying: stratified haze." },
} satisfies Options<NoiseCharacter>;

export const LIGHT_OPTIONS = {
  point: { label: "point", tooltip: "Shines in all directions." },
  spot: { label: "spot", tooltip: "A cone with a soft edge." },
  rectangle: { label: "rectangle", tooltip: "An area light with straight sides." },
  disk: { label: "disk", tooltip: "A round area light." },
  sphere: { label: "sphere", tooltip: "A luminous ball." },
  tube: { label: "tube", tooltip: "A luminous cylinder." },
  profile: { label: "photometric profile (IES)", tooltip: "Candela by direction, from a measured file." },
} satisfies Options<LightKind>;

export const GOBO_OPTIONS = {
  leaves: { label: "leaves", tooltip: "Foliage." },
  blinds: { label: "blinds", tooltip: "Parallel slats." },
  bars: { label: "window bars", tooltip: "Panes between bars." },
  ripples: { label: "ripples", tooltip: "Light through moving water." },
  image: { label: "image", tooltip: "Bright parts let light through." },
  sequence: { label: "image sequence", tooltip: "Images by time." },
} satisfies Options<GoboPattern>;

export const SKY_OPTIONS = {
  gradient: { label: "gradient", tooltip: "Two colours, from zenith to horizon." },
  clear: { label: "clear sky", tooltip: "Analytic clear sky that follows the sun." },
  overcast: { label: "overcast", tooltip: "CIE standard overcast sky." },
  image: { label: "image", tooltip: "A picture of all directions." },
} satisfies Options<SkyModel>;

export const OBJECT_OPTIONS = {
  box: { label: "box", tooltip: "A box." },
  sphere: { label: "sphere", tooltip: "A ball." },
  cylinder: { label: "cylinder", tooltip: "A capped cylinder." },
  rectangle: { label: "rectangle", tooltip: "A flat rectangle." },
  disk: { label: "disk", tooltip: "A flat disk." },
  model: { label: "model", tooltip: "A model from a file." },
  plate: { label: "plate", tooltip: "The surface through a plate's depth, in the way of light." },
} satisfies Options<ObjectKind>;

/** Levels of light transport; `method` is the trade's term for our own word. */
export const LEVEL_OPTIONS = {
  veil: { label: "veil", method: "analytic", tooltip: "By distance and height, in closed form; no shadows in the air. Instant." },
  shafts: { label: "shafts", method: "single scattering", tooltip: "Light scatters once in the air, with shadows." },
  full: { label: "full", method: "multiple scattering", tooltip: "Light scatters on between air and surfaces, which brightens thick air." },
} satisfies Readonly<Record<TransportLevel, Option & { method: string }>>;

export const AIR_SIZE_OPTIONS = {
  full: { label: "full", tooltip: "At every pixel." },
  half: { label: "half", tooltip: "At one pixel of four." },
  quarter: { label: "quarter", tooltip: "At one pixel of sixteen." },
} satisfies Options<AirSize>;

export const ESTIMATOR_OPTIONS = {
  tracking: { label: "tracking", tooltip: "Unbiased." },
  stepping: { label: "stepping", tooltip: "Ray marching: smooth, biased where the step is coarse." },
} satisfies Options<Estimator>;

export const CAMERA_OPTIONS = {
  perspective: { label: "perspective", tooltip: "As a lens sees." },
  orthographic: { label: "orthographic", tooltip: "Along parallel rays." },
} satisfies Options<CameraKind>;

export const FILTER_OPTIONS = {
  box: { label: "box", tooltip: "Samples count over one pixel: sharp." },
  tent: { label: "tent", tooltip: "Samples count over two pixels, less towards the edge: smoother." },
} satisfies Options<PixelFilter>;

/** Members of a table as a control takes them, in the order of the table. */
export const optionsOf = <K extends string, W extends K = never>(
  table: Options<K>,
  without: readonly W[] = [],
): (readonly [Exclude<K, W>, string])[] =>
  (Object.keys(table) as K[])
    .filter((k): k is Exclude<K, W> => !(without as readonly K[]).includes(k))
    .map((k) => [k, table[k].label] as const);
