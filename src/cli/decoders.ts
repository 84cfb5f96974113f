/** What unpacks compressed models, in Node. */
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import createBasis from "#built/basis";
import decodeWebp, { init as initWebp } from "@jsquash/webp/decode.js";
import draco3d from "draco3dgltf";
import { MeshoptDecoder } from "meshoptimizer/decoder";
import type { Decoders } from "#core/formats/gltf";
import { basisDecoder } from "#core/formats/gltf-pictures";

const bytesOf = (module: string): Buffer<ArrayBuffer> => readFileSync(createRequire(import.meta.url).resolve(module));

/** What a browser has, and the decoder of WebP answers with. */
class PlainImageData {
  constructor(
    readonly data: Uint8ClampedArray,
    readonly width: number,
    readonly height: number,
  ) {}
}

export const decoders: Decoders = {
  draco: () => draco3d.createDecoderModule(),
  meshopt: async () => {
    await MeshoptDecoder.ready;
    return MeshoptDecoder;
  },
  basis: async () => basisDecoder(await createBasis({ wasmBinary: bytesOf("three/examples/jsm/libs/basis/basis_transcoder.wasm") })),
  webp: async () => {
    (globalThis as { ImageData?: unknown }).ImageData ??= PlainImageData;
    await initWebp(new WebAssembly.Module(bytesOf("@jsquash/webp/codec/dec/webp_dec.wasm")));
    return (bytes) => decodeWebp(new Uint8Array(bytes).buffer);
  },
};
