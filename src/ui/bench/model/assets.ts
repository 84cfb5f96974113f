/** Files that lights need: read first, so that a wrong one is told before anything changes, then stored, then named in the document. */
import { freeName } from "#core/document/place";
import { readIes, tiltFileOf, withTilt } from "#core/formats/ies";
import type { SceneDocument } from "#core/document/schema";
import { upload } from "../../shared/api";
import type { VolumeContent } from "./scene-worker";
import type { Session } from "./session";

export interface StoredAsset {
  name: string;
  asset: SceneDocument["assets"][string];
  /** What a volume file holds. */
  grids?: VolumeContent["grids"];
}

const LIMITS = { image: 256_000_000, profile: 2_000_000, volume: 1_000_000_000, lut: 32_000_000 } as const;

/**
 * Files to be stored of those chosen: a photometric file takes the tilt file that it names, where that was chosen with it.
 * @throws with words for the user where one is missing
 */
export async function completed(kind: keyof typeof LIMITS, files: readonly File[]): Promise<File[]> {
  if (kind !== "profile") return [...files];
  const texts = new Map(
    await Promise.all(files.map(async (f) => [f.name.toLowerCase(), new TextDecoder("latin1").decode(await f.arrayBuffer())] as const)),
  );
  const taken = new Set<string>();
  const out = files.map((file) => {
    const text = texts.get(file.name.toLowerCase()) ?? "";
    const tilt = tiltFileOf(text)?.split(/[\\/]/).at(-1)?.toLowerCase();
    if (!tilt) return file;
    const found = texts.get(tilt);
    if (found === undefined) throw new Error(`${file.name}: names the tilt file ${tilt}, which was not chosen with it`);
    taken.add(tilt);
    return new File([Uint8Array.from(withTilt(text, found), (c) => c.charCodeAt(0))], file.name);
  });
  return out.filter((f) => !taken.has(f.name.toLowerCase()));
}

/** @throws with words for the user; nothing is stored then */
export async function bringAsset(kind: keyof typeof LIMITS, file: File, doc: SceneDocument, session: Session): Promise<StoredAsset> {
  if (file.size > LIMITS[kind]) throw new Error(`${file.name}: ${file.size} bytes, more than the limit of ${LIMITS[kind]}`);
  let found: VolumeContent["grids"] | undefined;
  if (kind === "profile") readIes(await file.text(), file.name);
  else if (kind === "lut") await session.worker.checkLut(await file.text(), file.name);
  else if (kind === "volume") {
    const { grids, left } = await session.worker.volume(new Uint8Array(await file.arrayBuffer()), file.name);
    found = grids;
    if (grids.length === 0) throw new Error(`${file.name}: holds no grid of numbers${left.length > 0 ? ` (${left.join("; ")})` : ""}`);
  } else await session.worker.checkPicture(new Uint8Array(await file.arrayBuffer()), file.name);
  const { sha256 } = await upload(kind, file);
  const had = Object.entries(doc.assets).find(([, a]) => a.sha256 === sha256);
  const more = found ? { grids: found } : {};
  if (had) return { name: had[0], asset: had[1], ...more };
  const name = freeName(file.name.replace(/\.[^.]*$/, "").slice(0, 100), Object.keys(doc.assets));
  return { name, asset: { uri: file.name.replace(/[^\p{L}\p{N}._-]+/gu, "-"), sha256 }, ...more };
}

export const withAsset = (doc: SceneDocument, { name, asset }: StoredAsset): SceneDocument => ({
  ...doc,
  assets: { ...doc.assets, [name]: asset },
});
