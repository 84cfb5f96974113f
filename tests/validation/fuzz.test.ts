import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import type { SceneDocumentInput } from "#core/document/schema";
import type { Resources } from "#core/scene/compiled";
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import { randomDocument } from "../support/random-document";
import { withRandomGrids } from "../support/random-grids";
import { withRandomModel } from "../support/random-model";
import { render } from "../support/kernel";

/** Documents tried; FUMARIUM_FUZZ asks for more. */
const COUNT = Number(process.env.FUMARIUM_FUZZ ?? 120);

/** Renders documents of seeds 1 … count. @returns how many were valid; fails at a number that is not finite, saying whose */
async function renderAll(count: number, make: (seed: number) => { doc: SceneDocumentInput } & Partial<Resources>): Promise<number> {
  let rendered = 0;
  for (let seed = 1; seed <= count; seed++) {
    const { doc, ...resources } = make(seed);
    const { fumarium: _, ...input } = doc;
    let film;
    try {
      parseDocument(doc);
      // render() itself fails where the kernel had to drop a sample
      film = await render(input, 2, PASS_AIR | PASS_SURFACES | PASS_CLEAR, 0, resources);
    } catch (error) {
      if (error instanceof InputError) continue;
      throw new Error(`document of seed ${seed}: ${(error as Error).message}`, { cause: error });
    }
    rendered++;
    for (const v of film.data) if (!Number.isFinite(v)) throw new Error(`document of seed ${seed}: the film holds ${v}`);
  }
  return rendered;
}

describe("random valid documents", () => {
  it(
    `${COUNT} of them render without a number that is not finite in any sum of any pixel`,
    async () => {
      expect(await renderAll(COUNT, (seed) => ({ doc: randomDocument(seed) }))).toBeGreaterThan(0.9 * COUNT);
    },
    120_000 + 1500 * COUNT,
  );

  const GRIDS = Math.ceil(COUNT / 4);
  it(
    `${GRIDS} more whose media are grids, by frames, bent, tinted and hot, do the same`,
    async () => {
      expect(await renderAll(GRIDS, (seed) => withRandomGrids(randomDocument(100_000 + seed), seed))).toBeGreaterThan(0.8 * GRIDS);
    },
    120_000 + 3000 * GRIDS,
  );

  const MODELS = Math.ceil(COUNT / 10);
  it(
    `${MODELS} more with triangles of all surfaces in hundreds of places, turned, sheared, mirrored and flattened, do the same`,
    async () => {
      expect(await renderAll(MODELS, (seed) => withRandomModel(randomDocument(200_000 + seed), seed))).toBeGreaterThan(0.8 * MODELS);
    },
    120_000 + 3000 * MODELS,
  );
});
