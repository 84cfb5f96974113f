import { mkdtempSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { beforeEach, describe, expect, it } from "vitest";
import { LIMITS } from "#core/document/schema";
import { parseDocument } from "#core/document/parse";
import { check, checked, type CheckedDocument } from "./bodies";
import { BlobStore } from "./blobs";
import { checkBody } from "./checking";
import { openDatabase, openReadOnly } from "./db/open";
import { Projects } from "./projects";
import { Proofs } from "./proofs";
import { Wedges } from "./wedges";
import { Assets } from "./assets";
import { collect } from "./collect";
import { StorageError, storageCause } from "./storage";
import { Conflict, NotFound, Store } from "./store";

const migrations = fileURLToPath(new URL("./db/migrations", import.meta.url));
let projects: Projects, proofs: Proofs, blobs: BlobStore, folder: string, clock: number, store: Store;
const doc = (title: string, density = 0.1) => checked(parseDocument({ fumarium: 2, title, air: [{ density }] }));
const read = ({ text }: CheckedDocument) => parseDocument(JSON.parse(text));

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "fumarium-db-"));
  blobs = new BlobStore(join(folder, "assets"));
  clock = 1000;
  store = new Store(await openDatabase(folder, migrations), () => clock++);
  projects = new Projects(store, blobs);
  proofs = new Proofs(store, projects, blobs);
});

/** A project, and the files of a proof in the store. */
async function withFiles() {
  const assets = new Assets(store);
  const put = async (kind: "picture" | "film", bytes: number[]): Promise<string> => {
    const { sha256 } = await blobs.put(new Uint8Array(bytes), 10);
    await assets.record(sha256, kind, bytes.length);
    return sha256;
  };
  const picture = await put("picture", [0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 1]);
  return { id: await projects.create(doc("a")), picture, film: await put("film", [0x76, 0x2f, 0x31, 1, 2]) };
}

