/**
 * Light of every second pixel of every second row, kept while exposure, white balance or finish are dragged, so that each answer only has to
 * be finished. What samples have brought meanwhile is read a band of rows at a time.
 */
import type { Glare } from "../document/finish";
import { frameOfFilm, type Film } from "./film";
import { dithered, exposedMatrix, glareIn, type Development } from "./develop";
import { glareOf } from "./glare";
import { finisherOf } from "./finish";
import { LightRows } from "./light";
import type { PassName } from "./passes";

/** Answers after which all rows have been read anew. */
const BANDS = 8;
/** Most rows of what rays are drawn on: wider ones than those of the picture at rest, in a fraction of the time. */
const RAY_ROWS = 120;
/** Rows between coarse samples at a run's beginning. */
const STRIDE = 8;

export class HalfLight {
  private of = "";
  private light = new Float32Array(0);
  private readonly halo = new Last();
  private readonly rays = new Last();
  private band = 0;

  /**
   * Develops a pass of light. Glare is that of the smaller picture; outside the crop nothing is developed.
   * @param mark the same as long as the film and what is cleaned of it stay, but for samples that are added to it
   * @returns RGBA bytes of half the crop's width and height, rounded up
   */
  develop(
    film: Film,
    pass: PassName,
    development: Development,
    mark: string,
  ): { pixels: Uint8ClampedArray<ArrayBuffer>; width: number; height: number } {
    const [x0, y0, x1, y1] = film.crop;
    const [width, height] = [(x1 - x0 + 1) >> 1, (y1 - y0 + 1) >> 1];
    const of = JSON.stringify([mark, pass, development.balance ?? null, film.crop]);
    if (of === this.of) this.read(film, pass, development, this.band, this.band + 1);
    else {
      this.light = new Float32Array(3 * width * height);
      this.read(film, pass, development, 0, BANDS);
      this.of = of;
      this.halo.forget();
      this.rays.forget();
    }
    this.band = (this.band + 1) % BANDS;
    const added = this.added(film, pass, development, width, height);
    const finisher = finisherOf(development.finish, development.lut);
    const m = exposedMatrix(development);
    const pixels = new Uint8ClampedArray(4 * width * height);
    const [wobbles, row] = [new Float32Array(width), new Float32Array(3 * width)];
    for (let y = 0; y < height; y++) {
      const from = 3 * width * y;
      row.set(this.light.subarray(from, from + row.length));
      for (const [share, values] of added) for (let i = 0; i < row.length; i++) row[i]! += share * values[from + i]!;
      dithered(wobbles, 0, y);
      finisher.putRow(row, m, wobbles, pixels, 4 * from / 3); // prettier-ignore
    }
    return { pixels, width, height };
  }

  /** Reads bands of rows, of which there are BANDS. */
  private read(film: Film, pass: PassName, { balance }: Development, first: number, last: number): void {
    const [x0, y0, x1, y1] = film.crop;
    const [width, height] = [(x1 - x0 + 1) >> 1, (y1 - y0 + 1) >> 1];
    const rows = new LightRows(film, pass, balance, STRIDE);
    const row = new Float32Array(3 * (x1 - x0));
    const end = Math.ceil((height * last) / BANDS);
    for (let y = Math.ceil((height * first) / BANDS); y < end; y++) {
      rows.row(y0 + 2 * y, row);
      for (let x = 0, to = 3 * width * y, p = 0; x < width; x++, to += 3, p += 6) {
        this.light[to] = row[p]!;
        this.light[to + 1] = row[p + 1]!;
        this.light[to + 2] = row[p + 2]!;
      }
    }
  }

  /** What glare adds of its two parts, of the light that was there when each was asked for first; both are as strong as they are given. */
  private added(film: Film, pass: PassName, development: Development, width: number, height: number): [number, Float32Array][] {
    const glare = glareIn(pass, development);
    if (!glare) return [];
    const threshold = glare.threshold === null ? null : [glare.threshold, development.exposure];
    const rows = frameOfFilm(film).height / 2;
    const of = (only: Partial<Glare>): Float32Array =>
      glareOf(this.light, width, height, { ...glare, halo: 0, starburst: 0, ...only }, rows, development.exposure, RAY_ROWS);
    const out: [number, Float32Array][] = [];
    if (glare.halo > 0) out.push([glare.halo, this.halo.of([glare.width, threshold], () => of({ halo: 1 }))]);
    if (glare.starburst > 0)
      out.push([glare.starburst, this.rays.of([glare.width, glare.blades, glare.turn, threshold], () => of({ starburst: 1 }))]);
    return out;
  }
}

/** The last of what is worked out, kept while what it depends on says the same. */
class Last {
  private key = "";
  private value: Float32Array = new Float32Array(0);

  of(dependsOn: unknown, work: () => Float32Array): Float32Array {
    const key = JSON.stringify(dependsOn);
    if (key !== this.key) {
      this.value = work();
      this.key = key;
    }
    return this.value;
  }
  forget(): void {
    this.key = "";
  }
}
