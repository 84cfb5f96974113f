/** Waiting for a state, not for a time. */
import type { StoreApi } from "zustand/vanilla";
import { CleanCancelled } from "#engine/clean-pool";

/** Resolves once a state is as it is wanted, at once where it is. @throws what `wanted` throws; CleanCancelled when the signal says so */
export async function when(state: Pick<StoreApi<unknown>, "subscribe">, wanted: () => boolean, signal?: AbortSignal): Promise<void> {
  let over = (): void => undefined;
  try {
    await new Promise<void>((done, fail) => {
      const look = (): void => {
        try {
          if (signal?.aborted) throw new CleanCancelled("given up while it waited");
          if (wanted()) done();
        } catch (error) {
          fail(error instanceof Error ? error : new Error(String(error)));
        }
      };
      const off = state.subscribe(look);
      signal?.addEventListener("abort", look);
      over = () => {
        off();
        signal?.removeEventListener("abort", look);
      };
      look();
    });
  } finally {
    over();
  }
}
