/** A project file to a project: its assets are stored first, then the document; a wrong file leaves nothing on the shelf. */
import { API, call, type AssetKind } from "#api/contract";
import { wrap } from "comlink";
import { request, upload } from "../shared/api";
import type { ArchiveWorker } from "./archive-worker";

const KINDS: Record<string, AssetKind> = {
  model: "model",
  picture: "image",
  profile: "profile",
  volume: "volume",
  lut: "lut",
  plate: "image",
};

/** Kind of an asset that nothing uses at present: by its name. */
const kindByName = (uri: string): AssetKind =>
  /\.glb$/i.test(uri)
    ? "model"
    : /\.ies$/i.test(uri)
      ? "profile"
      : /\.vdb$/i.test(uri)
        ? "volume"
        : /\.cube$/i.test(uri)
          ? "lut"
          : /\.exr$/i.test(uri)
            ? "film"
            : "image";

export async function openArchive(file: File, onProgress: (words: string) => void): Promise<string> {
  onProgress("Unpacking …");
  const raw = new Worker(new URL("./archive-worker.ts", import.meta.url), { type: "module" });
  try {
    const { document, assets } = await wrap<ArchiveWorker>(raw).open(file);
    const named = { ...document.assets };
    for (const [i, a] of assets.entries()) {
      onProgress(`Storing file ${i + 1} of ${assets.length} …`);
      const { uri } = named[a.name]!;
      const known = (await fetch(`/api/assets/${a.sha256}`, { method: "HEAD" })).ok;
      if (!known)
        await upload(a.use && !/\.exr$/i.test(uri) ? KINDS[a.use]! : kindByName(uri), new Blob([a.bytes as Uint8Array<ArrayBuffer>]));
      named[a.name] = { uri, sha256: a.sha256 };
    }
    return (await call(request, API.createProject, {}, { document: { ...document, assets: named } })).id;
  } finally {
    raw.terminate();
  }
}
