/**
 * The scene document: everything a render depends on, as JSON. Units are metres, degrees for angles,
 * lux, candela and cd/m² for light, 1/m for coefficients; colours are linear Rec. 709 (D65).
 * Unknown fields are refused, so that a misspelt one never passes silently.
 */
import { z } from "zod";

/** Version of the document format that this program writes. */
export const DOCUMENT_VERSION = 1;

export const LIMITS = {
  /** Pixels on one side, and in all. */
  side: 16384,
  pixels: 16_777_216,
  objects: 4096,
  lights: 64,
  coordinate: 1e6,
  samples: 65536,
  bounces: 1024,
  /** Characters of a document's text. */
  text: 8_000_000,
} as const;

const finite = () => z.number();
const coordinate = () => finite().min(-LIMITS.coordinate).max(LIMITS.coordinate);
const positive = (max: number = LIMITS.coordinate) => finite().gt(0).max(max);
const share = () => finite().min(0).max(1);
const vec3 = () => z.tuple([coordinate(), coordinate(), coordinate()]);
const colour = (max = 1) => z.tuple([finite().min(0).max(max), finite().min(0).max(max), finite().min(0).max(max)]);
const name = () => z.string().min(1).max(120);

export const materialSchema = z
  .strictObject({
    baseColor: colour().default([0.5, 0.5, 0.5]),
    metallic: share().default(0),
    roughness: share().default(1),
    specular: share().default(1).describe("weight of the dielectric reflection (0: purely diffuse)"),
    diffuseTransmission: share().default(0).describe("share of diffuse light that passes through, as in a leaf"),
    emission: colour(1e9).default([0, 0, 0]).describe("luminance per band, cd/m²"),
  })
  .describe("metal–rough material after glTF 2.0");

const placement = {
  name: name().optional(),
  position: vec3().default([0, 0, 0]).describe("m"),
  rotation: vec3().default([0, 0, 0]).describe("degrees about x, then y, then z"),
  hidden: z.boolean().default(false),
};
const shaped = { ...placement, material: name().describe("key into materials") };

export const objectSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("model"), ...placement, asset: name().describe("key into assets"), scale: positive(1e4).default(1) }),
  z.strictObject({
    kind: z.literal("rectangle"),
    ...shaped,
    size: z.tuple([positive(), positive()]).describe("m along x and z; faces up"),
  }),
  z.strictObject({ kind: z.literal("disk"), ...shaped, radius: positive() }),
  z.strictObject({ kind: z.literal("box"), ...shaped, size: z.tuple([positive(), positive(), positive()]) }),
  z.strictObject({ kind: z.literal("sphere"), ...shaped, radius: positive() }),
  z.strictObject({ kind: z.literal("cylinder"), ...shaped, radius: positive(), height: positive().describe("m along y, capped") }),
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
});

export const sunSchema = z.strictObject({
  on: z.boolean().default(true),
  azimuth: finite().min(-360).max(360).default(0).describe("degrees from -z towards +x"),
  elevation: finite().min(-90).max(90).default(30).describe("degrees above the horizon"),
  illuminance: finite().min(0).max(1e7).default(50000).describe("lux on a plane facing the sun, without the air of the document"),
  temperature: finite().min(1000).max(40000).default(5500).describe("kelvin"),
  angularDiameter: finite().min(0.01).max(90).default(0.53).describe("degrees"),
  diskVisible: z.boolean().default(true),
});

export const skySchema = z.strictObject({
  on: z.boolean().default(true),
  luminance: finite().min(0).max(1e7).default(4000).describe("cd/m², scales both colours"),
  zenith: colour(10).default([0.6, 0.8, 1]),
  horizon: colour(10).default([0.9, 0.95, 1]).describe("at and below the horizon"),
});

export const lightSchema = z.discriminatedUnion("kind", [
  z.strictObject({
    kind: z.literal("point"),
    name: name().default("point"),
    on: z.boolean().default(true),
    position: vec3(),
    intensity: finite().min(0).max(1e9).default(1000).describe("cd"),
    temperature: finite().min(1000).max(40000).default(4000),
  }),
  z.strictObject({
    kind: z.literal("spot"),
    name: name().default("spot"),
    on: z.boolean().default(true),
    position: vec3(),
    target: vec3(),
    intensity: finite().min(0).max(1e9).default(1000).describe("cd on the axis"),
    temperature: finite().min(1000).max(40000).default(4000),
    cone: finite().min(0.1).max(178).default(40).describe("full angle at which light ends, degrees"),
    softness: share().default(0.3).describe("share of the half angle over which the edge fades"),
  }),
]);

