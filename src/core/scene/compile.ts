/**
 * Compiles a document and its models to the kernel's buffers. Geometry (slow, cached by what it
 * depends on) and parameters (instant) are separate, so that moving a light never rebuilds a BVH.
 */
import type { VolumeGrid } from "../document/air";
import type { SceneDocument } from "../document/schema";
import { InputError } from "../document/parse";
import { assemble, assembleObjects } from "./assemble";
import { buildBvh, joinTrees, type Bvh } from "./bvh";
import { checkClosed } from "./closed";
import { boundsOf, standing, unionOf, type Mesh, type SceneGeometry, type SurfaceMaterial, type Texture } from "./geometry";
import { NO_EXTRAS, pixelFloats, type FilmExtras } from "../film/film";
import { emissiveTriangles } from "./glow";
import { lightGroups } from "./groups";
import { buildTables, type SceneTables } from "./parameters";
import type { Picture } from "./pictures";
import { isFlat, normalCode } from "./normals";
import { placedBoxes, placeRecords } from "./places";
import { distanceVolume } from "./distance";
import { usedAssets } from "./uses";
import { gridFrames, gridKey } from "./sequence";
import { tintChannels } from "./tint";
import { blendVolumes } from "./blend";
import { packVolume, type Volume } from "./volume";
import * as L from "./layout";

export { assemble } from "./assemble";
export { cameraFrame, frameOf, rayThrough, sunAngles, sunDirection } from "./directions";
export { writeParameters } from "./parameters";

/** The part of a scene that is slow to make: triangles, BVH, and facts about them. */
export interface CompiledGeometry {
  bvh: Bvh;
  /** TRIANGLE_SIZE bytes a triangle. */
  triangles: ArrayBuffer;
  /** Triangles that are kept, and that are shown: those in several places are kept once. */
  triangleCount: number;
  shownTriangles: number;
  /** Places of shared triangles, PLACE_SIZE bytes each. */
  places: ArrayBuffer;
  materials: SurfaceMaterial[];
  /** 6 floats a triangle where anything is textured, and the textures. */
  uvs: Float32Array | null;
  textures: Texture[];
  /** minx, miny, minz, maxx, maxy, maxz in metres */
  bounds: [number, number, number, number, number, number];
  /** Bounds by object; null where none of it is in the scene. */
  objectBounds: (CompiledGeometry["bounds"] | null)[];
  /** Emissive triangles, GLOW_WORDS numbers each, by rising triangle number. */
  glow: Float64Array;
  /** Closed meshes that serve as regions of media, by object name: trees of their own among the nodes. */
  regions: Record<string, { root: number; bounds: CompiledGeometry["bounds"] }>;
  pictures: Record<string, Picture>;
  /** Photometric profiles by asset name: candela over LP_ROWS × LP_COLUMNS angles. */
  profiles: Record<string, Float32Array>;
  /** Grids of media (gridKey). */
  volumes: Record<string, { volume: Volume; packed: ArrayBuffer }>;
  /** Distances to objects by object name. */
  distances: Record<string, { volume: Volume; packed: ArrayBuffer }>;
}

/** The part of a compiled scene that changes with time and files alone. */
export type LooseGeometry = Pick<CompiledGeometry, "volumes" | "pictures" | "profiles">;

/** What a document's assets hold, by asset name. */
export interface Resources {
  models: ReadonlyMap<string, Mesh>;
  pictures?: ReadonlyMap<string, Picture>;
  profiles?: ReadonlyMap<string, Float32Array>;
  /** Channels of volume files by asset name. */
  volumes?: ReadonlyMap<string, Readonly<Record<string, Volume>>>;
}

/** Names of the objects whose surfaces bound media. */
function regionObjects(doc: SceneDocument): string[] {
  return [...new Set(doc.air.flatMap((m) => (m.region.kind === "mesh" ? [m.region.object] : [])))].sort();
}

/** Objects that media need distances to, with how far (m): a power of two, so that a curve is dragged without a new grid. */
function distanceObjects(doc: SceneDocument): Map<string, number> {
  const reach = new Map<string, number>();
  for (const m of doc.air) {
    if (m.near)
      reach.set(m.near.object, Math.max(reach.get(m.near.object) ?? 0, 2 ** Math.ceil(Math.log2(Math.max(m.near.curve.at(-1)![0], 1e-3)))));
    if (m.region.kind === "mesh" && m.edge > 0) reach.set(m.region.object, reach.get(m.region.object) ?? 0);
  }
  return reach;
}

