/**
 * What a glTF file says of itself, checked before a parser that trusts it sees it: types, and references to what is there (glTF 2.0,
 * chapters 3 and 5). Errors name the file and the field.
 */
import { InputError } from "../errors";
import { fromUtf8 } from "./utf8";

type Json = Record<string, unknown>;
const isObject = (v: unknown): v is Json => typeof v === "object" && v !== null && !Array.isArray(v);

const isNumber = (v: unknown): boolean => typeof v === "number" && Number.isFinite(v);

/** Fields that are places in lists of the file, by the list they stand in; "[]" goes through a list, "*" through all fields. */
const REFERENCES: readonly [list: string, path: string, to: string][] = [
  ["bufferViews", "buffer", "buffers"],
  ["accessors", "bufferView", "bufferViews"],
  ["accessors", "sparse.indices.bufferView", "bufferViews"],
  ["accessors", "sparse.values.bufferView", "bufferViews"],
  ["images", "bufferView", "bufferViews"],
  ["textures", "source", "images"],
  ["textures", "sampler", "samplers"],
  ["meshes", "primitives.[].attributes.*", "accessors"],
  ["meshes", "primitives.[].indices", "accessors"],
  ["meshes", "primitives.[].material", "materials"],
  ["meshes", "primitives.[].targets.[].*", "accessors"],
  ["nodes", "mesh", "meshes"],
  ["nodes", "camera", "cameras"],
  ["nodes", "skin", "skins"],
  ["nodes", "children.[]", "nodes"],
  ["nodes", "extensions.EXT_mesh_gpu_instancing.attributes.*", "accessors"],
  ["scenes", "nodes.[]", "nodes"],
  ["skins", "joints.[]", "nodes"],
  ["skins", "inverseBindMatrices", "accessors"],
  ["animations", "channels.[].target.node", "nodes"],
  ["animations", "samplers.[].input", "accessors"],
  ["animations", "samplers.[].output", "accessors"],
  ["materials", "pbrMetallicRoughness.baseColorTexture.index", "textures"],
  ["materials", "pbrMetallicRoughness.metallicRoughnessTexture.index", "textures"],
  ["materials", "normalTexture.index", "textures"],
  ["materials", "occlusionTexture.index", "textures"],
  ["materials", "emissiveTexture.index", "textures"],
];
/** Fields that are numbers, or lists of so many of them. */
const NUMERIC: readonly [list: string, path: string, count: number | null][] = [
  ["materials", "alphaCutoff", null],
  ["materials", "emissiveFactor", 3],
  ["materials", "normalTexture.scale", null],
  ["materials", "normalTexture.texCoord", null],
  ["materials", "occlusionTexture.strength", null],
  ["materials", "pbrMetallicRoughness.baseColorFactor", 4],
  ["materials", "pbrMetallicRoughness.metallicFactor", null],
  ["materials", "pbrMetallicRoughness.roughnessFactor", null],
  ["materials", "pbrMetallicRoughness.baseColorTexture.texCoord", null],
  ["materials", "pbrMetallicRoughness.metallicRoughnessTexture.texCoord", null],
  ["nodes", "matrix", 16],
  ["nodes", "translation", 3],
  ["nodes", "rotation", 4],
  ["nodes", "scale", 3],
  ["cameras", "perspective.yfov", null],
  ["cameras", "orthographic.ymag", null],
  ["samplers", "wrapS", null],
  ["samplers", "wrapT", null],
  ["samplers", "magFilter", null],
];
const LISTS = ["accessors", "animations", "buffers", "bufferViews", "cameras", "images", "materials", "meshes", "nodes", "samplers", "scenes", "skins", "textures"]; // prettier-ignore
const BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const NUMBERS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
/** Deepest that nodes lie in each other. */
const MAX_DEPTH = 200;
const MAX_ENTRIES = 1_000_000;

/** The JSON of a glTF file, parsed and checked. @throws InputError */
export function parseGltf(text: string, what: string): object {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new InputError(`${what}: not JSON (${error instanceof Error ? error.message : String(error)})`);
  }
  checkGltf(json, what);
  return json as object;
}

/** The same of a binary file whose container was checked. @throws InputError */
export function binaryGltfJson(bytes: Uint8Array, what: string): object {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(16, true) !== 0x4e4f534a) throw new InputError(`${what}: its first chunk is not JSON`);
  return parseGltf(fromUtf8(bytes.subarray(20, 20 + view.getUint32(12, true))), what);
}

