/** A set of files to one binary glTF model with what the document takes from it: lenses, lights, size, and a report. */
import { binaryGltfJson, parseGltf } from "../../formats/gltf-check";
import { rootNodes } from "../../formats/gltf-shape";
import type { Camera, Document, Node } from "@gltf-transform/core";
import type { Light as PunctualLight } from "@gltf-transform/extensions";
import { checkContainer, importIO, modelIO, readModel, type Decoders, type ModelReport } from "../../formats/gltf";
import { InputError, reasonOf } from "../../errors";
import { anglesOf, MOST_KEYS } from "../../document/motion";
import { movingAnimation, placementsOf } from "../../formats/gltf-motion";
import { animationsOf, type AnimationFacts, type Moment } from "../../formats/gltf-pose";
import { motionThrough, type Moving, type Stand } from "./motions";
import { unpackPictures } from "../../formats/gltf-pictures";
import { plain } from "../../formats/gltf-plain";
import { freeName, type BroughtIn } from "../../document/place";
import type { Colour } from "../../data/material";
import { whiteAt } from "../../optics/exposure";
import { cameraSchema, filmSchema, lightSchema, LIMITS, type Light, type SceneDocument } from "../../document/schema";
import { unit } from "../../math/vectors";
import { boundsOfMesh } from "../../scene/instances";
import { findFile, mainFile, openFiles, plainPath, type FileSet } from "./files";
import type { UsdLights } from "./usd-lights";
import { readObj } from "./obj";
import { lightUnlit } from "./unlit";

export interface ImportedSet {
  /** Binary glTF without compression or other files. */
  model: Uint8Array;
  /** Name of the file that was read, for the shelf. */
  name: string;
  report: ModelReport & { nodes: number; textures: number };
  /** [least x, y, z, most x, y, z] as the file has it; glTF is in metres. */
  bounds: [number, number, number, number, number, number];
  lenses: { name: string; camera: SceneDocument["camera"] }[];
  lights: Light[];
  /** Directional light of the file that shines most, as the document's sun. */
  sun: BroughtIn["sun"];
  /** How many of its lenses and lights move by time, and by which animation. */
  moving: Moving | null;
  /** Animations of the file: it stands still at a moment of one, or as its nodes have it. */
  animations: AnimationFacts[];
}

export interface ImportOptions {
  decoders: Decoders;
  decode: (bytes: Uint8Array) => string;
  /** Moment of an animation that the set stands still at; the pose of the file where it is not said. */
  moment?: Moment | null;
  /** Called between stages with what is being done. */
  onStage?: (stage: ImportStage) => void;
  /** Luminance (cd/m²) that the project's exposure shows as white: that of white in unlit materials. */
  white?: number;
}
export type ImportStage = "unpacking" | "reading" | "decoding" | "checking";

/** Extensions of glTF whose absence would leave a file unreadable. */
const REQUIRED_KNOWN = new Set([
  "KHR_draco_mesh_compression",
  "EXT_meshopt_compression",
  "KHR_mesh_quantization",
  "KHR_texture_transform",
  "KHR_lights_punctual",
  "EXT_mesh_gpu_instancing",
  "KHR_materials_unlit",
  "KHR_materials_emissive_strength",
  "KHR_materials_transmission",
  "KHR_materials_volume",
  "KHR_materials_ior",
  "KHR_materials_specular",
  "KHR_materials_diffuse_transmission",
  "KHR_materials_pbrSpecularGlossiness",
  "KHR_node_visibility",
  "KHR_texture_basisu",
  "EXT_texture_webp",
]);

/** Used extensions that change nothing here, by what that means. */
const IGNORED: Record<string, string> = {
  KHR_materials_clearcoat: "clear coats",
  KHR_materials_sheen: "sheen",
  KHR_materials_iridescence: "iridescence",
  KHR_materials_anisotropy: "stretched highlights",
  KHR_materials_dispersion: "dispersion of glass",
  KHR_materials_variants: "material variants (the first is taken)",
  KHR_animation_pointer: "animated properties",
  EXT_texture_avif: "pictures in AVIF",
};

/**
 * Reads what was chosen: glTF, GLB, OBJ or OpenUSD, loose, in a folder or in a zip archive.
 * @throws InputError naming the file, the place and what to do
 */
