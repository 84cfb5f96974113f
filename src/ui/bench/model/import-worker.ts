/** Reads a set in a thread of its own, which is ended to cancel. */
import { expose, transfer } from "comlink";
import createDecoderModule from "draco3dgltf/draco_decoder_gltf_nodejs.js";
import dracoWasm from "draco3dgltf/draco_decoder_gltf.wasm?url";
import createBasis from "#built/basis";
import decodeWebp, { init as initWebp } from "@jsquash/webp/decode.js";
import webpWasm from "@jsquash/webp/codec/dec/webp_dec.wasm?url";
import basisWasm from "three/examples/jsm/libs/basis/basis_transcoder.wasm?url";
import { MeshoptDecoder } from "meshoptimizer/decoder";
import type { Moment } from "#core/formats/gltf-pose";
import { basisDecoder } from "#core/formats/gltf-pictures";
import type { Decoders } from "#core/formats/gltf";
import { importSet, type ImportedSet, type ImportStage } from "#core/exchange/import/index";

/** A decoder's module from the server that the page came from. */
async function bytesOf(url: string, what: string): Promise<ArrayBuffer> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`The decoder of ${what} could not be loaded (${response.status}).`);
  return response.arrayBuffer();
}

const decoders: Decoders = {
  draco: async () => createDecoderModule({ wasmBinary: await bytesOf(dracoWasm, "compressed geometry") }),
  basis: async () => basisDecoder(await createBasis({ wasmBinary: await bytesOf(basisWasm, "KTX2 pictures") })),
  async webp() {
    await initWebp(await WebAssembly.compile(await bytesOf(webpWasm, "WebP pictures")));
    return (bytes) => decodeWebp(new Uint8Array(bytes).buffer);
  },
  async meshopt() {
    await MeshoptDecoder.ready;
    return MeshoptDecoder;
  },
};

const api = {
  /** @param white luminance that the project shows as white, cd/m² @param moment of an animation to stand still at @param onStage told of each stage, and of the share read while files are read */
  async run(
    files: { path: string; file: File }[],
    white: number,
    moment: Moment | null,
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
    const set = await importSet(chosen, {
      decoders,
      decode: (b) => decoder.decode(b),
      white,
      moment,
      onStage: (stage) => onStage(stage, 0),
    });
    return transfer(set, [set.model.buffer as ArrayBuffer]);
  },
};
export type ImportWorker = typeof api;
expose(api);
