import { expect, it } from "vitest";
import { NOT_CLEANED } from "#core/film/cleaned";
import { emptyFilm, type Film } from "#core/film/film";
import { NO_FINISH } from "#core/film/finish";
import { readHere, type Developed, type Look } from "../model/film-readings";
import { Painter } from "./painter";

const LOOK: Look = {
  pass: "beauty",
  exposure: 10,
  whiteBalance: 6500,
  tint: 0,
  finish: NO_FINISH,
  balance: {},
  lut: null,
  tones: "picture",
};

/** A painter whose pictures are developed when the test lets them. */
function painter() {
  const waiting: (() => void)[] = [];
  const put: number[] = [];
  const drawn: [number, boolean][] = [];
  const failed: string[] = [];
  const films = {
    ...readHere,
    developed: (film: Film, look: Look) =>
      new Promise<Developed>((done, fail) => waiting.push(() => void readHere.developed(film, look).then(done, fail))),
  };
  const old = new Set<Film>();
  const p = new Painter(
    films,
    ({ width }) => void put.push(width),
    (film) => old.has(film),
    {
      drawn: (tick, newest) => void drawn.push([tick, newest]),
      failed: ({ message }) => void failed.push(message),
    },
  );
  const next = async (): Promise<void> => {
    waiting.shift()?.();
    await new Promise((done) => setTimeout(done, 2));
  };
  return { p, old, waiting, put, drawn, failed, next };
}

it("draws one at a time, and of what is asked for meanwhile the last", async () => {
  const { p, waiting, put, drawn, next } = painter();
  for (const width of [1, 2, 3, 4]) p.ask({ film: emptyFilm(width, 1), look: LOOK, tick: width });
  expect(waiting).toHaveLength(1);
  await next();
  await next();
  expect(put).toEqual([1, 4]);
  expect(drawn).toEqual([
    [1, false],
    [4, true],
  ]);
});

it("develops cleaned light once, and rendered light whenever it may have more samples", async () => {
  const { p, put, drawn, next } = painter();
  const light = (): Float32Array => new Float32Array(4);
  const cleaned = { ...NOT_CLEANED, air: light(), surfaces: light() };
  const film: Film = { ...emptyFilm(1, 1), cleaned };
  const ask = async (f: Film, tick: number, look = LOOK): Promise<void> => {
    p.ask({ film: f, look, tick });
    await next();
  };
  await ask(film, 1);
  await ask({ ...film }, 2);
  expect(put).toHaveLength(1);
  expect(drawn.at(-1)).toEqual([2, true]);
  await ask(film, 3, { ...LOOK, exposure: 11 });
  await ask({ ...film, cleaned: { ...cleaned, air: light() } }, 4);
  expect(put).toHaveLength(3);
  await ask({ ...film, cleaned: null }, 5);
  await ask({ ...film, cleaned: null }, 6);
  expect(put).toHaveLength(5);
  // stops and clipping ask which pixels have samples
  await ask(film, 7, { ...LOOK, tones: "clipping" });
  await ask(film, 8, { ...LOOK, tones: "clipping" });
  expect(put).toHaveLength(7);
});

it("draws nothing of a film that another run writes to by then", async () => {
  const { p, old, put, drawn, next } = painter();
  const [before, after] = [emptyFilm(1, 1), emptyFilm(2, 1)];
  p.ask({ film: before, look: LOOK, tick: 1 });
  old.add(before);
  p.ask({ film: after, look: LOOK, tick: 2 });
  await next();
  await next();
  expect(put).toEqual([2]);
  expect(drawn).toEqual([[2, true]]);
});

it("says what failed, and draws what comes after; nothing once it is gone", async () => {
  const { p, put, failed, next } = painter();
  p.ask({ film: { ...emptyFilm(1, 1), width: -1 }, look: LOOK, tick: 1 });
  await next();
  expect(failed).toHaveLength(1);
  p.ask({ film: emptyFilm(2, 1), look: LOOK, tick: 2 });
  await next();
  expect(put).toEqual([2]);
  p.ask({ film: emptyFilm(3, 1), look: LOOK, tick: 3 });
  p.dispose();
  await next();
  expect(put).toEqual([2]);
});
