/** The set's triangles as three.js draws them: what stands where it is as meshes, what stands in several places as one mesh in many. */
import * as THREE from "three";
import { classesLeft } from "../../model/by-area";
import type { SetShell, ShellPart } from "../../model/set-shell";
import { detail } from "./detail";
import { drawnOf, thinned } from "./thin";

/** Triangles of an object. */
export interface SetPiece {
  object: number;
  geometry: THREE.BufferGeometry;
  /** Triangles in each class of area, as they follow one another in the geometry. */
  classes: readonly number[];
  /** Where they stand, where that is more than one place. */
  places: THREE.InstancedBufferAttribute | null;
}

/** What brings a corner into the scene, for shaders of both kinds of mesh. */
export const CORNER = `
  vec4 corner = vec4(position, 1.0);
  #ifdef USE_INSTANCING
    corner = instanceMatrix * corner;
  #endif
  corner = modelViewMatrix * corner;`;

/** The set in pieces. Of what stands in very many places each shape is drawn in part. */
export function piecesOf(shell: SetShell): SetPiece[] {
  const part = ({ first, count, classes }: ShellPart, drawn = count): Pick<SetPiece, "geometry" | "classes"> => {
    const [from, to] = [9 * first, 9 * (first + count)];
    const { positions, colours } = thinned(shell.positions.subarray(from, to), shell.colours.subarray(from, to), drawn);
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
    geometry.setAttribute("color", new THREE.BufferAttribute(colours, 3, true));
    geometry.computeBoundingSphere();
    return { geometry, classes: classesLeft(classes, drawn) };
  };
  const pieces: SetPiece[] = shell.objects.map((o) => ({ object: o.index, ...part(o), places: null }));
  const all = sharedTriangles(shell);
  for (const s of shell.shared) {
    const shape = part(s, drawnOf(s.count, all));
    for (const { object, matrices } of s.places)
      pieces.push({ object, ...shape, places: new THREE.InstancedBufferAttribute(matrices, 16) });
  }
  return pieces;
}

/** Triangles that stand in several places, counted at each. */
const sharedTriangles = ({ shared }: SetShell): number =>
  shared.reduce((n, s) => n + s.count * s.places.reduce((k, p) => k + p.matrices.length / 16, 0), 0);

/** How many triangles the set has. */
export const trianglesOf = (shell: SetShell): number => shell.objects.reduce((n, o) => n + o.count, 0) + sharedTriangles(shell);

/** How many triangles a piece has, counted at each of its places. */
export const sizeOfPiece = ({ geometry, places }: SetPiece): number => (geometry.getAttribute("position").count / 3) * (places?.count ?? 1);

/** Shows so many triangles of the pieces, the largest and a share of each. @returns how many are shown */
export function showTriangles(pieces: readonly SetPiece[], budget: number): number {
  const shapes = new Map<THREE.BufferGeometry, { classes: readonly number[]; places: number }>();
  for (const { geometry, classes, places } of pieces)
    shapes.set(geometry, { classes, places: (shapes.get(geometry)?.places ?? 0) + (places?.count ?? 1) });
  const of = [...shapes.values()];
  const kept = detail(of, budget);
  [...shapes.keys()].forEach((geometry, i) => geometry.setDrawRange(0, 3 * kept[i]!));
  return kept.reduce((sum, n, i) => sum + n * of[i]!.places, 0);
}

export function meshOfPiece({ geometry, places }: SetPiece, material: THREE.Material): THREE.Mesh {
  if (!places) return new THREE.Mesh(geometry, material);
  const mesh = new THREE.InstancedMesh(geometry, material, 0);
  mesh.instanceMatrix = places;
  mesh.count = places.count;
  return mesh;
}
