/** The set's triangles as three.js draws them: what stands where it is as meshes, what stands in several places as one mesh in many. */
import * as THREE from "three";
import type { SetShell } from "../scene-worker";

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

export function piecesOf(shell: SetShell): SetPiece[] {
  const part = ({ first, count }: { first: number; count: number }): THREE.BufferGeometry => {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(shell.positions.subarray(9 * first, 9 * (first + count)), 3));
    geometry.setAttribute("color", new THREE.BufferAttribute(shell.colours.subarray(9 * first, 9 * (first + count)), 3, true));
    geometry.computeBoundingSphere();
    return geometry;
  };
  const pieces: SetPiece[] = shell.objects.map((o) => ({ object: o.index, geometry: part(o), places: null }));
  for (const s of shell.shared) {
    const geometry = part(s);
    for (const { object, matrices } of s.places)
      pieces.push({ object, geometry, places: new THREE.InstancedBufferAttribute(matrices, 16) });
  }
  return pieces;
}

/** How many triangles a piece shows. */
export const shownBy = ({ geometry, places }: SetPiece): number => (geometry.getAttribute("position").count / 3) * (places?.count ?? 1);

export function meshOfPiece({ geometry, places }: SetPiece, material: THREE.Material): THREE.Mesh {
  if (!places) return new THREE.Mesh(geometry, material);
  const mesh = new THREE.InstancedMesh(geometry, material, 0);
  mesh.instanceMatrix = places;
  mesh.count = places.count;
  return mesh;
}
