/** The set in the drawings of space: one mesh an object, lit plainly so that shapes read. */
import { useEffect, useMemo, useState } from "react";
import * as THREE from "three";
import { solidKey } from "#core/scene/compile";
import type { SetShell } from "../scene-worker";
import { useBench, useDocument } from "../context";

/** Plain light from above and the side of the eye; faces by derivatives, so that no normals are kept. */
const material = new THREE.ShaderMaterial({
  vertexColors: true,
  side: THREE.DoubleSide,
  vertexShader: `
    varying vec3 seen;
    varying vec3 tone;
    void main() {
      vec4 p = modelViewMatrix * vec4(position, 1.0);
      seen = p.xyz;
      tone = color;
      gl_Position = projectionMatrix * p;
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

/** Geometry of the whole set and where each object lies in it; made anew when the set changes. */
export function useShell(): { shell: SetShell | null; geometries: { index: number; geometry: THREE.BufferGeometry }[] } {
  const { session } = useBench();
  const doc = useDocument();
  const key = solidKey(doc);
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
    // what the set depends on is in the key
  }, [key, session]);
  const geometries = useMemo(() => {
    if (!shell) return [];
    return shell.objects.map(({ index, first, count }) => {
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(shell.positions.subarray(9 * first, 9 * (first + count)), 3));
      geometry.setAttribute("color", new THREE.BufferAttribute(shell.colours.subarray(9 * first, 9 * (first + count)), 3, true));
      geometry.computeBoundingSphere();
      return { index, geometry };
    });
  }, [shell]);
  useEffect(() => () => geometries.forEach((g) => g.geometry.dispose()), [geometries]);
  return { shell, geometries };
}

export function SetMeshes({ geometries }: { geometries: { index: number; geometry: THREE.BufferGeometry }[] }) {
  return geometries.map(({ index, geometry }) => (
    <mesh key={index} name={`object ${index}`} geometry={geometry} material={material} userData={{ object: index }} />
  ));
}
