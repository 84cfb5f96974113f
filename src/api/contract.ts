/**
 * The contract of the HTTP API: every endpoint with its method, path, request and answer, used by the pages that serve it and the
 * interface that calls it. A field that one side forgets does not compile; what arrives is validated on both sides.
 */
import { z } from "zod";
import type { Stack } from "#core/compose/stack";
import type { SceneDocument } from "#core/document/schema";
import { title } from "#core/document/fields";
import { LIMITS } from "#core/document/schema";
import { COMPRESSIONS, FILE_DEPTHS, FILE_ENDINGS, FILE_LAYOUTS } from "#core/formats/depths";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import { MODEL_LIMITS } from "#core/formats/limits";

/** Kinds of files that projects are made of: type they are served with, bytes at most, and the mark they begin with, where they have one. */
export const ASSET_KINDS = {
  model: {
    type: "model/gltf-binary",
    limit: MODEL_LIMITS.bytes,
    begins: { bytes: [0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0], what: "a binary glTF 2.0 file" },
  },
  picture: {
    type: "image/png",
    limit: 16_000_000,
    begins: { bytes: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a], what: "a PNG picture" },
  },
  film: { type: "image/x-exr", limit: 2_000_000_000, begins: { bytes: [0x76, 0x2f, 0x31, 0x01], what: "an OpenEXR file" } },
  image: { type: "application/octet-stream", limit: 256_000_000, begins: null },
  profile: { type: "text/plain", limit: 2_000_000, begins: null },
  lut: { type: "text/plain", limit: 32_000_000, begins: null },
  volume: { type: "application/octet-stream", limit: 1_000_000_000, begins: { bytes: [0x20, 0x42, 0x44, 0x56], what: "an OpenVDB file" } },
} as const satisfies Record<string, { type: string; limit: number; begins: { bytes: readonly number[]; what: string } | null }>;
export type AssetKind = keyof typeof ASSET_KINDS;
export const ASSET_KIND_NAMES = Object.keys(ASSET_KINDS) as [AssetKind, ...AssetKind[]];

/** Most values of a setting in a wedge, and pictures of one. */
export const MOST_VALUES = 12;
export const MOST_CELLS = 64;

/** Most frames of a render, and largest number of one. */
export const MOST_FRAMES = 10_000;
export const LAST_FRAME = 9_999_999;

/** What a render can be; one that is ending writes the frame in hand as it is, and is done. */
export const RENDER_STATES = ["waiting", "rendering", "ending", "paused", "done", "failed", "cancelled"] as const;
export type RenderState = (typeof RENDER_STATES)[number];

const hash = z.string().regex(/^[0-9a-f]{64}$/, "must be 64 hexadecimal digits");
const id = z.string().min(1).max(64);
/** A change that changes something. */
const someOf = <T extends object>(schema: z.ZodType<T>): z.ZodType<T> =>
  schema.refine((v) => Object.keys(v).length > 0, "says nothing to change");
/** A document on its way in: validated by parseDocument, which says what is wrong where. */
const documentIn = z.unknown();
/** A document that the server has validated. */
const documentOut = z.custom<SceneDocument>((v) => typeof v === "object" && v !== null);
/** A stack on its way in (parseStack says what is wrong where), and one that the server has validated. */
const stackIn = z.unknown();
const stackOut = z.custom<Stack>((v) => typeof v === "object" && v !== null);
const time = z.number().min(0);