export async function importSet(chosen: FileSet, options: ImportOptions): Promise<ImportedSet> {
  options.onStage?.("unpacking");
  const files = openFiles(chosen);
  const path = mainFile(
    files,
    [...chosen.keys()].some((p) => /\.usdz$/i.test(p)),
  );
  options.onStage?.("reading");
  const left: string[] = [];
  const { document, ...more } = await readSet(files, path, options, left);
  options.onStage?.("decoding");
  const animations = animationsOf(document);
  left.push(...(await unpackPictures(document, options.decoders, path)), ...plain(document, options.moment ?? null, path));
  left.push(...lightUnlit(document, options.white ?? whiteAt(filmSchema.parse({}).exposure)));
  const found = inventory(document, left);
  const moving = withMotions(document, found, options.moment ?? null);
  const model = await pack(document, path);
  options.onStage?.("checking");
  const { mesh, report } = await readModel(model, path);
  return {
    model,
    name: path.split("/").at(-1)!,
    moving,
    report: { ...report, ...found.counts, left: counted([...left, ...report.left]) },
    bounds: boundsOfMesh(mesh),
    lenses: found.lenses.map(({ node: _, ...lens }) => lens),
    lights: [...found.lights.map(({ light }) => light), ...(more.lights?.lights ?? [])].slice(0, LIMITS.lights),
    sun: found.sun ?? more.lights?.sun ?? null,
    animations,
  };
}

/** A model as a document of glTF, with the lights that glTF has no place for. */
async function readSet(
  files: FileSet,
  path: string,
  options: ImportOptions,
  left: string[],
): Promise<{ document: Document; lights?: UsdLights }> {
  if (/\.obj$/i.test(path)) return { document: readObj(files, path, options.decode, left) };
  if (!/\.usd[ac]?$/i.test(path)) return { document: await readGltf(files, path, options, left) };
  // large, and only needed for these
  const { readUsd } = await import("./usd");
  return readUsd(files, path, options.decode, left);
}

async function readGltf(files: FileSet, path: string, options: ImportOptions, left: string[]): Promise<Document> {
  // chunks are read as words, which views into an archive may not be aligned to
  const bytes = new Uint8Array(files.get(path)!);
  let json: GltfJson;
  let resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  if (path.toLowerCase().endsWith(".glb")) {
    checkContainer(bytes, path);
    json = binaryGltfJson(bytes, path);
    const binary = binaryChunk(bytes);
    if (binary) resources = { "@glb.bin": binary };
    if (json.buffers?.[0] && json.buffers[0].uri === undefined) {
      if (!binary) throw new InputError(`${path}: buffer 0 has no data: the file is cut short or was not written whole`);
      json.buffers[0].uri = "@glb.bin";
    }
  } else json = parseGltf(options.decode(bytes), path);
  const version = json.asset?.version;
  if (typeof version !== "string" || !version.startsWith("2."))
    throw new InputError(`${path}: glTF version ${typeof version === "string" ? version : "unknown"}; save it as glTF 2.0`);
  const foreign = (json.extensionsRequired ?? []).filter((e) => !REQUIRED_KNOWN.has(e) && !IGNORED[e]);
  if (foreign.length)
    throw new InputError(`${path}: needs ${foreign.join(", ")}, which ${foreign.length > 1 ? "are" : "is"} not read; save it without`);
  for (const e of json.extensionsUsed ?? []) if (!REQUIRED_KNOWN.has(e)) left.push(IGNORED[e] ?? `what ${e} adds`);
  json.buffers?.forEach((b, i) => {
    if (b.uri === undefined || b.uri.startsWith("data:") || b.uri in resources) return;
    const found = fileOf(files, path, b.uri, `buffer ${i}`);
    if (!found)
      throw new InputError(
        `${path}: buffer ${i} is in "${b.uri}", which is not among the files; choose the whole folder or a zip archive of it`,
      );
    if (found.length < (b.byteLength ?? 0))
      throw new InputError(`${path}: "${b.uri}" has ${found.length} bytes, buffer ${i} needs ${b.byteLength}`);
    resources[b.uri] = found;
  });
  json.images?.forEach((image, i) => {
    if (image.uri === undefined || image.uri.startsWith("data:")) return;
    const found = fileOf(files, path, image.uri, `image ${i}`);
    if (found) resources[image.uri] = found;
    else {
      left.push(`picture "${image.uri}": the file is not among those chosen`);
      resources[image.uri] = PLACEHOLDER;
    }
  });
  try {
    const io = await importIO(options.decoders, json.extensionsUsed ?? []);
    const document = await io.readJSON({ json: json as never, resources });
    for (const texture of document.getRoot().listTextures())
      if (texture.getImage() === PLACEHOLDER || texture.getImage()?.length === 0) texture.dispose();
    return document;
  } catch (error) {
    throw new InputError(`${path}: not readable as glTF (${reasonOf(error)})`);
  }
}

/** Stands for a picture that is missing, until its texture is taken out. */
const PLACEHOLDER = new Uint8Array(0);

function fileOf(files: FileSet, path: string, uri: string, what: string): Uint8Array<ArrayBuffer> | null {
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri))
    throw new InputError(`${path}: ${what} lies at "${uri.slice(0, 80)}"; only files that come with the set are read`);
  if (plainPath(path.slice(0, path.lastIndexOf("/") + 1) + uri) === null)
    throw new InputError(`${path}: ${what} lies at "${uri.slice(0, 80)}", outside the set`);
  return (findFile(files, path, uri)?.bytes as Uint8Array<ArrayBuffer> | undefined) ?? null;
}

