/** Reads the files of a plate beside the page, and makes the document that begins with them. */
import { expose } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import { beginPlate } from "#core/plate/begin";
import { plateFile } from "#core/plate/file";

export interface GivenFile {
  name: string;
  bytes: Uint8Array;
}

/** Stands for a hash until the file is stored. */
const UNSTORED = "0".repeat(64);

const api = {
  /** @throws with what is wrong with the files; in words what is guessed */
  begin(title: string, picture: GivenFile, depth: GivenFile | null): { document: SceneDocument; guessed: string[] } {
    const { document, guessed } = beginPlate(
      title,
      plateFile(picture.bytes, picture.name, UNSTORED, "picture"),
      depth && plateFile(depth.bytes, depth.name, UNSTORED, "depth"),
    );
    return { document, guessed: guessed.map((g) => g.words) };
  },
};

export type PlateWorker = typeof api;
expose(api);
