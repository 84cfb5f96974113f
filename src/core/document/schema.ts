/**
 * The scene document: everything a render depends on, as JSON. Units are metres, degrees for angles,
 * lux, candela and cd/m² for light, 1/m for coefficients; colours are linear Rec. 709 (D65).
 * Unknown fields are refused, so that a misspelt one never passes silently.
 */
import { motionSchema } from "./motion";
import { z } from "zod";
import type { Material } from "../data/material";
import { MOST_TINT } from "../optics/colour";
import { mediumSchema, pinSchema } from "./air";
import { balanceSchema } from "./balance";
import { budgetSchema } from "./budget";
import { FARTHEST, colour, finite, name, positive, share, vec3, title } from "./fields";

import { lightSchema, moonSchema, skySchema, sunSchema } from "./lights";
import { plateSchema } from "./plate";
import { UNIT_SYSTEMS } from "./units";

export { mediumSchema } from "./air";
export type { Medium } from "./air";
import { finishSchema } from "./finish";
export type { Finish } from "./finish";
export { lightSchema, skySchema, sunSchema } from "./lights";
export type { Light } from "./lights";

/** Version of the document format that this program writes. */
export const DOCUMENT_VERSION = 2;

export const LIMITS = {
  /** Pixels on one side, and in all. */
  side: 16384,
  pixels: 16_777_216,
  objects: 4096,
  lenses: 256,
  lights: 4096,
  coordinate: FARTHEST,
  media: 32,
  pins: 12,
  samples: 65536,
  bounces: 1024,
  /** Characters of a document's text. */
  text: 8_000_000,
} as const;

export const materialSchema = z
  .strictObject({
    baseColor: colour().optional().describe("0.5 grey where it is not said, and clear (1) where light is transmitted"),
    metallic: share().default(0),
    roughness: share().default(1),
    specular: share().default(1).describe("weight of the dielectric reflection (0: purely diffuse)"),
    diffuseTransmission: share().default(0).describe("share of diffuse light that passes through, as in a leaf"),
    emission: colour(1e9).default([0, 0, 0]).describe("luminance per band, cd/m²"),
    opacity: share().default(1).describe("share of light that meets the surface at all"),
    transmission: share().default(0).describe("share of light that passes as through glass, tinted by the base colour"),
    solid: z.boolean().default(false).describe("glass with an inside: refracts and absorbs; else a thin pane that light passes straight"),
    ior: finite().min(1).max(4).default(1.5).describe("index of refraction"),
    attenuationColor: colour().default([1, 1, 1]).describe("colour left of white light after the attenuation distance inside a solid"),
    attenuationDistance: positive(1e6).default(1e6).describe("m"),
  })
  // in the order of a document that says it: read again it must be the same text
  .transform(({ baseColor, ...m }): Material => ({ baseColor: baseColor ?? (m.transmission > 0 ? [1, 1, 1] : [0.5, 0.5, 0.5]), ...m }))
  .describe("metal–rough material after glTF 2.0") satisfies z.ZodType<Material>;

const placement = {
  name: name().optional(),
  position: vec3().default([0, 0, 0]).describe("m"),
  rotation: vec3().default([0, 0, 0]).describe("degrees about x, then y, then z"),
  hidden: z.boolean().default(false),
  locked: z.boolean().default(false).describe("not picked or moved in the views"),
  holdout: z
    .boolean()
    .default(false)
    .describe("black to the lens, in the way of all light as ever: cuts its shape out of what it stands before"),
};

/** What is changed of one part of a model, and of the parts below it. */
export const partSchema = z
  .strictObject({
    position: vec3().default([0, 0, 0]).describe("m it is moved by, in the model's own frame and scale"),
    rotation: vec3().default([0, 0, 0]).describe("degrees about x, then y, then z, through the part's own place"),
    scale: positive(1e4).default(1),
    hidden: z.boolean().default(false),
    locked: z.boolean().default(false),
    holdout: z.boolean().default(false),
    material: name().nullable().default(null).describe("key into materials, in place of the model's own"),
    label: name().nullable().default(null).describe("name it goes by in the list"),
  })
  .describe("changes of a part; what is left out stays as the model has it");
const shaped = { ...placement, material: name().describe("key into materials") };