export const mediumSchema = z.strictObject({
  name: name().default("air"),
  on: z.boolean().default(true),
  density: finite().min(0).max(1e6).default(0.02).describe("1/m; multiplies both colours"),
  scattering: colour().default([1, 1, 1]).describe("σs = density × this, per band"),
  absorption: colour(100).default([0, 0, 0]).describe("σa = density × this, per band"),
  anisotropy: finite().min(-0.99).max(0.99).default(0.6).describe("g of Henyey–Greenstein; above 0 is forward"),
  region: z
    .discriminatedUnion("kind", [
      z.strictObject({ kind: z.literal("everywhere") }),
      z.strictObject({
        kind: z.literal("box"),
        centre: vec3(),
        size: z.tuple([positive(), positive(), positive()]),
        rotation: vec3().default([0, 0, 0]),
      }),
    ])
    .default({ kind: "everywhere" }),
  height: z
    .strictObject({ level: coordinate().default(0).describe("m"), scale: positive().default(10).describe("scale height, m") })
    .nullable()
    .default(null)
    .describe("exponential falloff above the level; held below it"),
  breakUp: z
    .strictObject({
      size: positive().default(4).describe("m, of the largest feature"),
      octaves: z.int().min(1).max(8).default(3),
      roughness: share().default(0.5),
      low: share().default(0.3),
      high: share().default(0.7),
      seed: z.int().min(0).max(1_000_000).default(1),
    })
    .refine((b) => b.high > b.low, { message: "high must be above low", path: ["high"] })
    .nullable()
    .default(null),
});

export const renderSchema = z.strictObject({
  level: z.enum(["shafts", "full"]).default("shafts"),
  airBounces: z.int().min(1).max(LIMITS.bounces).default(8).describe("scatterings in the air along a path, level full"),
  surfaceBounces: z.int().min(0).max(LIMITS.bounces).default(1).describe("indirect bounces off surfaces"),
  airSamples: z.int().min(1).max(64).default(4).describe("points of each camera ray asked for scattered light, per sample"),
  estimator: z.enum(["tracking", "stepping"]).default("tracking").describe("for air with break-up; other air has closed forms"),
  stepSize: z
    .union([z.literal("auto"), positive()])
    .default("auto")
    .describe("m"),
  samples: z.int().min(1).max(LIMITS.samples).default(256),
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
  exposure: finite().min(-20).max(30).default(12).describe("EV at ISO 100"),
  whiteBalance: finite().min(1500).max(30000).default(6500).describe("kelvin of the light that shall look neutral"),
});

export const documentSchema = z
  .strictObject({
    fumarium: z.literal(DOCUMENT_VERSION).describe("version of this format"),
    title: z.string().max(200).default("untitled"),
    assets: z.record(name(), assetSchema).default({}),
    materials: z.record(name(), materialSchema).default({}),
    objects: z.array(objectSchema).max(LIMITS.objects).default([]),
    camera: cameraSchema.prefault({}),
    sun: sunSchema.prefault({}),
    sky: skySchema.prefault({}),
    lights: z.array(lightSchema).max(LIMITS.lights).default([]),
    air: z.array(mediumSchema).max(1).default([]).describe("media filling the scene; this version renders one"),
    render: renderSchema.prefault({}),
    film: filmSchema.prefault({}),
  })
  .superRefine((doc, context) => {
    doc.objects.forEach((object, i) => {
      if (object.kind === "model") {
        if (!Object.hasOwn(doc.assets, object.asset))
          context.addIssue({ code: "custom", path: ["objects", i, "asset"], message: `no asset named "${object.asset}"` });
      } else if (!Object.hasOwn(doc.materials, object.material)) {
        context.addIssue({ code: "custom", path: ["objects", i, "material"], message: `no material named "${object.material}"` });
      }
    });
    const [a, b] = [doc.camera.position, doc.camera.target];
    if (Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) < 1e-9)
      context.addIssue({ code: "custom", path: ["camera", "target"], message: "must differ from the camera's position" });
    doc.lights.forEach((light, i) => {
      if (light.kind === "spot" && Math.hypot(...light.position.map((x, k) => x - light.target[k]!)) < 1e-9)
        context.addIssue({ code: "custom", path: ["lights", i, "target"], message: "must differ from the light's position" });
    });
  });

export type SceneDocument = z.output<typeof documentSchema>;
export type SceneDocumentInput = z.input<typeof documentSchema>;
export type Medium = z.output<typeof mediumSchema>;
export type Light = z.output<typeof lightSchema>;
export type SceneObject = z.output<typeof objectSchema>;
export type Material = z.output<typeof materialSchema>;
export type Colour = [number, number, number];
