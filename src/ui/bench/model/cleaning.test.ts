import { describe, expect, it } from "vitest";
import { NOT_CLEANED, type Cleaned } from "#core/film/cleaned";
import { emptyFilm } from "#core/film/film";
import { CleanCancelled } from "#engine/clean-pool";
import { Cleaning, type LiveCleaner, type Moment } from "./cleaning";

const film = emptyFilm(4, 4);
const settle = (): Promise<void> => new Promise((done) => setTimeout(done, 2));
const side = (): Float32Array => new Float32Array(64);

/** A clean-up whose work ends when the test says so. */
function fake() {
  const asked: { kind: "live" | "finish"; every: number; signal?: AbortSignal; end(cleaned: Cleaned): void }[] = [];
  const states: string[] = [];
  const cleaner: LiveCleaner = {
    live: (_, __, every) => new Promise((end) => asked.push({ kind: "live", every, end })),
    finish: (_, { signal }) =>
      new Promise((end, fail) => {
        signal?.addEventListener("abort", () => fail(new CleanCancelled("cut")));
        asked.push({ kind: "finish", every: 1, ...(signal ? { signal } : {}), end });
      }),
    dispose: () => states.push("disposed"),
  };
  /** The run that the renderer is at: that of the last moment. */
  let run = 1;
  const cleaning = new Cleaning(cleaner, {
    changed: () => states.push("changed"),
    run: () => run,
    busy: (on) => states.push(on ? "busy" : "idle"),
    failed: (e) => states.push(e.message),
  });
  const moment = (change: Partial<Moment> = {}): Moment => ({
    film,
    look: "air",
    every: 1,
    samples: 1,
    done: false,
    strengths: { fireflies: 1, air: 1, surfaces: 1 },
    balance: {},
    ...change,
    run: (run = change.run ?? 1),
  });
  return { cleaning, asked, states, moment };
}
const both = (): Cleaned => ({ ...NOT_CLEANED, air: side(), surfaces: side() });

describe("cleaning the live picture", () => {
  it("does one piece of work at a time, then the latest of what came meanwhile", async () => {
    const { cleaning, asked, states, moment } = fake();
    cleaning.ask(moment({ every: 8 }));
    cleaning.ask(moment({ every: 4 }));
    cleaning.ask(moment({ every: 2 }));
    expect(asked.map((a) => a.every)).toEqual([8]);
    expect(cleaning.shown(film).cleaned).toBeUndefined();
    asked[0]!.end(both());
    await settle();
    expect(asked.map((a) => a.every)).toEqual([8, 2]);
    expect(cleaning.shown(film).cleaned?.air).toHaveLength(64);
    asked[1]!.end(both());
    await settle();
    expect(states).toEqual(["busy", "changed", "changed", "idle"]);
  });

  it("shows nothing of a film that another run wrote to meanwhile", async () => {
    const { cleaning, asked, states, moment } = fake();
    cleaning.ask(moment());
    cleaning.ask(moment({ run: 2 }));
    asked[0]!.end(both());
    await settle();
    expect(cleaning.shown(film).cleaned).toBeUndefined();
    asked[1]!.end(both());
    await settle();
    expect(cleaning.shown(film).cleaned?.air).toHaveLength(64);
    expect(states).toEqual(["busy", "changed", "idle"]);
  });

  it("takes the better filter from enough samples on, again at half as many more, and at the end", async () => {
    const { cleaning, asked, moment } = fake();
    for (const [samples, done] of [
      [10, false],
      [30, false],
      [40, false],
      [46, false],
      [60, true],
      [60, true],
    ] as const) {
      cleaning.ask(moment({ samples, done }));
      asked.at(-1)!.end(both());
      await settle();
    }
    expect(asked.map((a) => a.kind)).toEqual(["live", "finish", "finish", "finish"]);
  });

  it("ends work for an earlier document, and begins with the quick filter again", async () => {
    const { cleaning, asked, states, moment } = fake();
    cleaning.ask(moment({ samples: 100 }));
    cleaning.ask(moment({ samples: 1, run: 2, every: 8 }));
    await settle();
    expect(asked[0]!.signal?.aborted).toBe(true);
    expect(asked.map((a) => a.kind)).toEqual(["finish", "live"]);
    asked[1]!.end(both());
    await settle();
    expect(states).toEqual(["busy", "changed", "idle"]);
  });

  it("shows the film as it is where what is cleaned is of another frame, and says why it cannot work", async () => {
    const { cleaning, asked, states, moment } = fake();
    cleaning.ask(moment());
    asked[0]!.end(both());
    await settle();
    const other = emptyFilm(8, 8);
    expect(cleaning.shown(other)).toBe(other);
    expect(cleaning.shown(film).cleaned).not.toBeNull();
    cleaning.forget();
    expect(cleaning.shown(film)).toBe(film);
    const broken = new Cleaning(
      {
        live: () => Promise.reject(new Error("no memory")),
        finish: () => Promise.reject(new Error("no memory")),
        dispose: () => undefined,
      },
      { changed: () => undefined, run: () => 1, busy: () => undefined, failed: (e) => states.push(e.message) },
    );
    broken.ask(moment());
    await settle();
    expect(states.at(-1)).toBe("no memory");
    cleaning.dispose();
    expect(states.at(-1)).toBe("disposed");
  });
});
