/** Tables. Times are milliseconds since 1970; documents are JSON text; pictures and films lie in the blob store by hash. */
import { ASSET_KIND_NAMES, RENDER_STATES } from "#api/contract";
import { index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";

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

/** Finals: what is rendered in the background, in order. */
export const renders = sqliteTable("renders", {
  id: text().primaryKey(),
  projectId: text()
    .notNull()
    .references(() => projects.id, { onDelete: "cascade" }),
  title: text().notNull(),
  document: text().notNull(),
  /** What is asked for, and what it needs, as JSON. */
  order: text().notNull(),
  needs: text().notNull(),
  state: text({ enum: RENDER_STATES }).notNull(),
  message: text(),
  /** What a frame was said to take when it was ordered, as JSON; null where nothing was said. */
  forecast: text(),
  /** Of two, the higher goes first. */
  priority: integer().notNull().default(0),
  place: real().notNull(),
  createdAt: integer().notNull(),
  updatedAt: integer().notNull(),
  deletedAt: integer(),
});

/** Frames whose files are written; 0 where there is but one. */
export const renderedFrames = sqliteTable(
  "rendered_frames",
  {
    renderId: text()
      .notNull()
      .references(() => renders.id, { onDelete: "cascade" }),
    frame: integer().notNull(),
    file: text().notNull(),
    /** Of all its files. */
    bytes: integer().notNull(),
    seconds: real().notNull(),
    samples: real(),
    noise: real(),
    cleanedNoise: real(),
    /** All its files with their bytes, as JSON, where there is more than one. */
    files: text(),
  },
  (t) => [primaryKey({ columns: [t.renderId, t.frame] })],
);

/** Forecasts of frames beside what they took; they outlive their renders. Seconds of the processor. */
export const paidFinals = sqliteTable(
  "paid_finals",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    renderId: text().notNull(),
    frame: integer().notNull(),
    title: text().notNull(),
    pixels: integer().notNull(),
    /** What the model said by itself; what was said with what had been learned, and its bounds. */
    model: real().notNull(),
    said: real().notNull(),
    low: real().notNull(),
    high: real().notNull(),
    /** Samples a pixel, as they were said and as they were taken. */
    samplesSaid: real().notNull(),
    samples: real().notNull(),
    paid: real().notNull(),
    /** Of that: its clean-up at the end; null where it was not cleaned. */
    clean: real(),
    createdAt: integer().notNull(),
  },
  (t) => [uniqueIndex("paid_finals_frame").on(t.renderId, t.frame)],
);

/** Stacks of layers over pictures that are there, as JSON. */
export const stacks = sqliteTable("stacks", {
  id: text().primaryKey(),
  title: text().notNull(),
  document: text().notNull(),
  layers: integer().notNull(),
  /** Counts the saved states; a save must name the one it started from. */
  revision: integer().notNull(),
  picture: text(),
  createdAt: integer().notNull(),
  updatedAt: integer().notNull(),
  deletedAt: integer(),
});

/** What holds for all of this folder, by name: JSON. */
export const settings = sqliteTable("settings", { name: text().primaryKey(), value: text().notNull() });
