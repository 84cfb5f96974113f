/**
 * A rendered picture carried along while its air is shaped: the veil of the air as it was and as it is say by how much each
 * pixel's air and surfaces change, so that shafts, break-up and the light of many scatterings stay as they were rendered.
 * A preview for the time of a drag; what stays true of shadows in the air is up to the render that follows.
 */
import type { Medium, SceneDocument } from "../document/schema";
import { F_AIR, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_DISTANCE, F_HITS, F_SURFACES } from "../layout/layout";
import type { Film } from "../film/film";
import { SHOULDER } from "../film/develop";
import { veilSource } from "./shader";
import { sameButAir } from "./tables";

/** What of a medium a veil shows; while anything else is changed, it would stand still. */
const SHOWN: ReadonlySet<keyof Medium> = new Set([
  "name",
  "density",
  "scattering",
  "absorption",
  "emission",
  "anisotropy",
  "phase",
  "region",
  "follows",
  "height",
]);

/** Whether all that differs between two documents is something that a veil shows. */
export function carries(from: SceneDocument, to: SceneDocument): boolean {
  if (!sameButAir(from, to) || from.air.length !== to.air.length) return false;
  return from.air.every((a, i) => {
    const b = to.air[i]!;
    if (a === b) return true;
    if (!(Object.keys(b) as (keyof Medium)[]).every((key) => SHOWN.has(key) || a[key] === b[key])) return false;
    return b.grid === null && a.region.kind !== "mesh" && b.region.kind !== "mesh";
  });
}

/** Means of a film, four floats a pixel, rows from the top. */
export interface CarriedFilm {
  width: number;
  height: number;
  /** Light without air (rgb), and distance along the ray in m; 1e30 where less than half of a pixel is covered. */
  clear: Float32Array;
  /** Light of the air. */
  air: Float32Array;
  /** Light of surfaces and background, as the air leaves it. */
  surfaces: Float32Array;
}

/** Takes the means out of a film; null while any of its pixels lacks a sample with air or one without. */
export function carriedFilm({ data: d, width, height, stride, crop }: Film): CarriedFilm | null {
  if (crop[0] > 0 || crop[1] > 0 || crop[2] < width || crop[3] < height) return null;
  const n = width * height;
  const clear = new Float32Array(4 * n),
    air = new Float32Array(4 * n),
    surfaces = new Float32Array(4 * n);
  for (let i = 0; i < n; i++) {
    const p = i * stride;
    const count = d[p + F_COUNT]!,
      bare = d[p + F_CLEAR_COUNT]!,
      hits = d[p + F_HITS]!;
    if (count === 0 || bare === 0) return null;
    for (let k = 0; k < 3; k++) {
      clear[4 * i + k] = d[p + F_CLEAR + k]! / bare;
      air[4 * i + k] = d[p + F_AIR + k]! / count;
      surfaces[4 * i + k] = d[p + F_SURFACES + k]! / count;
    }
    clear[4 * i + 3] = 2 * hits >= count ? d[p + F_DISTANCE]! / hits : 1e30;
  }
  return { width, height, clear, air, surfaces };
}

/**
 * First program, at a lower size than the picture: the veil of one pixel in so many. Two float targets: its light, with the distance
 * of the surface behind it (m; 1e30: none); what it leaves of what stands there.
 */
export const VEIL_SOURCE = `${veilSource(false)}
uniform sampler2D clearTable;
uniform vec2 size;
layout(location = 0) out vec4 light;
layout(location = 1) out vec4 left;
void main() {
  vec2 p = gl_FragCoord.xy / size;
  ivec2 film = textureSize(clearTable, 0);
  float far = texelFetch(clearTable, clamp(ivec2(vec2(p.x, 1.0 - p.y) * vec2(film)), ivec2(0), film - 1), 0).a;
  vec3 a = (2.0 * p.x - 1.0) * pword(P_CAM_HALF_X) * pvec(P_CAM_RIGHT) + (2.0 * p.y - 1.0) * pword(P_CAM_HALF_Y) * pvec(P_CAM_UP);
  vec3 from = pvec(P_CAM_ORIGIN), along = pvec(P_CAM_FORWARD);
  if (int(pword(P_CAM_KIND)) == CAMERA_PERSPECTIVE) along = normalize(along + a);
  else from += a;
  light = vec4(veil(from, along, far, vec3(0.0)), far);
  left = vec4(exp(-opticalDepth(from, along, far, far < FAR ? RAY_CAMERA : RAY_SKY)), 1.0);
}`;

