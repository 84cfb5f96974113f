/** What the build says of the demo sets that it made: an index beside their files. */
import { z } from "zod";
import { ASSET_KIND_NAMES } from "./contract";

/** The index, and the folder of it and the files, within the build. */
export const DEMO_FOLDER = "demo";
export const DEMO_INDEX = "index.json";

export const demoIndex = z.array(
  z.object({
    id: z.string(),
    title: z.string(),
    description: z.string(),
    files: z.array(z.object({ name: z.string(), kind: z.enum(ASSET_KIND_NAMES), sha256: z.string() })),
    /** A scene document that names the files by their hashes. */
    document: z.record(z.string(), z.unknown()),
  }),
);
