/** Tables. Times are milliseconds since 1970; documents are JSON text; pictures and films lie in the blob store by hash. */
import { ASSET_KIND_NAMES } from "#api/contract";
import { index, integer, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";

export const projects = sqliteTable("projects", {
  id: text().primaryKey(),
  title: text().notNull(),
  document: text().notNull(),
  /** Counts the saved states; a save must name the one it started from. */
  revision: integer().notNull(),
  picture: text(),
  createdAt: integer().notNull(),
  updatedAt: integer().notNull(),
  /** Set while the project can still be brought back. */
  deletedAt: integer(),
});

export const documents = sqliteTable(
  "documents",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    projectId: text()
      .notNull()
      .references(() => projects.id, { onDelete: "cascade" }),
    revision: integer().notNull(),
    document: text().notNull(),
    createdAt: integer().notNull(),
  },
  (t) => [uniqueIndex("documents_project_revision").on(t.projectId, t.revision)],
);

export const assets = sqliteTable("assets", {
  sha256: text().primaryKey(),
  kind: text({ enum: ASSET_KIND_NAMES }).notNull(),
  bytes: integer().notNull(),
  createdAt: integer().notNull(),
});

export const proofs = sqliteTable(
  "proofs",
  {
    id: text().primaryKey(),
    projectId: text()
      .notNull()
      .references(() => projects.id, { onDelete: "cascade" }),
    document: text().notNull(),
    note: text().notNull(),
    seconds: real().notNull(),
    samples: real().notNull(),
    noise: real(),
    picture: text().notNull(),
    film: text().notNull(),
    /** Which part of the frame it shows (shares), as JSON; null: all of it. */
    part: text(),
    /** Whether it lies over the live picture, in its place. */
    laid: integer({ mode: "boolean" }).notNull().default(false),
    star: integer({ mode: "boolean" }).notNull().default(false),
    /** Its place among the others; null: by its time. */
    place: real(),
    createdAt: integer().notNull(),
    deletedAt: integer(),
  },
  (t) => [index("proofs_project").on(t.projectId)],
);

/** A setting, or two, over several values: a small picture of each. */
export const wedges = sqliteTable(
  "wedges",
  {
    id: text().primaryKey(),
    projectId: text()
      .notNull()
      .references(() => projects.id, { onDelete: "cascade" }),
    document: text().notNull(),
    /** What is asked for, and the cells that are there, as JSON. */
    spec: text().notNull(),
    cells: text().notNull(),
    /** Whether it was ended before all of them were there. */
    ended: integer({ mode: "boolean" }).notNull().default(false),
    createdAt: integer().notNull(),
    deletedAt: integer(),
  },
  (t) => [index("wedges_project").on(t.projectId)],
);
