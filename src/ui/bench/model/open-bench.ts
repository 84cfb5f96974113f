/** Opens a bench: loads the project, puts its parts together, and takes them apart again. */
import { API, call } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { AdviceDesk } from "./advice";
import { Autosave, unsavedDraft } from "./autosave";
import type { Bench } from "./context";
import { browserPageHost, type PageHost } from "../../shared/page-host";
import { browserSessionHost, type SessionHost } from "./hosts";
import { createIncoming } from "./incoming";
import { FramePrice } from "./price";
import { ProofShelf } from "./proofs";
import { ReprojectedPreview } from "./reprojection";
import { createRooms } from "./rooms";
import { Session } from "./session";
import { createBenchStore } from "./store";
import { UndoKeeper } from "./undo-keeper";
import { createView } from "./view";
import { storePicture, Wedges } from "./wedges";
import { when } from "./when";

export interface OpenBench {
  bench: Bench;
  autosave: Autosave;
  /** Begins to render. */
  start(): Promise<void>;
  dispose(): void;
}

/** @throws Error with words for the user where the project cannot be loaded; nothing is left running then */
export async function openBench(
  projectId: string,
  page: PageHost = browserPageHost(),
  createHost: () => SessionHost = browserSessionHost,
): Promise<OpenBench> {
  const project = await call(page.request, API.openProject, { id: projectId });
  const confirmed = parseDocument(project.document);
  const store = createBenchStore(confirmed);
  const draft = unsavedDraft(page.storage, projectId, project.revision);
  const steps = new UndoKeeper(projectId, store, page.records);
  // what an earlier visit could not save comes back as a change, so that undo leads before it
  if (draft) store.getState().set(() => draft);
  void steps.restore();
  const host = createHost();
  const session = new Session(store.getState().document, host);
  const autosave = new Autosave(projectId, project.revision, confirmed, store, page);
  const view = createView(page.storage, store.getState().document.objects.length === 0 ? "set" : "air");
  const incoming = createIncoming(store);
  const rooms = createRooms(store, session);
  const preview = new ReprojectedPreview(session, store, view, page.storage);
  const wedges = new Wedges(
    projectId,
    session,
    store,
    // beside the live picture, which keeps the rest of the machine
    { request: page.request, startEngine: () => host.startEngine(1 / 2), store: storePicture, alone: page.alone },
    project.wedges,
  );
  const price = new FramePrice(session, store, page.request);
  const advice = new AdviceDesk(session, store, price, () => host.startEngine());
  const ending = new AbortController();
  const ends = [
    store.subscribe((s) => session.update(s.document)),
    view.subscribe(({ solo, soloMedia, below, light }) =>
      session.setFilter({ solo, soloMedia, balance: below === "lights" || below === "passes" || light !== null }),
    ),
    view.subscribe(({ clean }) => session.setClean(clean)),
    view.pointer.subscribe(({ at }) => session.attend(at)),
  ];
  return {
    bench: {
      projectId,
      wedges,
      store,
      session,
      view,
      preview,
      proofs: new ProofShelf(projectId, session, project.proofs),
      incoming,
      rooms,
      price,
      advice,
    },
    autosave,
    async start() {
      price.start();
      await session.start();
      // once the live picture has had its first light
      void when(session.state, () => session.state.getState().covered !== null, ending.signal).then(
        () => wedges.resume(),
        () => undefined,
      );
    },
    dispose() {
      ending.abort();
      wedges.dispose();
      for (const end of ends) end();
      preview.dispose();
      rooms.dispose();
      price.dispose();
      advice.dispose();
      session.dispose();
      autosave.dispose();
      steps.dispose();
      incoming.drop();
    },
  };
}
