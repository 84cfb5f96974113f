import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { beforeEach, describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { BlobStore } from "./blobs";
import { openDatabase } from "./db/open";
import { Projects } from "./projects";
import { Proofs } from "./proofs";
import { Conflict, NotFound, Store } from "./store";

const migrations = fileURLToPath(new URL("./db/migrations", import.meta.url));
let projects: Projects, proofs: Proofs, blobs: BlobStore, folder: string, clock: number;
const doc = (title: string, density = 0.1) => parseDocument({ fumarium: 2, title, air: [{ density }] });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "fumarium-db-"));
  blobs = new BlobStore(join(folder, "assets"));
  clock = 1000;
  const store = new Store(await openDatabase(folder, migrations), () => clock++);
  projects = new Projects(store, blobs);
  proofs = new Proofs(store, projects, blobs);
});

describe("projects", () => {
  it("keep every saved state, and refuse one made from an older state", async () => {
    const id = await projects.create(doc("a"));
    expect(await projects.save(id, 1, doc("a", 0.2))).toBe(2);
    await expect(projects.save(id, 1, doc("a", 0.3))).rejects.toThrow(Conflict);
    expect((await projects.open(id)).document.air[0]!.density).toBe(0.2);
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

  it("keep proofs whose files are in the store, in order, removed and brought back", async () => {
    const id = await projects.create(doc("a"));
    const { sha256 } = await blobs.put(new Uint8Array([1, 2, 3]), 10);
    const proof = { document: doc("a"), note: "n", seconds: 1.5, samples: 16, noise: null, picture: sha256, film: sha256 };
    const first = await proofs.keep(id, proof);
    await proofs.keep(id, { ...proof, note: "second" });
    expect((await proofs.list(id)).map((p) => p.note)).toEqual(["n", "second"]);
    await proofs.change(id, first.id, { deleted: true });
    expect(await proofs.list(id)).toHaveLength(1);
    await proofs.change(id, first.id, { deleted: false, note: "again" });
    expect((await proofs.list(id)).map((p) => p.note)).toEqual(["again", "second"]);
    const other = await projects.create(doc("b"));
    await expect(proofs.change(other, first.id, { note: "x" })).rejects.toThrow(NotFound);
    await expect(proofs.keep(id, { ...proof, film: "0".repeat(64) })).rejects.toThrow(/not uploaded/);
  });

  it("survive opening the database again, whose migrations then have nothing to do", async () => {
    const id = await projects.create(doc("a"));
    const again = new Projects(new Store(await openDatabase(folder, migrations)), blobs);
    expect((await again.open(id)).title).toBe("a");
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
});
