/** fumarium import: a set of files to a scene document with its model beside it. */
import { createHash } from "node:crypto";
import { mkdir, readdir, stat } from "node:fs/promises";
import { basename, join, relative } from "node:path";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import { placeSet } from "#core/document/place";
import type { Moment } from "#core/formats/gltf-pose";
import { importSet, type ImportedSet } from "#core/exchange/import/index";
import { IMPORT_LIMITS } from "#core/exchange/import/files";
import { decoders } from "./decoders";
import { readLimited } from "./load";
import { writeWhole } from "#finals/output";

/** Reads files and folders named on the command line. */
async function gather(names: readonly string[]): Promise<Map<string, Uint8Array>> {
  const out = new Map<string, Uint8Array>();
  let left: number = IMPORT_LIMITS.bytes;
  const read = async (file: string, as: string): Promise<void> => {
    const bytes = await readLimited(file, left, file);
    left -= bytes.length;
    if (out.size >= IMPORT_LIMITS.files) throw new InputError(`import: more than ${IMPORT_LIMITS.files} files`);
    out.set(as, bytes);
  };
  for (const name of names) {
    const info = await stat(name).catch(() => {
      throw new InputError(`${name}: no such file`);
    });
    if (!info.isDirectory()) {
      await read(name, basename(name));
      continue;
    }
    for (const entry of await readdir(name, { recursive: true, withFileTypes: true }))
      if (entry.isFile()) {
        const file = join(entry.parentPath, entry.name);
        await read(file, relative(name, file));
      }
  }
  return out;
}

export interface ImportRequest {
  names: string[];
  folder: string;
  scale: number;
  up: "y" | "z";
  /** Moment to stand still at: an animation by its name or number from 1, seconds into it. */
  animation?: { which: string; time: number };
  progress?: (line: string) => void;
}

function momentOf({ which, time }: { which: string; time: number }, { animations }: ImportedSet): Moment {
  const named = animations.findIndex((a) => a.name === which);
  const animation = named >= 0 ? named : Number(which) - 1;
  if (animations[animation]) return { animation, time };
  const there = animations.map(({ name, seconds }, i) => `${i + 1} "${name}" (${Number(seconds.toPrecision(3))} s)`).join(", ");
  throw new InputError(`--animation ${which}: ${there ? `the file has ${there}` : "the file has no animations"}`);
}

/** Imports and writes. @returns the document's file and what was read */
export async function importCommand(o: ImportRequest): Promise<{ file: string; set: ImportedSet }> {
  const files = await gather(o.names);
  const read = (moment: Moment | null): Promise<ImportedSet> =>
    importSet(files, { decoders, decode: (b) => new TextDecoder().decode(b), moment, onStage: (stage) => o.progress?.(stage) });
  const set = o.animation ? await read(momentOf(o.animation, await read(null))) : await read(null);
  const title = set.name.replace(/\.[^.]*$/, "");
  const uri = `${title.replace(/[^\p{L}\p{N}._-]+/gu, "-") || "set"}.glb`;
  const doc = placeSet(parseDocument({ fumarium: 2, title: title.slice(0, 200) }), set, {
    sha256: createHash("sha256").update(set.model).digest("hex"),
    uri,
    replace: true,
    lights: true,
    lenses: true,
    scale: o.scale,
    up: o.up,
  });
  await mkdir(o.folder, { recursive: true }).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(`${o.folder}: cannot be made (${e.code})`);
  });
  await writeWhole(join(o.folder, uri), set.model);
  const file = join(o.folder, `${uri.slice(0, -4)}.fumarium.json`);
  await writeWhole(file, `${JSON.stringify(doc, null, 2)}\n`);
  return { file, set };
}
