/**
 * Compiles a document and its models to the kernel's buffers. Geometry (slow, cached by what it
 * depends on) and parameters (instant) are separate, so that moving a light never rebuilds a BVH.
 */
import type { SceneDocument } from "../document/schema";
import { detailBounds } from "./detail";
import { InputError } from "../errors";
import { assemble, assembleObjects } from "./assemble";
import { buildBvh, joinTrees, type Bvh } from "./bvh";
import { checkClosed } from "./closed";
import { boundsOf, ownTriangles, unionOf, type SceneGeometry, type SurfaceMaterial } from "../data/geometry";
import { emissiveTriangles } from "./emissive";
import type { CompiledGeometry, TimeVaryingGeometry, Resources } from "./compiled";
import { isFlat, normalCode } from "./normals";
import { instanceBoxes, instanceRecords } from "./instances";
import { distanceVolume } from "./distance";
import { gridFrames, gridKey } from "../document/sequence";
import { blendVolumes } from "../data/blend";
import { packVolume, type Volume } from "../data/volume";
import * as L from "../layout/layout";
import { aboutOrigin, originOf } from "./origin";
import type { V3 } from "../math/vectors";
import { distanceObjects, gridChannels, regionObjects } from "./keys";

/** Triangles (9 floats each, m) of all objects of a name. */
export function trianglesOf(doc: SceneDocument, models: Resources["models"], name: string): Float32Array {
  const wanted = doc.objects.flatMap((o, i) => (o.name === name ? [i] : []));
  return assembleObjects(doc, models, wanted).positions;
}

/** Everything slow of a document: geometry, trees, region meshes, pictures. @throws InputError for what is missing or open */
export function compileScene(given: SceneDocument, resources: Resources): CompiledGeometry {
  const placed = assemble(given, resources.models);
  const origin = originOf(placed);
  const doc = aboutOrigin(given, origin);
  const geometry = doc === given ? placed : assemble(doc, resources.models);
  const regions = regionObjects(doc).map((name) => {
    const positions = trianglesOf(doc, resources.models, name);
    checkClosed(positions, `object "${name}"`);
    return { name, bvh: buildBvh(positions, { split: false }), bounds: boundsOf(positions) };
  });
  const compiled = compileGeometry(geometry, doc.objects.length, regions, origin);
  for (const [name, reach] of distanceObjects(doc)) {
    const positions = trianglesOf(doc, resources.models, name);
    if (positions.length === 0) throw new InputError(`object "${name}": has no triangles to be near to`);
    const volume = distanceVolume(positions, boundsOf(positions), reach);
    compiled.distances[name] = { volume, packed: packVolume(volume) };
  }
  return Object.assign(compiled, { plate: resources.plate ?? null }, compileTimeVarying(doc, resources));
}

function between(a: Volume, b: Volume, share: number, what: string): Volume {
  try {
    return blendVolumes(a, b, share);
  } catch (error) {
    throw new InputError(`${what}: ${(error as Error).message}`);
  }
}

/** What changes with time and files alone: grids, pictures, profiles. @throws InputError for a missing file or channel */
export function compileTimeVarying(doc: SceneDocument, resources: Resources): TimeVaryingGeometry {
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
  for (let from = 0; from < ownTriangles(geometry);) {
    let to = from;
    while (to < ownTriangles(geometry) && object[to] === object[from]) to++;
    out[object[from]!] = boundsOf(positions.subarray(9 * from, 9 * to));
    from = to;
  }
  return out;
}

/** Which triangles a ray must look at when it meets them: cut-outs, and panes that light passes straight. */
function needsFilter(geometry: SceneGeometry): Uint8Array {
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
 * @param origin place (m) of the document that is zero here
 */
export function compileGeometry(
  geometry: SceneGeometry,
  objects = 0,
  regions: readonly { name: string; bvh: Bvh; bounds: CompiledGeometry["bounds"] }[] = [],
  origin: V3 = [0, 0, 0],
): CompiledGeometry {
  if (geometry.materials.length > 2 ** L.PART_BITS)
    throw new InputError(`scene: ${geometry.materials.length} materials, more than the limit of ${2 ** L.PART_BITS}`);
  const { positions, material, shared = [] } = geometry;
  const looks = needsFilter(geometry);
  const part = (first: number, count: number, places?: Float32Array): Bvh =>
    buildBvh(positions.subarray(9 * first, 9 * (first + count)), {
      lookAt: looks.subarray(first, first + count),
      first,
      ...(places ? { places } : {}),
    });
  const trees = shared.map(({ first, count }) => part(first, count));
  const boxes = shared.map(({ places }, i) =>
    instanceBoxes(
      trees[i]!,
      places.map((p) => p.matrix),
    ),
  );
  const here = ownTriangles(geometry);
  const main = part(0, here, new Float32Array(boxes.flat(2)));
  const { bvh, roots } = joinTrees([main, ...trees, ...regions.map((r) => r.bvh)]);

  const objectBounds = boundsByObject(geometry, objects);
  shared.forEach(({ places }, i) =>
    places.forEach(({ object }, k) => {
      const had = objectBounds[object];
      objectBounds[object] = had ? unionOf([had, boxes[i]![k]!]) : boxes[i]![k]!;
    }),
  );
  const bounds = unionOf([...(here ? [boundsOf(positions.subarray(0, 9 * here))] : []), ...boxes.flat()]);
  return {
    origin,
    bvh,
    triangles: triangleAttributes(geometry),
    uvs: geometry.uvs ?? null,
    uvsSecond: geometry.uvsSecond ?? null,
    colours: geometry.colours ?? null,
    textures: geometry.textures ?? [],
    triangleCount: material.length,
    shownTriangles: here + shared.reduce((n, s) => n + s.count * s.places.length, 0),
    places: instanceRecords(shared, roots.slice(1)),
    materials: geometry.materials,
    bounds,
    detail: detailBounds(positions, here, shared, bounds),
    objectBounds,
    emissive: emissiveTriangles(geometry),
    regions: Object.fromEntries(regions.map(({ name, bounds }, i) => [name, { root: roots[1 + trees.length + i]!, bounds }])),
    pictures: {},
    profiles: {},
    volumes: {},
    distances: {},
    plate: null,
  };
}
