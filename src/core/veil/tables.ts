/** What the veil's fragment shader reads, taken from a kernel memory: the same records the kernel reads. */
import type { SceneDocument } from "../document/schema";
import { planMemory } from "../scene/memory";
import type { CompiledGeometry, MemoryPlan } from "../scene/compiled";
import { writeParameters } from "../scene/parameters";
import { INTEGER_WORDS, integerAt, integerParameter, type RecordKind } from "../layout/integers";
import * as L from "../layout/layout";
import { activeMedia, mediaRecords } from "../scene/media";
import { Tables } from "../scene/tables";

/** Tables in single precision, one row a record: to be uploaded as textures of one red float a texel. */
export interface VeilTables {
  /** PARAM_COUNT × 1. */
  parameters: Float32Array;
  /** MEDIUM_WORDS × media (at least one row). */
  media: Float32Array;
  mediaCount: number;
  /** LIGHT_WORDS × lights (at least one row). */
  lights: Float32Array;
  lightCount: number;
}

/** Media and lights that the shader takes; what lies beyond is left out. */
export const VEIL_MEDIA = 16;
export const VEIL_LIGHTS = 64;

/** Records of a kernel memory in single precision; integer words as numbers, masks as far as VEIL_MEDIA bits. */
function rowsOf(memory: ArrayBufferLike, at: number, words: number, count: number, kind: RecordKind): Float32Array {
  if (count === 0) return new Float32Array(words);
  const records = new Float64Array(memory, at, words * count);
  const out = Float32Array.from(records);
  const mask: number | null = kind === "parameters" ? L.P_SUN_MASK : kind === "light" ? L.L_MASK : null;
  for (let first = 0; first < records.length; first += words)
    for (const word of INTEGER_WORDS[kind]) {
      const value = integerAt(records, first + word);
      out[first + word] = word === mask ? value % 2 ** VEIL_MEDIA : value;
    }
  return out;
}

/** Copies the tables out of a kernel memory that holds a document's parameters and tables. */
export function veilTables(memory: ArrayBufferLike): VeilTables {
  const parameters = rowsOf(memory, L.PARAMS, L.PARAM_COUNT, 1, "parameters");
  const mediaCount = Math.min(VEIL_MEDIA, parameters[L.P_MEDIA]!);
  const lightCount = Math.min(VEIL_LIGHTS, parameters[L.P_LIGHT_COUNT]!);
  // an offset has more digits than single precision: read as the integer it is
  const lightsAt = integerParameter(memory, L.P_LIGHTS);
  return {
    parameters,
    media: rowsOf(memory, L.MEDIA, L.MEDIUM_WORDS, mediaCount, "medium"),
    mediaCount,
    lights: rowsOf(memory, lightsAt, L.LIGHT_WORDS, lightCount, "light"),
    lightCount,
  };
}

/** Makes the tables of documents over one geometry, without a kernel. A level of shafts gets a veil that scatters once, as it does. */
export function tableMaker(geometry: CompiledGeometry): (doc: SceneDocument) => VeilTables {
  const none = new ArrayBuffer(0);
  const bare = (grids: CompiledGeometry["volumes"]): CompiledGeometry["volumes"] =>
    Object.fromEntries(Object.entries(grids).map(([key, { volume }]) => [key, { volume, packed: none }]));
  // what a veil does not read takes no room
  const light: CompiledGeometry = {
    ...geometry,
    bvh: { ...geometry.bvh, nodes: none, leaves: none },
    triangles: none,
    uvs: null,
    uvsSecond: null,
    colours: null,
    textures: [],
    volumes: bare(geometry.volumes),
    distances: bare(geometry.distances),
  };
  let memory = none;
  let last: { doc: SceneDocument; plan: MemoryPlan; made: VeilTables } | null = null;
  return (doc) => {
    // while air is shaped the lights stay, and their tables are what takes time
    if (last && sameBut(last.doc, doc, ["air"]) && sameMedia(last.doc, doc)) {
      const { made, plan } = last;
      const records = mediaRecords(doc, light, new Tables(), 0, plan);
      return { ...made, media: Float32Array.from(records.subarray(0, made.media.length)) };
    }
    const plan = planMemory(light, 0, doc);
    if (memory.byteLength < plan.film) memory = new ArrayBuffer(plan.film);
    writeParameters(memory, doc, light, plan, doc.film.size[0], doc.film.size[1]);
    const made = veilTables(memory);
    if (doc.render.level === "shafts") made.parameters[L.P_AIR_BOUNCES] = 1;
    last = { doc, plan, made };
    return made;
  };
}

/** Whether two documents differ in nothing but some parts (and what is only kept: title, lenses, pins): compared as they are kept, not number by number. */
export function sameBut(a: SceneDocument, b: SceneDocument, parts: readonly (keyof SceneDocument)[]): boolean {
  return (Object.keys(a) as (keyof SceneDocument)[]).every(
    (key) => key === "title" || key === "lenses" || key === "pins" || parts.includes(key) || a[key] === b[key],
  );
}

/** Whether the same media are active, by name: lights reach them by place in the list. */
function sameMedia(a: SceneDocument, b: SceneDocument): boolean {
  const [x, y] = [activeMedia(a), activeMedia(b)];
  return x.length === y.length && x.every((m, i) => m.name === y[i]!.name);
}

/** What of a document the shader leaves out that the kernel's veil has, one sentence each; none where they are equal. */
export function veilOmissions(doc: SceneDocument): string[] {
  const out: string[] = [];
  const media = activeMedia(doc);
  for (const m of media) if (m.region.kind === "mesh") out.push(`${m.name} is taken as the box about its mesh`);
  if (media.length > VEIL_MEDIA) out.push(`of ${media.length} media the first ${VEIL_MEDIA} are shown`);
  const lights = doc.lights.filter((l) => l.on && l.intensity > 0);
  for (const l of lights) {
    if ("gobo" in l && l.gobo) out.push(`${l.name} shines without its gobo`);
    if (l.kind === "rectangle" && l.image) out.push(`${l.name} shines without its image`);
    if (l.kind === "profile") out.push(`${l.name} is left out: it shines by a photometric profile`);
  }
  if (lights.length > VEIL_LIGHTS - 1) out.push(`of ${lights.length} lights the first ${VEIL_LIGHTS - 1} are shown`);
  return out;
}
