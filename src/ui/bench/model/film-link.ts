/** Asks the film's worker; the page itself does the work where that cannot start. */
import { wrap } from "comlink";
import { readHere, type FilmReader } from "./film-readings";
import type { FilmWorker } from "./film-worker";

export function browserFilms(): FilmReader {
  const raw = new Worker(new URL("./film-worker.ts", import.meta.url), { type: "module" });
  const remote = wrap<FilmWorker>(raw);
  // nothing that a broken worker was asked is ever answered
  const broken = new Promise<null>((done) => {
    raw.onerror = () => done(null);
  });
  const or = async <T>(there: Promise<T>, here: () => Promise<T>): Promise<T> => (await Promise.race([there, broken])) ?? here();
  return {
    developed: (film, look) => or(remote.developed(film, look), () => readHere.developed(film, look)),
    small: (film, looks, width) => or(remote.small(film, looks, width), () => readHere.small(film, looks, width)),
    measured: (film) => or(remote.measured(film), () => readHere.measured(film)),
    histogram: (film, development) => or(remote.histogram(film, development), () => readHere.histogram(film, development)),
    waveform: (film, look) => or(remote.waveform(film, look), () => readHere.waveform(film, look)),
    difference: (a, b, kind, scale) => or(remote.difference(a, b, kind, scale), () => readHere.difference(a, b, kind, scale)),
    facts: (film, white) => or(remote.facts(film, white), () => readHere.facts(film, white)),
    looked: (film, enlarged) => or(remote.looked(film, enlarged), () => readHere.looked(film, enlarged)),
    heat: (film, across, dark) => or(remote.heat(film, across, dark), () => readHere.heat(film, across, dark)),
    still: (film) => or(remote.still(film), () => readHere.still(film)),
    dispose: () => raw.terminate(),
  };
}
