/** The media that fill a scene: where they lie, how dense they are, what they do to light. */
import { z } from "zod";
import { colour, coordinate, direction, finite, name, positive, share, vec3 } from "./fields";

/** Largest density, 1/m. */
export const MAX_DENSITY = 1e9;

const turned = { centre: vec3(), rotation: vec3().default([0, 0, 0]).describe("degrees about x, then y, then z") };

export const regionSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("everywhere") }),
  z.strictObject({ kind: z.literal("box"), ...turned, size: z.tuple([positive(), positive(), positive()]) }),
  z.strictObject({ kind: z.literal("sphere"), centre: vec3(), radius: positive() }),
  z.strictObject({ kind: z.literal("cylinder"), ...turned, radius: positive(), height: positive().describe("m along its own y") }),
  z.strictObject({
    kind: z.literal("cone"),
    ...turned,
    radius: positive().describe("of the base, m; the base lies below the centre, the tip above, along its own y"),
    height: positive(),
  }),
  z.strictObject({
    kind: z.literal("layer"),
    level: coordinate().describe("all that lies below this height along `up`, m"),
    up: direction().default([0, 1, 0]),
  }),
  z.strictObject({ kind: z.literal("mesh"), object: name().describe("name of an object whose surface is closed; it may be hidden") }),
]);

export const heightSchema = z.strictObject({
  shape: z
    .enum(["exponential", "linear", "quadratic", "inverse-quadratic"])
    .default("exponential")
    .describe("density y metres above the level: exp(-y/scale); 1 - y/scale; its square; 1/(1 + y/scale)²"),
  level: coordinate().default(0).describe("height along `up` at and below which density is held, m"),
  scale: positive().default(10).describe("scale height, m; for linear and quadratic the height of the top above the level"),
  up: direction().default([0, 1, 0]),
});

export const noiseSchema = z
  .strictObject({
    character: z
      .enum(["soft", "billow", "ridge", "cells", "wisps", "layers"])
      .default("soft")
      .describe("soft swells, rounded lumps, sharp crests, round cells, drawn-out wisps, or layers along an axis"),
    size: positive().default(4).describe("m, of the largest feature"),
    stretch: z
      .tuple([positive(1000), positive(1000), positive(1000)])
      .default([1, 1, 1])
      .describe("of features along x, y, z"),
    octaves: z.int().min(1).max(8).default(3),
    roughness: share().default(0.5).describe("strength of an octave against the one before"),
    axis: direction().default([0, 1, 0]).describe("which way layers are stacked"),
    bend: finite().min(0).max(4).default(0.5).describe("of layers: how far they bend away from flat, at most, in sizes"),
    lacunarity: finite().min(1.2).max(4).default(2.03).describe("fineness of an octave against the one before"),
    low: share().default(0.3).describe("noise below this is empty air"),
    high: share().default(0.7).describe("noise above this is full density"),
    knee: share().default(1).describe("softness of the passage between the thresholds: 0 straight, 1 rounded at both ends"),
    evenness: share().default(0).describe("0 as broken as the noise is, 1 flat"),
    invert: z.boolean().default(false),
    drift: vec3().default([0, 0, 0]).describe("m/s"),
    change: finite().min(0).max(100).default(0).describe("how often a second the pattern becomes another"),
    space: z.enum(["world", "region"]).default("world").describe("what the pattern is fixed to"),
    seed: z.int().min(0).max(1_000_000).default(1),
  })
  .refine((b) => b.high > b.low, { message: "high must be above low", path: ["high"] });

export const phaseSchema = z
  .discriminatedUnion("model", [
    z.strictObject({ model: z.literal("henyey-greenstein") }).describe("Henyey–Greenstein with the medium's anisotropy"),
    z
      .strictObject({
        model: z.literal("two-lobe"),
        forward: finite().min(-0.99).max(0.99).default(0.8).describe("g of the first lobe"),
        backward: finite().min(-0.99).max(0.99).default(-0.3).describe("g of the second lobe"),
        mix: share().default(0.2).describe("share of the second lobe"),
      })
      .describe("two Henyey–Greenstein lobes"),
    z.strictObject({ model: z.literal("rayleigh") }).describe("Rayleigh scattering"),
    z
      .strictObject({ model: z.literal("droplets"), diameter: finite().min(5).max(50).default(12).describe("of the water droplets, µm") })
      .describe("water droplets after the fit of Jendersie and d'Eon 2023"),
  ])
  .default({ model: "henyey-greenstein" });

const seenShares = {
  camera: share().default(1).describe("what the lens sees of it"),
  sky: share().default(1).describe("how far it veils the background for the lens"),
  reflection: share().default(1),
  refraction: share().default(1),
  indirect: share().default(1),
  shadow: share().default(1).describe("how far it dims light on its way from a light"),
};

const placed = {
  position: vec3().default([0, 0, 0]).describe("m"),
  rotation: vec3().default([0, 0, 0]).describe("degrees about x, then y, then z"),
  scale: positive(1e6).default(1),
};

/** Shares of a channel between its ends, and what they become; straight between, held past the ends. */
const ramp = <T extends z.ZodType>(to: T) =>
  z
    .array(z.tuple([share(), to]))
    .min(2)
    .max(8)
    .refine((c) => c.every(([at], i) => i === 0 || (at as number) > (c[i - 1]![0] as number)), "places must rise");

