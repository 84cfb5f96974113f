/** Grids for random documents: odd files, placed oddly, by frames, under curves, with tints and heat. Seeded. */
import type { Affine } from "#core/math/affine";
import type { SceneDocumentInput } from "#core/document/schema";
import { VolumeBuilder, type Volume } from "#core/data/volume";

function dice(seed: number): () => number {
  let state = (seed * 48271) % 2147483647 || 1;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** Channels of one file. @param kind what its values are like */
function file(next: () => number, kind: number): Record<string, Volume> {
  const voxel = [0.02, 0.3, 40][Math.floor(next() * 3)]!;
  const place: Affine = [voxel, 0, kind === 2 ? voxel / 3 : 0, next(), 0, voxel * (0.3 + next()), 0, next(), 0, 0, voxel, -next()];
  const channel = (value: (n: number) => number, background = 0): Volume => {
    const b = new VolumeBuilder(background);
    for (let n = 0; n < 160; n++)
      b.set(Math.floor(next() * 22) - 9, Math.floor(next() * 13) - 4, Math.floor(next() * 17) - 8, Math.fround(value(n)));
    return b.build(place);
  };
  const odd = [() => next(), () => 1e9 * (next() - 0.5), () => -next(), () => 1e-30 * next()][kind % 4]!;
  return {
    density: channel(odd, kind === 3 ? 0.5 : 0),
    temperature: channel(() => 1e5 * (next() - 0.3)),
    "colour.x": channel(() => 3 * next() - 1, 1),
    "colour.y": channel(() => next()),
    "colour.z": channel(() => 0),
  };
}

/** A random document some of whose media are grids, and the files they name. */
export function withRandomGrids(
  doc: SceneDocumentInput,
  seed: number,
): { doc: SceneDocumentInput; volumes: Map<string, Record<string, Volume>> } {
  const next = dice(seed + 77);
  const probability = (p: number): boolean => next() < p;
  const volumes = new Map(["one", "two", "three"].map((name) => [name, file(next, Math.floor(next() * 5))]));
  const places = (): number[] =>
    [0, ...[next(), next(), next()].sort((a, b) => a - b), 1].filter((v, i, all) => i === 0 || v > all[i - 1]!);
  const grid = () => ({
    asset: "one",
    sequence: probability(0.5) ? { frames: ["one", "two", "three"], rate: 0.01 + 10 * next(), loop: probability(0.5), between: probability(0.7) } : null,
    position: [4 * next() - 2, 4 * next() - 2, 4 * next() - 2] as [number, number, number],
    rotation: [360 * next() - 180, 0, 360 * next() - 180] as [number, number, number],
    scale: probability(0.2) ? 1e-3 : 0.1 + next(),
    low: probability(0.3) ? -5 * next() : 0,
    high: probability(0.2) ? -10 : 0.1 + next(),
    curve: probability(0.5) ? places().map((at) => [at, probability(0.3) ? Math.round(next()) : next()] as [number, number]) : null,
    tint: probability(0.5)
      ? probability(0.5)
        ? { from: "ramp" as const, low: 1e4 * (next() - 0.5), high: 2e4, colours: places().map((at) => [at, [next(), Math.round(next()), next()]] as [number, [number, number, number]]) }
        : { from: "colours" as const }
      : null,
    temperature: probability(0.4) ? { scale: 10 * (next() - 0.3), offset: 500 * next(), strength: probability(0.1) ? 1e6 : next() } : null,
  }); // prettier-ignore
  const air = (doc.air ?? []).map((m, i) =>
    i === 0 || probability(0.5)
      ? { ...m, grid: grid(), ...(probability(0.5) ? { region: { kind: "everywhere" as const }, edge: 0 } : {}) }
      : m,
  );
  const assets = Object.fromEntries([...volumes.keys()].map((name) => [name, { uri: `${name}.vdb` }]));
  return { doc: { ...doc, assets: { ...doc.assets, ...assets }, time: 3 * next() - 1, air }, volumes };
}
