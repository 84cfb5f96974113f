/** Opens a stack that is kept, or begins one of pictures. */
import { API, call } from "#api/contract";
import { parseStack, type Source, type Stack } from "#core/compose/stack";
import { startingStack } from "#core/compose/start";
import { draftIn, Saver, type Kept } from "../../shared/autosave";
import { browserPageHost, type PageHost } from "../../shared/page-host";
import { Composition, Reader } from "./composition";

export interface OpenStack {
  id: string;
  composition: Composition;
  saver: Saver<Stack>;
  dispose(): void;
}

/** Pixels of the small pictures that a stack begins by. */
const LOOK = 320;

const keptAt = (id: string, page: PageHost): Kept<Stack> => ({
  id,
  slot: `fumarium.unsaved.stack.${id}`,
  save: async (revision, stack, options) => (await call(page.request, API.saveStack, { stack: id }, { revision, stack }, options)).revision,
  revision: async () => (await call(page.request, API.openStack, { stack: id })).revision,
});

/** @throws Error with words for the user; nothing is left running then */
export async function openStack(id: string, says: (words: string) => void, page = browserPageHost()): Promise<OpenStack> {
  const { stack: value, revision } = await call(page.request, API.openStack, { stack: id });
  const confirmed = parseStack(value);
  const kept = keptAt(id, page);
  const draft = draftIn(page.storage, kept.slot, revision, parseStack);
  const reader = new Reader();
  try {
    const stack = draft ?? confirmed;
    await readAll(reader, stack.sources, says);
    const composition = new Composition(confirmed, reader);
    if (draft) composition.store.getState().set(() => draft);
    const saver = new Saver<Stack>(kept, revision, confirmed, composition.store, page);
    return {
      ...{ id, composition, saver },
      dispose() {
        saver.dispose();
        composition.dispose();
      },
    };
  } catch (error) {
    reader.dispose();
    throw error;
  }
}

/** Begins a stack of files that the server keeps. @returns its id @throws Error with words for the user */
export async function beginStack(
  title: string,
  sources: Readonly<Record<string, Source>>,
  says: (words: string) => void,
  page = browserPageHost(),
): Promise<string> {
  const reader = new Reader();
  try {
    await readAll(reader, sources, says);
    const { width, height } = reader.size;
    const k = Math.min(1, LOOK / width);
    const frames = new Map(
      await Promise.all(
        Object.keys(sources).map(
          async (key) => [key, await reader.small(key, Math.max(1, Math.round(k * width)), Math.max(1, Math.round(k * height)))] as const,
        ),
      ),
    );
    return (await call(page.request, API.createStack, {}, { stack: startingStack(title, sources, frames) })).id;
  } finally {
    reader.dispose();
  }
}

async function readAll(reader: Reader, sources: Readonly<Record<string, Source>>, says: (words: string) => void): Promise<void> {
  for (const [key, source] of Object.entries(sources)) {
    says(`Reading ${source.name} …`);
    await reader.read(key, source);
  }
}
