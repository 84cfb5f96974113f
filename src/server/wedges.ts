/** Wedges: small pictures of a project's document with one or two of its numbers varied. */
import { randomUUID } from "node:crypto";
import { and, eq, isNull } from "drizzle-orm";
import type { API, BodyOf, Wedge, WedgeCell, WedgeSpec } from "#api/contract";
import { InputError } from "#core/errors";
import type { CheckedDocument } from "./bodies";
import type { BlobStore } from "./blobs";
import { checkStored } from "./checking";
import { wedges } from "./db/schema";
import type { Projects } from "./projects";
import { NotFound, type Store } from "./store";

export class Wedges {
  constructor(
    private readonly store: Store,
    private readonly projects: Projects,
    private readonly blobs: BlobStore,
  ) {}

  /** Wedges of a project, the oldest first; documents stay where they are. */
  async list(projectId: string): Promise<Wedge[]> {
    const { id, spec, cells, ended, createdAt } = wedges;
    const rows = await this.store.database
      .select({ id, spec, cells, ended, createdAt })
      .from(wedges)
      .where(and(eq(wedges.projectId, projectId), isNull(wedges.deletedAt)))
      .orderBy(createdAt);
    return rows.map((row) => ({ ...row, spec: JSON.parse(row.spec) as WedgeSpec, cells: JSON.parse(row.cells) as WedgeCell[] }));
  }

  /** The document that a wedge varies. @throws NotFound */
  async document(projectId: string, id: string): Promise<CheckedDocument> {
    const [row] = await this.store.database
      .select({ document: wedges.document })
      .from(wedges)
      .where(and(eq(wedges.id, id), eq(wedges.projectId, projectId)));
    if (!row) throw new NotFound("There is no such wedge.");
    return checkStored(row.document, `wedge ${id}`);
  }

  async make(projectId: string, { document, spec }: { document: CheckedDocument; spec: WedgeSpec }): Promise<Wedge> {
    await this.projects.exists(projectId);
    const record = { id: randomUUID(), ended: false, createdAt: this.store.now() };
    await this.store.serializeWrites(() =>
      this.store.database.insert(wedges).values({ ...record, projectId, document: document.text, spec: JSON.stringify(spec), cells: "[]" }),
    );
    return { ...record, spec, cells: [] };
  }

  /** Adds a picture, in the place of one that is there; ends, removes, restores. @throws NotFound, InputError */
  async change(projectId: string, id: string, { cell, ended, deleted }: BodyOf<typeof API.changeWedge>): Promise<void> {
    if (cell && !this.blobs.has(cell.picture)) throw new InputError("wedge: its picture was not uploaded");
    await this.store.serializeWrites(() =>
      this.store.database.transaction(async (t) => {
        const which = and(eq(wedges.id, id), eq(wedges.projectId, projectId));
        const [row] = await t.select({ spec: wedges.spec, cells: wedges.cells }).from(wedges).where(which);
        if (!row) throw new NotFound("There is no such wedge.");
        const { first, second } = JSON.parse(row.spec) as WedgeSpec;
        if (cell && cell.at >= first.values.length * (second?.values.length ?? 1)) throw new InputError("wedge: it has no such place");
        const cells = (JSON.parse(row.cells) as WedgeCell[]).filter((c) => c.at !== cell?.at);
        await t
          .update(wedges)
          .set({
            ...(cell ? { cells: JSON.stringify([...cells, cell].sort((a, b) => a.at - b.at)) } : {}),
            ...(ended !== undefined ? { ended } : {}),
            ...(deleted !== undefined ? { deletedAt: deleted ? this.store.now() : null } : {}),
          })
          .where(which);
      }),
    );
  }
}
