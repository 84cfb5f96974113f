/** What is known of the set's rooms and of where the lens stands to them; asked anew when set, lens or sun have rested. */
import { createStore } from "zustand/vanilla";
import type { SceneDocument } from "#core/document/schema";
import type { RoomsFound } from "./section-worker";
import type { Session } from "./session";
import type { BenchStore } from "./store";

export interface RoomsState extends RoomsFound {
  /** Whether they were looked for in the present set. */
  known: boolean;
}

const UNKNOWN: RoomsState = { known: false, lens: null, other: null, sunlit: null };
/** Milliseconds without a change after which rooms are looked for. */
const REST = 250;

export function createRooms(store: BenchStore, session: Session) {
  const state = createStore<RoomsState>(() => UNKNOWN);
  let asked = "";
  let builtFor: unknown = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const keyOf = ({ camera, sun }: SceneDocument): string => JSON.stringify([camera.position, sun.on, sun.azimuth, sun.elevation]);

  const look = async (): Promise<void> => {
    const { bounds } = session.state.getState();
    const { document: doc } = store.getState();
    if (!bounds || doc.objects.length === 0) return;
    const key = keyOf(doc);
    asked = key;
    const worker = await session.section.asked();
    const found = await worker.rooms(doc, bounds);
    // of a set or lens that is another by now, nothing is said
    if (asked === key && builtFor === bounds && keyOf(store.getState().document) === key) state.setState({ known: true, ...found }, true);
  };
  const soon = (): void => {
    clearTimeout(timer);
    timer = setTimeout(() => void look().catch(() => undefined), REST); // picture and section say what fails
  };
  const ends = [
    session.state.subscribe(({ bounds }) => {
      if (bounds === builtFor) return;
      builtFor = bounds;
      state.setState(UNKNOWN, true);
      soon();
    }),
    store.subscribe(({ document: doc }, { document: before }) => {
      if (doc.objects.length === 0) state.setState(UNKNOWN, true);
      else if (keyOf(doc) !== keyOf(before)) soon();
    }),
  ];
  return Object.assign(state, {
    dispose(): void {
      clearTimeout(timer);
      for (const end of ends) end();
    },
  });
}
export type Rooms = ReturnType<typeof createRooms>;
