/** The set's triangles as three.js draws them: what stands where it is as meshes, what stands in several places as one mesh in many. */
import * as THREE from "three";
import type { SetShell } from "../../model/scene-worker";
import { drawnOf, thinned } from "./thin";

/** Triangles of an object. */
export interface SetPiece {
  object: number;
  geometry: THREE.BufferGeometry;
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
  const part = ({ first, count }: { first: number; count: number }, drawn = count): THREE.BufferGeometry => {
    const [from, to] = [9 * first, 9 * (first + count)];
    const { positions, colours } = thinned(shell.positions.subarray(from, to), shell.colours.subarray(from, to), drawn);
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
    geometry.setAttribute("color", new THREE.BufferAttribute(colours, 3, true));
    geometry.computeBoundingSphere();
    return geometry;
  };
  const pieces: SetPiece[] = shell.objects.map((o) => ({ object: o.index, geometry: part(o), places: null }));
  const all = sharedTriangles(shell);
  for (const s of shell.shared) {
    const geometry = part(s, drawnOf(s.count, all));
    for (const { object, matrices } of s.places)
      pieces.push({ object, geometry, places: new THREE.InstancedBufferAttribute(matrices, 16) });
  }
  return pieces;
}

/** Triangles that stand in several places, counted at each. */
const sharedTriangles = ({ shared }: SetShell): number =>
  shared.reduce((n, s) => n + s.count * s.places.reduce((k, p) => k + p.matrices.length / 16, 0), 0);

/** How many triangles the set has. */
export const trianglesOf = (shell: SetShell): number => shell.objects.reduce((n, o) => n + o.count, 0) + sharedTriangles(shell);

/** How many triangles a piece shows. */
export const shownBy = ({ geometry, places }: SetPiece): number => (geometry.getAttribute("position").count / 3) * (places?.count ?? 1);

export function meshOfPiece({ geometry, places }: SetPiece, material: THREE.Material): THREE.Mesh {
  if (!places) return new THREE.Mesh(geometry, material);
  const mesh = new THREE.InstancedMesh(geometry, material, 0);
  mesh.instanceMatrix = places;
  mesh.count = places.count;
  return mesh;
}