interface GltfJson {
  asset?: { version?: unknown };
  extensionsRequired?: string[];
  extensionsUsed?: string[];
  buffers?: { uri?: string; byteLength?: number }[];
  images?: { uri?: string }[];
}

function binaryChunk(bytes: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const at = 20 + view.getUint32(12, true);
  if (at + 8 > bytes.length || view.getUint32(at + 4, true) !== 0x004e4942) return null;
  return bytes.subarray(at + 8, at + 8 + view.getUint32(at, true));
}

/** The document as one binary file: one buffer, nothing compressed, no animation. */
async function pack(document: Document, path: string): Promise<Uint8Array> {
  const root = document.getRoot();
  for (const e of root.listExtensionsUsed())
    if (e.extensionName === "KHR_draco_mesh_compression" || e.extensionName === "EXT_meshopt_compression") e.dispose();
  for (const a of root.listAnimations()) a.dispose();
  for (const s of root.listSkins()) s.dispose();
  const buffer = root.listBuffers()[0] ?? document.createBuffer();
  for (const a of root.listAccessors()) a.setBuffer(buffer);
  for (const b of root.listBuffers().slice(1)) b.dispose();
  try {
    return await modelIO().writeBinary(document);
  } catch (error) {
    throw new InputError(`${path}: cannot be packed (${reasonOf(error)})`);
  }
}

const round = (v: number): number => Number(v.toPrecision(7));

/** Lines of a report, each once, with how often it came up. */
export function counted(lines: readonly string[]): string[] {
  const times = new Map<string, number>();
  for (const line of lines) times.set(line, (times.get(line) ?? 0) + 1);
  return [...times].map(([line, n]) => (n > 1 ? `${line} (${n} times)` : line));
}

/** What a scene holds besides triangles. */
function inventory(document: Document, left: string[]) {
  const root = document.getRoot();
  const lenses: (ImportedSet["lenses"][number] & { node: Node })[] = [];
  const lights: { light: Light; node: Node }[] = [];
  let sun: ImportedSet["sun"] = null;
  let sunNode: Node | null = null;
  let nodes = 0;
  const visit = (node: Node): void => {
    nodes++;
    const m = node.getWorldMatrix() as unknown as number[];
    const camera = node.getCamera();
    if (camera) {
      const lens = lensOf(camera, m);
      if (lens)
        lenses.push({
          name: freeName(
            camera.getName() || node.getName() || `lens ${lenses.length + 1}`,
            lenses.map((l) => l.name),
          ),
          camera: lens,
          node,
        });
      else left.push(`camera "${node.getName()}": its place or angle is not usable`);
    }
    const light = node.getExtension<PunctualLight>("KHR_lights_punctual");
    if (light) {
      const name = light.getName() || node.getName() || "light";
      if (light.getType() === "directional") {
        const illuminance = Math.min(1e7, Math.max(0, light.getIntensity()));
        if (sun && sun.illuminance >= illuminance) left.push(`light "${name}": a document has one sun, the brightest is taken`);
        else {
          if (sun) left.push("a directional light: a document has one sun, the brightest is taken");
          sunNode = node;
          sun = {
            ...anglesOf([m[8]!, m[9]!, m[10]!]),
            illuminance,
            tint: colourOf(light),
            motion: null,
          };
        }
      } else if (lights.length < LIMITS.lights) lights.push({ light: localLight(light, name, m), node });
    }
    for (const child of node.listChildren()) visit(child);
  };
  for (const node of rootNodes(document)) visit(node);
  const others = root.listScenes().length - 1;
  if (others > 0) left.push(`${others} further scene${others > 1 ? "s" : ""}`);
  return {
    lenses,
    lights,
    sun: sun as ImportedSet["sun"],
    sunNode: sunNode as Node | null,
    counts: { nodes, textures: root.listTextures().length },
  };
}

