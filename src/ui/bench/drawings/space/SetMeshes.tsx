/** The set in the drawings of space: a group for each object, lit plainly so that shapes read. */
import { useEffect, useMemo, useState } from "react";
import * as THREE from "three";
import { meshKey } from "#core/scene/keys";
import type { SetShell } from "../../model/set-shell";
import { useBench, useScene } from "../../model/context";
import { CORNER, meshOfPiece, piecesOf, trianglesOf, type SetPiece } from "./pieces";

/** Plain light from above and the side of the eye; faces by derivatives, so that no normals are kept. */
const material = new THREE.ShaderMaterial({
  vertexColors: true,
  side: THREE.DoubleSide,
  vertexShader: `
    varying vec3 seen;
    varying vec3 tone;
    void main() {
      ${CORNER}
      seen = corner.xyz;
      tone = color;
      gl_Position = projectionMatrix * corner;
    }`,
  fragmentShader: `
    varying vec3 seen;
    varying vec3 tone;
    void main() {
      vec3 n = normalize(cross(dFdx(seen), dFdy(seen)));
      float l = 0.35 + 0.45 * abs(n.z) + 0.2 * abs(n.y);
      gl_FragColor = vec4(mix(vec3(0.45), tone, 0.6) * l, 1.0);
    }`,
});

/** The set in pieces, and how many triangles it has; made anew when it changes. */
export function usePieces(): { pieces: SetPiece[]; triangles: number } {
  const { session } = useBench();
  const doc = useScene();
  const key = meshKey(doc);
  const [shell, setShell] = useState<SetShell | null>(null);
  useEffect(() => {
    let current = true;
    session.worker.shell(doc).then(
      (s) => current && setShell(s),
      () => undefined, // the picture says what is wrong with the set
    );
    return () => {
      current = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what the set depends on is in the key
  }, [key, session]);
  const pieces = useMemo(() => (shell ? piecesOf(shell) : []), [shell]);
  useEffect(() => () => pieces.forEach((p) => p.geometry.dispose()), [pieces]);
  return { pieces, triangles: shell ? trianglesOf(shell) : 0 };
}

/**
 * A triangle without area. It is drawn before the set is here: a browser waits for a program until all is done that was asked before,
 * and once the set is being brought in that takes seconds on a slow machine.
 */
const NOTHING = new THREE.BufferGeometry()
  .setAttribute("position", new THREE.BufferAttribute(new Float32Array(9), 3))
  .setAttribute("color", new THREE.BufferAttribute(new Uint8Array(9), 3, true));

export function SetMeshes({ pieces }: { pieces: readonly SetPiece[] }) {
  const objects = useMemo(() => {
    const meshes = new Map<number, THREE.Mesh[]>();
    for (const p of pieces) meshes.set(p.object, [...(meshes.get(p.object) ?? []), meshOfPiece(p, material)]);
    return [...meshes];
  }, [pieces]);
  if (objects.length === 0) return <mesh geometry={NOTHING} material={material} frustumCulled={false} />;
  return objects.map(([index, meshes]) => (
    <group key={index} name={`object ${index}`}>
      {meshes.map((mesh) => (
        <primitive key={mesh.uuid} object={mesh} />
      ))}
    </group>
  ));
}
