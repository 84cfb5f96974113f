/** What lights a scene: sun, moon, sky, stars and local lights. */
import { z } from "zod";
import { motionSchema, sunMotionSchema } from "./motion";
import { colour, direction, finite, name, positive, share, temperature, vec3 } from "./fields";

const angles = {
  azimuth: finite().min(-360).max(360).default(0).describe("degrees from -z towards +x"),
  elevation: finite().min(-90).max(90).default(30).describe("degrees above the horizon"),
};

const tint = () => colour(1).default([1, 1, 1]).describe("a filter before the light");

/** What a light does to the air and to surfaces, and which media it reaches; ones are the physical truth. */
const given = {
  air: share().default(1).describe("share of it that lights the air"),
  surfaces: share().default(1).describe("share of it that lights surfaces"),
  media: z.array(name()).max(32).nullable().default(null).describe("names of the media it lights; null for all"),
  airSamples: z
    .int()
    .min(1)
    .max(64)
    .nullable()
    .default(null)
    .describe("points of each camera ray at which it is asked by itself, per sample; null: one of those that render.airSamples shares out"),
  group: name().nullable().default(null).describe("light group it is kept with on the film; null for one by its own name"),
};

export const goboSchema = z
  .strictObject({
    pattern: z.enum(["leaves", "blinds", "bars", "ripples", "image", "sequence"]).describe("procedural, an image, or images by time"),
    image: name().optional().describe("key into assets, for the pattern image"),
    frames: z.array(name()).min(1).max(10_000).optional().describe("keys into assets, one a frame, for the pattern sequence"),
    rate: finite().gt(0).max(240).default(24).describe("frames a second of a sequence"),
    loop: z.boolean().default(true).describe("begins a sequence anew at its end; else its last frame stays"),
    count: finite().min(0.5).max(64).default(6).describe("repeats of a procedural pattern across"),
    open: share().default(0.5).describe("share of a procedural pattern that lets light through"),
    rotation: finite().min(-360).max(360).default(0).describe("degrees"),
    size: positive().default(4).describe("m across one image where it has no cone to fill: before the sun and area lights"),
    distance: positive().default(0.3).describe("m from the light; nearer is softer"),
    seed: z.int().min(0).max(1_000_000).default(1),
  })
  .refine((g) => (g.pattern === "image") === (g.image !== undefined), {
    message: "an image goes with the pattern image, and only with it",
    path: ["image"],
  })
  .refine((g) => (g.pattern === "sequence") === (g.frames !== undefined), {
    message: "frames go with the pattern sequence, and only with it",
    path: ["frames"],
  });

export const sunSchema = z.strictObject({
  on: z.boolean().default(true),
  ...angles,
  illuminance: finite().min(0).max(1e7).default(50000).describe("lux on a plane facing the sun, without the air of the document"),
  temperature: temperature(5500),
  tint: tint(),
  angularDiameter: finite().min(0.01).max(90).default(0.53).describe("degrees"),
  diskVisible: z.boolean().default(true),
  gobo: goboSchema.nullable().default(null).describe("before the sun, repeated across the scene"),
  motion: sunMotionSchema.nullable().default(null).describe("where it stands by time"),
  ...given,
});

export const moonSchema = z.strictObject({
  on: z.boolean().default(false),
  ...angles,
  illuminance: finite().min(0).max(1e5).default(0.25).describe("lux on a plane facing it; a full moon gives about a quarter"),
  temperature: temperature(4100),
  tint: tint(),
  angularDiameter: finite().min(0.01).max(30).default(0.52).describe("degrees"),
  ...given,
});

export const starsSchema = z.strictObject({
  count: z.int().min(0).max(200_000).default(4000).describe("over the whole sphere"),
  size: finite().min(0.005).max(2).default(0.06).describe("angular diameter of a bright one, degrees"),
  brightness: finite().min(0).max(1e6).default(2).describe("luminance of a bright one, cd/m²"),
  hueVariation: share().default(0.5),
  seed: z.int().min(0).max(1_000_000).default(1),
});

