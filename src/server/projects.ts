/** Projects: their documents and history. */
import { randomUUID } from "node:crypto";
import type { ProjectCard } from "#api/contract";
import { and, count, desc, eq, isNull, lt } from "drizzle-orm";
import { InputError } from "#core/errors";
import type { CheckedDocument } from "./bodies";
import { checkStored } from "./checking";
import type { BlobStore } from "./blobs";
import { documents, projects, proofs } from "./db/schema";
import { Conflict, NotFound, type Store } from "./store";

/** Saved states kept for each project. */
const HISTORY = 500;

export class Projects {
  constructor(
    private readonly store: Store,
    private readonly blobs: BlobStore,
  ) {}

  /** All projects, the last changed first; documents stay where they are. */
  async list(): Promise<ProjectCard[]> {
    const kept = count(proofs.id);
    return this.store.database
      .select({
        id: projects.id,
        title: projects.title,
        revision: projects.revision,
        picture: projects.picture,
        updatedAt: projects.updatedAt,
        proofs: kept,
      })
      .from(projects)
      .leftJoin(proofs, and(eq(proofs.projectId, projects.id), isNull(proofs.deletedAt)))
      .where(isNull(projects.deletedAt))
      .groupBy(projects.id)
      .orderBy(desc(projects.updatedAt));
  }

  /** @throws NotFound */
  async exists(id: string): Promise<void> {
    const [row] = await this.store.database.select({ deletedAt: projects.deletedAt }).from(projects).where(eq(projects.id, id));
    if (!row || row.deletedAt !== null) throw new NotFound("There is no such project.");
  }

  private async row(id: string, deleted = false): Promise<typeof projects.$inferSelect> {
    const [row] = await this.store.database.select().from(projects).where(eq(projects.id, id));
    if (!row || (row.deletedAt !== null && !deleted)) throw new NotFound("There is no such project.");
    return row;
  }

  /** @param title in place of its own */
  async open(id: string, title: string | null = null): Promise<{ id: string; title: string; revision: number; document: CheckedDocument }> {
    const row = await this.row(id);
    return { id, title: row.title, revision: row.revision, document: await checkStored(row.document, `project ${row.title}`, title) };
  }

  /** Checks that the store holds every asset of a document. @throws InputError */
  private checkAssets({ assets }: CheckedDocument): void {
    for (const { name, uri, sha256 } of assets) {
      if (!sha256) throw new InputError(`assets.${name}: has no sha256, by which a project finds its files`);
      if (!this.blobs.has(sha256)) throw new InputError(`assets.${name} (${uri}): this file is not in the store of the server`);
    }
  }

  async create(document: CheckedDocument, picture: string | null = null): Promise<string> {
    this.checkAssets(document);
    const id = randomUUID();
    const at = this.store.now();
    const { text } = document;
    await this.store.serializeWrites(() =>
      this.store.database.transaction(async (t) => {
        await t.insert(projects).values({ id, title: document.title, document: text, revision: 1, picture, createdAt: at, updatedAt: at });
        await t.insert(documents).values({ projectId: id, revision: 1, document: text, createdAt: at });
      }),
    );
    return id;
  }

  async duplicate(id: string): Promise<string> {
    const { title, picture } = await this.row(id);
    const { document } = await this.open(id, `${title.slice(0, 190)} (copy)`);
    return this.create(document, picture);
  }

  /** Saves a state made from `revision`. @returns the new revision @throws Conflict */
  async save(id: string, revision: number, document: CheckedDocument): Promise<number> {
    this.checkAssets(document);
    const { text } = document;
    const at = this.store.now();
    return this.store.serializeWrites(() =>
      this.store.database.transaction(async (t) => {
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
    const { document, revision } = await this.open(id, title);
    return this.save(id, revision, document);
  }

  async setPicture(id: string, hash: string): Promise<void> {
    await this.exists(id);
    await this.store.serializeWrites(() => this.store.database.update(projects).set({ picture: hash }).where(eq(projects.id, id)));
  }

  async remove(id: string): Promise<void> {
    await this.exists(id);
    await this.store.serializeWrites(() =>
      this.store.database.update(projects).set({ deletedAt: this.store.now() }).where(eq(projects.id, id)),
    );
  }

  async restore(id: string): Promise<void> {
    await this.row(id, true);
    await this.store.serializeWrites(() => this.store.database.update(projects).set({ deletedAt: null }).where(eq(projects.id, id)));
  }

  /** Saved states, the newest first. */
  async history(id: string): Promise<{ revision: number; createdAt: number }[]> {
    await this.exists(id);
    return this.store.database
      .select({ revision: documents.revision, createdAt: documents.createdAt })
      .from(documents)
      .where(eq(documents.projectId, id))
      .orderBy(desc(documents.revision));
  }
}
