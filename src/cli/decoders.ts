/** What unpacks compressed models, in Node. */
import draco3d from "draco3dgltf";
import { MeshoptDecoder } from "meshoptimizer/decoder";
import type { Decoders } from "#core/formats/gltf";

export const decoders: Decoders = {
  draco: () => draco3d.createDecoderModule(),
  meshopt: async () => {
    await MeshoptDecoder.ready;
    return MeshoptDecoder;
  },
};
