/** Reads the files of a plate beside the page, and makes the document that begins with them. */
import { expose } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import { beginPlate, type Guess } from "#core/plate/begin";
import { plateFile } from "#core/plate/file";

export interface GivenFile {
  name: string;
  bytes: Uint8Array;
}

/** Stands for a hash until the file is stored. */
const UNSTORED = "0".repeat(64);

const api = {
  /** @throws with what is wrong with the files; what is guessed */
  begin(title: string, picture: GivenFile, depth: GivenFile | null): { document: SceneDocument; guessed: Guess[] } {
    const { document, guessed } = beginPlate(
      title,
      plateFile(picture.bytes, picture.name, UNSTORED, "picture"),
      depth && plateFile(depth.bytes, depth.name, UNSTORED, "depth"),
    );
    return { document, guessed };
  },
};

export type PlateWorker = typeof api;
expose(api);