const card = z.object({
  id,
  title: z.string(),
  revision: z.int(),
  picture: hash.nullable(),
  updatedAt: time,
  /** How many proofs it has. */
  proofs: z.int(),
});
const demo = z.object({ id: z.string(), title: z.string(), description: z.string(), picture: hash.nullable() });
const part = z.strictObject({
  x: z.number().min(0).max(1),
  y: z.number().min(0).max(1),
  width: z.number().gt(0).max(1),
  height: z.number().gt(0).max(1),
});
const proofFields = {
  note: z.string().max(2000),
  seconds: z.number().min(0).max(1e7),
  samples: z.number().min(0).max(1e7),
  noise: z.number().min(0).nullable(),
  picture: hash,
  film: hash,
  /** Which part of the frame it shows, shares from the upper left; null: all of it. */
  part: part.nullable(),
  /** Whether it lies over the live picture, in its place. */
  laid: z.boolean(),
};
const proof = z.object({
  id,
  ...proofFields,
  createdAt: time,
  star: z.boolean(),
  /** What it is ordered by among the others. */
  place: z.number(),
  /** Bytes of its picture and film. */
  bytes: z.number().min(0),
});
/** A setting by its path (numbers.ts), and the values it takes. */
const wedgeAxis = z.strictObject({ setting: z.string().min(2).max(1000), values: z.array(z.number()).min(2).max(MOST_VALUES) });
const wedgeSpec = z
  .strictObject({
    first: wedgeAxis,
    second: wedgeAxis.nullable(),
    samples: z.int().min(1).max(4096),
    /** Pixels across each picture. */
    width: z.int().min(16).max(1280),
    /** The part of the frame that is rendered; null: all of it. */
    part: part.nullable(),
  })
  .refine(({ first, second }) => first.values.length * (second?.values.length ?? 1) <= MOST_CELLS, `more than ${MOST_CELLS} pictures`);