/** Channels of volume files that media need, with the grids they are of. */
function gridChannels(doc: SceneDocument): { grid: VolumeGrid; channel: string }[] {
  return doc.air.flatMap(({ grid }) => (grid ? channelsOf(grid).map((channel) => ({ grid, channel })) : []));
}
function channelsOf({ channel, heat, tint }: VolumeGrid): string[] {
  return [channel, ...(heat ? [heat.channel] : []), ...(tint ? tintChannels(tint) : [])];
}

const hashOf = ({ assets }: SceneDocument, name: string): string => assets[name]?.sha256 ?? assets[name]?.uri ?? name;

/** What the geometry of a document depends on, as a key: equal keys, equal geometry. */
export const geometryKey = (doc: SceneDocument): string => solidKey(doc) + looseKey(doc);

/** What triangles and trees depend on: the slow part. */
export function solidKey(doc: SceneDocument): string {
  const { materials } = doc;
  // locks and labels are for the interface
  const objects = doc.objects.map(({ locked: _, ...o }) =>
    o.kind === "model" ? { ...o, parts: Object.entries(o.parts).map(([path, { locked: __, label: ___, ...part }]) => [path, part]) } : o,
  );
  return JSON.stringify({
    objects,
    materials,
    regions: regionObjects(doc),
    distances: [...distanceObjects(doc)],
    models: doc.objects.map((o) => (o.kind === "model" ? hashOf(doc, o.asset) : null)),
  });
}

/** What grids, pictures and profiles depend on. */
function looseKey(doc: SceneDocument): string {
  return JSON.stringify([
    gridChannels(doc).map(({ grid, channel }) => {
      const { from, to, share } = gridFrames(grid, doc.time);
      return [hashOf(doc, from), to && hashOf(doc, to), share, channel, from, to];
    }),
    [...usedAssets(doc)].flatMap(([name, use]) => (use === "picture" || use === "profile" ? [name, hashOf(doc, name)] : [])),
  ]);
}

/** Everything slow of a document: geometry, trees, region meshes, pictures. @throws InputError for what is missing or open */
export function compileScene(doc: SceneDocument, resources: Resources): CompiledGeometry {
  const regions = regionObjects(doc).map((name) => {
    const wanted = doc.objects.flatMap((o, i) => (o.name === name ? [i] : []));
    const { positions } = assembleObjects(doc, resources.models, wanted);
    checkClosed(positions, `object "${name}"`);
    return { name, bvh: buildBvh(positions, { split: false }), bounds: boundsOf(positions) };
  });
  const compiled = compileGeometry(assemble(doc, resources.models), doc.objects.length, regions);
  for (const [name, reach] of distanceObjects(doc)) {
    const { positions } = assembleObjects(
      doc,
      resources.models,
      doc.objects.flatMap((o, i) => (o.name === name ? [i] : [])),
    );
    if (positions.length === 0) throw new InputError(`object "${name}": has no triangles to be near to`);
    const volume = distanceVolume(positions, boundsOf(positions), reach);
    compiled.distances[name] = { volume, packed: packVolume(volume) };
  }
  return Object.assign(compiled, compileLoose(doc, resources));
}

function between(a: Volume, b: Volume, share: number, what: string): Volume {
  try {
    return blendVolumes(a, b, share);
  } catch (error) {
    throw new InputError(`${what}: ${(error as Error).message}`);
  }
}

/** What changes with time and files alone: grids, pictures, profiles. @throws InputError for a missing file or channel */
export function compileLoose(doc: SceneDocument, resources: Resources): LooseGeometry {
  const volumes: CompiledGeometry["volumes"] = {};
  const channelOf = (asset: string, channel: string): Volume => {
    const channels = resources.volumes?.get(asset);
    if (!channels) throw new InputError(`assets.${asset}: the volume file is missing`);
    const volume = channels[channel];
    if (!volume)
      throw new InputError(`assets.${asset}: has no channel "${channel}" of numbers; it has ${Object.keys(channels).join(", ") || "none"}`);
    return volume;
  };
  for (const { grid, channel } of gridChannels(doc)) {
    const key = gridKey(grid, channel, doc.time);
    if (volumes[key]) continue;
    const { from, to, share } = gridFrames(grid, doc.time);
    const first = channelOf(from, channel);
    const volume = to === null ? first : between(first, channelOf(to, channel), share, `assets.${from}, assets.${to}`);
    volumes[key] = { volume, packed: packVolume(volume) };
  }
  return { volumes, pictures: Object.fromEntries(resources.pictures ?? []), profiles: Object.fromEntries(resources.profiles ?? []) };
}

