/** The balance of lights after the render: gains of what the film keeps of each light group. Nothing of it renders. */
import { z } from "zod";
import { colour, finite, name } from "./fields";

/** Sides of the light that a group gives to. */
export const BALANCED_SIDES = ["air", "surfaces"] as const;
export type BalancedSide = (typeof BALANCED_SIDES)[number];

const gainSchema = z
  .strictObject({
    stops: finite().min(-20).max(20).default(0).describe("above or below what was rendered"),
    colour: colour(1).default([1, 1, 1]).describe("a filter, linear"),
  })
  .prefault({});

export const groupBalanceSchema = z.strictObject({
  muted: z.boolean().default(false),
  solo: z.boolean().default(false).describe("shown with others that are soloed alone"),
  air: gainSchema.describe("of the light that the air sends to the lens"),
  surfaces: gainSchema.describe("of the light that surfaces and the sky send to the lens"),
});

export const balanceSchema = z
  .record(name(), groupBalanceSchema)
  .refine((all) => Object.keys(all).length <= 256, "must not name more than 256 light groups")
  .default({})
  .describe("gains of light groups, by their names, on the film that keeps them apart (lightGroups)");

export type GroupBalance = z.output<typeof groupBalanceSchema>;
export type Balance = z.output<typeof balanceSchema>;

/** A group that is left as it was rendered. */
export const EVEN: GroupBalance = groupBalanceSchema.parse({});

/** Whether a film keeps what each light group gives apart: where that is asked for, and where it is balanced. */
export const keepsLightGroups = (film: { lightGroups: boolean; balance: Balance }): boolean =>
  film.lightGroups || Object.keys(film.balance).length > 0;

/** Factors of a group's bands. */
export type Gain = readonly [number, number, number];

/** Factors of a group's light on a side. */
export function gainOf(balance: Balance, group: string, side: BalancedSide): Gain {
  const own = balance[group] ?? EVEN;
  const silent = own.muted || (!own.solo && Object.values(balance).some((b) => b.solo));
  const k = silent ? 0 : 2 ** own[side].stops;
  return [k * own[side].colour[0], k * own[side].colour[1], k * own[side].colour[2]];
}

/** One group alone, with the gains that it has. */
export function loneBalance(balance: Balance, group: string): Balance {
  const rest = Object.entries(balance).map(([name, b]) => [name, { ...b, solo: false }] as const);
  return { ...Object.fromEntries(rest), [group]: { ...(balance[group] ?? EVEN), muted: false, solo: true } };
}

/** Whether it changes anything of the groups that there are. */
export const balances = (balance: Balance, groups: readonly string[]): boolean =>
  groups.some((group) => BALANCED_SIDES.some((side) => gainOf(balance, group, side).some((k) => k !== 1)));

/** Gains of light groups in the order of the film's; null where none changes anything. */
export function gainsOf(balance: Balance | undefined, groups: readonly string[]): Record<BalancedSide, Gain[]> | null {
  if (!balance || !balances(balance, groups)) return null;
  const of = (side: BalancedSide): Gain[] => groups.map((group) => gainOf(balance, group, side));
  return { air: of("air"), surfaces: of("surfaces") };
}
