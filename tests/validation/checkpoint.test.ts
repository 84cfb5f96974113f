/** Films that are kept while they are rendered: what comes of an interrupted one is what an uninterrupted one has, bit for bit. */
import { copyFileSync, mkdtempSync, openSync, closeSync, ftruncateSync, readFileSync, rmSync, statSync, writeSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import type { SceneDocument } from "#core/document/schema";
import { Checkpoint } from "#finals/checkpoint";
import { Ended, FrameRenderer, type FrameWays } from "#finals/frame";
import type { PassName } from "#core/film/passes";
import { foggy } from "../support/foggy";

const folder = mkdtempSync(join(tmpdir(), "fumarium-checkpoint-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const passes: PassName[] = ["beauty", "clear"];
const none = { models: new Map(), pictures: new Map(), profiles: new Map(), volumes: new Map() };
const ways = (path: string | null, every = 0.05): FrameWays => ({
  resources: async () => Promise.resolve(none as never),
  checkpoint: path === null ? null : { path, every },
});

async function renderer<T>(threads: number, work: (r: FrameRenderer) => Promise<T>): Promise<T> {
  const r = await FrameRenderer.create("build", threads);
  try {
    return await work(r);
  } finally {
    r.dispose();
  }
}
const whole = async (doc: SceneDocument, strengths: { fireflies: number; air: number; surfaces: number } | null = null) =>
  renderer(2, async (r) => {
    const { film, rays } = await r.render({ document: doc, passes, strengths }, ways(null));
    return { data: film.data.slice(), rays };
  });

/** Renders until some share is done, ends as if killed, and leaves the checkpoint as it was copied while it was written. */
async function interrupted(
  doc: SceneDocument,
  path: string,
  share: number,
  threads: number,
  strengths = null as Parameters<typeof whole>[1],
): Promise<void> {
  await renderer(threads, async (r) => {
    let copied = false;
    await expect(
      r.render(
        { document: doc, passes, strengths: strengths ?? null },
        {
          ...ways(path),
          grows: () => {
            const done = r.share();
            if (copied || done < share || done >= 1) return;
            copied = true;
            copyFileSync(path, `${path}.killed`);
            void r.end();
          },
        },
      ),
    ).rejects.toThrow(Ended);
    expect(copied).toBe(true);
  });
  copyFileSync(`${path}.killed`, path);
}

describe("a frame that was interrupted", () => {
  it.each([
    ["of all samples", foggy({}), null],
    ["that stops where noise is low", foggy({ samples: 24, noiseThreshold: 0.08, minSamples: 4, thresholdOf: "rendered" }), null],
    [
      "that stops where the cleaned picture's noise is low",
      foggy({ samples: 24, noiseThreshold: 0.02, minSamples: 4, thresholdOf: "cleaned" }),
      { fireflies: 1, air: 1, surfaces: 1 },
    ],
  ] as const)("%s ends bit for bit as one that was not, with another number of workers", async (words, doc, strengths) => {
    const path = join(folder, `${words.replaceAll(" ", "-")}.checkpoint`);
    const expected = await whole(doc, strengths);
    await interrupted(doc, path, 0.25, 2, strengths);
    // twice: what was gone on with can be interrupted itself
    await interrupted(doc, path, 0.6, 1, strengths);
    const result = await renderer(2, async (r) => {
      const done = await r.render({ document: doc, passes, strengths }, ways(path));
      const data = done.film.data.slice();
      await done.release(true);
      return { data, resumed: done.resumed };
    });
    expect(result.resumed).toBeGreaterThan(0.1);
    expect(Buffer.from(result.data.buffer).equals(Buffer.from(expected.data.buffer))).toBe(true);
    expect(() => statSync(path)).toThrow();
  });

  it("goes on where it was held, from what hold() kept", async () => {
    const doc = foggy({ samples: 16 });
    const path = join(folder, "held.checkpoint");
    const expected = await whole(doc);
    await renderer(2, async (r) => {
      let held: Promise<void> | null = null;
      const run = r.render(
        { document: doc, passes, strengths: null },
        { ...ways(path, 1e6), grows: () => void (held ??= r.share() > 0.3 ? r.hold().then(async () => r.end()) : null) },
      );
      await expect(run).rejects.toThrow(Ended);
      await Promise.resolve(held);
    });
    const done = await renderer(2, async (r) => {
      const { film, resumed, release } = await r.render({ document: doc, passes, strengths: null }, ways(path));
      await release(false);
      return { data: film.data.slice(), resumed };
    });
    expect(done.resumed).toBeGreaterThan(0.2);
    expect(Buffer.from(done.data.buffer).equals(Buffer.from(expected.data.buffer))).toBe(true);
  });

  it("of another document, another size or another pass begins anew", async () => {
    const path = join(folder, "other.checkpoint");
    await interrupted(foggy({}), path, 0.3, 2);
    for (const other of [foggy({ seed: 6 }), foggy({}, { size: [90, 60] })]) {
      copyFileSync(`${path}.killed`, path);
      const { resumed } = await renderer(2, async (r) => {
        const done = await r.render({ document: other, passes, strengths: null }, ways(path));
        await done.release(false);
        return done;
      });
      expect(resumed).toBe(0);
    }
  });
});

describe("a checkpoint", () => {
  it("whose slots are torn or cut off has those before them, or nothing, and never a mixture", async () => {
    const doc = foggy({});
    const path = join(folder, "torn.checkpoint");
    const expected = await whole(doc);
    await interrupted(doc, path, 0.5, 2);
    const { size } = statSync(path);
    const before = readFileSync(path);
    for (const harm of ["scattered bytes", "cut in half", "nothing but its head"] as const) {
      copyFileSync(`${path}.killed`, path);
      const file = openSync(path, "r+");
      if (harm === "scattered bytes")
        for (let at = 5000; at < size; at += 97_003) writeSync(file, Buffer.from([(before[at] ?? 0) ^ 255]), 0, 1, at);
      else ftruncateSync(file, harm === "cut in half" ? size >> 1 : 4096);
      closeSync(file);
      const data = await renderer(2, async (r) => {
        const { film, release } = await r.render({ document: doc, passes, strengths: null }, ways(path));
        await release(false);
        return film.data.slice();
      });
      expect(Buffer.from(data.buffer).equals(Buffer.from(expected.data.buffer)), harm).toBe(true);
    }
  });

  it("of another kind of file is begun anew, and says nothing was kept", async () => {
    const path = join(folder, "strange.checkpoint");
    const file = openSync(path, "w");
    writeSync(file, Buffer.alloc(10_000, 7));
    closeSync(file);
    const { checkpoint, kept } = await Checkpoint.open(path, { key: "k", width: 40, height: 40, stride: 8, crop: [0, 0, 40, 40] });
    expect(kept).toBeNull();
    await checkpoint.close();
  });
});