export const skySchema = z.strictObject({
  on: z.boolean().default(true),
  model: z
    .enum(["gradient", "clear", "overcast", "image"])
    .default("gradient")
    .describe("two colours (equal: plain); the clear sky of the sun's place and the turbidity; the CIE overcast sky; an image"),
  luminance: finite().min(0).max(1e7).default(4000).describe("cd/m²: scale of both colours, or zenith luminance of the overcast sky"),
  zenith: colour(10).default([0.6, 0.8, 1]),
  horizon: colour(10).default([0.9, 0.95, 1]).describe("at the horizon, and below it where there is no ground"),
  horizonHeight: finite().min(-89).max(89).default(0).describe("degrees; where a gradient begins, and the ground ends"),
  ground: colour(10)
    .nullable()
    .default(null)
    .describe(
      "below the horizon, in the sky's luminance, of a clear sky in that which a level plane sees; null: none; not before an image",
    ),
  horizonBlur: finite().min(0).max(90).default(0).describe("degrees over which the horizon passes into the ground, half of them above it"),
  turbidity: finite().min(1.7).max(10).default(3).describe("haze of the clear sky: 2 pure, 3 clear, 6 hazy"),
  strength: finite().min(0).max(1e6).default(1).describe("factor on the clear sky and on an image"),
  image: name().nullable().default(null).describe("key into assets: an equirectangular picture (OpenEXR, Radiance HDR)"),
  rotation: finite().min(-360).max(360).default(0).describe("degrees, of the image"),
  stars: starsSchema.nullable().default(null),
  air: given.air,
  surfaces: given.surfaces,
  group: given.group,
});

const local = {
  name: name().default("light"),
  on: z.boolean().default(true),
  position: vec3(),
  intensity: finite()
    .min(0)
    .max(1e9)
    .default(1000)
    .describe("strength, in its unit; a profile has its candela from its file, and only goes dark at 0"),
  unit: z
    .enum(["cd", "lm", "lux", "W", "cd/m2"])
    .default("cd")
    .describe(
      "cd, and lux at 1 m of a point as strong, on the axis (from afar for lights with an area, which give less nearer by); lumen in all; radiant watt at 243 lm/W; cd/m2 for lights with an area",
    ),
  stops: finite().min(-40).max(40).default(0).describe("above or below that strength"),
  temperature: temperature(4000),
  tint: tint(),
  motion: motionSchema.nullable().default(null).describe("where it is, and what it is aimed at, by time"),
  follows: name().nullable().default(null).describe("name of an object; the bench moves and turns the light along with it"),
  fade: z
    .strictObject({
      nearFrom: finite().min(0).max(1e6).default(0),
      nearTo: finite().min(0).max(1e6).default(0),
      farFrom: finite().min(0).max(1e7).default(1e7),
      farTo: finite().min(0).max(1e7).default(1e7),
    })
    .nullable()
    .default(null)
    .describe("artistic: dark up to nearFrom, whole from nearTo to farFrom, dark from farTo, m"),
  ...given,
};
const aimed = { target: vec3(), roll: finite().min(-360).max(360).default(0) };
const body = {
  visible: z
    .boolean()
    .default(false)
    .describe("whether the lens sees the emitter itself; it hides nothing behind it. Glossy surfaces reflect it in any case"),
};
const beam = { spread: finite().min(0.02).max(1).default(1).describe("1 shines as matt surfaces do, less is narrowed to a beam") };

export const lightSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("point"), ...local, name: name().default("point") }),
  z.strictObject({
    kind: z.literal("spot"),
    ...local,
    name: name().default("spot"),
    ...aimed,
    cone: finite().min(0.1).max(178).default(40).describe("full angle at which light ends, degrees"),
    softness: share().default(0.3).describe("share of the half angle over which the edge fades"),
    radius: finite().min(0).max(1e4).default(0).describe("of the emitter, m; softens a gobo and shadows"),
    gobo: goboSchema.nullable().default(null),
  }),
  z.strictObject({
    kind: z.literal("rectangle"),
    ...local,
    ...aimed,
    ...beam,
    ...body,
    size: z.tuple([positive(1e5), positive(1e5)]).default([1, 1]),
    bothSides: z.boolean().default(false),
    gobo: goboSchema.nullable().default(null),
    image: name().nullable().default(null).describe("key into assets: colours the emitter"),
  }),
  z.strictObject({
    kind: z.literal("disk"),
    ...local,
    ...aimed,
    ...beam,
    ...body,
    radius: positive(1e5).default(0.5),
    bothSides: z.boolean().default(false),
    gobo: goboSchema.nullable().default(null),
  }),
  z.strictObject({ kind: z.literal("sphere"), ...local, ...body, radius: positive(1e5).default(0.2) }),
  z.strictObject({
    kind: z.literal("tube"),
    ...local,
    ...body,
    direction: direction().default([1, 0, 0]),
    length: positive(1e5).default(1.2),
    radius: positive(1e3).default(0.02),
  }),
  z.strictObject({
    kind: z.literal("profile"),
    ...local,
    ...aimed,
    asset: name().describe("key into assets: an IES photometric file; its candela are kept, times `scale`"),
    scale: finite().min(0).max(1e6).default(1),
  }),
]);

export type Light = z.output<typeof lightSchema>;
export type Gobo = z.output<typeof goboSchema>;
export type Sky = z.output<typeof skySchema>;
export type Sun = z.output<typeof sunSchema>;
export type Moon = z.output<typeof moonSchema>;
