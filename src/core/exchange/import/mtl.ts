/** Material libraries (MTL) of OBJ files as materials of glTF. */
import type { Document, Material, Texture, TextureInfo } from "@gltf-transform/core";
import {
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRTextureTransform,
} from "@gltf-transform/extensions";
import { map3, type V3 } from "../../math/vectors";
import { findFile, type FileSet } from "./files";
import { textLines } from "./text-lines";

/** Kinds of illumination that mean glass. */
const GLASS: ReadonlySet<number> = new Set([4, 6, 7, 9]);
/** The format's number for pictures that hold their border. */
const CLAMP = 33071;

/** How files of pictures begin, and their type. */
const PICTURES: readonly [mark: readonly number[], type: string][] = [
  [[0x89, 0x50], "image/png"],
  [[0xff, 0xd8], "image/jpeg"],
  [[0x52, 0x49, 0x46, 0x46], "image/webp"],
];

interface Picture {
  texture: Texture;
  statement: MapStatement;
}

/** One material as the library says it: words by key. */
export type Entry = Map<string, string[]>;

export function parseLibrary(bytes: Uint8Array, decode: (b: Uint8Array) => string): Map<string, Entry> {
  const out = new Map<string, Entry>();
  let entry: Entry | null = null;
  for (const [, raw] of textLines(bytes, decode)) {
    const line = raw.trim();
    if (line === "" || line.startsWith("#")) continue;
    const words = line.split(/\s+/);
    const key = words[0]!.toLowerCase();
    if (key === "newmtl") out.set(words.slice(1).join(" "), (entry = new Map<string, string[]>()));
    else entry?.set(key, words.slice(1));
  }
  return out;
}

/** A picture as a material names it. */
interface MapStatement {
  file: string;
  /** Places it on the surface: added, and times, as the format counts from the lower left. */
  offset: [number, number];
  scale: [number, number];
  clamped: boolean;
  /** Strength of bumps. */
  strength: number;
  /** Options that change something here but are not read. */
  unread: string[];
}

/** What a map statement says: options, then the name of the file with all its spaces. */
export function mapStatement(words: readonly string[]): MapStatement {
  const out: MapStatement = { file: "", offset: [0, 0], scale: [1, 1], clamped: false, strength: 1, unread: [] };
  // how many numbers, or words, follow each
  const counts: Record<string, number> = { "-o": 3, "-s": 3, "-t": 3, "-mm": 2 };
  let i = 0;
  while (i < words.length && words[i]!.startsWith("-")) {
    const option = words[i]!;
    const max = counts[option] ?? 1;
    const values: string[] = [];
    i++;
    for (let k = 0; k < max && i < words.length - 1 && (max === 1 || Number.isFinite(Number(words[i]))); k++, i++) values.push(words[i]!);
    const numbers = values.map(Number);
    if (option === "-o") out.offset = [numbers[0] ?? 0, numbers[1] ?? 0];
    else if (option === "-s") out.scale = [numbers[0] ?? 1, numbers[1] ?? numbers[0] ?? 1];
    else if (option === "-clamp") out.clamped = values[0] === "on";
    else if (option === "-bm") out.strength = numbers[0] ?? 1;
    // sharpness, blending and kinds of projection have no meaning here
    else if (!["-blendu", "-blendv", "-boost", "-cc", "-texres", "-type"].includes(option)) out.unread.push(option);
  }
  out.file = words.slice(i).join(" ");
  return out;
}

