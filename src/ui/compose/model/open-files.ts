/** A stack from files of this machine: OpenEXR pictures, or a stack that was packed with its own. */
import { wrap } from "comlink";
import { API, call } from "#api/contract";
import type { Source } from "#core/compose/stack";
import { request, upload } from "../../shared/api";
import { isPictureFile, kindOfPicture, stemOf } from "./picture-files";
import type { ComposeWorker } from "./compose-worker";
import { beginStack } from "./open-stack";

/** @returns id of the stack @throws Error with words for the user; no stack is made then */
export async function openFiles(files: readonly File[], says: (words: string) => void): Promise<string> {
  const packed = files.filter((f) => /\.zip$/i.test(f.name));
  if (packed.length > 1 || (packed.length === 1 && files.length > 1)) throw new Error("Open one packed stack (.zip), or pictures.");
  const strange = files.find((f) => !/\.zip$/i.test(f.name) && !isPictureFile(f.name));
  if (strange)
    throw new Error(`${strange.name}: a stack begins with OpenEXR files, or HDR, PNG and JPEG pictures, or is one that was packed (.zip).`);
  if (packed[0]) return openPacked(packed[0], says);
  const sources: Record<string, Source> = {};
  for (const [i, file] of files.entries()) {
    says(`Storing ${file.name} …`);
    const { sha256 } = await upload(kindOfPicture(file.name), file);
    sources[i === 0 ? "frame" : `frame ${i + 1}`] = { name: file.name.slice(0, 200), sha256, file: null };
  }
  return beginStack(stemOf(files[0]!.name), sources, says);
}

async function openPacked(file: File, says: (words: string) => void): Promise<string> {
  says("Unpacking …");
  const raw = new Worker(new URL("./compose-worker.ts", import.meta.url), { type: "module" });
  try {
    const { stack, files } = await wrap<ComposeWorker>(raw).unpack(new Uint8Array(await file.arrayBuffer()), file.name);
    const sources: Record<string, Source> = {};
    for (const [key, bytes] of files) {
      const source = stack.sources[key]!;
      says(`Storing ${source.name} …`);
      const { sha256 } = await upload(kindOfPicture(source.name), new Blob([bytes as Uint8Array<ArrayBuffer>]));
      sources[key] = { ...source, sha256, file: null };
    }
    return (await call(request, API.createStack, {}, { stack: { ...stack, sources } })).id;
  } finally {
    raw.terminate();
  }
}
