import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { validateBytes } from "gltf-validator";
import { DEMO_FOLDER, DEMO_INDEX, demoIndex } from "#api/demo-sets";
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
  const folder = join("build", DEMO_FOLDER);
  const sets = demoIndex.parse(JSON.parse(readFileSync(join(folder, DEMO_INDEX), "utf8")));
  const models = sets.flatMap(({ id, files, document }) =>
    files.filter((f) => f.kind === "model").map(({ name }) => ({ id, name, document })),
  );

  it("is in all demo sets", () => expect(models.length).toBeGreaterThanOrEqual(4));

  it.each(models)("the demo set $id, and its scene exported in not much more room", async ({ name, document }) => {
    const model = readFileSync(join(folder, name));
    expect(await errorsOf(model)).toEqual([]);
    const doc = parseDocument(document);
    const { bytes } = await exportGltf(doc, await loadModels(doc, { [name]: model }));
    expect(await errorsOf(bytes)).toEqual([]);
    // three times as much before corners that are alike were written once
    expect(bytes.length / model.length).toBeLessThan(1.25);
  });

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
