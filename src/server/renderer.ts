/**
 * The process that renders finals, beside the web server and at a lower priority: takes what waits, in order, and tells of it by the
 * database and files. It ends by itself when the server does; what it has come to is kept. Where other machines take part, it hands out.
 */
import { randomUUID } from "node:crypto";
import { mkdir, statfs } from "node:fs/promises";
import { constants, setPriority } from "node:os";
import { join } from "node:path";
import { asc, desc, isNull } from "drizzle-orm";
import { bytesText } from "#core/document/quantities";
import { InputError } from "#core/errors";
import { Workshop } from "#finals/workshop";
import { BlobStore } from "./blobs";
import { openDatabase } from "./db/open";
import { renders } from "./db/schema";
import { giveBack, SILENCE, take } from "./lease";
import { machinesConfig } from "./machines-config";
import { tellTrouble } from "./machines-file";
import type { MachinesHost } from "./machines-host";
import { Projects } from "./projects";
import { LOOK, OrderRenderer, told, type Around, type Row } from "./render-orders";
import { Renders } from "./renders";
import { root } from "./root";
import { Store } from "./store";

/** Milliseconds without work after which the process ends: the server starts another. */
const IDLE = 20_000;

const data = process.env.FUMARIUM_DATA ?? join(root(), "var");
const owner = process.env.FUMARIUM_RENDERER ?? randomUUID();
let beside = false;
let gone = false;
const waking = new Set<() => void>();
const wake = (): void => {
  for (const go of waking) go();
};
const around: Around = {
  gone: () => gone,
  beside: () => beside,
  rest: (ms) =>
    new Promise((done) => {
      const go = (): void => {
        clearTimeout(timer);
        waking.delete(go);
        done();
      };
      const timer = setTimeout(go, ms);
      waking.add(go);
    }),
};

interface Message {
  beside?: boolean;
  machine?: { name: string; how: "drain" | "remove" };
}

async function main(): Promise<void> {
  setPriority(0, constants.priority.PRIORITY_LOW);
  const database = await openDatabase(data, join(root(), "src/server/db/migrations"));
  const store = new Store(database);
  const blobs = new BlobStore(join(data, "assets"));
  const finals = new Renders(store, new Projects(store, blobs), join(data, "renders"));
  let machines: MachinesHost | null = null;
  process.on("message", (m: Message) => {
    if (m.beside !== undefined) beside = m.beside;
    if (m.machine) machines?.dismiss(m.machine.name, m.machine.how);
    wake();
  });
  const leave = (): void => {
    gone = true;
    wake();
  };
  process.on("disconnect", leave);
  process.on("SIGTERM", leave);
  process.on("SIGINT", leave);

  const beating = setInterval(() => void take(store, owner).catch(() => undefined), SILENCE / 3);
  let workshop: Workshop | null = null;
  const going = new Map<string, Promise<void>>();
  try {
    while (!gone && !(await take(store, owner))) await around.rest(LOOK);
    if (!gone) machines = await openMachines(() => (workshop ? Promise.resolve(workshop) : makeWorkshop()), blobs, finals);
    async function makeWorkshop(): Promise<Workshop> {
      return (workshop = await Workshop.create(join(root(), "build")));
    }
    let orders: OrderRenderer | null = null;
    let since = Date.now();
    while (!gone) {
      if (!(await take(store, owner))) {
        await around.rest(LOOK);
        continue;
      }
      const row = await nextOf(store, finals, going);
      if (row) {
        orders ??= new OrderRenderer(store, finals, blobs, workshop ?? (await makeWorkshop()), machines, around);
        since = Date.now();
        // orders share the machines; this one alone does one after the other
        if (machines ? orders.hasRoom(row) : true) {
          const own = orders.render(row).finally(() => {
            going.delete(row.id);
            since = Date.now();
          });
          going.set(row.id, own);
          if (!machines) await own;
          continue;
        }
      } else if (!machines && Date.now() - since > IDLE) break;
      await around.rest(LOOK);
    }
    await Promise.all(going.values());
  } finally {
    clearInterval(beating);
    await machines?.close();
    (workshop as Workshop | null)?.dispose();
    await giveBack(store, owner).catch(() => undefined);
  }
}

/** Opens the door for other machines; null where none take part, or it cannot be opened: then this one renders. */
async function openMachines(workshop: () => Promise<Workshop>, blobs: BlobStore, finals: Renders): Promise<MachinesHost | null> {
  await mkdir(finals.folder, { recursive: true });
  try {
    const config = machinesConfig();
    if (!config) return null;
    // queues take half a second to be loaded
    const { MachinesHost } = await import("./machines-host");
    return await MachinesHost.open(config, await workshop(), blobs, finals.folder);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    console.error(`Other machines cannot take part: ${error.message}`);
    await tellTrouble(finals.folder, `Other machines cannot take part, and this one renders: ${error.message}`);
    return null;
  }
}

/** The first that waits and has room; those that another process was at are taken up again. @param going those that are at work here */
async function nextOf(store: Store, finals: Renders, going: ReadonlyMap<string, unknown>): Promise<Row | null> {
  const { database } = store;
  const rows = await database.select().from(renders).where(isNull(renders.deletedAt)).orderBy(desc(renders.priority), asc(renders.place));
  for (const row of rows) {
    if (going.has(row.id) || (row.state !== "waiting" && row.state !== "rendering" && row.state !== "ending")) continue;
    const lacks = await lacking(finals.folder, Math.min(1e9, (JSON.parse(row.needs) as { disk: number }).disk));
    if (lacks === null) return row;
    if (row.message !== lacks)
      await told(store, row.id, row.state, { state: row.state === "ending" ? "ending" : "waiting", message: lacks });
  }
  return null;
}

/** What to say where the disk has no room; null where it has. */
async function lacking(folder: string, bytes: number): Promise<string | null> {
  const { bavail, bsize } = await statfs(folder).catch(() => ({ bavail: Infinity, bsize: 1 }));
  return bavail * bsize < bytes
    ? `Waits for room on the disk: ${bytesText(bytes)} are needed, ${bytesText(bavail * bsize)} are free.`
    : null;
}

main().then(
  () => process.exit(0),
  (error: unknown) => {
    console.error("The renderer of finals ended:", error);
    process.exit(1);
  },
);