describe("projects", () => {
  it("keep every saved state, and refuse one made from an older state", async () => {
    const id = await projects.create(doc("a"));
    expect(await projects.save(id, 1, doc("a", 0.2))).toBe(2);
    await expect(projects.save(id, 1, doc("a", 0.3))).rejects.toThrow(Conflict);
    expect(read((await projects.open(id)).document).air[0]!.density).toBe(0.2);
    expect((await projects.history(id)).map((h) => h.revision)).toEqual([2, 1]);
    // saving what is there already is no new state, whatever it was made from
    expect(await projects.save(id, 1, doc("a", 0.2))).toBe(2);
  });

  it("forget the oldest of very many states, never the newest", async () => {
    const id = await projects.create(doc("a"));
    for (let i = 1; i <= 510; i++) await projects.save(id, i, doc("a", i));
    const history = await projects.history(id);
    expect(history.length).toBe(501);
    expect(history[0]!.revision).toBe(511);
  });

  it("many saves at once: every one is done or told of a conflict, and none is torn", async () => {
    const ids = await Promise.all(Array.from({ length: 8 }, (_, i) => projects.create(doc(`p${i}`))));
    const outcomes = await Promise.allSettled(ids.flatMap((id) => [1, 2, 3, 4].map((k) => projects.save(id, 1, doc("x", k)))));
    const done = outcomes.filter((o) => o.status === "fulfilled");
    for (const o of outcomes) if (o.status === "rejected") expect(o.reason).toBeInstanceOf(Conflict);
    expect(done).toHaveLength(8);
    for (const id of ids) expect((await projects.open(id)).revision).toBe(2);
  });

  it("are listed with the last changed first, without those deleted", async () => {
    const [a, b] = [await projects.create(doc("a")), await projects.create(doc("b"))];
    expect((await projects.list()).map((p) => p.title)).toEqual(["b", "a"]);
    await projects.rename(a, "aa");
    expect((await projects.list()).map((p) => p.title)).toEqual(["aa", "b"]);
    await projects.remove(b);
    expect((await projects.list()).map((p) => p.title)).toEqual(["aa"]);
    await expect(projects.open(b)).rejects.toThrow(NotFound);
    await projects.restore(b);
    expect((await projects.open(b)).title).toBe("b");
  });

  it("hang proofs in the order they are moved to, with stars, patches and what they take", async () => {
    const { id, picture, film } = await withFiles();
    const proof = { document: doc("a"), note: "", seconds: 1, samples: 1, noise: null, picture, film };
    const part = { x: 0.25, y: 0, width: 0.5, height: 1 };
    const first = await proofs.keep(id, proof);
    const second = await proofs.keep(id, { ...proof, part, laid: true });
    expect(first).toMatchObject({ part: null, laid: false, star: false, place: first.createdAt });
    expect(first.bytes).toBe(9 + 5);
    await proofs.change(id, second.id, { place: first.place - 1, star: true, laid: false });
    const [a, b] = await proofs.list(id);
    expect(a).toEqual({ ...second, place: first.place - 1, star: true, laid: false });
    expect(b).toEqual(first);
  });

  it("keep wedges with their pictures as they come, ended, removed and brought back", async () => {
    const { id, picture } = await withFiles();
    const wedges = new Wedges(store, projects, blobs);
    const axis = { setting: '["air","haze","density"]', values: [1, 2] };
    const spec = { first: axis, second: null, samples: 4, width: 64, part: null };
    const wedge = await wedges.make(id, { document: doc("w"), spec });
    expect(await wedges.list(id)).toEqual([wedge]);
    const cell = { at: 1, picture, seconds: 2, samples: 4, noise: null };
    await wedges.change(id, wedge.id, { cell });
    await wedges.change(id, wedge.id, { cell: { ...cell, at: 0 } });
    await wedges.change(id, wedge.id, { cell: { ...cell, seconds: 3 }, ended: true });
    expect(await wedges.list(id)).toEqual([
      {
        ...wedge,
        ended: true,
        cells: [
          { ...cell, at: 0 },
          { ...cell, seconds: 3 },
        ],
      },
    ]);
    expect(read(await wedges.document(id, wedge.id)).title).toBe("w");
    await expect(wedges.change(id, wedge.id, { cell: { ...cell, at: 2 } })).rejects.toThrow(/no such place/);
    await expect(wedges.change(id, wedge.id, { cell: { ...cell, picture: "0".repeat(64) } })).rejects.toThrow(/not uploaded/);
    await expect(wedges.change("other", wedge.id, { ended: false })).rejects.toThrow(NotFound);
    await expect(wedges.document(id, "none")).rejects.toThrow(NotFound);
    await wedges.change(id, wedge.id, { deleted: true });
    expect(await wedges.list(id)).toEqual([]);
    // its pictures are kept for as long as it may come back
    utimesSync(join(folder, "assets", picture), 1, 1);
    expect(await collect(store, blobs, new Set())).toBe(0);
    expect(blobs.has(picture)).toBe(true);
  });

  it("keep proofs whose files are in the store, in order, removed and brought back", async () => {
    const { id, picture, film } = await withFiles();
    const proof = { document: doc("a"), note: "n", seconds: 1.5, samples: 16, noise: null, picture, film };
    const first = await proofs.keep(id, proof);
    await proofs.keep(id, { ...proof, note: "second" });
    expect((await proofs.list(id)).map((p) => p.note)).toEqual(["n", "second"]);
    await proofs.change(id, first.id, { deleted: true });
    expect(await proofs.list(id)).toHaveLength(1);
    expect(read(await proofs.document(id, first.id)).title).toBe("a");
    await expect(proofs.document(id, "none")).rejects.toThrow(NotFound);
    await proofs.change(id, first.id, { deleted: false, note: "again" });
    expect((await proofs.list(id)).map((p) => p.note)).toEqual(["again", "second"]);
    const other = await projects.create(doc("b"));
    await expect(proofs.change(other, first.id, { note: "x" })).rejects.toThrow(NotFound);
    await expect(proofs.keep(id, { ...proof, film: "0".repeat(64) })).rejects.toThrow(/not uploaded/);
    await expect(proofs.keep(id, { ...proof, film: picture })).rejects.toThrow(/film is not an OpenEXR file/);
    await expect(proofs.keep(id, { ...proof, picture: film })).rejects.toThrow(/picture is not a PNG picture/);
  });

  it("survive opening the database again, whose migrations then have nothing to do", async () => {
    const id = await projects.create(doc("a"));
    const again = new Projects(new Store(await openDatabase(folder, migrations)), blobs);
    expect((await again.open(id)).title).toBe("a");
  });
});

