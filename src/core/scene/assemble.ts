/** Puts the objects of a document together: what stands once where it stands, what stands often kept once with its places. */
import { AXES } from "../math/vectors";
import { InputError } from "../errors";
import { PLATE_SURFACE } from "../document/plate";
import type { SceneDocument } from "../document/schema";
import { luminance } from "../optics/colour";
import { composeAffine, determinant, linearPart, type Affine } from "../math/affine";
import {
  boundsOf,
  emptyGeometry,
  movedTextures,
  placeMesh,
  unionOf,
  type Mesh,
  type SceneGeometry,
  type SurfaceMaterial,
} from "../data/geometry";
import { placedParts, type PlacedPart } from "./parts";
import { shapeMesh } from "./shapes";
import { isWorthSharing } from "../data/sharing";

/** Most triangles a scene may keep: the leaf code's block index and memory set the limit. */
export const MAX_TRIANGLES = 12_000_000;
/** Most triangles a scene may show, those in several places counted at each. */
export const MAX_PLACED = 2_000_000_000;

interface Placed extends PlacedPart {
  mesh: Mesh;
  object: number;
}

function meshOf(doc: SceneDocument, i: number, models: ReadonlyMap<string, Mesh>): Mesh {
  const object = doc.objects[i]!;
  if (object.kind === "plate") {
    const surface = models.get(PLATE_SURFACE);
    if (!surface) throw new InputError(`objects[${i}]: the plate that it is the surface of is missing`);
    return { ...surface, materials: [{ ...doc.materials[object.material]!, name: object.material }] };
  }
  if (object.kind !== "model") return shapeMesh(object, { ...doc.materials[object.material]!, name: object.material });
  const model = models.get(object.asset);
  if (!model) throw new InputError(`objects[${i}]: model "${object.asset}" is missing`);
  return model;
}

/** Puts visible shapes and models together. @param models by asset name. @throws InputError for a missing model */
export function assemble(doc: SceneDocument, models: ReadonlyMap<string, Mesh>): SceneGeometry {
  const shown = doc.objects.flatMap((o, i) => (o.hidden ? [] : [i]));
  return assembleObjects(doc, models, shown, true);
}

/**
 * Puts the given objects together.
 * @param share whether what stands in many places may be kept once
 * @throws InputError for a missing model
 */
export function assembleObjects(
  doc: SceneDocument,
  models: ReadonlyMap<string, Mesh>,
  wanted: readonly number[],
  share = false,
): SceneGeometry {
  const placed = wanted.flatMap((object): Placed[] => {
    const mesh = meshOf(doc, object, models);
    return placedParts(doc.objects[object]!, mesh).map((p) => ({ ...p, mesh, object }));
  });
  const table = new MaterialTable(doc);
  const groups = share ? sharedGroups(placed) : [];
  // what shines is a light where it stands: it is never shared
  const parted = groups.map((group) => {
    const own = table.of(group[0]!);
    const shining = (m: number): boolean => luminance(...table.materials[own(m)]!.emission) > 0;
    return { group, dull: runs(group[0]!, (m) => !shining(m)), bright: runs(group[0]!, shining) };
  });
  const apart = new Map(parted.flatMap(({ group, bright }) => group.map((p) => [p, bright] as const)));
  const alone = (p: Placed): Run[] => apart.get(p) ?? [[p.first, p.count]];
  const kept = parted.filter(({ dull }) => dull.length > 0);

  const shown = placed.reduce((n, p) => n + p.count, 0);
  if (shown > MAX_PLACED) throw new InputError(`scene: shows ${shown} triangles, more than the limit of ${MAX_PLACED}`);
  const triangles = placed.reduce((n, p) => n + length(alone(p)), 0) + kept.reduce((n, { dull }) => n + length(dull), 0);
  if (triangles > MAX_TRIANGLES) throw new InputError(`scene: ${triangles} triangles, more than the limit of ${MAX_TRIANGLES}`);
  const out: SceneGeometry = {
    ...emptyGeometry(
      triangles,
      placed.map((p) => p.mesh),
    ),
    shared: [],
    materials: table.materials,
    textures: table.textures,
  };
  let at = 0;
  const write = (p: Placed, which: readonly Run[], matrix: Affine): void => {
    for (const [first, count] of which) {
      placeMesh(p.mesh, first, count, matrix, out, at, table.of(p), p.object);
      at += count;
    }
  };
  for (const p of placed) write(p, alone(p), p.matrix);
  for (const { group, dull } of kept) {
    const one = group[0]!;
    // about its own middle, so that single precision serves it as well as it would where it stands
    const middle = middleOf(one.mesh.positions, dull);
    const first = at;
    write(one, dull, [1, 0, 0, -middle[0], 0, 1, 0, -middle[1], 0, 0, 1, -middle[2]]);
    out.shared!.push({
      first,
      count: at - first,
      places: group.map(({ matrix, object }) => ({
        matrix: composeAffine(matrix, [1, 0, 0, middle[0], 0, 1, 0, middle[1], 0, 0, 1, middle[2]]),
        object,
      })),
    });
  }
  return out;
}

