/**
 * Wavefront OBJ and MTL to a glTF document. Written here because no package gives errors by line and flat arrays at a
 * million triangles. Faces of more than three corners are cut as fans; curves, points and lines are left out.
 */
import { AXES, type V3, map3 } from "../../math/vectors";
import { Document, type Material, type Node, type Texture } from "@gltf-transform/core";
import { KHRMaterialsEmissiveStrength } from "@gltf-transform/extensions";
import { InputError } from "../../errors";
import { MODEL_LIMITS } from "../../formats/limits";
import { findFile, type FileSet } from "./files";

/** Triangles of one object and material. */
interface Run {
  object: string;
  material: string;
  /** Numbers of position, texture coordinate and normal, 3 a corner; -1 where there is none. */
  corners: number[];
}

interface Parsed {
  positions: number[];
  coordinates: number[];
  normals: number[];
  runs: Run[];
  libraries: string[];
  left: Map<string, number>;
}

/** Bytes as lines; lines that end with a backslash go on. */
function* lines(bytes: Uint8Array, decode: (b: Uint8Array) => string): Generator<[number, string]> {
  let number = 0,
    begin = 0,
    held = "";
  for (let i = 0; i <= bytes.length; i++) {
    if (i < bytes.length && bytes[i] !== 10) continue;
    number++;
    let line = decode(bytes.subarray(begin, i));
    begin = i + 1;
    if (line.endsWith("\r")) line = line.slice(0, -1);
    if (line.endsWith("\\")) {
      held += `${line.slice(0, -1)} `;
      continue;
    }
    yield [number, held + line];
    held = "";
  }
}

function parse(bytes: Uint8Array, what: string, decode: (b: Uint8Array) => string): Parsed {
  const out: Parsed = { positions: [], coordinates: [], normals: [], runs: [], libraries: [], left: new Map() };
  let object = "object",
    material = "",
    triangles = 0;
  let run: Run | null = null;
  const byKey = new Map<string, Run>();
  for (const [n, raw] of lines(bytes, decode)) {
    const line = raw.trim();
    if (line === "" || line.startsWith("#")) continue;
    const words = line.split(/\s+/);
    const fail = (why: string): InputError => new InputError(`${what}: line ${n}: ${why}`);
    const numbers = (min: number, max: number): number[] => {
      const v = words.slice(1, 1 + max).map(Number);
      if (v.length < min || !v.every(Number.isFinite)) throw fail(`"${line.slice(0, 60)}" needs ${min} numbers`);
      return v;
    };
    const [statement = ""] = words;
    switch (statement) {
      case "v":
        out.positions.push(...numbers(3, 3));
        break;
      case "vt": {
        const [u = 0, v = 0] = numbers(1, 2);
        out.coordinates.push(u, v);
        break;
      }
      case "vn":
        out.normals.push(...numbers(3, 3));
        break;
      case "o":
      case "g":
        object = words.slice(1).join(" ") || "object";
        run = null;
        break;
      case "usemtl":
        material = words.slice(1).join(" ");
        run = null;
        break;
      case "mtllib":
        out.libraries.push(line.slice(6).trim());
        break;
      case "f": {
        if (!run) {
          const key = `${object}\n${material}`;
          run = byKey.get(key) ?? null;
          if (!run) {
            run = { object, material, corners: [] };
            byKey.set(key, run);
            out.runs.push(run);
          }
        }
        const corner = (word: string): [number, number, number] => {
          const parts = word.split("/");
          const index = (text: string | undefined, count: number, kind: string): number => {
            if (text === undefined || text === "") return -1;
            const v = Number(text);
            const at = v < 0 ? count + v : v - 1;
            if (!Number.isInteger(v) || v === 0 || at < 0 || at >= count) throw fail(`there is no ${kind} ${text} (of ${count})`);
            return at;
          };
          const p = index(parts[0], out.positions.length / 3, "corner");
          if (p < 0) throw fail(`"${word}" names no corner`);
          return [p, index(parts[1], out.coordinates.length / 2, "texture coordinate"), index(parts[2], out.normals.length / 3, "normal")];
        };
        const [first, second, ...others] = words.slice(1).map(corner);
        if (!first || !second || others.length === 0) throw fail("a face needs three corners");
        let before = second;
        for (const now of others) {
          run.corners.push(...first, ...before, ...now);
          before = now;
          if (++triangles > MODEL_LIMITS.triangles) throw fail(`more than ${MODEL_LIMITS.triangles} triangles`);
        }
        break;
      }
      case "p":
      case "l":
      case "curv":
      case "curv2":
      case "surf":
        out.left.set(statement, (out.left.get(statement) ?? 0) + 1);
        break;
      default:
        // smoothing groups and the like change nothing here
        break;
    }
  }
  if (triangles === 0) throw new InputError(`${what}: holds no faces`);
  return out;
}

