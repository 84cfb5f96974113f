/** Where sunlight comes in documents, for pictures that are carried along: traced one at a time, of what is asked meanwhile only the last. */
import type { SceneDocument } from "#core/document/schema";
import { memoizeByObject } from "#core/math/memoize";
import { sunMapped } from "#core/veil/carry";
import type { SunMap } from "#core/section/sun-map";

/** Maps that are kept: those of the last places of the sun. */
const KEPT = 3;

type Then = (doc: SceneDocument, map: SunMap | null) => void;

interface Traced {
  geometry: object;
  sun: string;
  air: string;
  map: SunMap | null;
}

/** What a map depends on: the sun's place; and the bounds of the air, outside of which it tells nothing. */
const keysOf = memoizeByObject((doc: SceneDocument) => ({
  sun: `${doc.sun.azimuth} ${doc.sun.elevation}`,
  air: JSON.stringify(doc.air.map((m) => [m.on, m.region])),
}));

export class SunMaps {
  private kept: Traced[] = [];
  private wanted: { doc: SceneDocument; then: Then } | null = null;
  private busy = false;

  /** @param trace makes the map of a document, null where it has none @param geometry of the documents; null before there is one */
  constructor(
    private readonly trace: (doc: SceneDocument) => Promise<SunMap | null>,
    private readonly geometry: () => object | null,
  ) {}

  private traced(doc: SceneDocument): Traced | undefined {
    const { sun, air } = keysOf(doc);
    const same = this.kept.filter((k) => k.geometry === this.geometry() && k.sun === sun);
    return same.find((k) => k.air === air) ?? same[0];
  }

  /** The map of where a document's sun comes, perhaps of other air; null where there is none to have, undefined before it is traced. */
  find(doc: SceneDocument): SunMap | null | undefined {
    return sunMapped(doc) ? this.traced(doc)?.map : null;
  }

  /** Whether a document's map is there, of its own air. */
  has(doc: SceneDocument): boolean {
    return !sunMapped(doc) || this.traced(doc)?.air === keysOf(doc).air;
  }

  /** Has a document's map traced, and then tells; never where a later question came before its turn. */
  ask(doc: SceneDocument, then: Then): void {
    this.wanted = { doc, then };
    void this.work();
  }

  private async work(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    while (this.wanted) {
      const { doc, then } = this.wanted;
      this.wanted = null;
      const geometry = this.geometry();
      if (!geometry) continue;
      // a map that cannot be had is none: what needs it goes without
      const map = await this.trace(doc).catch(() => null);
      this.kept = [{ geometry, ...keysOf(doc), map }, ...this.kept].slice(0, KEPT);
      then(doc, map);
    }
    this.busy = false;
  }
}