function lensOf(camera: Camera, m: readonly number[]): SceneDocument["camera"] | null {
  const position = [m[12]!, m[13]!, m[14]!].map(round);
  const back = unit([m[8]!, m[9]!, m[10]!]);
  const up = unit([m[4]!, m[5]!, m[6]!]);
  // the frame's own up against the upright one about the same axis
  const level =
    Math.hypot(back[0], back[2]) > 1e-6 ? unit([-back[1] * back[0], 1 - back[1] * back[1], -back[1] * back[2]]) : ([0, 0, -1] as const);
  const right = [level[1] * back[2] - level[2] * back[1], level[2] * back[0] - level[0] * back[2], level[0] * back[1] - level[1] * back[0]];
  const along = up[0] * level[0] + up[1] * level[1] + up[2] * level[2];
  const side = up[0] * right[0]! + up[1] * right[1]! + up[2] * right[2]!;
  // the lens frame turns right towards up: its own up then leans to the left
  const roll = (Math.atan2(-side, along) * 180) / Math.PI;
  const result = cameraSchema.safeParse({
    kind: camera.getType() === "orthographic" ? "orthographic" : "perspective",
    position,
    target: position.map((p, k) => round(p - 5 * back[k]!)),
    roll: Math.abs(roll) < 1e-4 ? 0 : round(roll),
    ...(camera.getType() === "orthographic"
      ? { height: 2 * camera.getYMag() }
      : { fieldOfView: Math.max(0.1, Math.min(170, round((camera.getYFov() * 180) / Math.PI))) }),
  });
  return result.success ? result.data : null;
}

/** Most keys of all motions of a set. */
const ALL_KEYS = 40_000;

/**
 * Gives lenses and lights the motions that an animation of the file has for them: that of the moment the set stands still at, with
 * the moment as its beginning, else the first that moves any. @returns what moves; null where nothing does
 */
function withMotions(document: Document, found: ReturnType<typeof inventory>, moment: Moment | null): ImportedSet["moving"] {
  const nodes = [...found.lenses, ...found.lights].map(({ node }) => node);
  if (found.sunNode) nodes.push(found.sunNode);
  const animation = moment?.animation ?? movingAnimation(document, nodes);
  if (animation === null) return null;
  const placements = placementsOf(document, animation, nodes);
  const from = moment?.time ?? 0;
  // together they must fit into a document
  const most = Math.min(MOST_KEYS, Math.floor(ALL_KEYS / Math.max(1, placements.size)));
  let lenses = 0,
    lights = 0;
  for (const lens of found.lenses) {
    const camera = lens.node.getCamera();
    const stands = (placements.get(lens.node) ?? []).flatMap(({ time, matrix }): Stand[] => {
      const at = camera && lensOf(camera, matrix);
      return at ? [{ time, position: at.position, target: at.target, roll: at.roll }] : [];
    });
    lens.camera = { ...lens.camera, motion: motionThrough(stands, from, most) };
    if (lens.camera.motion) lenses++;
  }
  for (const one of found.lights) {
    const punctual = one.node.getExtension<PunctualLight>("KHR_lights_punctual");
    const stands = (placements.get(one.node) ?? []).flatMap(({ time, matrix }): Stand[] => {
      const at = punctual && localLight(punctual, one.light.name, matrix);
      return at ? [{ time, position: at.position, ...("target" in at ? { target: at.target } : {}) }] : [];
    });
    one.light = { ...one.light, motion: motionThrough(stands, from, most) };
    if (one.light.motion) lights++;
  }
  if (found.sun && found.sunNode) {
    const stands = (placements.get(found.sunNode) ?? []).map(({ time, matrix: m }): Stand => {
      const target = unit([m[8]!, m[9]!, m[10]!]).map(round);
      return { time, position: [0, 0, 0], target };
    });
    const motion = motionThrough(stands, from, most);
    // a light that only changes its place shines the same way
    if (motion?.targets?.some((t) => String(t) !== String(motion.targets![0]))) {
      found.sun = { ...found.sun, motion: { times: motion.times, directions: motion.targets } };
      lights++;
    }
  }
  return lenses + lights > 0 ? { lenses, lights, animation: animationsOf(document)[animation]!.name } : null;
}

const colourOf = (light: PunctualLight): Colour => light.getColor().map((c) => round(Math.max(0, Math.min(1, c)))) as Colour;

function localLight(light: PunctualLight, name: string, m: readonly number[]): Light {
  const position = [m[12]!, m[13]!, m[14]!].map(round);
  const range = light.getRange();
  const common = {
    name: name.slice(0, 100),
    position,
    unit: "cd",
    intensity: Math.max(0, Math.min(1e9, light.getIntensity())),
    // the colour is kept as a tint of a neutral white
    temperature: 6500,
    tint: colourOf(light),
    ...(range && range > 0 && range < 1e6 ? { fade: { farFrom: round(0.75 * range), farTo: round(range) } } : {}),
  };
  if (light.getType() !== "spot") return lightSchema.parse({ kind: "point", ...common });
  const outer = Math.max(0.001, Math.min(1.55, light.getOuterConeAngle()));
  const forward = unit([-m[8]!, -m[9]!, -m[10]!]);
  return lightSchema.parse({
    kind: "spot",
    ...common,
    target: position.map((p, k) => round(p + 5 * forward[k]!)),
    cone: round((outer * 360) / Math.PI),
    softness: Math.max(0, Math.min(1, 1 - light.getInnerConeAngle() / outer)),
  });
}