/** One material as the library says it: words by key. */
type Entry = Map<string, string[]>;

function parseLibrary(bytes: Uint8Array, decode: (b: Uint8Array) => string): Map<string, Entry> {
  const out = new Map<string, Entry>();
  let entry: Entry | null = null;
  for (const [, raw] of lines(bytes, decode)) {
    const line = raw.trim();
    if (line === "" || line.startsWith("#")) continue;
    const words = line.split(/\s+/);
    const key = words[0]!.toLowerCase();
    if (key === "newmtl") out.set(words.slice(1).join(" "), (entry = new Map<string, string[]>()));
    else entry?.set(key, words.slice(1));
  }
  return out;
}

/** Name of the file in a map statement: what follows its options. */
function mapFile(words: readonly string[]): string {
  const counts: Record<string, number> = { "-o": 3, "-s": 3, "-t": 3, "-mm": 2 };
  let i = 0;
  while (i < words.length && words[i]!.startsWith("-")) {
    const max = counts[words[i]!] ?? 1;
    i++;
    for (let k = 0; k < max && i < words.length - 1 && (max === 1 || Number.isFinite(Number(words[i]))); k++) i++;
  }
  return words.slice(i).join(" ");
}

/** Reads an OBJ file with the libraries and pictures it names. @param left takes note of what is left out */
export function readObj(files: FileSet, path: string, decode: (b: Uint8Array) => string, left: string[]): Document {
  const parsed = parse(files.get(path)!, path, decode);
  for (const [kind, count] of parsed.left)
    left.push(`${kind === "p" ? "points" : kind === "l" ? "lines" : "curves and surfaces"} (${count})`);
  const library = new Map<string, Entry>();
  for (const name of parsed.libraries) {
    const found = findFile(files, path, name);
    if (!found) left.push(`materials of "${name}": the file is not among those chosen`);
    else for (const [k, v] of parseLibrary(found.bytes, decode)) library.set(k, v);
  }
  const doc = new Document();
  const buffer = doc.createBuffer();
  const scene = doc.createScene();
  const nodes = new Map<string, Node>();
  const maker = new MaterialMaker(doc, files, path, library, left);
  for (const run of parsed.runs) {
    let node = nodes.get(run.object);
    if (!node) {
      node = doc.createNode(run.object).setMesh(doc.createMesh(run.object));
      nodes.set(run.object, node);
      scene.addChild(node);
    }
    const c = run.corners;
    const n = c.length / 3;
    const positions = new Float32Array(3 * n);
    const whole = { vt: true, vn: true };
    for (let i = 0; i < n; i++) {
      for (const k of AXES) positions[3 * i + k] = parsed.positions[3 * c[3 * i]! + k]!;
      if (c[3 * i + 1]! < 0) whole.vt = false;
      if (c[3 * i + 2]! < 0) whole.vn = false;
    }
    const primitive = doc
      .createPrimitive()
      .setAttribute("POSITION", doc.createAccessor().setType("VEC3").setArray(positions).setBuffer(buffer))
      .setMaterial(maker.material(run.material));
    if (whole.vn) {
      const normals = new Float32Array(3 * n);
      for (let i = 0; i < n; i++) for (const k of AXES) normals[3 * i + k] = parsed.normals[3 * c[3 * i + 2]! + k]!;
      primitive.setAttribute("NORMAL", doc.createAccessor().setType("VEC3").setArray(normals).setBuffer(buffer));
    }
    if (whole.vt) {
      const uv = new Float32Array(2 * n);
      for (let i = 0; i < n; i++) {
        uv[2 * i] = parsed.coordinates[2 * c[3 * i + 1]!]!;
        // rows of a picture count from the top in glTF
        uv[2 * i + 1] = 1 - parsed.coordinates[2 * c[3 * i + 1]! + 1]!;
      }
      primitive.setAttribute("TEXCOORD_0", doc.createAccessor().setType("VEC2").setArray(uv).setBuffer(buffer));
    }
    node.getMesh()!.addPrimitive(primitive);
  }
  return doc;
}

