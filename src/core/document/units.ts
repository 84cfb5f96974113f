/** How lengths and what goes with them are shown and typed: the document keeps metres, whatever the artist reads. */
import { FOOT, FOOTCANDLE, formatNumber, MILE, type Quantity } from "./quantities";

export const UNIT_SYSTEMS = ["metric", "imperial"] as const;
export type UnitSystem = (typeof UNIT_SYSTEMS)[number];

/** A unit that a number is shown in, and how much of what the document keeps one of it is. */
export interface ShownUnit {
  unit: string;
  size: number;
}

/** What stands in place of a unit of the document's; every other is the same in both systems. */
const IMPERIAL: Readonly<Record<string, ShownUnit>> = {
  m: { unit: "ft", size: FOOT },
  "1/m": { unit: "1/ft", size: 1 / FOOT },
  lx: { unit: "fc", size: FOOTCANDLE },
};

/** Quantities that are read in either system. A candela gives a lux at a metre and a footcandle at a foot: the number is the same. */
const CONVERTED: readonly Quantity[] = ["length", "coefficient", "illuminance"];

/** The unit that numbers of a unit of the document are shown in. */
export function shownUnit(unit: string, quantity: Quantity, system: UnitSystem): ShownUnit {
  return (system === "imperial" && CONVERTED.includes(quantity) ? IMPERIAL[unit] : undefined) ?? { unit, size: 1 };
}

/** Lengths in words, in one system. */
export interface LengthWords {
  /** Name of the unit, and metres in it. */
  unit: string;
  size: number;
  /** A handy length to say by what air does to light: 10 m, 30 ft; m. */
  reference: number;
  /** Unit of illuminance, in short and in full. */
  illuminance: { short: string; full: string };
  /** A length with so many digits: 12.3 m, 40.4 ft. */
  exact(metres: number, digits: number): string;
  /** A length in two digits: metres or feet, from two kilometres or one mile on those. */
  rough(metres: number): string;
  /** A box's sides: 3 × 4 × 5 m. */
  box(sides: readonly number[]): string;
  /** A coefficient with so many digits: 0.02 1/m. */
  coefficient(perMetre: number, digits: number): string;
}

interface Rest extends Pick<LengthWords, "reference" | "illuminance"> {
  far: ShownUnit;
  /** Metres from which lengths are said in far units. */
  from: number;
}

function wordsOf(system: UnitSystem, { far, from, ...rest }: Rest): LengthWords {
  const { unit, size } = shownUnit("m", "length", system);
  const per = shownUnit("1/m", "coefficient", system);
  const round = (v: number): string => formatNumber(Number(v.toPrecision(2)), 2);
  return {
    ...rest,
    unit,
    size,
    exact: (metres, digits) => `${formatNumber(metres / size, digits)} ${unit}`,
    rough: (metres) => {
      if (!Number.isFinite(metres)) return "∞";
      return metres >= from ? `${round(metres / far.size)} ${far.unit}` : `${round(metres / size)} ${unit}`;
    },
    box: (sides) => `${sides.map((v) => formatNumber(v / size, 3)).join(" × ")} ${unit}`,
    coefficient: (perMetre, digits) => `${formatNumber(perMetre / per.size, digits)} ${per.unit}`,
  };
}

const WORDS: Readonly<Record<UnitSystem, LengthWords>> = {
  metric: wordsOf("metric", {
    far: { unit: "km", size: 1000 },
    from: 2000,
    reference: 10,
    illuminance: { short: "lx", full: "lux" },
  }),
  imperial: wordsOf("imperial", {
    far: { unit: "mi", size: MILE },
    from: MILE,
    reference: 30 * FOOT,
    illuminance: { short: "fc", full: "footcandle" },
  }),
};

export const lengthWords = (system: UnitSystem): LengthWords => WORDS[system];