describe("documents on their way in", () => {
  const body = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value));

  it("can be saved again as they are kept: what they leave unsaid counts", () => {
    // short as it comes, twice the limit with all defaults
    const objects = Array.from({ length: 4096 }, (_, i) => ({ kind: "model", asset: "a", name: `${i}`, parts: Object.fromEntries(Array.from({ length: 22 }, (_p, k) => [`p${k}`, {}])) })); // prettier-ignore
    const bytes = body({ document: { fumarium: 2, assets: { a: { uri: "a.glb" } }, objects } });
    expect(bytes.length).toBeLessThan(LIMITS.text);
    expect(() => check({ kind: "create", bytes })).toThrow(/with all that it leaves unsaid, more than the limit of 8000000/);
    const kept = check({ kind: "create", bytes: body({ document: { fumarium: 2, objects: [] } }) }) as { document: CheckedDocument };
    const again = check({ kind: "save", bytes: body({ revision: 1, document: JSON.parse(kept.document.text) as unknown }) });
    expect(again).toMatchObject({ document: { text: kept.document.text } });
  });

  it("are counted before they are validated", () => {
    const many = (n: number): object => Object.fromEntries(Array.from({ length: n }, (_, i) => [`m${i}`, {}]));
    const started = process.cpuUsage();
    const refusals: [object, RegExp][] = [
      [{ materials: many(10_001) }, /materials: 10,001 entries, more than the limit of 10,000/],
      [{ objects: [{ kind: "model", asset: "a", parts: many(20_000) }] }, /objects\[0\]\.parts: 20,000 entries/],
      [{ air: Array.from({ length: 120 }, () => many(9_000)) }, /more than 1,000,000 values/],
      [{ air: JSON.parse(`${"[".repeat(400)}${"]".repeat(400)}`) as unknown }, /lies more than 16 levels deep/],
    ];
    for (const [document, message] of refusals) expect(() => check({ kind: "create", bytes: body({ document: { fumarium: 2, ...document } }) })).toThrow(message); // prettier-ignore
    // ten seconds and more where each entry was validated; far from that on any machine
    expect(process.cpuUsage(started).user / 1000).toBeLessThan(20_000);
  });

  it("large ones are validated in a thread, while this one goes on", async () => {
    const objects = Array.from({ length: 3000 }, (_, i) => ({
      kind: "box",
      material: "m",
      name: `block ${i}`,
      position: [i, 0, 0],
      size: [1, 1, 1],
    }));
    const bytes = body({ revision: 1, document: { fumarium: 2, materials: { m: {} }, objects } });
    expect(bytes.length).toBeGreaterThan(200_000);
    let turns = 0;
    const ticking = setInterval(() => turns++, 1);
    const saved = await checkBody("save", bytes);
    clearInterval(ticking);
    expect(turns).toBeGreaterThan(5);
    expect(saved).toMatchObject({ revision: 1, document: { title: "untitled", assets: [] } });
    expect(saved.document.text).toBe(JSON.stringify(parseDocument(JSON.parse(saved.document.text))));
    const wrong = body({ revision: 1, document: { fumarium: 2, objects, pad: "x".repeat(100_000) } });
    await expect(checkBody("save", wrong)).rejects.toThrow(/objects\[0\]\.material: no material named "m"|pad: unknown field/);
  });

  it("a read-only folder is opened for looking, and says so when something is to be kept", async () => {
    const id = await projects.create(doc("a"));
    // root may write everywhere: the folder is opened as on a medium that cannot be written
    const readonly = await openReadOnly(folder, migrations, "it cannot be written: it is read-only");
    const view = new Store(readonly, Date.now, "it cannot be written: it is read-only");
    const looking = new Projects(view, blobs);
    expect((await looking.open(id)).title).toBe("a");
    expect(await looking.list()).toHaveLength(1);
    await expect(looking.save(id, 1, doc("b"))).rejects.toThrow(StorageError);
    await expect(looking.save(id, 1, doc("b"))).rejects.toThrow(/read-only/);
    expect((await projects.open(id)).title).toBe("a");
  });
});