class MaterialMaker {
  private readonly made = new Map<string, Material>();
  private readonly pictures = new Map<string, Texture | null>();
  constructor(
    private readonly doc: Document,
    private readonly files: FileSet,
    private readonly path: string,
    private readonly entries: ReadonlyMap<string, Entry>,
    private readonly left: string[],
  ) {}

  material(name: string): Material {
    const had = this.made.get(name);
    if (had) return had;
    const m = this.doc.createMaterial(name || "plain");
    this.made.set(name, m);
    const entry = this.entries.get(name);
    if (!entry) {
      if (name) this.left.push(`material "${name}": not found in any library; it is plain grey`);
      return m.setBaseColorFactor([0.5, 0.5, 0.5, 1]).setMetallicFactor(0).setRoughnessFactor(1);
    }
    const numbers = (key: string): number[] | null => {
      const v = entry.get(key)?.map(Number);
      return v?.length && v.every(Number.isFinite) ? v : null;
    };
    const colour = (key: string): [number, number, number] | null => {
      const v = numbers(key);
      if (!v) return null;
      const [r = 0, g = r, b = r] = v;
      return [r, g, b];
    };
    const unit = (x: number): number => Math.max(0, Math.min(1, x));
    const kd = colour("kd") ?? [0.5, 0.5, 0.5];
    const opacity = unit(numbers("d")?.[0] ?? 1 - (numbers("tr")?.[0] ?? 0));
    const base = this.picture(entry, "map_kd");
    // a picture with a black colour means the picture alone
    const tint: V3 = base && kd.every((c) => c === 0) ? [1, 1, 1] : map3(kd, unit);
    m.setBaseColorFactor([...tint, opacity]);
    if (opacity < 1) m.setAlphaMode("BLEND");
    if (base) m.setBaseColorTexture(base);
    const shine = numbers("ns")?.[0];
    // Blinn's exponent as the roughness of equal spread: α² = 2 / (n + 2)
    const rough = numbers("pr")?.[0] ?? (shine === undefined ? 1 : (2 / (Math.max(0, shine) + 2)) ** 0.25);
    m.setRoughnessFactor(unit(rough)).setMetallicFactor(unit(numbers("pm")?.[0] ?? 0));
    const ke = colour("ke");
    const emissive = this.picture(entry, "map_ke");
    if (ke && Math.max(...ke) > 0) {
      const max = Math.max(1, ...ke);
      m.setEmissiveFactor(ke.map((c) => Math.max(0, c) / max) as [number, number, number]);
      if (max > 1)
        m.setExtension(
          "KHR_materials_emissive_strength",
          this.doc.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(max),
        );
    } else if (emissive) m.setEmissiveFactor([1, 1, 1]);
    if (emissive) m.setEmissiveTexture(emissive);
    const bump = this.picture(entry, "norm");
    if (bump) m.setNormalTexture(bump);
    for (const key of ["map_bump", "bump", "map_d", "disp", "map_ks", "map_ns", "refl"])
      if (entry.has(key)) this.left.push(`material "${name}": ${key} is not read`);
    return m;
  }

  private picture(entry: Entry, key: string): Texture | null {
    const words = entry.get(key);
    if (!words) return null;
    const file = mapFile(words);
    const had = this.pictures.get(file);
    if (had !== undefined) return had;
    const found = findFile(this.files, this.path, file);
    let texture: Texture | null = null;
    if (!found) this.left.push(`picture "${file}": the file is not among those chosen`);
    else {
      const type = found.bytes[0] === 0x89 ? "image/png" : found.bytes[0] === 0xff && found.bytes[1] === 0xd8 ? "image/jpeg" : null;
      if (type) texture = this.doc.createTexture(file).setImage(found.bytes).setMimeType(type);
      else this.left.push(`picture "${file}": neither PNG nor JPEG`);
    }
    this.pictures.set(file, texture);
    return texture;
  }
}
