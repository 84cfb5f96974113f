/** What a plate's file is for: read as a picture, or as numbers of depth. */
import { readSource } from "../formats/layers";
import { isWhole, type PlateFile } from "./begin";
import { depthFrame } from "./read";

/** @param use whether its numbers are colours or depth @throws InputError */
export function plateFile(bytes: Uint8Array, uri: string, sha256: string, use: "picture" | "depth"): PlateFile {
  return { uri, sha256, whole: isWhole(bytes), frame: use === "depth" ? depthFrame(bytes, uri) : readSource(bytes, uri) };
}