/** Bounds of each object's triangles that stand where they are, which follow each other. */
function boundsByObject(geometry: SceneGeometry, count: number): CompiledGeometry["objectBounds"] {
  const { positions, object } = geometry;
  const out: CompiledGeometry["objectBounds"] = new Array<null>(count).fill(null);
  for (let from = 0; from < standing(geometry);) {
    let to = from;
    while (to < standing(geometry) && object[to] === object[from]) to++;
    out[object[from]!] = boundsOf(positions.subarray(9 * from, 9 * to));
    from = to;
  }
  return out;
}

/** Which triangles a ray must look at when it meets them: cut-outs, and panes that light passes straight. */
function lookedAt(geometry: SceneGeometry): Uint8Array {
  const looks = geometry.materials.map((m) => passes(m));
  const out = new Uint8Array(geometry.material.length);
  for (let i = 0; i < out.length; i++) out[i] = looks[geometry.material[i]!] ? 1 : 0;
  return out;
}
const passes = (m: SurfaceMaterial): boolean => m.opacity < 1 || (m.alphaMode ?? "opaque") !== "opaque" || (m.transmission > 0 && !m.solid);

/** Normals and parts of all triangles, TRIANGLE_SIZE bytes each. */
function triangleAttributes(geometry: SceneGeometry): ArrayBuffer {
  const count = geometry.material.length;
  const triangles = new ArrayBuffer(Math.max(1, count) * L.TRIANGLE_SIZE);
  const words = new Int32Array(triangles);
  const { positions: p, normals } = geometry;
  for (let i = 0; i < count; i++) {
    const at = 9 * i;
    const [ax, ay, az] = [p[at + 3]! - p[at]!, p[at + 4]! - p[at + 1]!, p[at + 5]! - p[at + 2]!];
    const [bx, by, bz] = [p[at + 6]! - p[at]!, p[at + 7]! - p[at + 1]!, p[at + 8]! - p[at + 2]!];
    const face = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx] as const;
    const flat = isFlat(normals, at, face) && isFlat(normals, at + 3, face) && isFlat(normals, at + 6, face);
    const to = (i * L.TRIANGLE_SIZE) / 4;
    for (let c = 0; c < 3; c++) {
      const n = at + 3 * c;
      words[to + c] = flat ? L.FLAT_NORMAL : normalCode(normals[n]!, normals[n + 1]!, normals[n + 2]!);
    }
    words[to + L.TRIANGLE_PART / 4] = (geometry.object[i]! << L.PART_BITS) | geometry.material[i]!;
  }
  return triangles;
}

/**
 * Builds the trees and packs triangle attributes.
 * @param objects how many objects the document has
 * @param regions trees of meshes that bound media, kept behind the others
 */
export function compileGeometry(
  geometry: SceneGeometry,
  objects = 0,
  regions: readonly { name: string; bvh: Bvh; bounds: CompiledGeometry["bounds"] }[] = [],
): CompiledGeometry {
  if (geometry.materials.length > 2 ** L.PART_BITS)
    throw new InputError(`scene: ${geometry.materials.length} materials, more than the limit of ${2 ** L.PART_BITS}`);
  const { positions, material, shared = [] } = geometry;
  const looks = lookedAt(geometry);
  const part = (first: number, count: number, places?: Float32Array): Bvh =>
    buildBvh(positions.subarray(9 * first, 9 * (first + count)), {
      lookAt: looks.subarray(first, first + count),
      first,
      ...(places ? { places } : {}),
    });
  const trees = shared.map(({ first, count }) => part(first, count));
  const boxes = shared.map(({ places }, i) =>
    placedBoxes(
      trees[i]!,
      places.map((p) => p.matrix),
    ),
  );
  const here = standing(geometry);
  const main = part(0, here, new Float32Array(boxes.flat(2)));
  const { bvh, roots } = joinTrees([main, ...trees, ...regions.map((r) => r.bvh)]);

  const objectBounds = boundsByObject(geometry, objects);
  shared.forEach(({ places }, i) =>
    places.forEach(({ object }, k) => {
      const had = objectBounds[object];
      objectBounds[object] = had ? unionOf([had, boxes[i]![k]!]) : boxes[i]![k]!;
    }),
  );
  return {
    bvh,
    triangles: triangleAttributes(geometry),
    uvs: geometry.uvs ?? null,
    textures: geometry.textures ?? [],
    triangleCount: material.length,
    shownTriangles: here + shared.reduce((n, s) => n + s.count * s.places.length, 0),
    places: placeRecords(shared, roots.slice(1)),
    materials: geometry.materials,
    bounds: unionOf([...(here ? [boundsOf(positions.subarray(0, 9 * here))] : []), ...boxes.flat()]),
    objectBounds,
    glow: emissiveTriangles(geometry),
    regions: Object.fromEntries(regions.map(({ name, bounds }, i) => [name, { root: roots[1 + trees.length + i]!, bounds }])),
    pictures: {},
    profiles: {},
    volumes: {},
    distances: {},
  };
}

