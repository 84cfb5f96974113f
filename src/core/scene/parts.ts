/** A model's parts as its object changes them: which are in the scene, how each is placed, what it is made of. */
import { add, type V3 } from "../math/vectors";
import type { ObjectPart, SceneObject } from "../document/schema";
import { composeAffine, placementMatrix, type Affine } from "../math/affine";
import type { Mesh, MeshPart } from "../data/geometry";

/** Triangles that are placed alike. */
export interface PlacedPart {
  first: number;
  count: number;
  matrix: Affine;
  /** Key into the document's materials; null for the model's own. */
  material: string | null;
  holdout: boolean;
}

/** Paths of a part and of all that it lies in, from the root down. */
function lineage(path: string): string[] {
  const names = path.split("/");
  return names.map((_, i) => names.slice(0, i + 1).join("/"));
}

/** Where a changed part turns about: its own place, or that of the first part below it. */
function pivotOf(parts: readonly MeshPart[], path: string): readonly [number, number, number] {
  return (parts.find((p) => p.path === path) ?? parts.find((p) => p.path.startsWith(`${path}/`)))?.pivot ?? [0, 0, 0];
}

/** What a change does to points in the model's frame: scaled and turned about the pivot, then moved. */
function changeMatrix(change: ObjectPart, pivot: Readonly<V3>): Affine {
  const about = placementMatrix(add(pivot, change.position), change.rotation, change.scale);
  return composeAffine(about, [1, 0, 0, -pivot[0], 0, 1, 0, -pivot[1], 0, 0, 1, -pivot[2]]);
}

/** The parts of an object's mesh that are in the scene. Changes of a part hold for what lies below it too. */
export function placedParts(object: SceneObject, mesh: Mesh): PlacedPart[] {
  const matrix = placementMatrix(object.position, object.rotation, object.kind === "model" ? object.scale : 1);
  const { holdout } = object;
  const material = object.kind === "model" ? object.material : null;
  const changes = object.kind === "model" && mesh.parts ? object.parts : {};
  if (!mesh.parts) return [{ first: 0, count: mesh.material.length, matrix, material, holdout }];
  const made = new Map(Object.entries(changes).map(([path, change]) => [path, changeMatrix(change, pivotOf(mesh.parts!, path))]));
  const placed = mesh.parts.flatMap((part): PlacedPart[] => {
    const p: PlacedPart = { first: part.first, count: part.count, matrix, material, holdout };
    if (made.size)
      for (const path of lineage(part.path)) {
        const change = Object.hasOwn(changes, path) ? changes[path]! : null;
        if (!change) continue;
        if (change.hidden) return [];
        p.matrix = composeAffine(p.matrix, made.get(path)!);
        p.material = change.material ?? p.material;
        p.holdout ||= change.holdout;
      }
    if (part.matrix) p.matrix = composeAffine(p.matrix, part.matrix);
    return [p];
  });
  return joined(placed);
}

/** Parts that follow each other and are placed alike, as one. */
function joined(parts: readonly PlacedPart[]): PlacedPart[] {
  const out: PlacedPart[] = [];
  for (const p of parts) {
    const last = out.at(-1);
    const alike =
      last && last.first + last.count === p.first && last.matrix === p.matrix && last.material === p.material && last.holdout === p.holdout;
    if (alike) last.count += p.count;
    else out.push(p);
  }
  return out;
}
