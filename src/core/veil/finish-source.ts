/** The finish of the picture (film/finish.ts) in a fragment shader, by the table that its `Finisher` makes. */

/** Places of the table. */
export const FINISH_SIZE = 1024;

export const FINISH_SOURCE = `/** Finisher.shaderTable: tones by place and how they pale, then display values of each band by display value; and its saturation. */
uniform sampler2D finishTable;
uniform float saturation;
/** The look-up table: of a cube green and blue run down, blue last. No size: none. */
uniform sampler2D lutTable;
uniform int lutSize;
uniform bool lutIsCube;
uniform float lutStrength;
uniform vec3 lutFrom, lutTo;
vec3 lutAt(ivec3 p) { return texelFetch(lutTable, ivec2(p.x, p.y + lutSize * p.z), 0).rgb; }
/** What LutReader.look does. */
vec3 looked(vec3 x) {
  vec3 at = clamp((x - lutFrom) / (lutTo - lutFrom), 0.0, 1.0) * float(lutSize - 1);
  ivec3 p = min(ivec3(at), ivec3(lutSize - 2));
  vec3 f = at - vec3(p);
  if (!lutIsCube) {
    vec3 here = vec3(lutAt(ivec3(p.x, 0, 0)).r, lutAt(ivec3(p.y, 0, 0)).g, lutAt(ivec3(p.z, 0, 0)).b);
    vec3 next = vec3(lutAt(ivec3(p.x + 1, 0, 0)).r, lutAt(ivec3(p.y + 1, 0, 0)).g, lutAt(ivec3(p.z + 1, 0, 0)).b);
    return mix(here, next, f);
  }
  ivec3 X = ivec3(1, 0, 0), Y = ivec3(0, 1, 0), Z = ivec3(0, 0, 1);
  ivec3 first = f.x >= f.y ? (f.x >= f.z ? X : Z) : (f.y >= f.z ? Y : Z);
  ivec3 last = f.x < f.y ? (f.x < f.z ? X : Z) : (f.y < f.z ? Y : Z);
  float most = max(f.x, max(f.y, f.z)), least = min(f.x, min(f.y, f.z)), middle = f.x + f.y + f.z - most - least;
  return (1.0 - most) * lutAt(p) + (most - middle) * lutAt(p + first) + (middle - least) * lutAt(p + 1 - last) + least * lutAt(p + 1);
}
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
  x = vec3(finishAt(x.r, 1).r, finishAt(x.g, 1).g, finishAt(x.b, 1).b);
  return lutSize > 0 ? clamp(mix(x, looked(x), lutStrength), 0.0, 1.0) : x;
}
`;
