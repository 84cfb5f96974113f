/**
 * How far pictures of few samples, as rendered and as cleaned, are from the truth: root mean square of display values (0 to 255)
 * after exposure and tone curve. The truth is known by two halves of a reference of many samples, each with random numbers of
 * its own: the mean of (picture − half)·(picture − other half) is free of the reference's own noise, which would otherwise count
 * as an error of the picture. References are rendered once and kept in var/references, out of the repository.
 */
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { encode, shoulder } from "#core/film/finish";
import { cleanedValues } from "#core/film/cleaned";
import { copyFilm, passValues, type Film } from "#core/film/film";
import type { PassName } from "#core/film/passes";
import { readExr } from "#core/formats/exr-read";
import { filmToExr } from "#core/formats/film-exr";
import { filmFromExr } from "#core/formats/picture";
import { compileScene } from "#core/scene/compile";
import type { SceneDocument } from "#core/document/schema";
import { luminance, whiteBalanceMatrix } from "#core/optics/colour";
import { whiteAt } from "#core/optics/exposure";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { DEMO_SETS } from "../../demo/index";
import { demoResources } from "./profile";

export const [WIDTH, HEIGHT] = [320, 180];
const COUNTS = [1, 4, 16] as const;
/** Samples up to which the bench shows the quick filter. */
const QUICK = 2;
const FULL = { fireflies: 1, air: 1, surfaces: 1 };
const LIGHT = ["beauty", "air", "surfaces"] as const satisfies PassName[];
const FOLDER = "var/references";

/** Samples of one file of a reference: what is lost when the command is stopped. */
const PART = 256;

/** A picture of the samples from `first` to before `end` of each pixel. */
export type Render = (document: SceneDocument, first: number, end: number) => Promise<Film>;

/**
 * Display values (0 to 255) of a pass, three a pixel, not rounded: exposure, white balance, a shoulder for each band. Measured so whatever
 * the bench's finish does by now, so that figures of different versions compare.
 */
export function shown(film: Film, pass: (typeof LIGHT)[number], { film: { exposure, whiteBalance } }: SceneDocument): Float32Array {
  const values = (film.cleaned && cleanedValues(film, pass)) ?? passValues(film, pass);
  const m = whiteBalanceMatrix(whiteBalance).map((v) => v / whiteAt(exposure));
  return values.map((_, i) => {
    const [k, from] = [i % 3, i - (i % 3)];
    const x = m[3 * k]! * values[from]! + m[3 * k + 1]! * values[from + 1]! + m[3 * k + 2]! * values[from + 2]!;
    return 255 * encode(shoulder(Math.max(0, x)));
  });
}

/** Root of the mean squared error against what both halves of a reference are noisy pictures of; below nought by chance, it is nought. */
export function errorOf(shown: Float32Array, [a, b]: readonly [Float32Array, Float32Array]): number {
  return Math.sqrt(Math.max(0, shown.reduce((sum, v, i) => sum + (v - a[i]!) * (v - b[i]!), 0) / shown.length));
}

/** Mean luminance of three numbers a pixel. */
function meanLuminance(v: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < v.length; i += 3) sum += luminance(v[i]!, v[i + 1]!, v[i + 2]!);
  return (3 * sum) / v.length;
}

const lightOf = (halves: readonly Film[]): number =>
  halves.reduce((sum, half) => sum + meanLuminance(passValues(half, "beauty")) / halves.length, 0);

/**
 * A reference of other random numbers than what is compared with it, as two films of half of its samples each. Its parts lie
 * in files of their own; those that are not there yet are rendered.
 */
export async function reference(set: string, doc: SceneDocument, samples: number, render: Render, part = PART): Promise<[Film, Film]> {
  mkdirSync(FOLDER, { recursive: true });
  const halves: (Film | null)[] = [null, null];
  for (let first = 0; first < samples; first += part) {
    const end = Math.min(samples, first + part);
    const file = join(FOLDER, `${set}-${WIDTH}x${HEIGHT}-${first}-${end}.exr`);
    if (!existsSync(file)) {
      const film = await render({ ...doc, render: { ...doc.render, seed: 1_000_003 } }, first, end);
      writeFileSync(file, filmToExr(film, [...LIGHT], "float", doc, {}));
    }
    const read = filmFromExr(readExr(new Uint8Array(readFileSync(file)), file));
    // films are sums: those of two ranges of samples add up to the film of both
    const which = (first / part) % 2;
    halves[which]?.data.forEach((v, i, d) => (d[i] = v + read.data[i]!));
    halves[which] ??= read;
  }
  const [a, b] = halves;
  if (!a || !b) throw new Error(`a reference needs two parts, so more than ${part} samples`);
  // of the numbers alone: what a file says of itself changes with the version
  const hash = createHash("sha256");
  for (const half of [a, b]) for (const pass of LIGHT) hash.update(shown(half, pass, doc));
  console.log(`${set}: reference of ${samples} samples, ${hash.digest("hex").slice(0, 16)}`);
  return [a, b];
}

/** @param sets those of the demo sets; all where none are named @param samples of the references */
export async function benchQuiet(sets: readonly string[], samples: number): Promise<void> {
  const engine = await RenderEngine.create(nodeHost("build", 2));
  const pool = new CleanPool(nodeCleanHost("build", 2));
  const render: Render = async (document, first, end) => {
    const stages = finalSchedule(first, end, MEDIUM_PASSES);
    return copyFilm((await engine.start({ document, width: WIDTH, height: HEIGHT, stages })).film);
  };
  try {
    for (const set of DEMO_SETS) {
      if (sets.length > 0 && !sets.includes(set.id)) continue;
      const doc = set.document();
      engine.setGeometry(compileScene(doc, await demoResources(set)));
      const truth = await reference(set.id, doc, samples, render);
      const expected = (pass: (typeof LIGHT)[number]): [Float32Array, Float32Array] => [
        shown(truth[0], pass, doc),
        shown(truth[1], pass, doc),
      ];
      for (const count of COUNTS) {
        const film = await render(doc, 0, count);
        const cleaned =
          count < QUICK ? await pool.live(film, "air", 1, FULL) : await pool.finish(film, { sides: ["air", "surfaces"], strengths: FULL });
        const errors = LIGHT.map((pass) => {
          const [before, after] = [film, { ...film, cleaned }].map((f) => errorOf(shown(f, pass, doc), expected(pass))) as [number, number];
          return `${pass} ${before.toFixed(1)} → ${after.toFixed(1)} (${(after / before).toFixed(2)})`;
        });
        const light = meanLuminance(cleanedValues({ ...film, cleaned }, "beauty")!) / lightOf(truth);
        console.log(
          `  ${count} sample${count > 1 ? "s" : ""}${count < QUICK ? ", quick" : ""}: ${errors.join(", ")}, mean light ${light.toFixed(3)}`,
        );
      }
    }
  } finally {
    pool.dispose();
    engine.dispose();
  }
}
