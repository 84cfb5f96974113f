/** What finishing a picture costs beside developing it plainly: exposure, white balance and sRGB by a table, a band at a time. */
import { develop, type Development } from "#core/film/develop";
import { EVEN } from "#core/document/balance";
import { HalfLight } from "#core/film/half-light";
import { emptyFilm, groupFloat, pixelFloats, type Film } from "#core/film/film";
import { NO_FINISH, encode, shoulder } from "#core/film/finish";
import { F_AIR, F_COUNT, F_SURFACES, G_AIR, G_SURFACES } from "#core/layout/layout";
import { whiteBalanceMatrix } from "#core/optics/colour";
import { whiteAt } from "#core/optics/exposure";

const [WIDTH, HEIGHT] = [1280, 720];
/** Light groups that are kept apart. */
const LAMPS = 6;
const DEVELOPMENT = { exposure: 10, whiteBalance: 5200 };

function least(times: number, work: () => void): number {
  let best = Infinity;
  for (let i = 0; i < times; i++) {
    const t = performance.now();
    work();
    best = Math.min(best, performance.now() - t);
  }
  return best;
}

export function benchFinish(): void {
  const extras = { lights: ["lamp", ...Array.from({ length: LAMPS - 1 }, (_, i) => `lamp ${i}`)], mattes: null };
  const stride = pixelFloats(extras);
  const film: Film = { ...emptyFilm(1, 1), ...extras, stride, width: WIDTH, height: HEIGHT, crop: [0, 0, WIDTH, HEIGHT], data: new Float32Array(WIDTH * HEIGHT * stride) }; // prettier-ignore
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const p = i * film.stride;
    // light that changes slowly over the picture, with grain: what decides in a loop decides as in a picture, not as in noise
    const [x, y] = [(i % WIDTH) / WIDTH, i / WIDTH / HEIGHT];
    const grain = 0.95 + 0.1 * ((i * 0.618) % 1);
    for (let k = 0; k < 3; k++) {
      film.data[p + F_AIR + k] = grain * 4 * 1200 * (0.5 + 0.4 * Math.sin(5 * x + k)) * (1 - 0.7 * y);
      film.data[p + F_SURFACES + k] = grain * 4 * 900 * (0.5 + 0.5 * Math.sin(11 * y - 0.4 * k)) * x;
    }
    film.data[p + F_COUNT] = 4;
    for (let k = 0; k < 3; k++) {
      film.data[p + groupFloat(film, 0) + G_AIR + k] = film.data[p + F_AIR + k]!;
      film.data[p + groupFloat(film, 1) + G_SURFACES + k] = film.data[p + F_SURFACES + k]!;
    }
  }
  const out = new Uint8ClampedArray(4 * WIDTH * HEIGHT);
  const table = Float32Array.from({ length: 8193 }, (_, i) => 255 * encode(shoulder(i < 8192 ? i / (8192 - i) : 1e9)));
  const m = whiteBalanceMatrix(DEVELOPMENT.whiteBalance).map((v) => v / whiteAt(DEVELOPMENT.exposure));
  const plain = least(8, () => {
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const p = i * film.stride;
      const r = (film.data[p + F_AIR]! + film.data[p + F_SURFACES]!) / 4,
        g = (film.data[p + F_AIR + 1]! + film.data[p + F_SURFACES + 1]!) / 4,
        b = (film.data[p + F_AIR + 2]! + film.data[p + F_SURFACES + 2]!) / 4;
      for (let k = 0; k < 3; k++) {
        const x = m[3 * k]! * r + m[3 * k + 1]! * g + m[3 * k + 2]! * b;
        out[4 * i + k] = x > 0 ? table[(8192 * (x / (1 + x)) + 0.5) | 0]! : 0;
      }
    }
  });
  const developments: Development[] = [
    DEVELOPMENT,
    {
      ...DEVELOPMENT,
      finish: {
        ...NO_FINISH,
        contrast: 1.3,
        saturation: 0.9,
        rollOff: 0.8,
        black: 0.02,
        curves: { ...NO_FINISH.curves, all: [[0, 0], [0.5, 0.55], [1, 1]] as [number, number][], blue: [[0, 0.04], [1, 0.97]] as [number, number][] }, // prettier-ignore
      },
    },
    { ...DEVELOPMENT, finish: { ...NO_FINISH, glare: { ...NO_FINISH.glare, halo: 0.2 } } },
    { ...DEVELOPMENT, finish: { ...NO_FINISH, glare: { ...NO_FINISH.glare, halo: 0.2, starburst: 0.1 } } },
    { ...DEVELOPMENT, balance: { lamp: { ...EVEN, air: { stops: 1, colour: [1, 0.9, 0.8] as [number, number, number] } } } },
  ];
  const [, finished, , rayed] = developments as [Development, Development, Development, Development];
  const [first, all, halo, rays, balanced] = developments.map((development) => least(8, () => develop(film, "beauty", development, out)));
  console.log(`developing ${WIDTH} × ${HEIGHT} plainly, a band at a time: ${plain.toFixed(0)} ms`);
  console.log(`as the bench does at first: ${first!.toFixed(0)} ms, ×${(first! / plain).toFixed(2)}`);
  console.log(`with all of the finish: ${all!.toFixed(0)} ms, ×${(all! / plain).toFixed(2)} (the aim is ×4)`);
  console.log(
    `with a halo: ${halo!.toFixed(0)} ms, ×${(halo! / plain).toFixed(2)}; with six rays too: ${rays!.toFixed(0)} ms, ×${(rays! / plain).toFixed(2)}`,
  );
  // the first answer of a drag reads the light, those after it keep it
  const drag = new HalfLight();
  let mark = 0;
  const begun = least(8, () => void drag.develop(film, "beauty", finished, `${mark++}`));
  const halves = [finished, rayed].map((development) => least(8, () => void drag.develop(film, "beauty", development, "one")));
  const raying = least(8, () => {
    const width = 0.1 + 0.001 * mark++;
    drag.develop(
      film,
      "beauty",
      { ...rayed, finish: { ...NO_FINISH, glare: { ...NO_FINISH.glare, halo: 0.2, starburst: 0.1, width } } },
      "one",
    );
  });
  const times = (ms: number): string => `${ms.toFixed(0)} ms, ×${(ms / plain).toFixed(2)}`;
  console.log(`while it is dragged, half the pixels each way: at first ${times(begun)}, then ${times(halves[0]!)}`);
  console.log(`with rays ${times(halves[1]!)}; while the width of halo and rays is dragged ${times(raying)}`);
  console.log(`with ${LAMPS} light groups balanced: ${balanced!.toFixed(0)} ms, ×${(balanced! / plain).toFixed(2)}`);
}
