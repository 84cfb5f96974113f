/** How long writing a frame's passes takes, and how large the files are, by how they are packed. Ratios to ZIP within one run. */
import { performance } from "node:perf_hooks";
import { readModel } from "#core/formats/gltf";
import { PASS_NAMES } from "#core/film/passes";
import { COMPRESSIONS, type Compression } from "#core/formats/depths";
import { FrameRenderer } from "#finals/frame";
import { filesOf, PLAIN_WISH } from "#finals/file";
import { buildPalmHouse, palmHouseDocument } from "../../demo/palm-house";

const ROUNDS = 3;
const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

export async function benchFiles(): Promise<void> {
  const { mesh } = await readModel(await buildPalmHouse().glb("palm house"));
  const plain = palmHouseDocument();
  const film = { ...plain.film, size: [960, 540] as [number, number], lightGroups: true, mattes: true };
  const document = { ...plain, film, render: { ...plain.render, samples: 2 } };
  const frames = await FrameRenderer.create("build");
  const done = await frames.render(
    { document, passes: PASS_NAMES, strengths: null },
    { resources: async () => Promise.resolve({ models: new Map([["palm-house", mesh]]) }), checkpoint: null },
  );
  frames.dispose();
  for (const depth of ["half", "float"] as const) {
    const seconds: Record<string, number[]> = {},
      bytes: Record<string, number> = {};
    for (let round = 0; round < ROUNDS; round++)
      for (const compression of COMPRESSIONS) {
        const began = performance.now();
        const [file] = await filesOf(
          done.film,
          PASS_NAMES,
          document,
          done.facts,
          { ...PLAIN_WISH, ending: ".exr", depth, compression },
          null,
        );
        (seconds[compression] ??= []).push((performance.now() - began) / 1000);
        bytes[compression] = file.bytes.length;
      }
    const zip = middle(seconds.zip!);
    console.log(
      `\n960 × 540, all passes, light groups and mattes, ${depth}: ZIP takes ${zip.toFixed(2)} s and ${(bytes.zip! / 1e6).toFixed(1)} MB`,
    );
    for (const compression of COMPRESSIONS.filter((c: Compression) => c !== "zip"))
      console.log(
        `${compression.padEnd(5)} ×${(middle(seconds[compression]!) / zip).toFixed(2)} of the time, ×${(bytes[compression]! / bytes.zip!).toFixed(2)} of the bytes`,
      );
  }
}
