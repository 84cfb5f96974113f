/** Look-up tables that pictures are finished with, by their hash: loaded once, for all that draw. */
import { createStore } from "zustand/vanilla";
import { lutAsset } from "#core/document/assets";
import type { Lut } from "#core/data/lut";
import type { SceneDocument } from "#core/document/schema";
import { sharedValues } from "./film-readings";

interface LutState {
  /** Tables that are there, by the hash of their file. */
  tables: Readonly<Record<string, Lut>>;
  /** Why one could not be had. */
  problems: Readonly<Record<string, string>>;
}

export class Luts {
  readonly state = createStore<LutState>(() => ({ tables: {}, problems: {} }));
  private readonly asked = new Set<string>();

  /** @param load reads the table of a document */
  constructor(private readonly load: (doc: SceneDocument) => Promise<Lut | null>) {}

  /** Hash of the table that a document names and uses; null for none. */
  static hashOf(doc: SceneDocument): string | null {
    const name = doc.film.finish.on ? lutAsset(doc) : null;
    return (name && doc.assets[name]?.sha256) || null;
  }

  /** The table of a document; null while it is not there. */
  of(doc: SceneDocument): Lut | null {
    const hash = Luts.hashOf(doc);
    return hash ? (this.state.getState().tables[hash] ?? null) : null;
  }

  /** Has the table of a document loaded, where it is not there. */
  ask(doc: SceneDocument): void {
    const hash = Luts.hashOf(doc);
    if (!hash || this.asked.has(hash)) return;
    this.asked.add(hash);
    this.load(doc).then(
      // every picture passes it on to another thread
      (lut) => lut && this.state.setState((s) => ({ tables: { ...s.tables, [hash]: { ...lut, values: sharedValues(lut.values) } } })),
      (error: unknown) => {
        // it may be there the next time
        this.asked.delete(hash);
        this.state.setState((s) => ({ problems: { ...s.problems, [hash]: (error as Error).message } }));
      },
    );
  }
}