/** Triangles that follow each other: the first, how many. */
type Run = [first: number, count: number];
const length = (all: readonly Run[]): number => all.reduce((n, [, count]) => n + count, 0);

/** Runs of a part's triangles whose material is wanted. */
function runs({ mesh, first, count }: Placed, wanted: (material: number) => boolean): Run[] {
  const out: Run[] = [];
  const chosen = new Map<number, boolean>();
  for (let i = first; i < first + count; i++) {
    const material = mesh.material[i]!;
    let is = chosen.get(material);
    if (is === undefined) chosen.set(material, (is = wanted(material)));
    if (!is) continue;
    const last = out.at(-1);
    if (last && last[0] + last[1] === i) last[1]++;
    else out.push([i, 1]);
  }
  return out;
}

function middleOf(positions: Float32Array, which: readonly Run[]): [number, number, number] {
  const box = unionOf(which.map(([first, count]) => boundsOf(positions.subarray(9 * first, 9 * (first + count)))));
  return AXES.map((k) => Math.fround((box[k] + box[k + 3]!) / 2)) as [number, number, number];
}

/** Parts that are the same triangles of the same material in several places, where keeping them once is worth it. */
function sharedGroups(placed: readonly Placed[]): Placed[][] {
  const meshes = new Map<Mesh, number>();
  const groups = new Map<string, Placed[]>();
  for (const p of placed) {
    if (!isSolid(p.matrix)) continue;
    let mesh = meshes.get(p.mesh);
    if (mesh === undefined) meshes.set(p.mesh, (mesh = meshes.size));
    const key = JSON.stringify([mesh, p.first, p.count, p.material, p.holdout]);
    const group = groups.get(key);
    if (group) group.push(p);
    else groups.set(key, [p]);
  }
  return [...groups.values()].filter((group) => isWorthSharing(group[0]!.count, group.length));
}

/** Whether a transform can be undone in single precision. */
function isSolid(m: Affine): boolean {
  const size = Math.hypot(...linearPart(m)) / Math.sqrt(3);
  return Math.abs(determinant(m)) > 1e-6 * size ** 3 && size > 1e-12;
}

/** Materials of a scene: each mesh's own once, those of the document that stand in for them once, and doubles that are holdouts. */
class MaterialTable {
  readonly materials: SurfaceMaterial[] = [];
  readonly textures: NonNullable<Mesh["textures"]> = [];
  private readonly first = new Map<Mesh, number>();
  private readonly replaced = new Map<string, number>();
  private readonly held = new Map<number, number>();

  constructor(private readonly doc: SceneDocument) {}

  /** Number in the scene of a mesh's own material, as a part has it. */
  of({ mesh, material, holdout }: Placed): (own: number) => number {
    let first = this.first.get(mesh);
    if (first === undefined) {
      first = this.materials.length;
      this.first.set(mesh, first);
      this.materials.push(...movedTextures(mesh.materials, this.textures.length));
      this.textures.push(...(mesh.textures ?? []));
    }
    const from = first;
    const number = (own: number): number => (material === null ? from + own : this.replacement(material));
    return holdout ? (own) => this.heldOut(number(own)) : number;
  }

  private replacement(name: string): number {
    let number = this.replaced.get(name);
    if (number === undefined) {
      number = this.materials.push({ ...this.doc.materials[name]!, name }) - 1;
      this.replaced.set(name, number);
    }
    return number;
  }

  /** A material's double that is black to the lens. */
  private heldOut(material: number): number {
    let number = this.held.get(material);
    if (number === undefined) {
      number = this.materials.push({ ...this.materials[material]!, holdout: true }) - 1;
      this.held.set(material, number);
    }
    return number;
  }
}
