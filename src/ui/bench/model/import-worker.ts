/** Reads a set in a thread of its own, which is ended to cancel. */
import { expose, transfer } from "comlink";
import createDecoderModule from "draco3dgltf/draco_decoder_gltf_nodejs.js";
import dracoWasm from "draco3dgltf/draco_decoder_gltf.wasm?url";
import { MeshoptDecoder } from "meshoptimizer/decoder";
import type { Decoders } from "#core/formats/gltf";
import { importSet, type ImportedSet, type ImportStage } from "#core/exchange/import/index";

const decoders: Decoders = {
  async draco() {
    const response = await fetch(dracoWasm);
    if (!response.ok) throw new Error(`The decoder of compressed geometry could not be loaded (${response.status}).`);
    return createDecoderModule({ wasmBinary: await response.arrayBuffer() });
  },
  async meshopt() {
    await MeshoptDecoder.ready;
    return MeshoptDecoder;
  },
};

const api = {
  /** @param white luminance that the project shows as white, cd/m² @param onStage told of each stage, and of the share read while files are read */
  async run(
    files: { path: string; file: File }[],
    white: number,
    onStage: (stage: "files" | ImportStage, share: number) => void,
  ): Promise<ImportedSet> {
    const total = files.reduce((n, f) => n + f.file.size, 0) || 1;
    const chosen = new Map<string, Uint8Array>();
    let done = 0;
    for (const { path, file } of files) {
      onStage("files", done / total);
      chosen.set(path, new Uint8Array(await file.arrayBuffer()));
      done += file.size;
    }
    const decoder = new TextDecoder();
    const set = await importSet(chosen, { decoders, decode: (b) => decoder.decode(b), white, onStage: (stage) => onStage(stage, 0) });
    return transfer(set, [set.model.buffer as ArrayBuffer]);
  },
};
export type ImportWorker = typeof api;
expose(api);
