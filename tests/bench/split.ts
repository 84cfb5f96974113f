/**
 * What sampling the air at half or quarter size saves (of processor time), and what joining it to surfaces of full size costs. Errors are of display values,
 * 0 to 255, against references of other random numbers (see quiet.ts). The error of the join alone is what two pictures of other samples have in
 * common against them: their noise falls out.
 */
import { AIR_EVERY } from "#core/document/air-size";
import { copyFilm, type Film } from "#core/film/film";
import { compileScene } from "#core/scene/compile";
import type { AirSize } from "#core/document/kinds";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { DEMO_SETS } from "../../demo/index";
import { demoResources } from "./profile";
import { errorOf, HEIGHT, reference, shown, WIDTH } from "./quiet";

const SIZES: readonly AirSize[] = ["full", "half", "quarter"];
/** Samples of the pictures that are timed, and of each of the two whose common error is told. */
const SAMPLES = 16;
const MORE = 16;
const FULL = { fireflies: 1, air: 1, surfaces: 1 };
/** Pixels of a side of the blocks of which the worst is told. */
const BLOCK = 8;

/** Root of the mean of products of two pictures' errors, and the largest of the blocks. */
function common(a: Float32Array, b: Float32Array, [x, y]: readonly [Float32Array, Float32Array]): { rms: number; worst: number } {
  const columns = WIDTH / BLOCK;
  const blocks = new Float64Array(columns * Math.ceil(HEIGHT / BLOCK));
  let sum = 0;
  a.forEach((v, i) => {
    const product = (v - x[i]!) * (b[i]! - y[i]!);
    sum += product;
    const pixel = Math.floor(i / 3);
    blocks[Math.floor(Math.floor(pixel / WIDTH) / BLOCK) * columns + Math.floor((pixel % WIDTH) / BLOCK)]! += product;
  });
  return { rms: Math.sqrt(Math.max(0, sum / a.length)), worst: Math.sqrt(Math.max(0, ...blocks) / (3 * BLOCK * BLOCK)) };
}

/** @param sets those of the demo sets; all where none are named @param samples of the references */
export async function benchSplit(sets: readonly string[], samples: number): Promise<void> {
  const engine = await RenderEngine.create(nodeHost("build", 2));
  const pool = new CleanPool(nodeCleanHost("build", 2));
  try {
    for (const set of DEMO_SETS) {
      if (sets.length > 0 && !sets.includes(set.id)) continue;
      const document = set.document();
      engine.setGeometry(compileScene(document, await demoResources(set)));
      const render = async (first: number, end: number, size: AirSize, doc = document): Promise<{ film: Film; seconds: number }> => {
        const stages = finalSchedule(first, end, MEDIUM_PASSES, AIR_EVERY[size]);
        const before = process.cpuUsage();
        const { film } = await engine.start({
          document: { ...doc, render: { ...doc.render, airSize: size } },
          width: WIDTH,
          height: HEIGHT,
          stages,
        });
        // of all threads: what else the machine does takes none of it
        const { user, system } = process.cpuUsage(before);
        return { film: copyFilm(film), seconds: (user + system) / 1e6 };
      };
      const truth = await reference(
        set.id,
        document,
        samples,
        async (doc, first, end) => (await render(first, end, "full", doc)).film,
        Math.ceil(samples / 2),
      );
      const expected: [Float32Array, Float32Array] = [shown(truth[0], "beauty", document), shown(truth[1], "beauty", document)];
      const whole = { seconds: 0, raw: 0, cleaned: 0 };
      await render(0, 2, "full");
      for (const size of SIZES) {
        const { film, seconds } = await render(0, SAMPLES, size);
        const cleaned = await pool.finish(film, { sides: ["air", "surfaces"], strengths: FULL });
        const [raw, clean] = [film, { ...film, cleaned }].map((f) => errorOf(shown(f, "beauty", document), expected)) as [number, number];
        if (size === "full") Object.assign(whole, { seconds, raw, cleaned: clean });
        const [a, b] = [await render(0, MORE, size), await render(MORE, 2 * MORE, size)];
        const { rms, worst } = common(shown(a.film, "beauty", document), shown(b.film, "beauty", document), expected);
        const ratio = (was: number, is: number): string => ((was / is) ** 2 * (whole.seconds / seconds)).toFixed(2);
        console.log(
          `  air ${size}: ${SAMPLES} samples take ×${(seconds / whole.seconds).toFixed(2)}, error ${raw.toFixed(1)}, cleaned ${clean.toFixed(1)}; ` +
            `to the same error ${ratio(whole.raw, raw)} times as fast, cleaned ${ratio(whole.cleaned, clean)}; error of the join ${rms.toFixed(2)}, worst block ${worst.toFixed(1)}`,
        );
      }
    }
  } finally {
    pool.dispose();
    engine.dispose();
  }
}
