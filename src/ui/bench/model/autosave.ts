/** Saves a project's document as it changes (shared/autosave.ts). */
import { API, call } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { draftIn, Saver } from "../../shared/autosave";
import type { PageHost, TextStorage } from "../../shared/page-host";
import type { BenchStore } from "./store";

const slot = (projectId: string): string => `fumarium.unsaved.${projectId}`;

/** A draft left by an earlier visit, when the server still has the state it started from. */
export const unsavedDraft = (storage: TextStorage, projectId: string, revision: number): SceneDocument | null =>
  draftIn(storage, slot(projectId), revision, (value) => parseDocument(value, "unsaved draft"));

export class Autosave extends Saver<SceneDocument> {
  constructor(projectId: string, revision: number, confirmed: SceneDocument, store: BenchStore, page: PageHost) {
    const kept = {
      id: projectId,
      slot: slot(projectId),
      save: async (from: number, document: SceneDocument, options?: { keepalive?: boolean }) =>
        (await call(page.request, API.saveDocument, { id: projectId }, { revision: from, document }, options)).revision,
      revision: async () => (await call(page.request, API.openProject, { id: projectId })).revision,
    };
    super(kept, revision, confirmed, store, page);
  }
}
