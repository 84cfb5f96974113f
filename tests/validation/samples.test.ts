/**
 * Sets by other makers: Debian's assimp-testmodels, which the test command installs. Each is brought in as an artist would, held against what another reader says of its size, and rendered small.
 */
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { describe, expect, it } from "vitest";
import { frameAround } from "#core/document/framing";
import { cameraSchema } from "#core/document/schema";
import { InputError } from "#core/errors";
import { importSet, type ImportedSet } from "#core/exchange/import/index";
import { passValues } from "#core/film/film";
import { readModel } from "#core/formats/gltf";
import type { Moment } from "#core/formats/gltf-pose";
import { decoders } from "../../src/cli/decoders";
import { render } from "../support/kernel";
import { boundsByOther } from "../support/other-reader";

const FOLDER = "/usr/share/assimp/models";
const there = existsSync(FOLDER);
const isModel = (path: string): boolean => /\.(glb|gltf|obj)$/i.test(path);

/** What cannot be read, and how that is said: broken on purpose, of an older format, or without triangles. */
const REFUSED: Record<string, RegExp> = {
  "glTF2/BoxTextured-glTF-techniqueWebGL/BoxTextured.gltf": /needs KHR_technique_webgl/,
  "glTF2/BoxWithInfinites-glTF-Binary/BoxWithInfinites.glb": /corner 0: position .* is not a number/,
  "glTF2/IncorrectVertexArrays/Cube.gltf": /bufferViews\[2\]: ends at byte 936 of a buffer of 514/,
  "glTF2/IndexOutOfRange/AllIndicesOutOfRange.gltf": /corner 65535 of 24/,
  "glTF2/IndexOutOfRange/IndexOutOfRange.gltf": /corner 255 of 24/,
  "glTF2/MissingBin/BoxTextured.gltf": /buffer 0 is in "BoxTextured0.bin"/,
  "glTF2/RecursiveNodes/RecursiveNodes.gltf": /nodes\[0\]: lies more than 200 nodes deep, or within itself/,
  "glTF2/SchemaFailures/sceneWrongType.gltf": /scene: "hello" is no place in scenes/,
  "glTF2/TestNoRootNode/NoScene.gltf": /scene: 0 is no place in scenes, which has 0/,
  "glTF2/TestNoRootNode/SceneWithoutNodes.gltf": /holds no triangles/,
  "glTF2/wrongTypes/badArray.gltf": /meshes\[0\].primitives: must be a list/,
  "glTF2/wrongTypes/badNumber.gltf": /materials\[0\].normalTexture.scale: must be a number/,
  "glTF2/wrongTypes/badObject.gltf": /materials\[0\].pbrMetallicRoughness: must be an object/,
  "glTF2/wrongTypes/badUint.gltf": /baseColorTexture.index: -1 is no place in textures/,
  ...Object.fromEntries(
    ["00", "01", "02", "03", "07", "08", "09", "10"].map((n) => [
      `glTF2/glTF-Asset-Generator/Mesh_PrimitiveMode/Mesh_PrimitiveMode_${n}.gltf`,
      /holds no triangles/,
    ]),
  ),
  "OBJ/number_formats.obj": /line 11: .* needs 3 numbers/,
  "OBJ/point_cloud.obj": /holds no faces/,
  "OBJ/testline.obj": /holds no faces/,
  "OBJ/testpoints.obj": /holds no faces/,
  "invalid/empty.obj": /holds no faces/,
  "invalid/malformed.obj": /line 23: there is no corner 12/,
  "invalid/malformed2.obj": /line 23: a face needs three corners/,
};
/** Files that the other reader does not open, or not without what it is not given here. */
const UNMEASURED = new Set([
  "glTF2/draco/2CylinderEngine.gltf",
  "glTF2/wrongTypes/badExtension.gltf",
  "glTF2/wrongTypes/badString.gltf",
  "glTF2/issue_3269/texcoord_crash.gltf",
  "OBJ/box_UTF16BE.obj",
  "OBJ/testmixed.obj",
]);

const files = !there
  ? []
  : ["glTF2", "OBJ", "invalid"].flatMap((f) =>
      readdirSync(join(FOLDER, f), { recursive: true, encoding: "utf8" }).map((name) => `${f}/${name}`).filter(isModel),
    ); // prettier-ignore

/** A model with what lies beside it. */
async function bring(file: string, moment: Moment | null = null): Promise<ImportedSet> {
  const chosen = new Map<string, Uint8Array>();
  const folder = dirname(file);
  for (const entry of readdirSync(folder, { recursive: true, encoding: "utf8", withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name);
    if (entry.isFile() && (path === file || !isModel(path))) chosen.set(relative(folder, path), readFileSync(path));
  }
  return importSet(chosen, { decoders, decode: (b) => new TextDecoder().decode(b), moment });
}

/** That it is seen: pixels that meet it, and nothing that is no number. */
async function expectSeen(set: ImportedSet): Promise<void> {
  const { mesh } = await readModel(set.model);
  const camera = frameAround(set.bounds, 1.5, cameraSchema.parse({}));
  const film = await render(
    { assets: { set: { uri: "set.glb" } }, objects: [{ kind: "model", asset: "set" }], camera, film: { size: [24, 16] } },
    2,
    undefined,
    0,
    { models: new Map([["set", mesh]]) },
  );
  const distances = passValues(film, "distance");
  expect(distances.filter((d) => d > 0 && Number.isFinite(d)).length).toBeGreaterThan(4);
}

describe.runIf(there)("sample files of other makers", () => {
  it("are all here", () => {
    expect(files.length).toBeGreaterThanOrEqual(70);
    for (const name of [...Object.keys(REFUSED), ...UNMEASURED]) expect(files).toContain(name);
  });

  it.each(files)("%s", async (name) => {
    const file = join(FOLDER, name);
    const refusal = REFUSED[name];
    if (refusal) {
      const error: unknown = await bring(file).catch((e: unknown) => e);
      expect(error).toBeInstanceOf(InputError);
      expect((error as Error).message).toMatch(refusal);
      return;
    }
    const set = await bring(file);
    const size = Math.max(...set.bounds.map(Math.abs));
    if (!UNMEASURED.has(name)) {
      const other = await boundsByOther(file);
      set.bounds.forEach((v, i) => expect(Math.abs(v - other[i]!)).toBeLessThan(1e-6 * size));
    }
    await expectSeen(set);
  });

  it.each([
    ["simple_skin/simple_skin.gltf", [0, 0.7, 2.3, 9]],
    ["glTF-Sample-Models/AnimatedMorphCube-glTF/AnimatedMorphCube.gltf", [0, 0.4, 1.1, 2.9, 4.1]],
  ])("%s stands as another player has it at moments of its animation", async (name, moments) => {
    const file = join(FOLDER, "glTF2", name);
    for (const time of moments) {
      const { bounds, animations } = await bring(file, { animation: 0, time });
      expect(animations.length).toBe(1);
      const other = await boundsByOther(file, time);
      // the file's rotations are written to three digits: made unit here, taken as they are there
      bounds.forEach((v, i) => expect(Math.abs(v - other[i]!)).toBeLessThan(2e-4));
    }
  });
});
