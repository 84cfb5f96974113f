/** What compose.ts does of one layer, as a fragment shader: a step a pass. Kept beside it: a test holds both against each other. */
import { CURVE_PLACES } from "./compose";
import { DARKEST, THIN } from "./reair";
import { BLENDS } from "./stack";

/** Numbers of what is laid. */
export const LAID_KINDS = { planes: 0, colour: 1, ramp: 2, end: 3 } as const;

const blendCases = BLENDS.map((blend, i) => {
  const result = {
    over: "l",
    add: "b + l",
    screen: "mix(max(b, l), b + l - b * l, vec3(lessThan(b, vec3(1.0))) * vec3(lessThan(l, vec3(1.0))))",
    multiply: "b * l",
    maximum: "max(b, l)",
    difference: "abs(b - l)",
  }[blend];
  return `  if (blend == ${i}) return ${result};`;
}).join("\n");

/** One step: `below` and what is laid give what is there after it, in shares of white. */
export const LAY_SOURCE = `#version 300 es
precision highp float;
precision highp int;
uniform sampler2D below, content, mask, left, factors, curveTable;
uniform int kind, blend, role;
uniform bool masked, curved, covers;
uniform float opacity, unit, aspect;
uniform vec3 factor, first, second;
uniform vec2 a, b, size;
out vec4 result;
vec3 blended(vec3 b, vec3 l) {
${blendCases}
  return l;
}
float curveFactor(float n) {
  if (!(n > 0.0)) return 1.0;
  float at = ${CURVE_PLACES}.0 * sqrt(n / (1.0 + n));
  int i = min(${CURVE_PLACES - 1}, int(at));
  float u = mix(texelFetch(curveTable, ivec2(i, 0), 0).r, texelFetch(curveTable, ivec2(i + 1, 0), 0).r, at - float(i));
  return u * u / max(1e-4, 1.0 - u * u) / n;
}
vec3 thicker(vec3 t, float k) {
  vec3 clipped = clamp(t, ${DARKEST}, 1.0);
  if (role == 2) return pow(clipped, vec3(k - 1.0));
  vec3 depth = -log(clipped);
  vec3 kd = k * depth;
  vec3 thin = k * (1.0 - kd / 2.0 + kd * kd / 6.0) / (1.0 - depth / 2.0 + depth * depth / 6.0);
  vec3 thick = (1.0 - exp(-kd)) / max(1.0 - exp(-depth), 1e-6);
  return mix(thick, thin, vec3(lessThan(depth, vec3(${THIN}))));
}
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy);
  vec4 there = texelFetch(below, p, 0);
  float share = opacity * (masked ? texelFetch(mask, p, 0).r : 1.0);
  vec4 given = kind == ${LAID_KINDS.planes} || kind == ${LAID_KINDS.end} ? texelFetch(content, p, 0) : vec4(first, 1.0);
  vec3 laid = given.rgb;
  if (kind == ${LAID_KINDS.planes}) {
    laid *= unit;
    if (role != 0) laid *= thicker(texelFetch(left, p, 0).rgb, texelFetch(factors, p, 0).r);
  }
  if (kind == ${LAID_KINDS.ramp}) {
    vec2 d = vec2((b.x - a.x) * aspect, b.y - a.y);
    vec2 at = (vec2(p) + 0.5) / size - a;
    float l = dot(d, d);
    float t = l > 0.0 ? clamp(dot(vec2(at.x * aspect, at.y), d) / l, 0.0, 1.0) : 0.0;
    laid = mix(first, second, t);
  }
  laid *= factor;
  if (curved) laid *= curveFactor(max(laid.r, max(laid.g, laid.b)));
  if (share == 0.0) result = there;
  else if (covers) result = vec4((1.0 - share * clamp(given.a, 0.0, 1.0)) * there.rgb + share * laid, 1.0);
  else result = vec4(there.rgb + share * (blended(there.rgb, laid) - there.rgb), 1.0);
}
`;
