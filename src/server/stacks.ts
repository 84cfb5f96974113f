/** Stacks: layers over pictures that are there. */
import { randomUUID } from "node:crypto";
import { and, desc, eq, isNull } from "drizzle-orm";
import type { AnswerOf, API, BodyOf, StackCard } from "#api/contract";
import { allLayers, parseStack, type Stack } from "#core/compose/stack";
import { InputError } from "#core/errors";
import type { BlobStore } from "./blobs";
import { stacks } from "./db/schema";
import { Conflict, NotFound, type Store } from "./store";

export class Stacks {
  constructor(
    private readonly store: Store,
    private readonly blobs: BlobStore,
  ) {}

  async list(): Promise<StackCard[]> {
    const { id, title, picture, updatedAt, layers } = stacks;
    return this.store.database
      .select({ id, title, picture, updatedAt, layers })
      .from(stacks)
      .where(isNull(stacks.deletedAt))
      .orderBy(desc(updatedAt));
  }

  /** @throws InputError */
  async create(value: unknown): Promise<string> {
    const row = this.rowOf(parseStack(value));
    const id = randomUUID();
    const now = this.store.now();
    await this.store.serializeWrites(() =>
      this.store.database.insert(stacks).values({ ...row, id, revision: 1, createdAt: now, updatedAt: now }),
    );
    return id;
  }

  /** @throws NotFound */
  async open(id: string): Promise<AnswerOf<typeof API.openStack>> {
    const [row] = await this.store.database
      .select({ revision: stacks.revision, document: stacks.document })
      .from(stacks)
      .where(and(eq(stacks.id, id), isNull(stacks.deletedAt)));
    if (!row) throw new NotFound("There is no such stack.");
    return { id, revision: row.revision, stack: parseStack(JSON.parse(row.document)) };
  }

  /** Saves a state made from `revision`. @returns the new revision @throws Conflict, NotFound, InputError */
  async save(id: string, { revision, stack }: BodyOf<typeof API.saveStack>): Promise<number> {
    const next = this.rowOf(parseStack(stack));
    return this.store.serializeWrites(() =>
      this.store.database.transaction(async (t) => {
        const [row] = await t
          .select({ revision: stacks.revision, document: stacks.document })
          .from(stacks)
          .where(and(eq(stacks.id, id), isNull(stacks.deletedAt)));
        if (!row) throw new NotFound("There is no such stack.");
        if (row.document === next.document) return row.revision;
        if (row.revision !== revision) throw new Conflict(row.revision, "stack");
        await t
          .update(stacks)
          .set({ ...next, revision: revision + 1, updatedAt: this.store.now() })
          .where(eq(stacks.id, id));
        return revision + 1;
      }),
    );
  }

  /** @throws NotFound, InputError */
  async change(id: string, { picture, deleted }: BodyOf<typeof API.changeStack>): Promise<void> {
    if (picture !== undefined && !this.blobs.has(picture)) throw new InputError("stack: its picture was not uploaded");
    const done = await this.store.serializeWrites(() =>
      this.store.database
        .update(stacks)
        .set({
          ...(picture !== undefined ? { picture } : {}),
          ...(deleted !== undefined ? { deletedAt: deleted ? this.store.now() : null } : {}),
        })
        .where(eq(stacks.id, id))
        .returning({ id: stacks.id }),
    );
    if (done.length === 0) throw new NotFound("There is no such stack.");
  }

  /** A stack as it is kept. @throws InputError where a source's file was not uploaded */
  private rowOf(stack: Stack): { title: string; document: string; layers: number } {
    for (const [key, { sha256, name }] of Object.entries(stack.sources)) {
      if (sha256 === null) throw new InputError(`stack: its source "${key}" (${name}) names no file that was uploaded`);
      if (!this.blobs.has(sha256)) throw new InputError(`stack: the file of its source "${key}" (${name}) is not here`);
    }
    return { title: stack.title, document: JSON.stringify(stack), layers: allLayers(stack.layers).length };
  }
}
