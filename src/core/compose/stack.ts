/** The stack document: pictures and passes laid on one another, their masks, and the finish on top. */
import { z } from "zod";
import { colour, finite, name, share, title } from "../document/fields";
import { finishSchema } from "../document/finish";
import { problemsOf } from "../document/parse";
import { InputError } from "../errors";

export const STACK_VERSION = 1;

/** Most layers of a stack (those of groups too), groups within one another, parts of a mask, strokes of a part and points of a stroke. */
export const STACK_LIMITS = { layers: 64, depth: 4, parts: 16, strokes: 2000, points: 4000, sources: 16, text: 16_000_000 } as const;

/** How a layer is laid on what is below, band by band, in shares of the stack's white. */
export const BLENDS = ["over", "add", "screen", "multiply", "maximum", "difference"] as const;
export type Blend = (typeof BLENDS)[number];

/** What passes are when the air is made thicker or thinner. */
export const ROLES = ["air", "surfaces"] as const;
export type Role = (typeof ROLES)[number];

/** Shares of the frame from the upper left; a little way outside is a place, too. */
const place = () => z.tuple([finite().min(-2).max(3), finite().min(-2).max(3)]);
/** Points from left to right; null is a straight line. */
const curve = () =>
  z
    .array(z.tuple([share(), share()]))
    .min(2)
    .max(8)
    .refine((points) => points.every(([x], i) => i === 0 || x > points[i - 1]![0]), "places must rise")
    .nullable()
    .default(null);
const metres = () => finite().min(-1e7).max(1e7);
/** A layer of a source: "" is its main picture. */
const channelLayer = () => z.string().max(600);

const strokeSchema = z.strictObject({
  points: z
    .array(z.tuple([finite().min(-2).max(3), finite().min(-2).max(3), share()]))
    .min(1)
    .max(STACK_LIMITS.points)
    .describe("shares of the frame across and down, and the pen's pressure"),
  size: finite().gt(0).max(2).describe("diameter as a share of the frame's height"),
  hardness: share().describe("share of the radius up to which it is full"),
  flow: finite().gt(0).max(1).describe("share of the rest that a dab covers; eight dabs lie in a diameter"),
  erase: z.boolean().default(false),
});
export type Stroke = z.output<typeof strokeSchema>;

const common = {
  join: z
    .enum(["and", "or", "without"])
    .default("and")
    .describe("with the parts before: where both are, where either is, or where they are and this is not"),
  invert: z.boolean().default(false),
};
/** A part is 0 at `from` and 1 at `to`, whichever is larger. */
const between = { from: metres(), to: metres(), curve: curve() };

const partSchema = z
  .discriminatedUnion("kind", [
    z
      .strictObject({ kind: z.literal("distance"), ...between, ...common })
      .describe("distance from the lens, m; what is endless is past all"),
    z.strictObject({ kind: z.literal("height"), ...between, ...common }).describe("height of what is seen, m; the background is above all"),
    z.strictObject({ kind: z.literal("opacity"), curve: curve(), ...common }).describe("share of the light that the air keeps back"),
    z.strictObject({ kind: z.literal("matte"), source: name(), layer: channelLayer().min(1), ...common }),
    z
      .strictObject({
        kind: z.literal("luminance"),
        from: finite().min(-30).max(30),
        to: finite().min(-30).max(30),
        curve: curve(),
        ...common,
      })
      .describe("of the first source's main picture, stops from the stack's white"),
    z.strictObject({ kind: z.literal("gradient"), a: place(), b: place(), curve: curve(), ...common }).describe("0 at a, 1 at b"),
    z.strictObject({ kind: z.literal("paint"), strokes: z.array(strokeSchema).max(STACK_LIMITS.strokes).default([]), ...common }),
  ])
  .describe("a part of a mask");
export type MaskPart = z.output<typeof partSchema>;
export type MaskKind = MaskPart["kind"];
export const MASK_KINDS = [
  "distance",
  "height",
  "opacity",
  "matte",
  "luminance",
  "gradient",
  "paint",
] as const satisfies readonly MaskKind[];

export const maskSchema = z.strictObject({
  parts: z.array(partSchema).min(1).max(STACK_LIMITS.parts),
  invert: z.boolean().default(false),
  feather: finite().min(0).max(0.25).default(0).describe("radius over which it is softened, as a share of the frame's height"),
  guided: z.boolean().default(true).describe("whether the feather keeps to edges of distance"),
});
export type Mask = z.output<typeof maskSchema>;

const contentSchema = z.discriminatedUnion("kind", [
  z
    .strictObject({
      kind: z.literal("pass"),
      source: name(),
      layer: channelLayer(),
      role: z.enum(ROLES).nullable().default(null).describe("how it goes along when the air is made thicker"),
      alpha: z.boolean().default(false).describe("whether its own channel A, with which it is multiplied, says what it covers"),
    })
    .describe("a layer of a source"),
  z.strictObject({ kind: z.literal("colour"), colour: colour(1000) }).describe("one colour, as shares of the stack's white"),
  z
    .strictObject({ kind: z.literal("ramp"), from: colour(1000), to: colour(1000), a: place(), b: place() })
    .describe("from one colour at a to another at b"),
  z.strictObject({ kind: z.literal("group") }).describe("the layers inside, put together over black"),
]);
export type Content = z.output<typeof contentSchema>;