function checkGltf(json: unknown, what: string): void {
  const bad = (field: string, why: string): InputError => new InputError(`${what}: ${field}: ${why}`);
  if (!isObject(json)) throw new InputError(`${what}: not a glTF document`);
  const lists: Record<string, Json[]> = {};
  for (const name of LISTS) {
    const list = json[name] ?? [];
    if (!Array.isArray(list)) throw bad(name, "must be a list");
    if (list.length > MAX_ENTRIES) throw bad(name, `${list.length} entries, more than ${MAX_ENTRIES}`);
    list.forEach((v, i) => {
      if (!isObject(v)) throw bad(`${name}[${i}]`, "must be an object");
    });
    lists[name] = list as Json[];
  }
  for (const name of ["extensionsUsed", "extensionsRequired"]) {
    const list = json[name] ?? [];
    if (!Array.isArray(list) || !list.every((v) => typeof v === "string")) throw bad(name, "must be a list of names");
  }
  for (const name of ["buffers", "images"])
    lists[name]?.forEach((v, i) => {
      if (v.uri !== undefined && typeof v.uri !== "string") throw bad(`${name}[${i}].uri`, "must be text");
    });
  const place = (v: unknown, field: string, to: string): void => {
    const n = lists[to]?.length ?? 0;
    if (typeof v !== "number" || !Number.isInteger(v) || v < 0 || v >= n)
      throw bad(field, `${JSON.stringify(v) ?? "nothing"} is no place in ${to}, which has ${n}`);
  };
  /** Goes along a path; what is not there is passed over, what is of another type is named. */
  const follow = (v: unknown, steps: readonly string[], field: string, to: string): void => {
    if (v === undefined) return;
    const [step, ...rest] = steps;
    if (step === undefined) return place(v, field, to);
    if (step === "[]") {
      if (!Array.isArray(v)) throw bad(field, "must be a list");
      v.forEach((x, i) => follow(x ?? null, rest, `${field}[${i}]`, to));
    } else if (!isObject(v)) throw bad(field, "must be an object");
    else if (step === "*") for (const [key, x] of Object.entries(v)) follow(x, rest, `${field}.${key}`, to);
    else follow(v[step], rest, `${field}.${step}`, to);
  };
  for (const [list, path, to] of REFERENCES) lists[list]?.forEach((v, i) => follow(v, path.split("."), `${list}[${i}]`, to));
  for (const [list, path, count] of NUMERIC)
    lists[list]?.forEach((entry, i) => {
      let v: unknown = entry;
      for (const step of path.split(".")) v = isObject(v) ? v[step] : undefined;
      if (v === undefined) return;
      const fits = count === null ? isNumber(v) : Array.isArray(v) && v.length === count && v.every(isNumber);
      if (!fits) throw bad(`${list}[${i}].${path}`, count === null ? "must be a number" : `must be a list of ${count} numbers`);
    });
  if (json.scene !== undefined) place(json.scene, "scene", "scenes");
  lists.meshes?.forEach((m, i) => {
    if (!Array.isArray(m.primitives) || !m.primitives.every((p) => isObject(p) && isObject(p.attributes)))
      throw bad(`meshes[${i}].primitives`, "must be a list of objects with attributes");
  });
  checkBytes(lists, bad);
  checkTree(lists.nodes ?? [], bad);
}

/** Lengths and places of bytes. */
function checkBytes(lists: Record<string, Json[]>, bad: (field: string, why: string) => InputError): void {
  const whole = (v: unknown, field: string, least = 0): number => {
    if (typeof v !== "number" || !Number.isInteger(v) || v < least || v > 2 ** 40)
      throw bad(field, `${JSON.stringify(v) ?? "nothing"} is no whole number from ${least} on`);
    return v;
  };
  lists.buffers?.forEach((b, i) => whole(b.byteLength ?? 0, `buffers[${i}].byteLength`));
  lists.bufferViews?.forEach((v, i) => {
    const at = `bufferViews[${i}]`;
    const end = whole(v.byteOffset ?? 0, `${at}.byteOffset`) + whole(v.byteLength, `${at}.byteLength`, 1);
    const buffer = lists.buffers?.[v.buffer as number];
    if (!buffer) throw bad(`${at}.buffer`, "says no buffer");
    if (end > ((buffer.byteLength as number | undefined) ?? 0))
      throw bad(at, `ends at byte ${end} of a buffer of ${(buffer.byteLength as number | undefined) ?? 0}`);
    if (v.byteStride !== undefined) whole(v.byteStride, `${at}.byteStride`, 1);
  });
  lists.accessors?.forEach((a, i) => {
    const at = `accessors[${i}]`;
    const count = whole(a.count, `${at}.count`, 1);
    const size = BYTES[a.componentType as number],
      numbers = NUMBERS[a.type as string];
    if (!size) throw bad(`${at}.componentType`, `${JSON.stringify(a.componentType) ?? "nothing"} is no type of numbers`);
    if (!numbers) throw bad(`${at}.type`, `${JSON.stringify(a.type) ?? "nothing"} is none of ${Object.keys(NUMBERS).join(", ")}`);
    const offset = whole(a.byteOffset ?? 0, `${at}.byteOffset`);
    const view = a.bufferView === undefined ? null : lists.bufferViews?.[a.bufferView as number];
    // compressed ones say what is in them once they are read
    if (!view || isObject(view.extensions)) return;
    const stride = (view.byteStride as number | undefined) ?? size * numbers;
    const end = offset + stride * (count - 1) + size * numbers;
    if (end > (view.byteLength as number)) throw bad(at, `its ${count} entries end at byte ${end} of ${view.byteLength as number}`);
  });
}

/** Nodes lie in a tree of reasonable depth: nobody's own ancestor, and in one place each. */
function checkTree(nodes: readonly Json[], bad: (field: string, why: string) => InputError): void {
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((node, i) => {
    for (const child of (node.children as number[] | undefined) ?? []) {
      if (parent[child] !== -1) throw bad(`nodes[${i}].children`, `node ${child} is already a child of node ${parent[child]}`);
      parent[child] = i;
    }
  });
  nodes.forEach((_, i) => {
    let depth = 0;
    for (let n = i; n !== -1; n = parent[n] ?? -1)
      if (++depth > MAX_DEPTH) throw bad(`nodes[${i}]`, `lies more than ${MAX_DEPTH} nodes deep, or within itself`);
  });
}
