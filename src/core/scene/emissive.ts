/** Emissive triangles as lights. */
import { decodeSrgb, luminance } from "../optics/colour";
import type { SceneGeometry, SurfaceMaterial, Texture, TextureUse } from "../data/geometry";
import { E_AREA, E_CORNER, E_EDGE1, E_EDGE2, E_VARIES, E_LUMINANCE, E_TRIANGLE, EMISSIVE_WORDS } from "../layout/layout";

/** Records of all triangles that shine and have an area, by rising number. */
export function emissiveTriangles(geometry: SceneGeometry): Float64Array {
  const shines = geometry.materials.map((m) => luminance(...m.emission) > 0);
  const found: number[] = [];
  for (let i = 0; i < geometry.material.length; i++) if (shines[geometry.material[i]!]) found.push(i);
  const out = new Float64Array(found.length * EMISSIVE_WORDS);
  let used = 0;
  for (const i of found) {
    const p = geometry.positions.subarray(9 * i, 9 * i + 9);
    const e1 = [p[3]! - p[0]!, p[4]! - p[1]!, p[5]! - p[2]!] as const,
      e2 = [p[6]! - p[0]!, p[7]! - p[1]!, p[8]! - p[2]!] as const;
    const area = 0.5 * Math.hypot(e1[1] * e2[2] - e1[2] * e2[1], e1[2] * e2[0] - e1[0] * e2[2], e1[0] * e2[1] - e1[1] * e2[0]);
    if (!(area > 1e-20)) continue;
    const material = geometry.materials[geometry.material[i]!]!;
    const looks = differs(material);
    const share = looks ? meanShare(geometry, i, material) : [1, 1, 1];
    const at = used++ * EMISSIVE_WORDS;
    out.set(p.subarray(0, 3), at + E_CORNER);
    out.set(e1, at + E_EDGE1);
    out.set(e2, at + E_EDGE2);
    out.set(
      material.emission.map((v, k) => v * share[k]!),
      at + E_LUMINANCE,
    );
    out[at + E_AREA] = area;
    out[at + E_TRIANGLE] = i;
    out[at + E_VARIES] = looks ? 1 : 0;
  }
  return out.subarray(0, used * EMISSIVE_WORDS);
}

/** Whether pictures or holes make the light of a material differ from place to place. */
const differs = (m: SurfaceMaterial): boolean =>
  m.textures?.emission !== undefined || m.opacity < 1 || (m.alphaMode ?? "opaque") !== "opaque";

/** Points of a triangle that its mean is taken from, at least and at most. */
const MIN_POINTS = 64;
const MAX_POINTS = 4096;
/** Nothing is taken for darker than this share: what is dark at all points looked at may be bright between them, and must be asked for too. */
const MIN_SHARE = 0.02;

/** About what share of its emission a triangle gives on average, per band. It only says how often the triangle is asked. */
function meanShare({ uvs, uvsSecond, textures = [] }: SceneGeometry, triangle: number, m: SurfaceMaterial): number[] {
  const emission = m.textures?.emission,
    base = (m.alphaMode ?? "opaque") === "opaque" ? undefined : m.textures?.base;
  if (!uvs || (!emission && !base)) return [m.opacity, m.opacity, m.opacity].map((v) => Math.max(MIN_SHARE, v));
  const corners = (use: TextureUse | undefined): Float32Array =>
    (use?.set ? (uvsSecond ?? uvs) : uvs).subarray(6 * triangle, 6 * triangle + 6);
  const seen = [emission, base].map((use) => (use ? texels(corners(use), use, textures[use.texture]!) : 0));
  const side = Math.ceil(Math.sqrt(Math.min(MAX_POINTS, Math.max(MIN_POINTS, ...seen))));
  const sum = [0, 0, 0];
  for (let i = 0; i < side; i++)
    for (let j = 0; j < side; j++) {
      // even over the triangle
      const s = Math.sqrt((i + 0.5) / side);
      const a = 1 - s,
        b = (s * (j + 0.5)) / side;
      const texel = (use: TextureUse): number[] => {
        const c = corners(use);
        const u = c[0]! + a * (c[2]! - c[0]!) + b * (c[4]! - c[0]!),
          v = c[1]! + a * (c[3]! - c[1]!) + b * (c[5]! - c[1]!);
        return texelAt(u, v, use, textures[use.texture]!);
      };
      const opacity = m.opacity * (base ? texel(base)[3]! : 1);
      const k = m.alphaMode === "mask" ? (opacity < (m.cutoff ?? 0.5) ? 0 : 1) : opacity;
      const t = emission ? texel(emission) : [1, 1, 1];
      for (let band = 0; band < 3; band++) sum[band]! += k * t[band]!;
    }
  return sum.map((v) => Math.max(MIN_SHARE, v / side ** 2));
}

const placeIn = (u: number, v: number, { transform: t }: TextureUse): [number, number] => [
  t[0] * u + t[1] * v + t[2],
  t[3] * u + t[4] * v + t[5],
];

/** About how many texels a triangle covers. */
function texels(c: Float32Array, use: TextureUse, { width, height }: Texture): number {
  const [a, b, d] = [0, 2, 4].map((k) => placeIn(c[k]!, c[k + 1]!, use)) as [[number, number], [number, number], [number, number]];
  const covered = 0.5 * Math.abs((b[0] - a[0]) * (d[1] - a[1]) - (b[1] - a[1]) * (d[0] - a[0])) * width * height;
  return Number.isFinite(covered) ? covered : 0;
}

/** The nearest texel, 0 … 1, colours linear. */
function texelAt(u: number, v: number, use: TextureUse, { width, height, rgba, srgb, wrap }: Texture): number[] {
  const [x, y] = placeIn(u, v, use);
  const inside = (t: number, n: number, mode: number): number => {
    if (!(Math.abs(t) < 1e6)) return 0;
    const i = Math.floor(t * n);
    if (mode === 2) return Math.max(0, Math.min(n - 1, i));
    if (mode === 0) return ((i % n) + n) % n;
    const k = ((i % (2 * n)) + 2 * n) % (2 * n);
    return k < n ? k : 2 * n - 1 - k;
  };
  const at = 4 * (inside(y, height, wrap[1]) * width + inside(x, width, wrap[0]));
  return [0, 1, 2, 3].map((k) => {
    const value = rgba[at + k]! / 255;
    if (!srgb || k === 3) return value;
    return decodeSrgb(value);
  });
}
