import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/document/parse";
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/scene/layout";
import { randomDocument } from "../support/random-document";
import { withRandomGrids } from "../support/random-grids";
import { render } from "../support/kernel";

/** Documents tried; FUMARIUM_FUZZ asks for more. */
const COUNT = Number(process.env.FUMARIUM_FUZZ ?? 300);

describe("random valid documents", () => {
  it(
    `${COUNT} of them render without a number that is not finite in any sum of any pixel`,
    async () => {
      let rendered = 0;
      for (let seed = 1; seed <= COUNT; seed++) {
        const { fumarium: _, ...input } = randomDocument(seed);
        let film;
        try {
          parseDocument({ fumarium: 1, ...input });
          // render() itself fails where the kernel had to drop a sample
          film = await render(input, 2, PASS_AIR | PASS_SURFACES | PASS_CLEAR);
        } catch (error) {
          if (error instanceof InputError) continue;
          throw new Error(`document of seed ${seed}: ${(error as Error).message}`, { cause: error });
        }
        rendered++;
        for (const v of film.data) if (!Number.isFinite(v)) throw new Error(`document of seed ${seed}: the film holds ${v}`);
      }
      expect(rendered).toBeGreaterThan(0.9 * COUNT);
    },
    120_000 + 600 * COUNT,
  );

  const GRIDS = Math.ceil(COUNT / 4);
  it(
    `${GRIDS} more whose media are grids, by frames, bent, tinted and hot, do the same`,
    async () => {
      let rendered = 0;
      for (let seed = 1; seed <= GRIDS; seed++) {
        const { doc, volumes } = withRandomGrids(randomDocument(100_000 + seed), seed);
        const { fumarium: _, ...input } = doc;
        let film;
        try {
          parseDocument(doc);
          film = await render(input, 2, PASS_AIR | PASS_SURFACES | PASS_CLEAR, 0, { volumes });
        } catch (error) {
          if (error instanceof InputError) continue;
          throw new Error(`document of seed ${seed}: ${(error as Error).message}`, { cause: error });
        }
        rendered++;
        for (const v of film.data) if (!Number.isFinite(v)) throw new Error(`document of seed ${seed}: the film holds ${v}`);
      }
      expect(rendered).toBeGreaterThan(0.8 * GRIDS);
    },
    120_000 + 900 * GRIDS,
  );
});