export const tintSchema = z
  .discriminatedUnion("from", [
    z.strictObject({
      from: z.literal("ramp"),
      channel: z.string().min(1).max(200).default("temperature"),
      low: finite().min(-1e9).max(1e9).default(0).describe("value at the ramp's beginning"),
      high: finite().min(-1e9).max(1e9).default(1).describe("value at its end"),
      colours: ramp(colour()).default([
        [0, [1, 1, 1]],
        [1, [1, 0.5, 0.2]],
      ]),
    }),
    z.strictObject({
      from: z.literal("colours"),
      channel: z
        .string()
        .min(1)
        .max(200)
        .default("colour")
        .describe("three numbers a voxel, each from 0 to 1: channels of this name with .x, .y and .z"),
    }),
  ])
  .refine((t) => t.from !== "ramp" || t.high !== t.low, { message: "must differ from low", path: ["high"] });

export const sequenceSchema = z.strictObject({
  frames: z.array(name()).min(1).max(10_000).describe("keys into assets, one a frame"),
  rate: finite().gt(0).max(240).default(24).describe("frames a second"),
  loop: z.boolean().default(true).describe("begins anew at its end; else its last frame stays"),
  between: z.boolean().default(true).describe("times between two frames show voxels between theirs"),
});

export const gridSchema = z
  .strictObject({
    asset: name().describe("key into assets: a sparse volume file (OpenVDB)"),
    sequence: sequenceSchema.nullable().default(null).describe("files by time, in place of the asset"),
    channel: z.string().min(1).max(200).default("density").describe("grid of that file that holds densities"),
    ...placed,
    low: finite().min(-1e9).max(1e9).default(0).describe("value that is empty air"),
    high: finite().min(-1e9).max(1e9).nullable().default(null).describe("value that is full density; null for the largest in the grid"),
    curve: ramp(share()).nullable().default(null).describe("share of full density by the share of the way from low to high; null for even"),
    tint: tintSchema
      .nullable()
      .default(null)
      .describe("share of what is scattered that stays scattered, per band, by a channel; the rest is absorbed: density stays"),
    temperature: z
      .strictObject({
        channel: z.string().min(1).max(200).default("temperature"),
        scale: finite().min(-1e6).max(1e6).default(1).describe("kelvin a unit of the channel"),
        offset: finite().min(-1e6).max(1e6).default(0).describe("kelvin at 0"),
        strength: finite().min(0).max(1e6).default(1).describe("1 glows as soot does: black body light times the absorption coefficient"),
      })
      .nullable()
      .default(null)
      .describe("temperatures at which the medium glows, in place of its even emission"),
  })
  .refine((g) => g.high === null || g.high !== g.low, { message: "must differ from low", path: ["high"] })
  .refine((g) => g.sequence === null || g.high !== null, {
    message: "a sequence says which value is full density: the largest of each frame would make it pump",
    path: ["high"],
  });

export const proximitySchema = z.strictObject({
  object: name().describe("name of an object; it may be hidden"),
  curve: z
    .array(z.tuple([finite().min(0).max(1e5), share()]))
    .min(2)
    .max(8)
    .refine((c) => c.every(([d], i) => i === 0 || d > c[i - 1]![0]), "distances must rise")
    .default([
      [0, 1],
      [1, 0],
    ])
    .describe("distance from the object (m) and share of the density there; straight between, held past the ends"),
});

export const mediumSchema = z.strictObject({
  name: name().default("air"),
  on: z.boolean().default(true),
  density: finite().min(0).max(MAX_DENSITY).default(0.02).describe("1/m; multiplies both colours"),
  scattering: colour().default([1, 1, 1]).describe("σs = density × this, per band"),
  absorption: colour(100).default([0, 0, 0]).describe("σa = density × this, per band"),
  emission: z
    .strictObject({
      colour: colour().default([1, 0.6, 0.3]),
      strength: finite().min(0).max(1e9).default(10).describe("cd/m² emitted per metre at full density"),
    })
    .nullable()
    .default(null),
  anisotropy: finite().min(-0.99).max(0.99).default(0.6).describe("g of Henyey–Greenstein; above 0 is forward"),
  phase: phaseSchema,
  region: regionSchema.default({ kind: "everywhere" }),
  follows: z
    .strictObject({ kind: z.enum(["object", "light"]), name: name() })
    .nullable()
    .default(null)
    .describe("what the region moves and turns along with in the bench"),
  edge: finite().min(0).max(1e6).default(0).describe("m over which density rises from the border inwards"),
  height: heightSchema.nullable().default(null).describe("falloff above a level; held below it"),
  noise: noiseSchema.nullable().default(null),
  grid: gridSchema.nullable().default(null).describe("densities from a file; air that is everywhere then fills the grid's own box"),
  proximity: proximitySchema.nullable().default(null).describe("density by the distance to an object"),
  start: z
    .strictObject({
      distance: finite().min(0).max(1e6).default(0).describe("m from the lens"),
      fade: finite().min(0).max(1e6).default(10).describe("m over which it then comes in"),
      min: share().default(0).describe("share of the density kept before that"),
    })
    .nullable()
    .default(null)
    .describe("artistic, not physical: keeps the air away from the lens"),
  seen: z.strictObject(seenShares).prefault({}).describe("shares with which kinds of rays see this medium; 1 is the physical truth"),
});

export const pinSchema = z.strictObject({
  point: vec3().describe("m"),
  share: finite().min(0.001).max(1).describe("transmittance wanted from it to the lens"),
});

export type Pin = z.output<typeof pinSchema>;
export type Medium = z.output<typeof mediumSchema>;
export type GridTint = z.output<typeof tintSchema>;
export type VolumeGrid = z.output<typeof gridSchema>;
export type Region = Medium["region"];
