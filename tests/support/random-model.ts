/** A random document with a model whose triangles stand in many places: any size, turned, sheared, mirrored, flattened; of any surface. */
import { materialSchema, type SceneDocumentInput } from "#core/document/schema";
import type { Affine } from "#core/math/affine";
import { MIN_SPARED } from "#core/data/sharing";
import type { Mesh, SurfaceMaterial } from "#core/data/geometry";
import { seeded } from "../bench/rays";

const COUNT = 50;

export function withRandomModel(doc: SceneDocumentInput, seed: number): { doc: SceneDocumentInput; models: Map<string, Mesh> } {
  const random = seeded(7 * seed + 1);
  const between = (a: number, b: number): number => a + (b - a) * random();
  const probability = (p: number): boolean => random() < p;
  const size = 10 ** between(-3, 3);
  const positions = new Float32Array(9 * COUNT),
    normals = new Float32Array(9 * COUNT);
  for (let i = 0; i < COUNT; i++) {
    const middle = [0, 1, 2].map(() => size * between(-1, 1));
    // some have no area
    const reach = probability(0.1) ? 0 : size * between(0.01, 1);
    for (let k = 0; k < 9; k++) {
      positions[9 * i + k] = middle[k % 3]! + reach * between(-1, 1);
      normals[9 * i + k] = probability(0.05) ? 0 : between(-1, 1);
    }
  }
  const use = { texture: 0, transform: [between(-3, 3), 0.2, 0, 0.1, between(-3, 3), 0.5] as const };
  const materials = Array.from({ length: 3 }, (): SurfaceMaterial => {
    const shines = probability(0.2);
    return {
      ...materialSchema.parse({
        baseColor: [random(), random(), random()],
        metallic: probability(0.3) ? 1 : 0,
        roughness: random(),
        emission: shines ? [10 ** between(-3, 7), 1, 0] : [0, 0, 0],
        transmission: probability(0.3) ? random() : 0,
        solid: probability(0.5),
        opacity: probability(0.3) ? random() : 1,
        diffuseTransmission: probability(0.3) ? random() : 0,
      }),
      alphaMode: (["opaque", "mask", "blend"] as const)[Math.floor(3 * random())]!,
      textures: {
        ...(probability(0.5) ? { base: use } : {}),
        ...(probability(0.5) ? { normal: use } : {}),
        ...(shines && probability(0.5) ? { emission: use } : {}),
      },
    };
  });
  const reach = 10 ** between(-1, 3);
  const places = Array.from({ length: Math.ceil(MIN_SPARED / COUNT) + 1 }, (): Affine => {
    const k = (reach / size) * 10 ** between(-3, 0.5);
    const m = Array.from({ length: 12 }, (_, i) => (i % 4 === 3 ? reach * between(-1, 1) : k * between(-1, 1))) as Affine;
    if (probability(0.02)) for (const i of [0, 4, 8]) m[i] = 0;
    return m;
  });
  const mesh: Mesh = {
    positions,
    normals,
    uvs: Float32Array.from({ length: 6 * COUNT }, () => between(-2, 2)),
    material: Int32Array.from({ length: COUNT }, () => Math.floor(3 * random())),
    materials,
    textures: [
      {
        width: 4,
        height: 4,
        rgba: Uint8Array.from({ length: 64 }, () => 255 * random()),
        srgb: true,
        wrap: [0, 1],
        nearest: probability(0.5),
      },
    ],
    parts: places.map((matrix) => ({ path: "many", first: 0, count: COUNT, pivot: [0, 0, 0] as const, matrix })),
  };
  const object = {
    kind: "model" as const,
    name: "many copies",
    asset: "many",
    position: [0, 1, 2].map(() => between(-5, 5)) as [number, number, number],
    rotation: [0, 1, 2].map(() => between(-180, 180)) as [number, number, number],
    scale: 10 ** between(-2, 2),
  };
  return {
    doc: { ...doc, assets: { ...doc.assets, many: { uri: "many.glb" } }, objects: [...(doc.objects ?? []), object] },
    models: new Map([["many", mesh]]),
  };
}
