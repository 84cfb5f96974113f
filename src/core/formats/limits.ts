/** Limits of what is read, apart from the readers: endpoints need the numbers alone. */
export const MODEL_LIMITS = { bytes: 512 * 1024 * 1024, triangles: 8_000_000, nodes: 100_000, depth: 200 } as const;
