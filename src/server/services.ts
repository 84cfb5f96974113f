/** The server's services, opened once: database, blob store, demo data. */
import { existsSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { BlobStore } from "./blobs";
import { openForUse } from "./db/open";
import { asksForMachines } from "./machines-config";
import { DEMO_FOLDER, DEMO_INDEX, demoIndex } from "#api/demo-sets";
import { Assets } from "./assets";
import { BudgetRecord } from "./budget";
import { collect, GRACE, hashesIn } from "./collect";
import { Projects } from "./projects";
import { Proofs } from "./proofs";
import { checked } from "./bodies";
import { root } from "./root";
import { withStorage } from "./storage";
import { Stacks } from "./stacks";
import { Store } from "./store";
import { holder } from "./lease";
import { RenderHost } from "./render-process";
import { Renders } from "./renders";
import { Wedges } from "./wedges";

export interface Services {
  projects: Projects;
  proofs: Proofs;
  wedges: Wedges;
  renders: Renders;
  stacks: Stacks;
  budget: BudgetRecord;
  /** The process that renders finals; null where nothing can be kept. */
  renderer: RenderHost | null;
  assets: Assets;
  blobs: BlobStore;
  /** Why nothing can be kept; null where it can. */
  readOnly: string | null;
  /** The demo scenes that can be opened, by id. */
  demos: { id: string; title: string; description: string; document: SceneDocument; picture: string | null }[];
}

async function open(): Promise<Services> {
  const data = process.env.FUMARIUM_DATA ?? join(root(), "var");
  const { database, readOnly } = await openForUse(data, join(root(), "src/server/db/migrations"));
  const blobs = await withStorage(join(data, "assets"), () => new BlobStore(join(data, "assets"), readOnly));
  const store = new Store(database, Date.now, readOnly);
  const projects = new Projects(store, blobs);
  const assets = new Assets(store);
  const budget = new BudgetRecord(store);
  const renders = new Renders(store, projects, join(data, "renders"));
  const stacks = new Stacks(store, blobs);
  if (readOnly !== null)
    return {
      projects,
      proofs: new Proofs(store, projects, blobs),
      wedges: new Wedges(store, projects, blobs),
      renders,
      stacks,
      budget,
      renderer: null,
      assets,
      blobs,
      demos: [],
      readOnly,
    };
  await blobs.sweep();
  const demos = await seedDemos(assets, blobs);
  const [first] = demos;
  if (first && (await projects.list()).length === 0 && !process.env.FUMARIUM_EMPTY) {
    await projects.create(checked(first.document), first.picture);
  }
  const proofs = new Proofs(store, projects, blobs);
  const wedges = new Wedges(store, projects, blobs);
  // other machines are waited for
  const goes = async (): Promise<boolean> => asksForMachines() || (await renders.going()).going > 0;
  const renderer = new RenderHost(data, goes, () => holder(store));
  renders.onChange = () => renderer.look();
  if (await goes()) renderer.look();
  void renders.sweep(GRACE).catch(console.error);
  // in its own time: nobody waits for it
  void collect(store, blobs, new Set(demos.flatMap((d) => [d.picture ?? "", ...hashesIn(JSON.stringify(d.document))]))).catch(
    console.error,
  );
  return { projects, proofs, wedges, renders, stacks, budget, renderer, assets, blobs, demos, readOnly };
}

/** Takes the files that the build made into the store. */
async function seedDemos(assets: Assets, blobs: BlobStore): Promise<Services["demos"]> {
  const folder = join(root(), "build", DEMO_FOLDER);
  const index = join(folder, DEMO_INDEX);
  if (!existsSync(index)) return [];
  const list = demoIndex.parse(JSON.parse(readFileSync(index, "utf8")));
  const out: Services["demos"] = [];
  for (const demo of list) {
    for (const { name, kind, sha256 } of demo.files) {
      const file = join(folder, name);
      const { size } = statSync(file);
      if (!blobs.has(sha256)) await blobs.put(readFileSync(file), size);
      await assets.record(sha256, kind, size);
    }
    out.push({
      id: demo.id,
      title: demo.title,
      description: demo.description,
      document: parseDocument(demo.document, demo.id),
      picture: await pictureOf(demo.id, assets, blobs),
    });
  }
  return out;
}

/** Stores a demo's picture. @returns its hash; null where it has none */
async function pictureOf(id: string, assets: Assets, blobs: BlobStore): Promise<string | null> {
  const picture = join(root(), "demo", "pictures", `${id}.png`);
  if (!existsSync(picture)) return null;
  const stored = await blobs.put(readFileSync(picture), 8e6);
  await assets.record(stored.sha256, "picture", stored.bytes);
  return stored.sha256;
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
