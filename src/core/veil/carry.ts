/**
 * A rendered picture carried along while its air is shaped: the veil of the air as it was and as it is say by how much each
 * pixel's air and surfaces change, so that shafts, break-up and the light of many scatterings stay as they were rendered.
 * A preview for the time of a drag; what stays true of shadows in the air is up to the render that follows.
 */
import type { Medium, SceneDocument } from "../document/schema";
import { F_ALBEDO, F_CLEAR_COUNT, F_COUNT, F_DISTANCE, F_HITS, F_NORMAL, F_TRANSMITTANCE } from "../layout/layout";
import type { Film } from "../film/film";
import type { Development } from "../film/develop";
import { glareOf, glares } from "../film/glare";
import { lightOf } from "../film/light";
import { FINISH_SOURCE } from "./finish-source";
import { SUN_AT, sunMapUniforms, veilSource } from "./shader";
import { sameBut } from "./tables";

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

/** What of the sun may change where a map tells where its light comes. */
const SUN_SHOWN: ReadonlySet<keyof SceneDocument["sun"]> = new Set([
  "azimuth",
  "elevation",
  "illuminance",
  "temperature",
  "tint",
  "air",
  "surfaces",
]);

/** Whether the air of a document is shown with the shadows that a map of sunlight tells of: a veil has none, and a gobo is no part of the map. */
export function sunMapped(doc: SceneDocument): boolean {
  return doc.render.level !== "veil" && doc.sun.on && doc.sun.air > 0 && doc.sun.illuminance > 0 && doc.sun.gobo === null;
}

function sunCarries(from: SceneDocument, to: SceneDocument): boolean {
  const [a, b] = [from.sun, to.sun];
  if (a === b) return true;
  return sunMapped(from) && sunMapped(to) && (Object.keys(b) as (keyof typeof b)[]).every((key) => SUN_SHOWN.has(key) || a[key] === b[key]);
}

/** Whether all that differs between two documents is something that a veil shows, the sun with its map. */
export function carries(from: SceneDocument, to: SceneDocument): boolean {
  if (!sameBut(from, to, ["air", "sun"]) || from.air.length !== to.air.length || !sunCarries(from, to)) return false;
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
  /** Where the surfaces that are seen face, and their base colour; 0 where none is. */
  normal: Float32Array;
  albedo: Float32Array;
  /** What glare adds to the light of air and surfaces; null where there is none. */
  glare: Float32Array | null;
}

/** What is left of surfaces at least, where what stands behind the air is reckoned from what is seen of it. */
const LEFT = 0.02;

/**
 * Takes the means out of a film, cleaned where they are; null while any of its pixels lacks a sample, and of a window of a frame. Until the frame without air has
 * samples everywhere, it is reckoned from what the air leaves of it.
 */
export function carriedFilm(film: Film, { balance, exposure, finish }: Partial<Development> = {}): CarriedFilm | null {
  const { data: d, width, height, stride, crop } = film;
  // its rays are those of whole frames
  if (film.frame) return null;
  if (crop[0] > 0 || crop[1] > 0 || crop[2] < width || crop[3] < height) return null;
  const n = width * height;
  let bare = true;
  for (let p = 0; p < n * stride; p += stride) {
    if (d[p + F_COUNT] === 0) return null;
    bare &&= d[p + F_CLEAR_COUNT] !== 0;
  }
  const light = (pass: "clear" | "air" | "surfaces"): Float32Array => four(lightOf(film, pass, balance));
  const feature = (first: number): Float32Array => {
    const out = new Float32Array(4 * n);
    for (let i = 0, p = 0; i < n; i++, p += stride) {
      const hits = d[p + F_HITS]!;
      if (hits > 0) for (let k = 0; k < 3; k++) out[4 * i + k] = d[p + first + k]! / hits;
    }
    return out;
  };
  const surfaces = light("surfaces");
  const clear = bare ? light("clear") : surfaces.slice();
  for (let i = 0, p = 0; i < n; i++, p += stride) {
    if (!bare) for (let k = 0; k < 3; k++) clear[4 * i + k]! /= Math.max(LEFT, d[p + F_TRANSMITTANCE + k]! / d[p + F_COUNT]!);
    const hits = d[p + F_HITS]!;
    clear[4 * i + 3] = 2 * hits >= d[p + F_COUNT]! ? d[p + F_DISTANCE]! / hits : 1e30;
  }
  const glare =
    finish?.on && glares(finish.glare)
      ? four(glareOf(lightOf(film, "beauty", balance), width, height, finish.glare, height, exposure ?? 0))
      : null;
  return { width, height, clear, air: light("air"), surfaces, normal: feature(F_NORMAL), albedo: feature(F_ALBEDO), glare };
}

