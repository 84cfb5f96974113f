import { describe, expect, it } from "vitest";
import { validateBytes } from "gltf-validator";
import { DEMO_SETS } from "#demo/index";
import { parseDocument } from "#core/document/parse";
import { exportGltf } from "#core/exchange/gltf-export";
import { loadModels } from "../support/models";
import { manyPlaces, sharedModel } from "../support/shared-model";

/** Errors that the validator of the format's makers finds, each kind once. */
async function errorsOf(bytes: Uint8Array): Promise<string[]> {
  const { issues } = await validateBytes(bytes, { maxIssues: 1000 });
  return [...new Set(issues.messages.filter(({ severity }) => severity === 0).map(({ code, message }) => `${code}: ${message}`))];
}

describe("glTF that is written, by the validator of the format's makers", () => {
  it.each(DEMO_SETS.map((set) => [set.id, set] as const))(
    "the demo set %s, and its scene exported in not much more room",
    async (_, set) => {
      const files = await set.build();
      const model = Object.entries(files).find(([, f]) => f.kind === "model")!;
      expect(await errorsOf(model[1].bytes)).toEqual([]);
      const doc = set.document();
      const { bytes } = await exportGltf(doc, await loadModels(doc, { [model[0]]: model[1].bytes }));
      expect(await errorsOf(bytes)).toEqual([]);
      // three times as much before corners that are alike were written once
      expect(bytes.length / model[1].bytes.length).toBeLessThan(1.25);
    },
  );

  it("a set of all kinds of surfaces in many places", async () => {
    const { shared } = sharedModel(manyPlaces(15));
    const corners = shared.positions.length / 3;
    const more = { ...shared, colours: Uint16Array.from({ length: 4 * corners }, (_, i) => (i * 2654435761) & 65535), uvsSecond: shared.uvs!.slice() }; // prettier-ignore
    more.materials = more.materials.map((m) =>
      m.textures?.base
        ? {
            ...m,
            specularColor: [1, 0.5, 0.2],
            diffuseTransmission: 0.2,
            textures: { ...m.textures, base: { ...m.textures.base, set: 1 } },
          }
        : m,
    );
    const doc = parseDocument({ fumarium: 2, assets: { row: { uri: "row.glb" } }, objects: [{ kind: "model", asset: "row" }], lights: [{ kind: "spot", position: [0, 5, 0], target: [0, 0, 0], cone: 178 }] }); // prettier-ignore
    const { bytes } = await exportGltf(doc, new Map([["row", more]]));
    expect(await errorsOf(bytes)).toEqual([]);
  });
});