/** What a document asks its film to keep beyond the usual passes. */
export function filmExtras(doc: SceneDocument, geometry: CompiledGeometry): FilmExtras {
  return {
    lights: doc.film.lightParts ? lightGroups(doc, geometry.materials).names : [],
    mattes: doc.film.mattes
      ? {
          objects: doc.objects.map((o, i) => o.name ?? `${o.kind} ${i + 1}`),
          materials: geometry.materials.map((m, i) => m.name ?? `material ${i + 1}`),
        }
      : null,
  };
}

/** Where each buffer lies in kernel memory. */
export interface MemoryPlan {
  nodes: number;
  leaves: number;
  triangles: number;
  places: number;
  materials: number;
  uvs: number;
  /** Texture records, and the texels behind them. */
  textures: number;
  /** Grids and distances by key. */
  volumes: Record<string, number>;
  distances: Record<string, number>;
  /** Tables of lights, sky and media. */
  tables: number;
  film: number;
  /** Floats of a film pixel, and what the film keeps. */
  stride: number;
  extras: FilmExtras;
  /** Bytes in all. */
  end: number;
  /** What is written to the parameters and tables. */
  content: SceneTables | null;
}

/**
 * Plans memory for a geometry, the tables of a document and a film of `pixels`.
 * @throws InputError past the 4 GB of a kernel memory
 */
export function planMemory(geometry: CompiledGeometry, pixels: number, doc?: SceneDocument): MemoryPlan {
  const align = (n: number): number => Math.ceil(n / 128) * 128;
  const nodes = L.SCENE;
  const leaves = align(nodes + geometry.bvh.nodes.byteLength);
  const triangles = align(leaves + geometry.bvh.leaves.byteLength);
  const places = align(triangles + geometry.triangles.byteLength);
  const materials = align(places + geometry.places.byteLength);
  const uvs = align(materials + Math.max(1, geometry.materials.length) * L.MATERIAL_SIZE);
  const textures = align(uvs + (geometry.uvs?.byteLength ?? 0));
  let next = align(textures + geometry.textures.reduce((n, t) => n + t.rgba.byteLength, geometry.textures.length * L.TEXTURE_SIZE));
  const place = (grids: CompiledGeometry["volumes"]): Record<string, number> =>
    Object.fromEntries(
      Object.entries(grids).map(([key, { packed }]) => {
        const at = next;
        next = align(next + packed.byteLength);
        return [key, at];
      }),
    );
  const volumes = place(geometry.volumes);
  const distances = place(geometry.distances);
  const tables = next;
  const content = doc ? buildTables(doc, geometry, tables, { volumes, distances }) : null;
  const film = align(tables + (content?.tables.byteLength ?? 0));
  const extras = doc ? filmExtras(doc, geometry) : NO_EXTRAS;
  const stride = pixelFloats(extras);
  const end = film + pixels * stride * 4;
  if (end > 4_000_000_000) throw new InputError(`scene and picture need ${(end / 1e9).toFixed(1)} GB, more than the 4 GB a render may use`);
  return { nodes, leaves, triangles, places, materials, uvs, textures, volumes, distances, tables, film, stride, extras, end, content };
}

