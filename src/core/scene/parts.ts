/** A model's parts as its object changes them: which are in the scene, how each is placed, what it is made of. */
import type { ObjectPart, SceneObject } from "../document/schema";
import { placementMatrix, type Affine, type Mesh, type MeshPart } from "./geometry";
import { composeAffine } from "./volume";

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
function changeMatrix(change: ObjectPart, pivot: readonly number[]): Affine {
  const about = placementMatrix(
    pivot.map((c, k) => c + change.position[k]!),
    change.rotation,
    change.scale,
  );
  return composeAffine(about, [1, 0, 0, -pivot[0]!, 0, 1, 0, -pivot[1]!, 0, 0, 1, -pivot[2]!]) as Affine;
}

/** The parts of an object's mesh that are in the scene. Changes of a part hold for what lies below it too. */
export function placedParts(object: SceneObject, mesh: Mesh): PlacedPart[] {
  const matrix = placementMatrix(object.position, object.rotation, object.kind === "model" ? object.scale : 1);
  const whole = { first: 0, count: mesh.material.length, matrix, holdout: object.holdout };
  if (object.kind !== "model") return [{ ...whole, material: null }];
  const changes = Object.entries(object.parts);
  if (changes.length === 0 || !mesh.parts) return [{ ...whole, material: object.material }];
  const made = new Map(changes.map(([path, change]) => [path, changeMatrix(change, pivotOf(mesh.parts!, path))]));
  return mesh.parts.flatMap((part): PlacedPart[] => {
    const placed: PlacedPart = { first: part.first, count: part.count, matrix, material: object.material, holdout: object.holdout };
    for (const path of lineage(part.path)) {
      const change = Object.hasOwn(object.parts, path) ? object.parts[path]! : null;
      if (!change) continue;
      if (change.hidden) return [];
      placed.matrix = composeAffine(placed.matrix, made.get(path)!) as Affine;
      placed.material = change.material ?? placed.material;
      placed.holdout ||= change.holdout;
    }
    return [placed];
  });
}