/** Second program, at the picture's size: the rendered picture with what the veils changed, developed as develop.ts does, dithered. */
export const CARRIED_SOURCE = `#version 300 es
precision highp float;
precision highp sampler2D;
uniform sampler2D clearTable, airTable, surfaceTable;
uniform sampler2D lightBefore, leftBefore, lightNow, leftNow;
uniform mat3 development;
/** Luminance that is white: a thousandth of it counts as nothing. */
uniform float white;
out vec4 colour;
vec3 shoulder(vec3 x) {
  const float s = ${SHOULDER.toFixed(3)}, r = ${(1 - SHOULDER).toFixed(3)};
  return mix(x, 1.0 - r * exp(-(x - s) / r), step(s, x));
}
vec3 encode(vec3 x) { return mix(12.92 * x, 1.055 * pow(max(x, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, x)); }
void main() {
  ivec2 film = textureSize(clearTable, 0);
  ivec2 here = ivec2(gl_FragCoord.xy);
  ivec2 place = ivec2(here.x, film.y - 1 - here.y);
  vec4 clear = texelFetch(clearTable, place, 0);
  // of the four veils about it, those at a like distance: nothing of a far wall's air comes over an edge
  ivec2 low = textureSize(lightBefore, 0);
  vec2 at = gl_FragCoord.xy / vec2(film) * vec2(low) - 0.5;
  ivec2 corner = ivec2(floor(at));
  vec2 f = at - vec2(corner);
  vec3 was = vec3(0.0), is = vec3(0.0), leftWas = vec3(0.0), leftIs = vec3(0.0);
  float sum = 0.0;
  for (int i = 0; i < 4; i++) {
    ivec2 step2 = ivec2(i & 1, i >> 1);
    ivec2 q = clamp(corner + step2, ivec2(0), low - 1);
    vec4 before = texelFetch(lightBefore, q, 0);
    vec2 b = mix(1.0 - f, f, vec2(step2));
    float w = b.x * b.y * exp(-6.0 * min(10.0, abs(log(before.a / clear.a)))) + 1e-20;
    was += w * before.rgb;
    is += w * texelFetch(lightNow, q, 0).rgb;
    leftWas += w * texelFetch(leftBefore, q, 0).rgb;
    leftIs += w * texelFetch(leftNow, q, 0).rgb;
    sum += w;
  }
  was /= sum;
  is /= sum;
  leftWas /= sum;
  leftIs /= sum;
  vec3 air = texelFetch(airTable, place, 0).rgb, none = vec3(0.001 * white);
  // the air's light goes with its veil's, in what relation the render found; where there was next to none, it is added
  vec3 relation = clamp((air + none) / (was + none), 0.0, 4.0);
  air = max(vec3(0.0), air + relation * (is - was));
  // behind thick air too little was seen of a surface to carry along
  vec3 seen = texelFetch(surfaceTable, place, 0).rgb * leftIs / max(leftWas, vec3(1e-6));
  vec3 surface = mix(clear.rgb * leftIs, seen, smoothstep(0.02, 0.1, leftWas));
  float wobble = fract(0.7548776662 * gl_FragCoord.x + 0.5698402910 * gl_FragCoord.y) - 0.5;
  colour = vec4(encode(shoulder(max(vec3(0.0), development * (air + surface)))) + wobble / 255.0, 1.0);
}`;