/** Three numbers a pixel with a fourth, 0. */
function four(rgb: Float32Array): Float32Array {
  const out = new Float32Array((rgb.length / 3) * 4);
  for (let i = 0, k = 0; i < out.length; i += 4, k += 3) out.set(rgb.subarray(k, k + 3), i);
  return out;
}

/**
 * First program, at a lower size than the picture: the veil of one pixel in so many. Three float targets: its light, with the distance
 * of the surface behind it (m; 1e30: none); what it leaves of what stands there; sunlight that was scattered once, where a map tells
 * where it comes, with what the air leaves of sunlight on its way to that surface (mean of the bands).
 */
export const VEIL_SOURCE = `${veilSource(false)}
uniform sampler2D clearTable;
uniform vec2 size;
layout(location = 0) out vec4 light;
layout(location = 1) out vec4 left;
layout(location = 2) out vec4 sun;
void main() {
  vec2 p = gl_FragCoord.xy / size;
  ivec2 film = textureSize(clearTable, 0);
  float far = texelFetch(clearTable, clamp(ivec2(vec2(p.x, 1.0 - p.y) * vec2(film)), ivec2(0), film - 1), 0).a;
  vec3 a = (2.0 * p.x - 1.0) * pword(P_CAM_HALF_X) * pvec(P_CAM_RIGHT) + (2.0 * p.y - 1.0) * pword(P_CAM_HALF_Y) * pvec(P_CAM_UP);
  vec3 from = pvec(P_CAM_ORIGIN), along = pvec(P_CAM_FORWARD);
  pixelX = (2.0 / size.x) * pword(P_CAM_HALF_X) * pvec(P_CAM_RIGHT);
  pixelY = (2.0 / size.y) * pword(P_CAM_HALF_Y) * pvec(P_CAM_UP);
  raysSpread = int(pword(P_CAM_KIND)) == CAMERA_PERSPECTIVE;
  if (raysSpread) {
    float k = 1.0 / length(along + a);
    along = k * (along + a);
    pixelX *= k;
    pixelY *= k;
  } else from += a;
  light = vec4(veil(from, along, far, vec3(0.0)), far);
  vec3 coming = far < FAR ? exp(-opticalDepth(from + far * along, pvec(P_SUN_DIR), FAR, RAY_SHADOW)) : vec3(0.0);
  sun = vec4(sunOnce, dot(coming, vec3(1.0 / 3.0)));
  left = vec4(exp(-opticalDepth(from, along, far, far < FAR ? RAY_CAMERA : RAY_SKY)), 1.0);
}`;