export const objectSchema = z.discriminatedUnion("kind", [
  z.strictObject({
    kind: z.literal("model"),
    ...placement,
    asset: name().describe("key into assets"),
    scale: positive(1e9).default(1),
    material: name().nullable().default(null).describe("key into materials, in place of all its own"),
    parts: z
      .record(z.string().min(1).max(20_000), partSchema)
      .default({})
      .describe("changed parts by their path: names from the root down, between slashes"),
  }),
  z.strictObject({
    kind: z.literal("rectangle"),
    ...shaped,
    size: z.tuple([positive(), positive()]).describe("m along x and z; faces up"),
  }),
  z.strictObject({ kind: z.literal("disk"), ...shaped, radius: positive() }),
  z.strictObject({ kind: z.literal("box"), ...shaped, size: z.tuple([positive(), positive(), positive()]) }),
  z.strictObject({ kind: z.literal("sphere"), ...shaped, radius: positive() }),
  z.strictObject({ kind: z.literal("cylinder"), ...shaped, radius: positive(), height: positive().describe("m along y, capped") }),
  z
    .strictObject({ kind: z.literal("plate"), ...shaped })
    .describe(
      "the surface through the depth of the document's plate, cut at its jumps: in the way of light, not seen through the plate's lens",
    ),
]);

export const assetSchema = z.strictObject({
  uri: z
    .string()
    .min(1)
    .max(400)
    .refine((s) => !/^([a-z]+:|[\\/])|\\|(^|\/)\.\.(\/|$)|\0/i.test(s), "must be a plain relative path below the document's folder")
    .describe("file beside the document"),
  sha256: z
    .string()
    .regex(/^[0-9a-f]{64}$/, "must be 64 hexadecimal digits")
    .optional()
    .describe("hash of the file's bytes"),
});

export const cameraSchema = z.strictObject({
  kind: z.enum(["perspective", "orthographic"]).default("perspective"),
  position: vec3().default([0, 1.6, 5]),
  target: vec3().default([0, 1.6, 0]),
  roll: finite().min(-360).max(360).default(0).describe("degrees"),
  fieldOfView: finite().min(0.1).max(170).default(45).describe("vertical angle, degrees; perspective only"),
  height: positive().default(10).describe("height of the frame, m; orthographic only"),
  aperture: finite().min(0).max(10).default(0).describe("diameter of the lens opening, m; 0 keeps everything sharp"),
  focus: positive().default(5).describe("distance along the lens axis that is sharp, m"),
  motion: motionSchema.nullable().default(null).describe("where it stands and what it looks at by time; the rest is as it stands then"),
});

/** A lens that is kept to come back to. */
export const lensSchema = z.strictObject({ name: name(), camera: cameraSchema.prefault({}) });

export const renderSchema = z.strictObject({
  level: z
    .enum(["veil", "shafts", "full"])
    .default("shafts")
    .describe("veil: analytic air without shadows in it; shafts: light scatters once in the air; full: again and again"),
  airBounces: z
    .int()
    .min(1)
    .max(LIMITS.bounces)
    .default(8)
    .describe("scatterings in the air along a path, level full; 1 keeps a veil to light scattered once"),
  surfaceBounces: z.int().min(0).max(LIMITS.bounces).default(1).describe("indirect bounces off surfaces"),
  airSamples: z.int().min(1).max(64).default(4).describe("points of each camera ray asked for scattered light, per sample"),
  airSize: z
    .enum(["full", "half", "quarter"])
    .default("full")
    .describe("size at which the air is sampled; it is joined to surfaces of full size along their distances and opacities"),
  estimator: z.enum(["tracking", "stepping"]).default("tracking").describe("for air with break-up; other air has closed forms"),
  stepSize: z
    .union([z.literal("auto"), positive()])
    .default("auto")
    .describe("m"),
  maxSteps: z.int().min(1).max(100_000).default(2048).describe("steps one ray may take through a medium; longer ways take longer steps"),
  samples: z.int().min(1).max(LIMITS.samples).default(256).describe("a pixel, at most where there is a noise threshold"),
  noiseThreshold: finite()
    .gt(0)
    .max(1)
    .nullable()
    .default(null)
    .describe("stops where the standard error is this share of the brightness; null samples all pixels alike"),
  thresholdOf: z
    .enum(["rendered", "cleaned"])
    .default("rendered")
    .describe("picture that the noise threshold is for: as it is rendered, or as film.cleanUp leaves it"),
  minSamples: z.int().min(2).max(LIMITS.samples).default(16).describe("a pixel, before the noise threshold may stop it"),
  fireflyClamp: positive(1e9)
    .nullable()
    .default(null)
    .describe("most that one sample may give, in multiples of the exposure's white; takes away light, so null for reference"),
  indirectRoughness: share()
    .default(0)
    .describe(
      "roughness that surfaces have at least for light that is scattered again before it reaches the lens; keeps rare glints of glints out, 0 for reference",
    ),
  seed: z.int().min(0).max(4294967295).default(1),
});

