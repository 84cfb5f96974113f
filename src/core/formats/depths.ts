/** Files of pictures that are written, with the depths that each has; the first is taken where none is said. */
export const FILE_DEPTHS = { ".exr": ["half", "float"], ".png": ["8", "16"] } as const;
export type FileEnding = keyof typeof FILE_DEPTHS;
export type FileDepth = (typeof FILE_DEPTHS)[FileEnding][number];
