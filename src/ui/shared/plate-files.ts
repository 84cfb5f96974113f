/** A picture with its depth from files of this machine: read first, so that a wrong one is told before anything is stored. */
import { wrap } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import type { Guess } from "#core/plate/begin";
import { upload } from "./api";
import type { GivenFile, PlateWorker } from "./plate-worker";

/** For the file picker. */
export const PLATE_FILES = ".exr,.hdr,.png,.jpg,.jpeg,.tif,.tiff";
const LIMIT = 2_000_000_000;

/** Names that files of depth go by. */
const DEPTH_NAME = /(^|[^a-z])(z|depth|zdepth|dist|distance)([^a-z]|$)/i;

/** Which of two files is the picture, and which its depth: by their names, else in their order. @throws with words for the user */
export function partsOf<T extends { name: string }>(files: readonly T[]): { picture: T; depth: T | null } {
  const [a, b, ...others] = files;
  if (!a) throw new Error("Choose a picture.");
  if (others.length > 0)
    throw new Error(`${files.length} files: a plate is one picture that holds its depth, or a picture and a file of its depth.`);
  if (!b) return { picture: a, depth: null };
  return DEPTH_NAME.test(a.name) && !DEPTH_NAME.test(b.name) ? { picture: b, depth: a } : { picture: a, depth: b };
}

/** A file as pages can read it, with a name that may lie beside a document. */
async function readable(file: File): Promise<GivenFile> {
  if (file.size > LIMIT) throw new Error(`${file.name}: ${file.size} bytes, more than the limit of ${LIMIT}`);
  const name = file.name.replace(/[^\p{L}\p{N}._-]+/gu, "-");
  const bytes = new Uint8Array(await file.arrayBuffer());
  const tiff = (bytes[0] === 0x49 && bytes[2] === 42) || (bytes[0] === 0x4d && bytes[3] === 42);
  if (!tiff) return { name, bytes };
  const response = await fetch("/api/plates/plain", {
    method: "POST",
    body: file,
    headers: { "content-type": "application/octet-stream" },
  });
  if (!response.ok) {
    const value = (await response.json().catch(() => null)) as { error?: string } | null;
    throw new Error(`${file.name}: ${value?.error ?? `the server answered ${response.status}`}`);
  }
  const ending = response.headers.get("content-type") === "image/png" ? ".png" : ".exr";
  return { name: name.replace(/\.[^.]*$/, "") + ending, bytes: new Uint8Array(await response.arrayBuffer()) };
}

/** @returns the document that begins with the files, which are stored, and what is guessed in it @throws with words for the user */
export async function bringPlate(
  files: readonly File[],
  says: (words: string) => void,
): Promise<{ document: SceneDocument; guessed: Guess[] }> {
  const parts = partsOf(files);
  says("Reading …");
  const picture = await readable(parts.picture);
  const depth = parts.depth && (await readable(parts.depth));
  if (depth?.name === picture.name) depth.name = `depth-${depth.name}`;
  const raw = new Worker(new URL("./plate-worker.ts", import.meta.url), { type: "module" });
  try {
    const title = picture.name.replace(/\.[^.]*$/, "").slice(0, 200);
    const begun = await wrap<PlateWorker>(raw).begin(title, picture, depth);
    const assets = { ...begun.document.assets };
    for (const [key, file] of [["picture", picture], ["depth", depth]] as const) {
      if (!file) continue;
      says(`Storing ${file.name} …`);
      const { sha256 } = await upload(/\.exr$/i.test(file.name) ? "film" : "image", new Blob([file.bytes as Uint8Array<ArrayBuffer>]));
      assets[key] = { uri: file.name, sha256 };
    } // prettier-ignore
    return { ...begun, document: { ...begun.document, assets } };
  } finally {
    raw.terminate();
  }
}

/** Where it is kept what is guessed of a project's plate, until its page is closed. */
const key = (project: string): string => `fumarium.plate.${project}`;
/** Notes what is guessed of a project's plate, for its bench to say. */
export function noteGuesses(project: string, guessed: readonly Guess[]): void {
  if (guessed.length > 0) sessionStorage.setItem(key(project), JSON.stringify(guessed));
  else sessionStorage.removeItem(key(project));
}
/** What was noted. */
export function notedGuesses(project: string): Guess[] {
  try {
    const noted: unknown = JSON.parse(sessionStorage.getItem(key(project)) ?? "[]");
    return Array.isArray(noted) ? (noted as Guess[]).filter((g) => typeof g?.words === "string") : [];
  } catch {
    return [];
  }
}
