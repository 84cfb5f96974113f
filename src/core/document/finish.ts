/** What is done to the picture after exposure and white balance. Nothing of it renders, and no linear file has it. */
import { z } from "zod";
import { finite, name, share } from "./fields";

/** Display values by display values: points from left to right, smooth between, level past the ends; null changes nothing. */
const toneCurveSchema = z
  .array(z.tuple([share(), share()]))
  .min(2)
  .max(8)
  .refine((points) => points.every(([x], i) => i === 0 || x > points[i - 1]![0]), "places must rise")
  .nullable()
  .default(null);

/** Tone curves: of all bands together, then of each. */
export const TONE_CURVES = ["all", "red", "green", "blue"] as const;

/** Light that lens and eye spread from bright places: of the light it takes nothing and adds nothing. */
export const glareSchema = z
  .strictObject({
    halo: finite().min(0).max(0.5).default(0).describe("share of the light that is spread round about"),
    starburst: finite().min(0).max(0.5).default(0).describe("share of the light that is spread along rays"),
    width: finite()
      .min(0.005)
      .max(0.5)
      .default(0.12)
      .describe(
        "how far it is spread: standard deviation of the halo's widest part and mean length of the rays, as shares of the frame's height",
      ),
    blades: z
      .int()
      .min(3)
      .max(12)
      .default(6)
      .describe("of the lens's iris: as many rays where that is even, twice as many where it is odd"),
    turn: finite().min(-180).max(180).default(0).describe("degrees by which the rays are turned"),
    threshold: finite()
      .min(-10)
      .max(20)
      .nullable()
      .default(null)
      .describe("stops above white below which no light is spread; null spreads all"),
  })
  .prefault({})
  .describe("glare of bright places, in linear light before all else; it is of lens and eye, not of the air");
export type Glare = z.infer<typeof glareSchema>;

export const finishSchema = z
  .strictObject({
    on: z.boolean().default(true).describe("false leaves all of it out; highlights then roll off as by default"),
    contrast: finite().min(0.25).max(4).default(1).describe("factor of the distance in stops from the pivot"),
    pivot: finite().min(-8).max(6).default(0).describe("stops above middle grey; light that contrast leaves as it is"),
    saturation: finite().min(0).max(3).default(1).describe("factor of the distance from grey of the same luminance"),
    rollOff: share().default(0.5).describe("how early highlights bend towards white: 0 cuts them off at white, 1 bends from a fifth of it"),
    black: finite().min(0).max(0.5).default(0).describe("display value (0 to 1) that becomes black"),
    white: finite().min(0.5).max(1).default(1).describe("display value (0 to 1) that becomes white"),
    curves: z
      .strictObject({ all: toneCurveSchema, red: toneCurveSchema, green: toneCurveSchema, blue: toneCurveSchema })
      .prefault({})
      .describe("tone curves of display values: of all bands together, hue kept, then of each"),
    glare: glareSchema,
    lut: z
      .strictObject({
        asset: name().describe("key into assets: a .cube look-up table of sRGB display values"),
        strength: share().default(1).describe("how far what it gives takes the place of what it is given"),
      })
      .nullable()
      .default(null)
      .describe("the last step"),
  })
  .refine((f) => f.white - f.black >= 0.05, { message: "must be 0.05 above black at least", path: ["white"] })
  .prefault({})
  .describe("what is done to the picture after exposure and white balance: it never renders anew, and no linear file has it");
export type Finish = z.infer<typeof finishSchema>;
