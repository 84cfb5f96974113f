/** The server's services, opened once: database, blob store, demo data. */
import { existsSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { BlobStore } from "./blobs";
import { openDatabase } from "./db/open";
import { Projects } from "./projects";

export interface Services {
  projects: Projects;
  blobs: BlobStore;
  /** The demo scenes that can be opened, by id. */
  demos: { id: string; title: string; description: string; document: SceneDocument }[];
}

/** Folder of the application; commands set it, the working directory serves in development. */
const root = (): string => process.env.FUMARIUM_ROOT ?? process.cwd();

async function open(): Promise<Services> {
  const data = process.env.FUMARIUM_DATA ?? join(root(), "var");
  const database = await openDatabase(data, join(root(), "src/server/db/migrations"));
  const blobs = new BlobStore(join(data, "assets"));
  const projects = new Projects(database, blobs);
  const demos = await seedDemos(projects, blobs);
  if (demos.length && (await projects.list()).length === 0 && !process.env.FUMARIUM_EMPTY) {
    const first = demos[0]!;
    const picture = join(root(), "demo", "pictures", `${first.id}.png`);
    let hash: string | null = null;
    if (existsSync(picture)) {
      const stored = await blobs.put(readFileSync(picture), 8e6);
      await projects.recordAsset(stored.sha256, "picture", stored.bytes);
      hash = stored.sha256;
    }
    await projects.create(first.document, hash);
  }
  return { projects, blobs, demos };
}

/** Takes the models that the build made into the store. */
async function seedDemos(projects: Projects, blobs: BlobStore): Promise<Services["demos"]> {
  const index = join(root(), "build", "demo", "index.json");
  if (!existsSync(index)) return [];
  const list = JSON.parse(readFileSync(index, "utf8")) as {
    id: string;
    title: string;
    description: string;
    model: string;
    sha256: string;
    document: unknown;
  }[];
  const out: Services["demos"] = [];
  for (const demo of list) {
    const file = join(root(), "build", "demo", demo.model);
    const { size } = statSync(file);
    if (!blobs.has(demo.sha256)) await blobs.put(readFileSync(file), size);
    await projects.recordAsset(demo.sha256, "model", size);
    out.push({ id: demo.id, title: demo.title, description: demo.description, document: parseDocument(demo.document, demo.id) });
  }
  return out;
}

let opened: Promise<Services> | null = null;
/** The services of this process. */
export function services(): Promise<Services> {
  opened ??= open().catch((error: unknown) => {
    opened = null;
    throw error;
  });
  return opened;
}
