/** The validator of the format's makers brings no types: what is used of it. */
declare module "gltf-validator" {
  export function validateBytes(
    bytes: Uint8Array,
    options?: { maxIssues?: number },
  ): Promise<{ issues: { numErrors: number; messages: { code: string; message: string; severity: number; pointer?: string }[] } }>;
}
