/** Emissive triangles as lights. */
import { luminance } from "../optics/colour";
import type { SceneGeometry } from "./geometry";
import { G_AREA, G_CORNER, G_EDGE1, G_EDGE2, G_LUMINANCE, G_TRIANGLE, GLOW_WORDS } from "./layout";

/** Records of all triangles that shine and have an area, by rising number. */
export function emissiveTriangles(geometry: SceneGeometry): Float64Array {
  const shines = geometry.materials.map((m) => luminance(...m.emission) > 0);
  const found: number[] = [];
  for (let i = 0; i < geometry.material.length; i++) if (shines[geometry.material[i]!]) found.push(i);
  const out = new Float64Array(found.length * GLOW_WORDS);
  let used = 0;
  for (const i of found) {
    const p = geometry.positions.subarray(9 * i, 9 * i + 9);
    const e1 = [p[3]! - p[0]!, p[4]! - p[1]!, p[5]! - p[2]!] as const,
      e2 = [p[6]! - p[0]!, p[7]! - p[1]!, p[8]! - p[2]!] as const;
    const area = 0.5 * Math.hypot(e1[1] * e2[2] - e1[2] * e2[1], e1[2] * e2[0] - e1[0] * e2[2], e1[0] * e2[1] - e1[1] * e2[0]);
    if (!(area > 1e-20)) continue;
    const at = used++ * GLOW_WORDS;
    out.set(p.subarray(0, 3), at + G_CORNER);
    out.set(e1, at + G_EDGE1);
    out.set(e2, at + G_EDGE2);
    out.set(geometry.materials[geometry.material[i]!]!.emission, at + G_LUMINANCE);
    out[at + G_AREA] = area;
    out[at + G_TRIANGLE] = i;
  }
  return out.subarray(0, used * GLOW_WORDS);
}