const layerFields = {
  id: name(),
  name: title(),
  on: z.boolean().default(true),
  solo: z.boolean().default(false),
  content: contentSchema,
  blend: z.enum(BLENDS).default("over"),
  opacity: share().default(1),
  gain: finite().min(-20).max(20).default(0).describe("stops"),
  tint: colour(100).default([1, 1, 1]).describe("factor by band"),
  curve: curve().describe("of the brightest band n in shares of white, as √(n / (1 + n)): hue stays"),
  mask: maskSchema.nullable().default(null),
};
export interface Layer extends z.output<z.ZodObject<typeof layerFields>> {
  /** Inside a group, the lowest first; none of all others. */
  layers: Layer[];
}
const layerSchema: z.ZodType<Layer> = z.strictObject({
  ...layerFields,
  get layers(): z.ZodType<Layer[]> {
    return z.array(layerSchema).max(STACK_LIMITS.layers).default([]);
  },
});

const sourceSchema = z.strictObject({
  name: title().min(1).describe("the file's name, or what it is of"),
  sha256: z
    .string()
    .regex(/^[0-9a-f]{64}$/, "must be 64 hexadecimal digits")
    .nullable()
    .default(null)
    .describe("of the file where a server keeps it"),
  file: z.string().min(1).max(1000).nullable().default(null).describe("path beside the stack; #### stands for the number of a frame"),
});

export const stackSchema = z.strictObject({
  fumariumStack: z.literal(STACK_VERSION),
  title: title().default("Untitled"),
  sources: z
    .record(name(), sourceSchema)
    .refine((s) => Object.keys(s).length <= STACK_LIMITS.sources, `more than ${STACK_LIMITS.sources} sources`)
    .describe("OpenEXR files by name; the first gives the frame its size"),
  white: finite().min(-20).max(30).describe("EV at ISO 100 whose white is 1 in blends, curves and colours"),
  layers: z.array(layerSchema).max(STACK_LIMITS.layers).default([]).describe("the lowest first"),
  air: z
    .strictObject({
      density: finite().min(0).max(16).default(1).describe("factor of the optical depth that passes with a role are carried to"),
      by: z
        .array(z.tuple([finite().min(0).max(1e7), finite().min(0).max(16)]))
        .max(8)
        .refine((points) => points.every(([x], i) => i === 0 || x > points[i - 1]![0]), "places must rise")
        .default([])
        .describe("further factor by distance, m: points from near to far, smooth between, level past the ends"),
    })
    .prefault({})
    .describe("air made thicker or thinner without rendering: an approximation"),
  film: z
    .strictObject({
      exposure: finite().min(-20).max(30).describe("EV at ISO 100"),
      whiteBalance: finite().min(1000).max(40000).default(6504),
      tint: finite().min(-0.05).max(0.05).default(0),
      finish: finishSchema,
    })
    .describe("development of the composed picture"),
});
export type Stack = z.output<typeof stackSchema>;
export type Source = Stack["sources"][string];

/** All layers, those of groups behind their group. */
export const allLayers = (layers: readonly Layer[]): Layer[] => layers.flatMap((l) => [l, ...allLayers(l.layers)]);

/** Validates a value as a stack, and what its parts say of each other. @throws InputError */
export function parseStack(value: unknown, what = "stack"): Stack {
  const result = stackSchema.safeParse(value);
  if (!result.success) throw new InputError(`${what}: not a valid stack`, problemsOf(result.error));
  const problems = [...problemsWithin(result.data)];
  if (problems.length > 0) throw new InputError(`${what}: not a valid stack`, problems.slice(0, 20));
  return result.data;
}

/** Parses JSON text as a stack. @throws InputError */
export function parseStackText(text: string, what = "stack"): Stack {
  if (text.length > STACK_LIMITS.text)
    throw new InputError(`${what}: ${text.length} characters, more than the limit of ${STACK_LIMITS.text}`);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new InputError(`${what}: not JSON (${(error as Error).message})`);
  }
  return parseStack(value, what);
}

/** The published JSON Schema of stacks, made from the same definitions. */
export const stackJsonSchema = (): Record<string, unknown> => ({
  ...z.toJSONSchema(stackSchema, { io: "input", target: "draft-2020-12" }),
  title: "Fumarium stack",
});

function* problemsWithin(stack: Stack): Generator<string> {
  const all = allLayers(stack.layers);
  if (all.length > STACK_LIMITS.layers) yield `layers: ${all.length}, more than ${STACK_LIMITS.layers}`;
  if (depthOf(stack.layers) > STACK_LIMITS.depth) yield `layers: groups within groups, more than ${STACK_LIMITS.depth} deep`;
  const seen = new Set<string>();
  for (const l of all) {
    if (seen.has(l.id)) yield `layers: "${l.id}" is the id of two layers`;
    seen.add(l.id);
    const { content } = l;
    if (content.kind !== "group" && l.layers.length > 0) yield `layers: "${l.name}" is no group and has layers inside`;
    if (content.kind === "pass" && !(content.source in stack.sources))
      yield `layers: "${l.name}" is of the source "${content.source}", which there is not`;
    for (const part of l.mask?.parts ?? [])
      if (part.kind === "matte" && !(part.source in stack.sources))
        yield `layers: the mask of "${l.name}" is of the source "${part.source}", which there is not`;
  }
}
const depthOf = (layers: readonly Layer[]): number => (layers.length === 0 ? 0 : 1 + Math.max(...layers.map((l) => depthOf(l.layers))));
