/** A puff of smoke off the melt of the foundry, as OpenVDB files by frame: our own, by a small fluid (kit/smoke.ts). */
import { writeVdb } from "#core/formats/vdb";
import { VolumeBuilder, type Volume } from "#core/data/volume";
import { Smoke } from "./kit/smoke";

/** Edge of a cell, m. */
const CELL = 0.1;
const SIZE = [36, 60, 36] as const;
export const PUFF_RATE = 6;
const FRAMES = 12;
/** Kelvin of the source. */
export const PUFF_HEAT = 1500;
const AIR = 300;
const STEPS = 4;

export const puffName = (frame: number): string => `puff-${String(frame + 1).padStart(2, "0")}.vdb`;
export const PUFF_NAMES: readonly string[] = Array.from({ length: FRAMES }, (_, i) => puffName(i));

/** A field as a sparse grid: x and z about the source, y from it. Voxels of clear air are left out; values in steps that pack well. */
function sparse(smoke: Smoke, value: (i: number) => number, step: number): Volume {
  const out = new VolumeBuilder(0);
  const [nx, ny, nz] = smoke.size;
  for (let z = 0, i = 0; z < nz; z++)
    for (let y = 0; y < ny; y++)
      for (let x = 0; x < nx; x++, i++) if (smoke.density[i]! > 0.004) out.set(x, y, z, Math.round(value(i) / step) * step);
  return out.build([CELL, 0, 0, (-CELL * nx) / 2, 0, CELL, 0, -4 * CELL, 0, 0, CELL, (-CELL * nz) / 2]);
}

/** The frames' files by name. */
export function buildPuff(): Record<string, Uint8Array> {
  const smoke = new Smoke(SIZE, { at: [SIZE[0] / 2, 5, SIZE[2] / 2], radius: 6.5, until: 1.9, speed: 18 });
  const dt = 1 / PUFF_RATE / STEPS;
  // until it has risen from the ladle
  for (let i = 0; i < 22; i++) smoke.step(dt);
  return Object.fromEntries(
    PUFF_NAMES.map((name) => {
      for (let i = 0; i < STEPS; i++) smoke.step(dt);
      const bytes = writeVdb({
        density: sparse(smoke, (i) => smoke.density[i]!, 1 / 512),
        temperature: sparse(smoke, (i) => AIR + (PUFF_HEAT - AIR) * smoke.heat[i]!, 2),
      });
      return [name, bytes];
    }),
  );
}
