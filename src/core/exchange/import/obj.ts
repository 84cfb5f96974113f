/**
 * Wavefront OBJ and MTL to a glTF document. Written here because no package gives errors by line and flat arrays at a
 * million triangles. Faces of more than three corners are cut into triangles, hollow ones too; curves, points and lines are left out.
 */
import { Document, type Node } from "@gltf-transform/core";
import { AXES } from "../../math/vectors";
import { decodeSrgb } from "../../optics/colour";
import { InputError } from "../../errors";
import { MODEL_LIMITS } from "../../formats/limits";
import { findFile, type FileSet } from "./files";
import { MaterialMaker, parseLibrary, type Entry } from "./mtl";
import { cutPolygon } from "./polygon";
import { textLines } from "./text-lines";

/** Corners that a face may have. */
const MAX_CORNERS = 10_000;

/** Triangles of one object and material. */
interface Run {
  object: string;
  material: string;
  /** Numbers of position, texture coordinate and normal, 3 a corner; -1 where there is none. */
  corners: number[];
}

interface Parsed {
  positions: number[];
  /** Linear colours of the positions, 3 each; empty where none has one, white where one has none. */
  colours: number[];
  coordinates: number[];
  normals: number[];
  runs: Run[];
  libraries: string[];
  left: Map<string, number>;
}

function parse(bytes: Uint8Array, what: string, decode: (b: Uint8Array) => string): Parsed {
  const out: Parsed = { positions: [], colours: [], coordinates: [], normals: [], runs: [], libraries: [], left: new Map() };
  let object = "object",
    material = "",
    triangles = 0;
  let run: Run | null = null;
  const byKey = new Map<string, Run>();
  for (const [n, raw] of textLines(bytes, decode)) {
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
      case "v": {
        const v = numbers(3, 7);
        // four are a place with a weight, six a place with a colour, which programs write as displays show it
        if (v.length >= 6) {
          for (let i = out.colours.length; i < out.positions.length; i++) out.colours.push(1);
          out.colours.push(...v.slice(3, 6).map((c) => decodeSrgb(Math.max(0, Math.min(1, c)))));
        } else if (out.colours.length) out.colours.push(1, 1, 1);
        out.positions.push(...v.slice(0, 3));
        break;
      }
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
        const corners = words.slice(1).map(corner);
        if (corners.length < 3) throw fail("a face needs three corners");
        if (corners.length > MAX_CORNERS) throw fail(`a face of ${corners.length} corners, more than ${MAX_CORNERS}`);
        triangles += corners.length - 2;
        if (triangles > MODEL_LIMITS.triangles) throw fail(`more than ${MODEL_LIMITS.triangles} triangles`);
        for (const at of cutPolygon(
          out.positions,
          corners.map(([p]) => p),
        ))
          run.corners.push(...corners[at]!);
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
    if (parsed.colours.length) {
      const colours = new Float32Array(3 * n);
      for (let i = 0; i < n; i++) for (const k of AXES) colours[3 * i + k] = parsed.colours[3 * c[3 * i]! + k]!;
      primitive.setAttribute("COLOR_0", doc.createAccessor().setType("VEC3").setArray(colours).setBuffer(buffer));
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