/** Copies geometry into kernel memory. */
export function writeGeometry(memory: ArrayBufferLike, geometry: CompiledGeometry, plan: MemoryPlan): void {
  const copy = (from: ArrayBuffer, to: number): void => new Uint8Array(memory, to, from.byteLength).set(new Uint8Array(from));
  copy(geometry.bvh.nodes, plan.nodes);
  copy(geometry.bvh.leaves, plan.leaves);
  copy(geometry.triangles, plan.triangles);
  copy(geometry.places, plan.places);
  if (geometry.uvs) new Float32Array(memory, plan.uvs, geometry.uvs.length).set(geometry.uvs);
  writeMaterials(memory, geometry.materials, plan.materials);
  for (const [key, at] of Object.entries(plan.volumes)) copy(geometry.volumes[key]!.packed, at);
  for (const [key, at] of Object.entries(plan.distances)) copy(geometry.distances[key]!.packed, at);
  let texels = plan.textures + geometry.textures.length * L.TEXTURE_SIZE;
  geometry.textures.forEach((t, i) => {
    const record = new Int32Array(memory, plan.textures + i * L.TEXTURE_SIZE, L.TEXTURE_SIZE / 4);
    record.set([texels, t.width, t.height, ...t.wrap, t.srgb ? 1 : 0, t.nearest ? 1 : 0]);
    new Uint8Array(memory, texels, t.rgba.length).set(t.rgba);
    texels += t.rgba.length;
  });
}

const TEXTURES = { base: L.T_BASE, rough: L.T_ROUGH, normal: L.T_NORMAL, emission: L.T_EMISSION, transmission: L.T_TRANSMISSION } as const;

function writeMaterials(memory: ArrayBufferLike, materials: readonly SurfaceMaterial[], at: number): void {
  const all = new Float32Array(memory, at, Math.max(1, materials.length) * (L.MATERIAL_SIZE / 4));
  materials.forEach((material, i) => {
    const m = all.subarray(i * (L.MATERIAL_SIZE / 4), (i + 1) * (L.MATERIAL_SIZE / 4));
    m.set(material.baseColor, L.MT_BASE);
    m[L.MT_METAL] = material.metallic;
    m.set(material.emission, L.MT_EMISSION);
    m[L.MT_ROUGHNESS] = material.roughness;
    m[L.MT_SPECULAR] = material.specular;
    m[L.MT_THROUGH] = material.diffuseTransmission;
    m[L.MT_OPACITY] = material.opacity;
    const mode = material.alphaMode ?? "opaque";
    m[L.MT_ALPHA_MODE] = mode === "mask" ? 1 : mode === "blend" || material.opacity < 1 ? 2 : 0;
    m[L.MT_CUTOFF] = material.cutoff ?? 0.5;
    m[L.MT_TRANSMISSION] = material.transmission;
    m[L.MT_SOLID] = material.solid ? 1 : 0;
    m[L.MT_IOR] = material.ior;
    m.set(
      material.attenuationColor.map((c) => Math.min(1e6, -Math.log(Math.max(c, 1e-30)) / material.attenuationDistance)),
      L.MT_ABSORPTION,
    );
    m[L.MT_NORMAL_SCALE] = material.normalScale ?? 1;
    m[L.MT_HOLDOUT] = material.holdout ? 1 : 0;
    for (const [name, slot] of Object.entries(TEXTURES)) {
      const use = material.textures?.[name as keyof typeof TEXTURES];
      const to = L.MT_TEXTURES + slot * L.TEXTURE_WORDS;
      m[to] = use ? use.texture : -1;
      m.set(use?.transform ?? [1, 0, 0, 0, 1, 0], to + 1);
    }
  });
}

/** Pixels to render: [x0, y0, x1, y1) of a frame of the given size. */
export function cropOf(doc: SceneDocument, width: number, height: number): [number, number, number, number] {
  const r = doc.film.region;
  if (!r) return [0, 0, width, height];
  const x0 = Math.min(width - 1, Math.floor(r.x * width + 1e-6)),
    y0 = Math.min(height - 1, Math.floor(r.y * height + 1e-6));
  const x1 = Math.max(x0 + 1, Math.min(width, Math.ceil((r.x + r.width) * width - 1e-6)));
  const y1 = Math.max(y0 + 1, Math.min(height, Math.ceil((r.y + r.height) * height - 1e-6)));
  return [x0, y0, x1, y1];
}