export const filmSchema = z.strictObject({
  size: z
    .tuple([z.int().min(1).max(LIMITS.side), z.int().min(1).max(LIMITS.side)])
    .refine(([w, h]) => w * h <= LIMITS.pixels, `at most ${LIMITS.pixels} pixels`)
    .default([960, 540]),
  region: z
    .strictObject({ x: share(), y: share(), width: finite().gt(0).max(1), height: finite().gt(0).max(1) })
    .refine((r) => r.x + r.width <= 1.000001 && r.y + r.height <= 1.000001, "must lie inside the frame")
    .nullable()
    .default(null)
    .describe("part of the frame to render alone, as shares of it"),
  filter: z
    .enum(["box", "tent"])
    .default("box")
    .describe("how samples gather into pixels: over the pixel, or over two with falling weight"),
  lightGroups: z
    .boolean()
    .default(false)
    .describe("keeps what each light group gives to air and surfaces apart, to balance them after the render"),
  mattes: z
    .boolean()
    .default(false)
    .describe("keeps the share of each pixel that every object and material covers, and what each medium keeps of its light"),
  cleanUp: z
    .strictObject({
      fireflies: share().default(1).describe("how far pixels that stand out by chance are brought down to what surrounds them"),
      air: share().default(1).describe("how much of the noise in the light of the air is taken away"),
      surfaces: share().default(1).describe("how much of the noise in the light of surfaces is taken away"),
    })
    .prefault({})
    .describe("strengths of the clean-up, where the picture is shown or written cleaned; the raw light is always kept"),
  exposure: finite().min(-20).max(30).default(12).describe("EV at ISO 100"),
  whiteBalance: finite().min(1500).max(30000).default(6500).describe("kelvin of the light that shall look neutral"),
  tint: finite()
    .min(-MOST_TINT)
    .max(MOST_TINT)
    .default(0)
    .describe("how far the light that shall look neutral lies from white light's line, in CIE 1960 (u, v): above 0 it is greener"),
  balance: balanceSchema,
  finish: finishSchema,
});

/** Time of the picture, for air that drifts and sequences that run. */
const timeSchema = finite().min(-1e6).max(1e6).default(0).describe("s; moves drifting break-up");

