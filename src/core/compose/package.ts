/** A stack in one file: a zip archive with its document and the pictures that it names. */
import { InputError } from "../errors";
import { plainPath } from "../exchange/import/files";
import { unzipped, ZipWriter } from "../exchange/zip";
import { parseStackText, STACK_LIMITS, type Stack } from "./stack";

/** What the name of a stack's document ends with. */
export const STACK_ENDING = ".stack.json";
/** Bytes that a package may unpack to. */
const MOST = 8_000_000_000;

/** Packs a stack with its files, which are stored as they are. @param bytesOf fetches a source's file by its key */
export async function writePackage(
  stack: Stack,
  name: string,
  encode: (text: string) => Uint8Array,
  bytesOf: (source: string) => Promise<Uint8Array>,
): Promise<Uint8Array> {
  const zip = new ZipWriter();
  const taken = new Set<string>();
  const sources: Stack["sources"] = {};
  for (const [key, source] of Object.entries(stack.sources)) {
    const file = freeName(source.name, taken);
    sources[key] = { ...source, file };
    zip.put(file, await bytesOf(key));
  }
  zip.put(`${name}${STACK_ENDING}`, encode(`${JSON.stringify({ ...stack, sources }, null, 2)}\n`));
  return zip.done();
}

/** A file name made of a source's, which no other has. */
function freeName(name: string, taken: Set<string>): string {
  const [, stem = "", ending = ".exr"] = /^(.*?)(\.(?:exr|hdr|png|jpe?g))?$/i.exec(name.replace(FORBIDDEN, "_")) ?? [];
  for (let i = 1; ; i++) {
    const file = `${stem || "picture"}${i > 1 ? `-${i}` : ""}${ending}`;
    if (taken.has(file.toLowerCase())) continue;
    taken.add(file.toLowerCase());
    return file;
  }
}
/** What no file's name may hold. */
// eslint-disable-next-line no-control-regex
const FORBIDDEN = /[\\/:*?"<>|\u0000-\u001f]/g;

/** Takes a package apart. @returns the stack, and files of its sources by their keys @throws InputError saying what is missing or wrong */
export function readPackage(
  bytes: Uint8Array,
  what: string,
  decode: (b: Uint8Array) => string,
): { stack: Stack; files: Map<string, Uint8Array> } {
  const all = unzipped(bytes, what, MOST);
  const documents = [...all.keys()].filter((n) => n.toLowerCase().endsWith(STACK_ENDING));
  if (documents.length !== 1) throw new InputError(`${what}: holds ${documents.length} stacks (*${STACK_ENDING}); a package has one`);
  const path = documents[0]!;
  const text = all.get(path)!;
  if (text.length > 4 * STACK_LIMITS.text) throw new InputError(`${what}: ${path} is too long`);
  const stack = parseStackText(decode(text), `${what}: ${path}`);
  const folder = path.slice(0, path.lastIndexOf("/") + 1);
  const files = new Map<string, Uint8Array>();
  for (const [key, { file }] of Object.entries(stack.sources)) {
    const found = file === null ? undefined : all.get(plainPath(folder + file) ?? "");
    if (!found) throw new InputError(`${what}: the file of the source "${key}" (${file ?? "not named"}) is not in it`);
    files.set(key, found);
  }
  return { stack, files };
}
