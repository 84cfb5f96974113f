/** The finish of the picture (film/finish.ts) in a fragment shader, by the table that its `Finisher` makes. */

/** Places of the table. */
export const FINISH_SIZE = 1024;

export const FINISH_SOURCE = `/** Finisher.shaderTable: tones by place and how they pale, then display values of each band by display value; and its saturation. */
uniform sampler2D finishTable;
uniform float saturation;
vec3 encode(vec3 x) { return mix(12.92 * x, 1.055 * pow(max(x, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, x)); }
vec4 finishAt(float u, int row) {
  float at = clamp(u, 0.0, 1.0) * float(${FINISH_SIZE - 1});
  int i = min(int(at), ${FINISH_SIZE - 2});
  return mix(texelFetch(finishTable, ivec2(i, row), 0), texelFetch(finishTable, ivec2(i + 1, row), 0), at - float(i));
}
/** What Finisher.putRow does of exposed light. */
vec3 finished(vec3 x) {
  float l = dot(x, vec3(0.2126, 0.7152, 0.0722));
  x = l + saturation * (x - l);
  float least = min(x.r, min(x.g, x.b));
  if (least < 0.0) x = l > 0.0 ? l + l / (l - least) * (x - l) : vec3(0.0);
  float n = max(x.r, max(x.g, x.b));
  if (n > 0.0) {
    vec4 tone = finishAt(sqrt(n / (1.0 + n)), 0);
    x = tone.x * ((1.0 - tone.y) * x / n + tone.y);
  }
  x = encode(clamp(x, 0.0, 1.0));
  return vec3(finishAt(x.r, 1).r, finishAt(x.g, 1).g, finishAt(x.b, 1).b);
}
`;
