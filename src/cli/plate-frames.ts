/** Frames of a picture made elsewhere in the air of one scene: of each its picture, its depth, and the lens that its file says. */
import type { SceneDocument } from "#core/document/schema";
import { plateCamera } from "#core/document/plate-lens";
import { InputError } from "#core/errors";
import { lensOfFile } from "#core/plate/attributes";
import { plateFile } from "#core/plate/file";
import { fileNameOf } from "#finals/numbers";
import { plateBytes } from "./plate";

/** Names with #### where a frame's number stands; the depth's null where the picture holds it. */
export interface PlateFrames {
  picture: string;
  depth: string | null;
}

/** The scene with a frame's files as its plate, and their bytes by asset. @throws InputError naming the file */
export async function withFrame(
  doc: SceneDocument,
  frames: PlateFrames,
  frame: number | null,
): Promise<{ document: SceneDocument; files: ReadonlyMap<string, Uint8Array> }> {
  const { plate } = doc;
  if (!plate) throw new InputError("--plate: the scene has no plate that files could take the place of");
  if ((plate.depth === plate.picture) !== (frames.depth === null))
    throw new InputError(
      frames.depth === null
        ? "--plate-depth: the scene has its depth in another file"
        : "--plate-depth: the scene has its depth in the picture",
    );
  const picture = await plateBytes(fileNameOf(frames.picture, frame));
  const depth = frames.depth === null ? null : await plateBytes(fileNameOf(frames.depth, frame));
  const lens = lensOfFile(plateFile(picture.bytes, fileNameOf(frames.picture, frame), picture.sha256, "picture").frame);
  const moved = { ...plate, ...lens?.stand, ...(lens ? { fieldOfView: lens.fieldOfView } : {}) };
  const files = new Map<string, Uint8Array>([[plate.picture, picture.bytes]]);
  const assets = { ...doc.assets, [plate.picture]: { uri: picture.uri, sha256: picture.sha256 } };
  if (depth) {
    files.set(plate.depth, depth.bytes);
    assets[plate.depth] = { uri: depth.uri, sha256: depth.sha256 };
  }
  return { document: { ...doc, assets, plate: moved, camera: plateCamera(moved, doc.camera) }, files };
}