describe("the blob store", () => {
  it("names files by their hash, refuses what is too long or begins wrongly, and leaves no halves", async () => {
    const { sha256, bytes } = await blobs.put(new TextEncoder().encode("abc"), 10);
    expect([sha256, bytes]).toEqual(["ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", 3]);
    await expect(blobs.put(new Uint8Array(11), 10)).rejects.toThrow(/limit/);
    await expect(blobs.put(new Uint8Array([1, 2]), 10, { bytes: [1, 3], what: "x" })).rejects.toThrow(/begin like x/);
    await expect(blobs.put(new Uint8Array(0), 10)).rejects.toThrow(/empty/);
    async function* broken() {
      yield await Promise.resolve(new Uint8Array([1]));
      throw new Error("cut");
    }
    await expect(blobs.put(broken(), 10)).rejects.toThrow(/cut/);
    const { readdirSync } = await import("node:fs");
    expect(readdirSync(join(folder, "assets"))).toEqual([sha256]);
    await expect(() => blobs.open("../fumarium.db")).rejects.toThrow(/64 hexadecimal/);
  });

  it("sweeps parts that nobody writes to, and collects files without an owner after their grace", async () => {
    const at = join(folder, "assets");
    const { readdirSync } = await import("node:fs");
    writeFileSync(join(at, "part-old"), "x");
    utimesSync(join(at, "part-old"), 1, 1);
    writeFileSync(join(at, "part-new"), "x");
    await blobs.sweep();
    expect(readdirSync(at)).toEqual(["part-new"]);
    const put = async (text: string): Promise<string> => (await blobs.put(new TextEncoder().encode(text), 100)).sha256;
    const [asset, picture, lost, fresh, demo] = [await put("asset"), await put("picture"), await put("lost"), await put("fresh"), await put("demo")]; // prettier-ignore
    const id = await projects.create(checked(parseDocument({ fumarium: 2, assets: { a: { uri: "a.glb", sha256: asset } } })), picture);
    // an earlier state names it alone: undo may bring it back
    await projects.save(id, 1, doc("without it"));
    await projects.remove(id);
    for (const hash of [asset, picture, lost, demo]) utimesSync(join(at, hash), 1, 1);
    expect(await collect(store, blobs, new Set([demo]))).toBe(1);
    expect([asset, picture, fresh, demo].map((h) => blobs.has(h))).toEqual([true, true, true, true]);
    expect(blobs.has(lost)).toBe(false);
    // stored again it is as new
    utimesSync(join(at, fresh), 1, 1);
    await put("fresh");
    expect(await collect(store, blobs, new Set([demo]))).toBe(0);
  });
});

describe("a folder that cannot be used", () => {
  it("is named with its path and the cause", async () => {
    const broken = mkdtempSync(join(tmpdir(), "fumarium-db-"));
    writeFileSync(join(broken, "fumarium.db"), "this is no database at all, and long enough to be looked at as one".repeat(100));
    await expect(openDatabase(broken, migrations)).rejects.toThrow(new RegExp(`${broken}/fumarium\\.db: the database is broken`));
    writeFileSync(join(broken, "file"), "x");
    await expect(openDatabase(join(broken, "file", "var"), migrations)).rejects.toThrow(/file\/var\/fumarium\.db: a file is in the way/);
    for (const [code, words] of [
      ["ENOSPC", "the disk is full"],
      ["SQLITE_FULL", "the disk is full"],
      ["EROFS", "read-only"],
      ["EACCES", "may not write"],
      ["SQLITE_BUSY", "another program"],
    ] as const)
      expect(storageCause(new Error("it failed", { cause: Object.assign(new Error("x"), { code }) }))).toContain(words);
    expect(storageCause(new TypeError("x is undefined"))).toBeNull();
  });
});