/** Makes materials of glTF from what libraries say. */
export class MaterialMaker {
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
    const filter = colour("tf");
    const clear = filter && GLASS.has(numbers("illum")?.[0] ?? 0) ? Math.max(...filter) : 0;
    const opacity = clear > 0 ? 1 : unit(numbers("d")?.[0] ?? 1 - (numbers("tr")?.[0] ?? 0));
    const base = this.picture(entry, "map_kd");
    // a picture with a black colour means the picture alone
    const tint: V3 = clear > 0 ? map3(filter!, (c) => unit(c / clear)) : base && kd.every((c) => c === 0) ? [1, 1, 1] : map3(kd, unit);
    m.setBaseColorFactor([...tint, opacity]);
    if (opacity < 1) m.setAlphaMode("BLEND");
    if (base) this.put(base, m.setBaseColorTexture(base.texture).getBaseColorTextureInfo()!);
    if (clear > 0)
      m.setExtension(
        "KHR_materials_transmission",
        this.doc.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(unit(clear)),
      );
    // many programs write a filter that lets all pass for what lets nothing pass
    else if (filter && Math.min(...filter) !== Math.max(...filter))
      this.left.push(`material "${name}": Tf is only read of glass (illum 4, 6, 7, 9)`);
    this.shine(m, numbers("ni")?.[0], colour("ks"));
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
    if (emissive) this.put(emissive, m.setEmissiveTexture(emissive.texture).getEmissiveTextureInfo()!);
    const bump = this.picture(entry, "norm");
    if (bump) this.put(bump, m.setNormalTexture(bump.texture).setNormalScale(bump.statement.strength).getNormalTextureInfo()!);
    for (const key of ["map_bump", "bump", "map_d", "disp", "map_ks", "map_ns", "refl"])
      if (entry.has(key)) this.left.push(`material "${name}": ${key} is not read`);
    return m;
  }

  /** Index of refraction and strength of the reflection. An index of 1 says nothing: programs write it where they know none. */
  private shine(m: Material, ior: number | undefined, specular: V3 | null): void {
    if (ior !== undefined && ior > 1 && ior <= 4 && ior !== 1.5)
      m.setExtension("KHR_materials_ior", this.doc.createExtension(KHRMaterialsIOR).createIOR().setIOR(ior));
    if (!specular) return;
    // half is what glass reflects, as programs write it; what is brighter keeps its colour
    const strength = Math.max(0, ...specular);
    const s = this.doc
      .createExtension(KHRMaterialsSpecular)
      .createSpecular()
      .setSpecularFactor(Math.min(1, 2 * strength));
    if (strength > 0) s.setSpecularColorFactor(map3(specular, (c) => Math.max(0, c) / strength));
    if (strength < 0.5 || Math.min(...specular) < strength) m.setExtension("KHR_materials_specular", s);
  }

  /** How a picture lies on a surface. Rows are counted from the top in glTF, so that offsets and scales turn about. */
  private put({ statement: { offset, scale, clamped } }: Picture, info: TextureInfo): void {
    if (clamped) info.setWrapS(CLAMP).setWrapT(CLAMP);
    const [[ox, oy], [sx, sy]] = [offset, scale];
    if (ox === 0 && oy === 0 && sx === 1 && sy === 1) return;
    const transform = this.doc.createExtension(KHRTextureTransform).createTransform();
    info.setExtension("KHR_texture_transform", transform.setScale([sx, sy]).setOffset([ox, 1 - sy - oy]));
  }

  private picture(entry: Entry, key: string): Picture | null {
    const words = entry.get(key);
    if (!words) return null;
    const statement = mapStatement(words);
    for (const option of statement.unread) this.left.push(`${key}: the option ${option}`);
    const texture = this.textureOf(statement.file);
    return texture && { texture, statement };
  }

  private textureOf(file: string): Texture | null {
    const had = this.pictures.get(file);
    if (had !== undefined) return had;
    const found = findFile(this.files, this.path, file);
    let texture: Texture | null = null;
    if (!found) this.left.push(`picture "${file}": the file is not among those chosen`);
    else {
      const type = PICTURES.find(([mark]) => mark.every((b, i) => found.bytes[i] === b))?.[1];
      if (type) texture = this.doc.createTexture(file).setImage(found.bytes).setMimeType(type);
      else this.left.push(`picture "${file}": neither PNG, JPEG nor WebP`);
    }
    this.pictures.set(file, texture);
    return texture;
  }
}
