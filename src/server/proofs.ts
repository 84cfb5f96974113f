/** Proofs: kept pictures of a project with the documents that made them. */
import { randomUUID } from "node:crypto";
import { and, eq, isNull } from "drizzle-orm";
import { ASSET_KINDS, type Proof } from "#api/contract";
import { InputError } from "#core/errors";
import type { CheckedDocument } from "./bodies";
import { checkStored } from "./checking";
import type { BlobStore } from "./blobs";
import { proofs } from "./db/schema";
import type { Projects } from "./projects";
import { NotFound, type Store } from "./store";

export class Proofs {
  constructor(
    private readonly store: Store,
    private readonly projects: Projects,
    private readonly blobs: BlobStore,
  ) {}

  /** Proofs of a project, the oldest first; documents stay where they are. */
  async list(projectId: string): Promise<Proof[]> {
    await this.projects.exists(projectId);
    const { id, note, seconds, samples, noise, picture, film, createdAt } = proofs;
    return this.store.database
      .select({ id, note, seconds, samples, noise, picture, film, createdAt })
      .from(proofs)
      .where(and(eq(proofs.projectId, projectId), isNull(proofs.deletedAt)))
      .orderBy(proofs.createdAt);
  }

  /** The document that made a proof. @throws NotFound */
  async document(projectId: string, id: string): Promise<CheckedDocument> {
    const [row] = await this.store.database
      .select({ document: proofs.document })
      .from(proofs)
      .where(and(eq(proofs.id, id), eq(proofs.projectId, projectId)));
    if (!row) throw new NotFound("There is no such proof.");
    return checkStored(row.document, `proof ${id}`);
  }

  async keep(projectId: string, { document, ...proof }: Omit<Proof, "id" | "createdAt"> & { document: CheckedDocument }): Promise<Proof> {
    await this.projects.exists(projectId);
    for (const hash of [proof.picture, proof.film])
      if (!this.blobs.has(hash)) throw new InputError("proof: its picture or film was not uploaded");
    for (const kind of ["film", "picture"] as const) {
      const { bytes, what } = ASSET_KINDS[kind].begins;
      if (!(await this.blobs.beginsWith(proof[kind], bytes))) throw new InputError(`proof: its ${kind} is not ${what}`);
    }
    const record = { ...proof, id: randomUUID(), createdAt: this.store.now() };
    await this.store.serializeWrites(() => this.store.database.insert(proofs).values({ ...record, projectId, document: document.text }));
    return record;
  }

  async change(projectId: string, id: string, change: { note?: string | undefined; deleted?: boolean | undefined }): Promise<void> {
    const set = {
      ...(change.note !== undefined ? { note: change.note } : {}),
      ...(change.deleted !== undefined ? { deletedAt: change.deleted ? this.store.now() : null } : {}),
    };
    const done = await this.store.serializeWrites(() =>
      this.store.database
        .update(proofs)
        .set(set)
        .where(and(eq(proofs.id, id), eq(proofs.projectId, projectId)))
        .returning({ id: proofs.id }),
    );
    if (done.length === 0) throw new NotFound("There is no such proof.");
  }
}
