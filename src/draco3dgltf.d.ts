/** The Draco decoder's package brings no types: what is used of it. */
declare module "draco3dgltf" {
  const draco: { createDecoderModule(options?: { wasmBinary?: ArrayBuffer }): Promise<unknown>; createEncoderModule(): Promise<unknown> };
  export default draco;
}
declare module "draco3dgltf/draco_decoder_gltf_nodejs.js" {
  export default function createDecoderModule(options?: { wasmBinary?: ArrayBuffer }): Promise<unknown>;
}
