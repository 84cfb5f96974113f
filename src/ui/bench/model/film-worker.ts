/** Reads films in a thread of its own, so that the page answers while they are developed and measured. */
import { expose, transfer } from "comlink";
import { developed, readHere, type FilmReader } from "./film-readings";

const api: Omit<FilmReader, "dispose"> = {
  ...readHere,
  async developed(film, look) {
    const done = developed(film, look);
    return Promise.resolve(transfer(done, [done.pixels.buffer]));
  },
  async difference(first, second, kind, scale) {
    const done = await readHere.difference(first, second, kind, scale);
    return transfer(done, [done.pixels.buffer]);
  },
};

export type FilmWorker = typeof api;
expose(api);