/** Second program, at the picture's size: the rendered picture with what the veils changed, developed as develop.ts does, dithered. */
export const CARRIED_SOURCE = `#version 300 es
precision highp float;
precision highp sampler2D;
uniform sampler2D clearTable, airTable, surfaceTable, normalTable, albedoTable;
/** What glare adds to the picture as it was rendered, where there is any. */
uniform sampler2D glareTable;
uniform bool glared;
uniform sampler2D lightBefore, leftBefore, sunBefore, lightNow, leftNow, sunNow;
/** Rays of the lens: from here, this way, across and up to the frame's edges; one way for all where it is parallel. */
uniform vec3 from, forward, right, up;
uniform bool parallel;
/** The sun as it was and as it is: direction, illuminance of surfaces; whether that differs. */
uniform bool sunChanged;
uniform vec3 sunWay, sunWayBefore, sunLight, sunLightBefore;
/** Tangent of half its disk. */
uniform float sunSpread;
${sunMapUniforms("mapNow")}${sunMapUniforms("mapBefore")}uniform mat3 development;
/** Luminance that is white: a thousandth of it counts as nothing. */
uniform float white;
out vec4 colour;
${FINISH_SOURCE}${SUN_AT}
const int TAPS = 24;
/** Share of a surface's light that stays at least when the sun leaves it. */
const float SHADE = 0.06;
/**
 * What a matt white surface at x would send of sunlight (times π), without the air before the lens. The border of a shadow is as soft
 * as the sun's disk makes it at the distance of what throws it (of those about), and softer than the map's texels, between which
 * a bar may fall. @param spread tangent of half the disk
 */
vec3 sunOn(vec3 x, vec3 n, vec3 way, vec3 light, float coming, float spread, sampler2D table, int side, vec3 u, vec3 v, vec2 low) {
  float c = dot(n, way);
  if (c <= 0.0) return vec3(0.0);
  float texel = 1.0 / length(u);
  // off the surface, which would lie in its own shadow
  x += 2.0 * texel * n;
  vec3 across = normalize(u), along = normalize(v);
  float h = dot(x, way), gap = 0.0, found = 0.0;
  float radius = 3.0 * texel;
  for (int search = 0; search < 2; search++) {
    vec3 sum = vec3(0.0);
    for (int i = 0; i < TAPS; i++) {
      float r = radius * sqrt((float(i) + 0.5) / float(TAPS)), a = 2.3999632 * float(i);
      vec3 y = x + r * (cos(a) * across + sin(a) * along);
      ivec2 p = ivec2(floor(vec2(dot(y, u), dot(y, v)) - low));
      float above = side > 0 && min(p.x, p.y) >= 0 && max(p.x, p.y) < side ? texelFetch(table, p, 0).r - h : 0.0;
      if (above > 0.0) {
        gap += above;
        found += 1.0;
      }
      sum += sunAt(y, way, table, side, u, v, low);
    }
    if (search == 1 || found == 0.0 || found == float(TAPS)) return c * coming * light * sum / float(TAPS);
    radius = max(2.0 * texel, spread * gap / found);
  }
}
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
  vec4 sunWas = vec4(0.0), sunIs = vec4(0.0);
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
    sunWas += w * texelFetch(sunBefore, q, 0);
    sunIs += w * texelFetch(sunNow, q, 0);
    sum += w;
  }
  was /= sum;
  is /= sum;
  leftWas /= sum;
  leftIs /= sum;
  sunWas /= sum;
  sunIs /= sum;
  vec3 air = texelFetch(airTable, place, 0).rgb, none = vec3(0.001 * white);
  // sunlight whose shadows are known changes by what it is; of the rest, the air's light goes with its veil's, in what relation
  // the render found; where there was next to none, it is added
  vec3 relation = clamp((max(vec3(0.0), air - sunWas.rgb) + none) / (was + none), 0.0, 4.0);
  air = max(vec3(0.0), air + sunIs.rgb - sunWas.rgb + relation * (is - was));
  // behind thick air too little was seen of a surface to carry along
  vec3 seen = texelFetch(surfaceTable, place, 0).rgb * leftIs / max(leftWas, vec3(1e-6));
  if (sunChanged && clear.a < 1e30) {
    vec2 p = 2.0 * gl_FragCoord.xy / vec2(film) - 1.0;
    vec3 aside = p.x * right + p.y * up;
    vec3 x = parallel ? from + aside + clear.a * forward : from + clear.a * normalize(forward + aside);
    vec3 n = texelFetch(normalTable, place, 0).rgb;
    vec3 matt = texelFetch(albedoTable, place, 0).rgb * 0.3183098862;
    vec3 gone = matt * sunOn(x, n, sunWayBefore, sunLightBefore, sunWas.a, sunSpread, mapBeforeTable, mapBeforeSide, mapBeforeU, mapBeforeV, mapBeforeLow);
    vec3 come = matt * sunOn(x, n, sunWay, sunLight, sunIs.a, sunSpread, mapNowTable, mapNowSide, mapNowU, mapNowV, mapNowLow);
    // never quite all of what was seen goes: the rest of the light stays in the shade
    clear.rgb += come - min(gone, (1.0 - SHADE) * clear.rgb);
    seen += come * leftIs - min(gone * leftIs, (1.0 - SHADE) * seen);
  }
  vec3 surface = mix(clear.rgb * leftIs, seen, smoothstep(0.02, 0.1, leftWas));
  float wobble = fract(0.7548776662 * gl_FragCoord.x + 0.5698402910 * gl_FragCoord.y) - 0.5;
  vec3 light = air + surface;
  // what is taken away by glare is no more than there is
  if (glared) light = max(light + texelFetch(glareTable, place, 0).rgb, vec3(0.0));
  colour = vec4(finished(development * light) + wobble / 255.0, 1.0);
}`;
