/** The files of a set as they were chosen: single files, a folder, or an archive unpacked within limits. */
import { unzipSync } from "fflate";
import { InputError, reasonOf } from "../../errors";
import { MODEL_LIMITS } from "../../formats/limits";

/** Files by path, with forward slashes. */
export type FileSet = ReadonlyMap<string, Uint8Array>;

export const IMPORT_LIMITS = {
  /** Bytes of all files, an archive unpacked. */
  bytes: 1024 * 1024 * 1024,
  files: 10_000,
  /** Unpacked size of an archive's entry against its packed size, past 1 MB: more than any honest file reaches. */
  ratio: 1100,
  /** Time that reading may take in a page. */
  seconds: 600,
} as const;

/** The limits in words, for whoever chooses files. */
export const limitsInWords = (): string =>
  `Up to ${megabytes(IMPORT_LIMITS.bytes)} in ${IMPORT_LIMITS.files.toLocaleString("en")} files, ${MODEL_LIMITS.triangles / 1e6} million triangles ` +
  `(what stands in several places counts once), ${MODEL_LIMITS.nodes.toLocaleString("en")} parts and places, ${IMPORT_LIMITS.seconds / 60} minutes to read.`;

const isZip = (bytes: Uint8Array): boolean => bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] === 3 || bytes[2] === 5);

/** A path as files refer to each other: no drive, no leading or doubled slashes, dots resolved. Null where it leads outside. */
export function plainPath(path: string): string | null {
  const out: string[] = [];
  for (const part of path.replace(/\\/g, "/").split("/")) {
    if (part === "" || part === ".") continue;
    if (part === "..") {
      if (out.length === 0) return null;
      out.pop();
    } else out.push(part);
  }
  return out.join("/");
}

/**
 * Takes archives apart and checks limits.
 * @throws InputError for a broken or outsized archive, too many or too large files
 */
export function openFiles(chosen: FileSet): Map<string, Uint8Array> {
  const out = new Map<string, Uint8Array>();
  let total = 0;
  const put = (path: string, bytes: Uint8Array): void => {
    total += bytes.length;
    if (total > IMPORT_LIMITS.bytes)
      throw new InputError(`import: the files hold more than the limit of ${megabytes(IMPORT_LIMITS.bytes)}`);
    if (out.size >= IMPORT_LIMITS.files) throw new InputError(`import: more than ${IMPORT_LIMITS.files} files`);
    out.set(path, bytes);
  };
  for (const [path, bytes] of chosen) {
    if (!isZip(bytes)) {
      put(plainPath(path) ?? path, bytes);
      continue;
    }
    let announced = 0;
    let entries: Record<string, Uint8Array>;
    try {
      entries = unzipSync(bytes, {
        filter: (entry) => {
          if (plainPath(entry.name) === null) throw new InputError(`${path}: the entry "${entry.name}" leads outside the archive`);
          announced += entry.originalSize;
          if (announced + total > IMPORT_LIMITS.bytes)
            throw new InputError(`${path}: unpacks to more than the limit of ${megabytes(IMPORT_LIMITS.bytes)}`);
          if (entry.originalSize > 1e6 && entry.originalSize > IMPORT_LIMITS.ratio * entry.size)
            throw new InputError(`${path}: the entry "${entry.name}" unpacks to ${megabytes(entry.originalSize)} from ${entry.size} bytes`);
          return !entry.name.endsWith("/") && !/(^|\/)(__MACOSX|\.)/.test(entry.name);
        },
      });
    } catch (error) {
      if (error instanceof InputError) throw error;
      throw new InputError(`${path}: not readable as a zip archive (${reasonOf(error)})`);
    }
    for (const [name, data] of Object.entries(entries)) put(plainPath(name)!, data);
  }
  return out;
}

export const megabytes = (bytes: number): string => `${Math.round(bytes / 1024 / 1024)} MB`;

const folderOf = (path: string): string => path.slice(0, path.lastIndexOf("/") + 1);

/** Finds a file that another refers to: as written, without regard to case, then by its last name alone where only one has it. */
export function findFile(files: FileSet, from: string, reference: string): { path: string; bytes: Uint8Array } | null {
  let wanted: string;
  try {
    wanted = decodeURIComponent(reference);
  } catch {
    wanted = reference;
  }
  const path = plainPath(folderOf(from) + wanted);
  if (path !== null && files.has(path)) return { path, bytes: files.get(path)! };
  const lower = path?.toLowerCase();
  const last = wanted.replace(/\\/g, "/").split("/").at(-1)!.toLowerCase();
  const named: string[] = [];
  for (const p of files.keys()) {
    if (p.toLowerCase() === lower) return { path: p, bytes: files.get(p)! };
    if (p.toLowerCase().split("/").at(-1) === last) named.push(p);
  }
  return named.length === 1 ? { path: named[0]!, bytes: files.get(named[0]!)! } : null;
}

/** Kinds of files that hold a set, the first that is found is read. */
const MODELS = [".glb", ".gltf", ".obj", ".usda", ".usdc", ".usd"];

/** The model among files. @param packed whether they came in a package of OpenUSD @throws InputError where there is none, or several and none to prefer */
export function mainFile(files: FileSet, packed = false): string {
  // a package's first layer is its root (AOUSD core specification 16.4.1.2)
  const root = packed ? [...files.keys()].find((p) => /\.usd[ac]?$/i.test(p)) : undefined;
  if (root !== undefined) return root;
  for (const ending of MODELS) {
    const found = [...files.keys()]
      .filter((p) => p.toLowerCase().endsWith(ending))
      .sort((a, b) => a.split("/").length - b.split("/").length);
    const level = (p: string): number => p.split("/").length;
    const top = found.filter((p) => level(p) === level(found[0]!));
    if (top.length > 1)
      throw new InputError(
        `import: several models were chosen (${top.slice(0, 4).join(", ")}${top.length > 4 ? ", …" : ""}); bring them in one by one`,
      );
    if (top.length === 1) return top[0]!;
  }
  const seen = [...new Set([...files.keys()].map((p) => /\.[^./]*$/.exec(p)?.[0]?.toLowerCase() ?? p))].slice(0, 5).join(", ");
  throw new InputError(
    `import: no model among the files (${seen || "none"}); glTF (.gltf, .glb), OBJ and OpenUSD (.usda, .usdc, .usd, .usdz) are read, also in a zip archive`,
  );
}
