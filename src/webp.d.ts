/** The WebP decoder's types speak of a browser's pictures; in Node it answers with the same fields. */
declare module "@jsquash/webp/decode.js" {
  export function init(module: WebAssembly.Module): Promise<void>;
  export default function decode(bytes: ArrayBuffer): Promise<{ width: number; height: number; data: Uint8ClampedArray }>;
}