export const documentSchema = z
  .strictObject({
    fumarium: z.literal(DOCUMENT_VERSION).describe("version of this format"),
    title: title().default("untitled"),
    units: z
      .enum(UNIT_SYSTEMS)
      .default("metric")
      .describe("how lengths are shown and typed on the bench; the document itself keeps metres"),
    assets: z.record(name(), assetSchema).default({}),
    materials: z.record(name(), materialSchema).default({}),
    objects: z.array(objectSchema).max(LIMITS.objects).default([]),
    camera: cameraSchema.prefault({}),
    lenses: z.array(lensSchema).max(LIMITS.lenses).default([]).describe("lenses kept by name; the picture is made through `camera`"),
    sun: sunSchema.prefault({}),
    moon: moonSchema.prefault({}),
    sky: skySchema.prefault({}),
    lights: z.array(lightSchema).max(LIMITS.lights).default([]),
    air: z.array(mediumSchema).max(LIMITS.media).default([]).describe("media filling the scene; where they overlap they add up"),
    pins: z
      .array(pinSchema)
      .max(LIMITS.pins)
      .default([])
      .describe("points of the scene and how much of their light shall reach the lens; media are solved for them on the bench"),
    time: timeSchema,
    render: renderSchema.prefault({}),
    film: filmSchema.prefault({}),
    budget: budgetSchema,
    plate: plateSchema.nullable().default(null),
  })
  .superRefine((doc, context) => {
    doc.objects.forEach((object, i) => {
      if (object.kind === "model") {
        if (!Object.hasOwn(doc.assets, object.asset))
          context.addIssue({ code: "custom", path: ["objects", i, "asset"], message: `no asset named "${object.asset}"` });
        const replaced: [string | null, (string | number)[]][] = [[object.material, ["material"]]];
        for (const [path, part] of Object.entries(object.parts)) replaced.push([part.material, ["parts", path, "material"]]);
        for (const [key, at] of replaced)
          if (key !== null && !Object.hasOwn(doc.materials, key))
            context.addIssue({ code: "custom", path: ["objects", i, ...at], message: `no material named "${key}"` });
      } else if (!Object.hasOwn(doc.materials, object.material)) {
        context.addIssue({ code: "custom", path: ["objects", i, "material"], message: `no material named "${object.material}"` });
      }
    });
    const aimed = ({ position: a, target: b }: { position: number[]; target: number[] }, path: (string | number)[]): void => {
      if (Math.hypot(...a.map((v, k) => v - b[k]!)) < 1e-9)
        context.addIssue({ code: "custom", path: [...path, "target"], message: "must differ from the camera's position" });
    };
    aimed(doc.camera, ["camera"]);
    doc.lenses.forEach((lens, i) => aimed(lens.camera, ["lenses", i, "camera"]));
    const asset = (key: string | null | undefined, path: (string | number)[]): void => {
      if (key && !Object.hasOwn(doc.assets, key)) context.addIssue({ code: "custom", path, message: `no asset named "${key}"` });
    };
    asset(doc.plate?.picture, ["plate", "picture"]);
    asset(doc.plate?.depth, ["plate", "depth"]);
    const surfaces = doc.objects.flatMap((o, i) => (o.kind === "plate" ? [i] : []));
    for (const [k, i] of surfaces.entries())
      if (!doc.plate || k > 0)
        context.addIssue({
          code: "custom",
          path: ["objects", i, "kind"],
          message: doc.plate ? "a plate has one surface" : "there is no plate that it could be the surface of",
        });
    doc.air.forEach((medium, i) => {
      const { region } = medium;
      if (region.kind === "mesh" && !doc.objects.some((o) => o.name === region.object))
        context.addIssue({ code: "custom", path: ["air", i, "region", "object"], message: `no object named "${region.object}"` });
      if (medium.proximity && !doc.objects.some((o) => o.name === medium.proximity!.object))
        context.addIssue({
          code: "custom",
          path: ["air", i, "proximity", "object"],
          message: `no object named "${medium.proximity.object}"`,
        });
      const { follows } = medium;
      if (follows && !(follows.kind === "object" ? doc.objects : doc.lights).some((o) => o.name === follows.name))
        context.addIssue({ code: "custom", path: ["air", i, "follows"], message: `no ${follows.kind} named "${follows.name}"` });
      asset(medium.grid?.asset, ["air", i, "grid", "asset"]);
      medium.grid?.sequence?.frames.forEach((f, k) => asset(f, ["air", i, "grid", "sequence", "frames", k]));
      if (region.kind === "everywhere" && medium.edge > 0 && !medium.grid)
        context.addIssue({ code: "custom", path: ["air", i, "edge"], message: "air that is everywhere has no edge" });
    });
    const media = new Set(doc.air.map((m) => m.name));
    const lit = (names: string[] | null, path: (string | number)[]): void => {
      names?.forEach((n, k) => {
        if (!media.has(n)) context.addIssue({ code: "custom", path: [...path, k], message: `no medium named "${n}"` });
      });
    };
    asset(doc.film.finish.lut?.asset, ["film", "finish", "lut", "asset"]);
    asset(doc.sun.gobo?.image, ["sun", "gobo", "image"]);
    doc.sun.gobo?.frames?.forEach((f, k) => asset(f, ["sun", "gobo", "frames", k]));
    asset(doc.sky.image, ["sky", "image"]);
    if (doc.sky.model === "image" && doc.sky.on && !doc.sky.image)
      context.addIssue({ code: "custom", path: ["sky", "image"], message: "a sky from an image names its asset" });
    lit(doc.sun.media, ["sun", "media"]);
    lit(doc.moon.media, ["moon", "media"]);
    doc.lights.forEach((light, i) => {
      const at = (...path: (string | number)[]): (string | number)[] => ["lights", i, ...path];
      lit(light.media, at("media"));
      if (light.follows !== null && !doc.objects.some((o) => o.name === light.follows))
        context.addIssue({ code: "custom", path: at("follows"), message: `no object named "${light.follows}"` });
      if ("gobo" in light) {
        asset(light.gobo?.image, at("gobo", "image"));
        light.gobo?.frames?.forEach((f, k) => asset(f, at("gobo", "frames", k)));
      }
      if (light.kind === "rectangle") asset(light.image, at("image"));
      if (light.kind === "profile") asset(light.asset, at("asset"));
      if ("target" in light && Math.hypot(...light.position.map((x, k) => x - light.target[k]!)) < 1e-9)
        context.addIssue({ code: "custom", path: at("target"), message: "must differ from the light's position" });
      if (light.unit === "cd/m2" && (light.kind === "point" || light.kind === "spot"))
        context.addIssue({ code: "custom", path: at("unit"), message: "cd/m2 is for lights with an area" });
    });
  });

export type SceneDocument = z.output<typeof documentSchema>;
export type SceneDocumentInput = z.input<typeof documentSchema>;
export type SceneObject = z.output<typeof objectSchema>;
export type ObjectPart = z.output<typeof partSchema>;
export type Camera = z.output<typeof cameraSchema>;
export type Lens = z.output<typeof lensSchema>;
