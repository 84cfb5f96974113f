/** Proofs: kept pictures of a project with the documents that made them. */
import { randomUUID } from "node:crypto";
import { and, eq, inArray, isNull, sql } from "drizzle-orm";
import { ASSET_KINDS, type API, type BodyOf, type Proof } from "#api/contract";
import { InputError } from "#core/errors";
import type { CheckedDocument } from "./bodies";
import { checkStored } from "./checking";
import type { BlobStore } from "./blobs";
import { assets, proofs } from "./db/schema";
import type { Projects } from "./projects";
import { NotFound, type Store } from "./store";

/** Most files whose size is asked for in one question. */
const HASHES = 500;

/** A proof as it is sent: what is not said of the part it shows means all of the frame. */
type NewProof = Omit<Proof, "id" | "createdAt" | "star" | "place" | "bytes" | "part" | "laid"> &
  Partial<Pick<Proof, "part" | "laid">> & { document: CheckedDocument };

export class Proofs {
  constructor(
    private readonly store: Store,
    private readonly projects: Projects,
    private readonly blobs: BlobStore,
  ) {}

  /** Proofs of a project in their order; documents stay where they are. */
  async list(projectId: string): Promise<Proof[]> {
    await this.projects.exists(projectId);
    const { id, note, seconds, samples, noise, picture, film, part, laid, star, createdAt } = proofs;
    const place = sql<number>`coalesce(${proofs.place}, ${createdAt})`;
    const rows = await this.store.database
      .select({ id, note, seconds, samples, noise, picture, film, part, laid, star, place, createdAt })
      .from(proofs)
      .where(and(eq(proofs.projectId, projectId), isNull(proofs.deletedAt)))
      .orderBy(place, createdAt);
    const bytes = await this.bytesOf(rows.flatMap((row) => [row.picture, row.film]));
    return rows.map((row) => ({
      ...row,
      part: row.part === null ? null : (JSON.parse(row.part) as Proof["part"]),
      bytes: (bytes.get(row.picture) ?? 0) + (bytes.get(row.film) ?? 0),
    }));
  }

  /** Bytes of files by their hash. */
  private async bytesOf(hashes: string[]): Promise<Map<string, number>> {
    const found = new Map<string, number>();
    const all = [...new Set(hashes)];
    for (let i = 0; i < all.length; i += HASHES)
      for (const { sha256, bytes } of await this.store.database
        .select({ sha256: assets.sha256, bytes: assets.bytes })
        .from(assets)
        .where(inArray(assets.sha256, all.slice(i, i + HASHES))))
        found.set(sha256, bytes);
    return found;
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

  async keep(projectId: string, { document, part = null, laid = false, ...proof }: NewProof): Promise<Proof> {
    await this.projects.exists(projectId);
    for (const hash of [proof.picture, proof.film])
      if (!this.blobs.has(hash)) throw new InputError("proof: its picture or film was not uploaded");
    for (const kind of ["film", "picture"] as const) {
      const { bytes, what } = ASSET_KINDS[kind].begins;
      if (!(await this.blobs.beginsWith(proof[kind], bytes))) throw new InputError(`proof: its ${kind} is not ${what}`);
    }
    const record = { ...proof, id: randomUUID(), createdAt: this.store.now() };
    await this.store.serializeWrites(() =>
      this.store.database
        .insert(proofs)
        .values({ ...record, laid, part: part && JSON.stringify(part), projectId, document: document.text }),
    );
    const bytes = await this.bytesOf([proof.picture, proof.film]);
    return { ...record, part, laid, star: false, place: record.createdAt, bytes: [...bytes.values()].reduce((a, b) => a + b, 0) };
  }

  async change(projectId: string, id: string, change: BodyOf<typeof API.changeProof>): Promise<void> {
    const set = {
      ...(change.note !== undefined ? { note: change.note } : {}),
      ...(change.star !== undefined ? { star: change.star } : {}),
      ...(change.laid !== undefined ? { laid: change.laid } : {}),
      ...(change.place !== undefined ? { place: change.place } : {}),
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