/** Its place: by the second axis, then by the first. */
const wedgeCell = z.strictObject({
  at: z
    .int()
    .min(0)
    .max(MOST_CELLS - 1),
  picture: hash,
  seconds: z.number().min(0),
  samples: z.number().min(0),
  noise: z.number().min(0).nullable(),
});
const wedge = z.object({ id, spec: wedgeSpec, cells: z.array(wedgeCell), ended: z.boolean(), createdAt: time });
/** A mask beside a picture: of depth between two places (m), or of what the air hides. */
const mask = z.discriminatedUnion("of", [
  z
    .strictObject({ of: z.literal("depth"), near: z.number().min(0), far: z.number().max(1e9) })
    .refine(({ near, far }) => far > near, "ends before it begins"),
  z.strictObject({ of: z.literal("air") }),
]);
/** What is asked of a render besides its document. */
const renderOrder = z
  .strictObject({
    size: z.tuple([z.int().min(1).max(LIMITS.side), z.int().min(1).max(LIMITS.side)]),
    /** Null: one picture, at the document's moment. */
    frames: z
      .strictObject({ from: z.int().min(0).max(LAST_FRAME), to: z.int().min(0).max(LAST_FRAME), step: z.int().min(1).max(LAST_FRAME) })
      .refine(({ from, to }) => to >= from, "ends before it begins")
      .refine(({ from, to, step }) => (to - from) / step < MOST_FRAMES, `more than ${MOST_FRAMES} frames`)
      .nullable(),
    fps: z.number().gt(0).max(1000),
    samples: z.int().min(1).max(LIMITS.samples),
    /** Blocks get no more samples once they err by no more than this share, as rendered or as cleaned. */
    noise: z.strictObject({ threshold: z.number().gt(0).max(1), of: z.enum(["rendered", "cleaned"]) }).nullable(),
    /** Seconds of work on a frame at most. */
    seconds: z.number().gt(0).max(1e7).nullable(),
    /** Whether each frame has noise of its own. */
    seedByFrame: z.boolean(),
    /** Whether it is cleaned, as the document says how. */
    clean: z.boolean(),
    lightGroups: z.boolean(),
    mattes: z.boolean(),
    passes: z.array(z.enum(PASS_NAMES as [PassName, ...PassName[]])).min(1),
    /** Null: as the document says. */
    level: z.enum(["veil", "shafts", "full"]).nullable().default(null),
    airBounces: z.int().min(1).max(LIMITS.bounces).nullable().default(null),
    surfaceBounces: z.int().min(0).max(LIMITS.bounces).nullable().default(null),
    airSize: z.enum(["full", "half", "quarter"]).nullable().default(null),
    estimator: z.enum(["tracking", "stepping"]).nullable().default(null),
    /** All of the frame, whatever region the document has. */
    whole: z.boolean().default(false),
    file: z
      .strictObject({
        ending: z.enum(FILE_ENDINGS),
        depth: z.enum(["half", "float", "8", "16"]),
        finished: z.boolean(),
        alpha: z.enum(["geometry", "air"]),
        /** Of OpenEXR. */
        layout: z.enum(FILE_LAYOUTS).default("layers"),
        compression: z.enum(COMPRESSIONS).default("zip"),
        /** Beside a PNG or TIFF, one of each kind. */
        masks: z.array(mask).max(2).default([]),
        /** Pixels an inch of a print. */
        dpi: z.number().gt(0).max(100_000).nullable().default(null),
      })
      .refine(({ ending, depth }) => (FILE_DEPTHS[ending] as readonly string[]).includes(depth), "has no such depth"),
    /** Name of the files without their ending; #### stands for the number of a frame. */
    name: z
      .string()
      .min(1)
      .max(100)
      // eslint-disable-next-line no-control-regex
      .refine((v) => !/[\\/:*?"<>|\u0000-\u001f]/.test(v) && !v.startsWith("."), 'must be a file name, without / \\ : * ? " < > |'),
  })
  .describe("what is asked of a render");
/** What a render of so many pixels and files needs, bytes. */
const needs = z.object({ memory: z.number(), disk: z.number() });
const seconds = z.number().min(0).max(1e12);
/** What a frame was said to take, seconds of this machine's processor: by the model alone, with what was learned, and its bounds; and its samples. */
const forecastSaid = z.strictObject({ model: seconds, said: seconds, low: seconds, high: seconds, samples: z.number().min(0).max(1e7) });
const paidFinal = z.object({
  id: z.int(),
  title: z.string(),
  pixels: z.int(),
  model: z.number(),
  said: z.number(),
  low: z.number(),
  high: z.number(),
  samplesSaid: z.number(),
  samples: z.number(),
  paid: z.number(),
  createdAt: time,
});
const priority = z.int().min(-1).max(1);
const render = z.object({
  id,
  projectId: id,
  title: z.string(),
  state: z.enum(RENDER_STATES),
  /** What there is to say of its state; null for nothing. */
  message: z.string().nullable(),
  order: renderOrder,
  needs,
  /** What a frame was said to take when it was ordered; null where nothing was said. */
  forecast: forecastSaid.nullable(),
  /** Frames that are done and that there are, and what those that are done took and have. */
  done: z.int(),
  frames: z.int(),
  seconds: z.number(),
  samples: z.number().nullable(),
  noise: z.number().nullable(),
  cleanedNoise: z.number().nullable(),
  bytes: z.number(),
  /** The frames in hand together: number of the first, how many, shares that are done, seconds, seconds that are left, and what is done in words. */
  now: z
    .object({
      frame: z.int().nullable(),
      hand: z.int(),
      share: z.number(),
      seconds: z.number(),
      left: z.number().nullable(),
      /** Standard error of what is left, s. */
      leftError: z.number().nullable(),
      says: z.string().nullable(),
    })
    .nullable(),
  /** Changes with the picture of the frame as it grows; null before there is one. */
  picture: z.number().nullable(),
  /** Of two, the higher goes first: 1, 0 or -1. */
  priority,
  /** What it is ordered by among those of its priority. */
  place: z.number(),
  createdAt: time,
  updatedAt: time,
});
const machine = z.object({
  name: z.string(),
  host: z.string(),
  threads: z.int(),
  /** How many times as fast a thread of it is as one of this machine. */
  speed: z.number(),
  standing: z.enum(["works", "drains", "left", "silent", "refused", "faulty"]),
  /** Why, where there is something to say. */
  words: z.string().nullable(),
  /** What it does, in a word. */
  says: z.string(),
  /** Units in hand and done, and thread seconds of those that are done. */
  units: z.int(),
  done: z.int(),
  seconds: z.number(),
  /** Seconds since it was heard of. */
  silent: z.number(),
  /** What there is to say of its clock. */
  clock: z.string().nullable(),
  faults: z.array(z.object({ at: time, words: z.string() })),
});
export const machinesNow = z.object({
  redis: z.string(),
  /** Why nothing can be handed out; null where it can. */
  trouble: z.string().nullable(),
  warnings: z.array(z.string()),
  /** Where workers come in; null where they cannot. */
  url: z.string().nullable(),
  /** Threads that work, each counted by how fast it is. */
  threads: z.number(),
  machines: z.array(machine),
  /** Bytes of units since it began. */
  received: z.number(),
  sent: z.number(),
});
const renderedFile = z.object({
  frame: z.int().nullable(),
  file: z.string(),
  bytes: z.number(),
  seconds: z.number(),
  samples: z.number().nullable(),
  noise: z.number().nullable(),
  cleanedNoise: z.number().nullable(),
});
const renderThreads = z.strictObject({
  /** Threads that render, and while a bench is open. */
  alone: z.int().min(1).max(64),
  beside: z.int().min(1).max(64),
});
const stackCard = z.object({ id, title: z.string(), picture: hash.nullable(), updatedAt: time, /** Layers of it. */ layers: z.int() });
const revision = z.object({ revision: z.int() });
const done = z.object({ done: z.literal(true) });

export type ProjectCard = z.output<typeof card>;
export type StackCard = z.output<typeof stackCard>;
export type DemoCard = z.output<typeof demo>;
export type Proof = z.output<typeof proof>;
export type WedgeSpec = z.output<typeof wedgeSpec>;
export type WedgeCell = z.output<typeof wedgeCell>;
export type Wedge = z.output<typeof wedge>;
export type RenderOrder = z.output<typeof renderOrder>;
/** An order as it was kept, by this version or one before. @throws Error where it is none */
export const keptOrder = (text: string): RenderOrder => renderOrder.parse(JSON.parse(text));
export type RenderNeeds = z.output<typeof needs>;
export type Render = z.output<typeof render>;
export type RenderNow = NonNullable<Render["now"]>;
export type RenderedFile = z.output<typeof renderedFile>;
export type ForecastSaid = z.output<typeof forecastSaid>;
export type PaidRecord = z.output<typeof paidFinal>;
export type RenderThreads = z.output<typeof renderThreads>;
export type MachinesNow = z.output<typeof machinesNow>;
export type MachineNow = z.output<typeof machine>;

export interface Endpoint<P, B, A> {
  method: "GET" | "POST" | "PUT" | "PATCH";
  path(params: P): string;
  body: z.ZodType<B> | null;
  answer: z.ZodType<A>;
}
const endpoint = <P, A, B = undefined>(
  method: Endpoint<P, B, A>["method"],
  path: (params: P) => string,
  answer: z.ZodType<A>,
  body: z.ZodType<B> | null = null,
): Endpoint<P, B, A> => ({ method, path, body, answer });

interface OfProject {
  id: string;
}
interface OfRender {
  render: string;
}
const ofRender = ({ render: which }: OfRender): string => `/api/renders/${encodeURIComponent(which)}`;
interface OfStack {
  stack: string;
}
const ofStack = ({ stack: which }: OfStack): string => `/api/stacks/${encodeURIComponent(which)}`;
interface OfWedge extends OfProject {
  wedge: string;
}
const ofWedge = (p: OfWedge): string => `${project(p)}/wedges/${encodeURIComponent(p.wedge)}`;
const project = ({ id: which }: OfProject): string => `/api/projects/${encodeURIComponent(which)}`;

export const API = {
  /** Projects, the last changed first, and the demo sets that a project can be made from. */
  shelf: endpoint(
    "GET",
    (_: object) => "/api/projects",
    z.object({
      projects: z.array(card),
      demos: z.array(demo),
      /** Why nothing can be kept; null where it can. */
      readOnly: z.string().nullable(),
    }),
  ),
  /** A project from a demo set or a document. */
  createProject: endpoint(
    "POST",
    (_: object) => "/api/projects",
    z.object({ id }),
    z.union([z.strictObject({ demo: z.string() }), z.strictObject({ document: documentIn })]),
  ),
  openProject: endpoint(
    "GET",
    project,
    z.object({ id, title: z.string(), revision: z.int(), document: documentOut, proofs: z.array(proof), wedges: z.array(wedge) }),
  ),
  /** Renames a project, deletes it, or restores it. */
  changeProject: endpoint(
    "PATCH",
    project,
    done,
    someOf(z.strictObject({ title: title().min(1).optional(), deleted: z.boolean().optional() })),
  ),
  duplicateProject: endpoint("POST", (p: OfProject) => `${project(p)}/duplicate`, z.object({ id })),
  /** Saves a document that was made from a known revision; 409 where another was saved in between. */
  saveDocument: endpoint(
    "PUT",
    (p: OfProject) => `${project(p)}/document`,
    revision,
    z.strictObject({ revision: z.int().min(0), document: documentIn }),
  ),
  /** Saved states, the newest first. */
  history: endpoint("GET", (p: OfProject) => `${project(p)}/document`, z.array(z.object({ revision: z.int(), createdAt: time }))),
  setPicture: endpoint("PUT", (p: OfProject) => `${project(p)}/picture`, done, z.strictObject({ picture: hash })),
  /** Keeps a proof whose picture and film were uploaded before. */
  keepProof: endpoint(
    "POST",
    (p: OfProject) => `${project(p)}/proofs`,
    proof,
    z.strictObject({ ...proofFields, part: proofFields.part.default(null), laid: proofFields.laid.default(false), document: documentIn }),
  ),
  /** The document that made a proof. */
  proofDocument: endpoint(
    "GET",
    (p: OfProject & { proof: string }) => `${project(p)}/proofs/${encodeURIComponent(p.proof)}`,
    z.object({ document: documentOut }),
  ),
  /** Changes a proof's note, star or place, lays it over the live picture, removes it, or restores it. */
  changeProof: endpoint(
    "PATCH",
    (p: OfProject & { proof: string }) => `${project(p)}/proofs/${encodeURIComponent(p.proof)}`,
    done,
    someOf(
      z.strictObject({
        note: z.string().max(2000).optional(),
        star: z.boolean().optional(),
        laid: z.boolean().optional(),
        place: z.number().optional(),
        deleted: z.boolean().optional(),
      }),
    ),
  ),
  /** Begins a wedge of a document. */
  makeWedge: endpoint("POST", (p: OfProject) => `${project(p)}/wedges`, wedge, z.strictObject({ spec: wedgeSpec, document: documentIn })),
  /** The document that a wedge varies. */
  wedgeDocument: endpoint("GET", (p: OfWedge) => ofWedge(p), z.object({ document: documentOut })),
  /** Adds a picture to a wedge, ends it or goes on with it, removes it, or restores it. */
  changeWedge: endpoint(
    "PATCH",
    (p: OfWedge) => ofWedge(p),
    done,
    someOf(z.strictObject({ cell: wedgeCell.optional(), ended: z.boolean().optional(), deleted: z.boolean().optional() })),
  ),
  /** All renders, in the order in which they are rendered, those that are ended last. */
  renders: endpoint(
    "GET",
    (_: object) => "/api/renders",
    z.object({
      renders: z.array(render),
      /** Where their files lie, bytes that are free there, and processors of this machine. */
      folder: z.string(),
      free: z.number(),
      processors: z.int(),
      threads: renderThreads,
      /** Why none is rendered by this server; null where it renders. */
      elsewhere: z.string().nullable(),
      readOnly: z.string().nullable(),
    }),
  ),
  /** How many go on, for a badge. @param bench whether a bench asks, beside which fewer threads render */
  rendersNow: endpoint(
    "GET",
    ({ bench }: { bench: boolean }) => `/api/renders/now${bench ? "?bench" : ""}`,
    z.object({ going: z.int(), share: z.number().nullable(), failed: z.int() }),
  ),
  /** Orders a render of a document of a project. */
  orderRender: endpoint(
    "POST",
    (p: OfProject) => `${project(p)}/renders`,
    z.object({ id, needs }),
    z.strictObject({ order: renderOrder, document: documentIn, forecast: forecastSaid.nullable().default(null) }),
  ),
  /** How forecasts of finals have been, the newest first, and what this machine takes. */
  budget: endpoint(
    "GET",
    (_: object) => "/api/budget",
    z.object({
      records: z.array(paidFinal),
      /** Processor seconds that cleaning a pixel takes; null where no final was cleaned yet. */
      cleanRate: z.number().nullable(),
      /** Threads that render finals here. */
      threads: z.int(),
      /** Whether one is rendered just now: times on a bench are measured beside it. */
      busy: z.boolean(),
      /** Machines that render finals, and their threads, each counted by how fast it is; null where this one does. */
      fleet: z.object({ machines: z.int(), threads: z.number() }).nullable(),
    }),
  ),
  /** Its files, by frame. */
  renderFiles: endpoint("GET", ofRender, z.object({ files: z.array(renderedFile) })),
  /** Pauses a render, goes on with it (a failed or cancelled one too), ends it with what it has, cancels it, moves it among the others, removes it, or restores it. */
  changeRender: endpoint(
    "PATCH",
    ofRender,
    done,
    someOf(
      z.strictObject({
        state: z.enum(["waiting", "ending", "paused", "cancelled"]).optional(),
        place: z.number().optional(),
        priority: priority.optional(),
        deleted: z.boolean().optional(),
      }),
    ),
  ),
  /** Other machines that take part; null where only this one renders. */
  machines: endpoint("GET", (_: object) => "/api/machines", z.object({ machines: machinesNow.nullable() })),
  /** Lets a machine end once its units are done, or at once, so that others do them. */
  dismissMachine: endpoint(
    "POST",
    ({ name }: { name: string }) => `/api/machines/${encodeURIComponent(name)}`,
    done,
    z.strictObject({ how: z.enum(["drain", "remove"]) }),
  ),
  setRenderThreads: endpoint("PUT", (_: object) => "/api/renders/threads", done, renderThreads),
  /** Stacks, the last changed first. */
  stacks: endpoint(
    "GET",
    (_: object) => "/api/stacks",
    z.object({ stacks: z.array(stackCard), /** Why nothing can be kept; null where it can. */ readOnly: z.string().nullable() }),
  ),
  createStack: endpoint("POST", (_: object) => "/api/stacks", z.object({ id }), z.strictObject({ stack: stackIn })),
  openStack: endpoint("GET", ofStack, z.object({ id, revision: z.int(), stack: stackOut })),
  /** Saves a stack that was made from a known revision; 409 where another was saved in between. */
  saveStack: endpoint("PUT", ofStack, revision, z.strictObject({ revision: z.int().min(0), stack: stackIn })),
  /** Gives a stack another picture, deletes it, or restores it. */
  changeStack: endpoint("PATCH", ofStack, done, someOf(z.strictObject({ picture: hash.optional(), deleted: z.boolean().optional() }))),
  /** Takes a finished OpenEXR file of a render into the store, so that a stack can name it. */
  keepRendered: endpoint(
    "POST",
    (p: OfRender & { file: string }) => `${ofRender(p)}/files/${encodeURIComponent(p.file)}`,
    z.object({ sha256: hash, bytes: z.int() }),
  ),
  /** Stores a file; its body is the file itself. */
  uploadAsset: endpoint("POST", ({ kind }: { kind: AssetKind }) => `/api/assets?kind=${kind}`, z.object({ sha256: hash, bytes: z.int() })),
} as const;

export type BodyOf<E> = E extends Endpoint<never, infer B, unknown> ? B : never;
export type AnswerOf<E> = E extends Endpoint<never, unknown, infer A> ? A : never;

/** How a request travels: fetch in the interface, anything else in a test. */
export type Transport = (method: string, url: string, body?: unknown, options?: { keepalive?: boolean }) => Promise<unknown>;

/** Calls an endpoint and validates its answer. @throws what the transport throws, or Error where the answer is not as agreed */
export async function call<P, B, A>(
  transport: Transport,
  to: Endpoint<P, B, A>,
  params: P,
  ...rest: [B] extends [undefined] ? [body?: undefined, options?: { keepalive?: boolean }] : [body: B, options?: { keepalive?: boolean }]
): Promise<A> {
  const [body, options] = rest;
  const value = await transport(to.method, to.path(params), body, options);
  const found = to.answer.safeParse(value);
  if (!found.success) {
    const [first] = found.error.issues;
    throw new Error(`The server's answer was not understood: ${first?.path.join(".")} ${first?.message}`);
  }
  return found.data;
}
