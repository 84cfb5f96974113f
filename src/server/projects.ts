/** Projects: their documents, history and proofs. */
import { randomUUID } from "node:crypto";
import { and, desc, eq, isNull, lt } from "drizzle-orm";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import type { SceneDocument } from "#core/document/schema";
import type { BlobStore } from "./blobs";
import type { Database } from "./db/open";
import { assets, documents, projects, proofs, type AssetKind } from "./db/schema";

/** The thing asked for does not exist (any more). */
export class NotFound extends Error {}
/** Somebody else saved in between; `revision` is the present one. */
export class Conflict extends Error {
  constructor(readonly revision: number) {
    super("This project was changed in another window since it was opened here.");
  }
}

export interface ProjectCard {
  id: string;
  title: string;
  revision: number;
  picture: string | null;
  updatedAt: number;
  proofs: number;
}
export interface ProofRecord {
  id: string;
  note: string;
  seconds: number;
  samples: number;
  noise: number | null;
  picture: string;
  film: string;
  createdAt: number;
  document: SceneDocument;
}

/** Saved states kept for each project. */
const HISTORY = 500;

export class Projects {
  private writing: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly database: Database,
    private readonly blobs: BlobStore,
    private readonly now: () => number = Date.now,
  ) {}

  /**
   * One write after the other: the client opens a connection for each transaction, and SQLite's wait for
   * a lock would stop this thread, and with it the transaction that holds the lock.
   */
  private serializeWrites<T>(work: () => PromiseLike<T>): Promise<T> {
    const done = this.writing.then(work);
    this.writing = done.catch(() => undefined);
    return done;
  }

  /** All projects, the last changed first. */
  async list(): Promise<ProjectCard[]> {
    const rows = await this.database.select().from(projects).where(isNull(projects.deletedAt)).orderBy(desc(projects.updatedAt));
    const counts = await this.database.select({ projectId: proofs.projectId, id: proofs.id }).from(proofs).where(isNull(proofs.deletedAt));
    return rows.map((r) => ({
      id: r.id,
      title: r.title,
      revision: r.revision,
      picture: r.picture,
      updatedAt: r.updatedAt,
      proofs: counts.filter((c) => c.projectId === r.id).length,
    }));
  }

  private async row(id: string, deleted = false): Promise<typeof projects.$inferSelect> {
    const [row] = await this.database.select().from(projects).where(eq(projects.id, id));
    if (!row || (row.deletedAt !== null && !deleted)) throw new NotFound("There is no such project.");
    return row;
  }

  async open(id: string): Promise<{ id: string; title: string; revision: number; document: SceneDocument }> {
    const row = await this.row(id);
    return { id, title: row.title, revision: row.revision, document: parseDocument(JSON.parse(row.document), `project ${row.title}`) };
  }

  /** Checks that the store holds every asset of a document. @throws InputError */
  private checkAssets(doc: SceneDocument): void {
    for (const [name, asset] of Object.entries(doc.assets)) {
      if (!asset.sha256) throw new InputError(`assets.${name}: has no sha256, by which a project finds its files`);
      if (!this.blobs.has(asset.sha256)) throw new InputError(`assets.${name} (${asset.uri}): this file is not in the store of the server`);
    }
  }

  async create(document: SceneDocument, picture: string | null = null): Promise<string> {
    this.checkAssets(document);
    const id = randomUUID();
    const at = this.now();
    const text = JSON.stringify(document);
    await this.serializeWrites(() =>
      this.database.transaction(async (t) => {
        await t.insert(projects).values({ id, title: document.title, document: text, revision: 1, picture, createdAt: at, updatedAt: at });
        await t.insert(documents).values({ projectId: id, revision: 1, document: text, createdAt: at });
      }),
    );
    return id;
  }

  async duplicate(id: string): Promise<string> {
    const row = await this.row(id);
    const doc = parseDocument(JSON.parse(row.document));
    return this.create({ ...doc, title: `${doc.title} (copy)`.slice(0, 200) }, row.picture);
  }

  /** Saves a state made from `revision`. @returns the new revision @throws Conflict */
  async save(id: string, revision: number, document: SceneDocument): Promise<number> {
    this.checkAssets(document);
    const text = JSON.stringify(document);
    const at = this.now();
    return this.serializeWrites(() =>
      this.database.transaction(async (t) => {
        const [row] = await t
          .select()
          .from(projects)
          .where(and(eq(projects.id, id), isNull(projects.deletedAt)));
        if (!row) throw new NotFound("There is no such project.");
        if (row.document === text) return row.revision;
        if (row.revision !== revision) throw new Conflict(row.revision);
        const next = revision + 1;
        await t.update(projects).set({ document: text, title: document.title, revision: next, updatedAt: at }).where(eq(projects.id, id));
        await t.insert(documents).values({ projectId: id, revision: next, document: text, createdAt: at });
        await t.delete(documents).where(and(eq(documents.projectId, id), lt(documents.revision, next - HISTORY)));
        return next;
      }),
    );
  }

  async rename(id: string, title: string): Promise<number> {
    const { document, revision } = await this.open(id);
    return this.save(id, revision, { ...document, title });
  }

  async setPicture(id: string, hash: string): Promise<void> {
    await this.row(id);
    await this.serializeWrites(() => this.database.update(projects).set({ picture: hash }).where(eq(projects.id, id)));
  }

  async remove(id: string): Promise<void> {
    await this.row(id);
    await this.serializeWrites(() => this.database.update(projects).set({ deletedAt: this.now() }).where(eq(projects.id, id)));
  }

  async restore(id: string): Promise<void> {
    await this.row(id, true);
    await this.serializeWrites(() => this.database.update(projects).set({ deletedAt: null }).where(eq(projects.id, id)));
  }

  /** Saved states, the newest first. */
  async history(id: string): Promise<{ revision: number; createdAt: number }[]> {
    await this.row(id);
    return this.database
      .select({ revision: documents.revision, createdAt: documents.createdAt })
      .from(documents)
      .where(eq(documents.projectId, id))
      .orderBy(desc(documents.revision));
  }

  // --- proofs

  async listProofs(projectId: string): Promise<ProofRecord[]> {
    await this.row(projectId);
    const rows = await this.database
      .select()
      .from(proofs)
      .where(and(eq(proofs.projectId, projectId), isNull(proofs.deletedAt)))
      .orderBy(proofs.createdAt);
    return rows.map((r) => ({ ...r, document: parseDocument(JSON.parse(r.document), `proof ${r.id}`) }));
  }

  async keepProof(projectId: string, proof: Omit<ProofRecord, "id" | "createdAt">): Promise<ProofRecord> {
    await this.row(projectId);
    for (const hash of [proof.picture, proof.film])
      if (!this.blobs.has(hash)) throw new InputError("proof: its picture or film was not uploaded");
    const record = { ...proof, id: randomUUID(), createdAt: this.now() };
    await this.serializeWrites(() =>
      this.database.insert(proofs).values({ ...record, projectId, document: JSON.stringify(proof.document) }),
    );
    return record;
  }

  async changeProof(projectId: string, id: string, change: { note?: string | undefined; deleted?: boolean | undefined }): Promise<void> {
    const set = {
      ...(change.note !== undefined ? { note: change.note } : {}),
      ...(change.deleted !== undefined ? { deletedAt: change.deleted ? this.now() : null } : {}),
    };
    const done = await this.serializeWrites(() =>
      this.database
        .update(proofs)
        .set(set)
        .where(and(eq(proofs.id, id), eq(proofs.projectId, projectId)))
        .returning({ id: proofs.id }),
    );
    if (done.length === 0) throw new NotFound("There is no such proof.");
  }

  // --- assets

  async recordAsset(sha256: string, kind: AssetKind, bytes: number): Promise<void> {
    await this.serializeWrites(() =>
      this.database.insert(assets).values({ sha256, kind, bytes, createdAt: this.now() }).onConflictDoNothing(),
    );
  }

  async assetKind(sha256: string): Promise<AssetKind | null> {
    const [row] = await this.database.select().from(assets).where(eq(assets.sha256, sha256));
    return row?.kind ?? null;
  }
}
