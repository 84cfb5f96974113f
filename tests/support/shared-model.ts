/** A made-up model of all kinds of surfaces, in many places: kept once, or written out at each. */
import { materialSchema } from "#core/document/schema";
import type { Affine } from "#core/math/affine";
import { emptyGeometry, placeMesh, type Mesh, type SurfaceMaterial } from "#core/data/geometry";
import { seeded } from "../bench/rays";

type V3 = [number, number, number];

/** A ball of smooth normals about the origin, its poles along z. */
function ball(radius: number, middle: V3, rows: number): { p: V3; n: V3; uv: [number, number] }[][] {
  const at = (i: number, j: number) => {
    const t = (Math.PI * i) / rows,
      f = (2 * Math.PI * j) / (2 * rows);
    const n: V3 = [Math.sin(t) * Math.cos(f), Math.sin(t) * Math.sin(f), Math.cos(t)];
    return { p: n.map((v, k) => v * radius + middle[k]!) as V3, n, uv: [j / rows, i / rows] as [number, number] };
  };
  const out: ReturnType<typeof at>[][] = [];
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < 2 * rows; j++) {
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      if (i > 0) out.push([a, b, d]);
      if (i < rows - 1) out.push([b, c, d]);
    }
  return out;
}

const noise = (random: () => number, bumps: boolean): Uint8Array =>
  Uint8Array.from({ length: 4 * 64 }, (_, i) =>
    bumps && i % 4 === 2 ? 230 : i % 4 === 3 ? (random() > 0.4 ? 255 : 0) : 60 + 140 * random(),
  );

/** Textured and bumpy, a tinted pane, cut out, solid glass, polished, and one that shines. */
function materials(): SurfaceMaterial[] {
  const of = (m: object): SurfaceMaterial => materialSchema.parse(m);
  const use = (texture: number) => ({ texture, transform: [1, 0, 0, 0, 1, 0] as const });
  return [
    { ...of({ roughness: 0.6 }), name: "bark", textures: { base: use(0), normal: use(1) } },
    { ...of({ transmission: 1, baseColor: [0.9, 0.5, 0.3], roughness: 0 }), name: "pane" },
    { ...of({ baseColor: [0.4, 0.7, 0.3], diffuseTransmission: 0.3 }), name: "leaf", alphaMode: "mask", textures: { base: use(0) } },
    { ...of({ transmission: 1, solid: true, attenuationColor: [0.5, 0.8, 0.9], attenuationDistance: 0.5, roughness: 0.3 }), name: "glass" },
    { ...of({ metallic: 1, roughness: 0.25, baseColor: [0.9, 0.8, 0.6] }), name: "brass" },
    { ...of({ emission: [300, 200, 90] }), name: "lamp" },
  ];
}

/** One copy, in its own frame: about two metres, 1,900 triangles. */
function copy(): Mesh {
  const balls: [number, V3, number, number][] = [
    [0.5, [0, 0, 0], 18, 0],
    [0.3, [0.8, 0.2, 0.3], 10, 1],
    [0.35, [-0.8, 0.1, 0.2], 12, 2],
    [0.3, [0.1, 0.8, -0.2], 12, 3],
    [0.25, [-0.2, -0.7, 0.3], 10, 4],
    [0.1, [0.5, 0.5, 0.5], 4, 5],
  ];
  const all = balls.flatMap(([radius, middle, rows, material]) => ball(radius, middle, rows).map((corners) => ({ corners, material })));
  const random = seeded(9);
  return {
    positions: new Float32Array(all.flatMap((t) => t.corners.flatMap((c) => c.p))),
    normals: new Float32Array(all.flatMap((t) => t.corners.flatMap((c) => c.n))),
    uvs: new Float32Array(all.flatMap((t) => t.corners.flatMap((c) => c.uv))),
    material: Int32Array.from(all, (t) => t.material),
    materials: materials(),
    textures: [false, true].map((bumps) => ({
      width: 8,
      height: 8,
      rgba: noise(random, bumps),
      srgb: !bumps,
      wrap: [0, 0],
      nearest: false,
    })),
  };
}

/** Places of a row of copies: turned, stretched, sheared, every third of them mirrored. */
export function manyPlaces(count: number): Affine[] {
  const random = seeded(5);
  return Array.from({ length: count }, (_, i) => {
    const linear = Array.from({ length: 9 }, (_v, k) => (k % 4 === 0 ? 0.8 : 0) + (random() - 0.5) * 0.7);
    if (i % 3 === 2) for (const k of [0, 3, 6]) linear[k]! *= -1;
    const [x, y, z] = [(i % 5) * 2.2 - 4.4, Math.floor(i / 5) * 2 - 2, random() - 0.5];
    return [linear[0]!, linear[1]!, linear[2]!, x, linear[3]!, linear[4]!, linear[5]!, y, linear[6]!, linear[7]!, linear[8]!, z];
  });
}

/** The model with its copies kept once; and the same written out. */
export function sharedModel(places: readonly Affine[]): { shared: Mesh; expanded: Mesh; one: number } {
  const mesh = copy();
  const one = mesh.material.length;
  const part = (i: number) => ({ path: `row/copy ${i + 1}`, pivot: [places[i]![3], places[i]![7], places[i]![11]] as V3 });
  const shared: Mesh = { ...mesh, parts: places.map((matrix, i) => ({ ...part(i), first: 0, count: one, matrix })) };
  const expanded = { ...emptyGeometry(one * places.length, [mesh]), materials: mesh.materials, textures: mesh.textures! };
  places.forEach((matrix, i) => placeMesh(mesh, 0, one, matrix, expanded, i * one, (m) => m, 0));
  return { shared, expanded: { ...expanded, parts: places.map((_, i) => ({ ...part(i), first: i * one, count: one })) }, one };
}
