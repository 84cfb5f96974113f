/** Files of pictures that are written, with the depths that each has; the first is taken where none is said. */
export const FILE_DEPTHS = { ".exr": ["half", "float"], ".png": ["8", "16"], ".tif": ["16", "8"] } as const;
export type FileEnding = keyof typeof FILE_DEPTHS;
export type FileDepth = (typeof FILE_DEPTHS)[FileEnding][number];
export const FILE_ENDINGS = Object.keys(FILE_DEPTHS) as [FileEnding, ...FileEnding[]];

/** How the passes of an OpenEXR lie: as layers of one picture, as parts of one file, or each in a file of its own. */
export const FILE_LAYOUTS = ["layers", "parts", "files"] as const;
export type FileLayout = (typeof FILE_LAYOUTS)[number];

/** How OpenEXR files are packed, all without loss; the first where nothing is said. */
export const COMPRESSIONS = ["zip", "zips", "piz", "none"] as const;
export type Compression = (typeof COMPRESSIONS)[number];
