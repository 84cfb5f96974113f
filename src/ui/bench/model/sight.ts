/** What the bench knows of what one looks at, for new things to appear there. */
import { sightOf, type Sight } from "#core/scene/sight";
import type { Bench } from "./context";

export function sightNow({ store, session, rooms }: Pick<Bench, "store" | "session" | "rooms">): Sight {
  return sightOf(store.getState().document, session.live(), {
    room: rooms.getState().lens?.box ?? null,
    bounds: session.state.getState().bounds,
  });
}
