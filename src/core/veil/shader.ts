/**
 * The level veil as GLSL ES 3.00: the formulas of kernel/assembly/veil.ts, a function of a pixel's ray, its depth and the
 * colour of the surface there. Reads the kernel's own records (tables.ts) from textures. Single precision: where the kernel
 * is exact, this is so to about a thousandth.
 */
import * as L from "../layout/layout";
import { VEIL_MEDIA } from "./tables";

/** Every place of a record that the shader reads, and every code of a kind, under its own name. */
const constants = Object.entries(L)
  .filter(([name]) => /^(M|P|L|RAY|LIGHT|REGION|PHASE|HEIGHT|CAMERA)_[A-Z0-9_]+$/.test(name))
  .map(([name, value]) => `const int ${name} = ${value};`)
  .join("\n");

/**
 * Gauss–Legendre nodes and weights on [0, 1] (Abramowitz and Stegun, table 25.4): of twelve points, as the kernel has them, and
 * twice as many for lamps; or of six, for a drawing that only has to be quick.
 */
const quadrature = (fine: boolean): string => {
  const [nodes, weights] = fine
    ? [
        [0.1252334085, 0.367831499, 0.5873179543, 0.7699026742, 0.9041172564, 0.9815606342],
        [0.2491470458, 0.2334925365, 0.2031674267, 0.1600783285, 0.106939326, 0.0471753364],
      ]
    : [
        [0.2386191861, 0.6612093865, 0.9324695142],
        [0.4679139346, 0.3607615731, 0.1713244924],
      ];
  const half = nodes.length;
  const list = (v: number[]): string => `float[](${v.map((x) => x.toFixed(10)).join(", ")})`;
  return `
const int POINTS = ${2 * half}, HALF = ${half}, LAMP_PARTS = ${fine ? 2 : 1};
const float NODES[${half}] = ${list(nodes)};
const float WEIGHTS[${half}] = ${list(weights)};
float node(int i) { return i < ${half} ? 0.5 - 0.5 * NODES[i] : 0.5 + 0.5 * NODES[i - ${half}]; }
float weight(int i) { return 0.5 * WEIGHTS[i < ${half} ? i : i - ${half}]; }
/** The same points one after the other along the ray. */
int inOrder(int i) { return i < HALF ? HALF - 1 - i : i; }
`;
};

/** Height profiles: optics/profile.ts and optics/height.ts. FAR stands for an endless length. */
const profiles = `
float expm1(float x) { return abs(x) < 0.05 ? x * (1.0 + x * (0.5 + x * (0.16666667 + x * (0.041666667 + x * 0.0083333333)))) : exp(x) - 1.0; }
float log1p(float x) {
  return abs(x) < 0.05 ? x * (1.0 - x * (0.5 - x * (0.33333333 - x * (0.25 - x * (0.2 - x * 0.16666667))))) : log(1.0 + x);
}
float profileDensity(int shape, float y, float H) {
  if (shape == HEIGHT_NONE || y <= 0.0) return 1.0;
  float q = y / H;
  if (shape == HEIGHT_EXPONENTIAL) return exp(-q);
  if (shape == HEIGHT_INVERSE_QUADRATIC) return 1.0 / ((1.0 + q) * (1.0 + q));
  if (q >= 1.0) return 0.0;
  if (shape == HEIGHT_LINEAR) return 1.0 - q;
  if (shape == HEIGHT_QUADRATIC) return (1.0 - q) * (1.0 - q);
  return 0.0;
}
/** Of the exponential, above the level, from the lower end. */
float aboveIntegral(float low, float slope, float H, float len) {
  float s = abs(slope), base = exp(-low / H);
  if (s < 1e-12) return base <= 0.0 ? 0.0 : min(FAR, base * len);
  float x = (s * len) / H;
  return x < 1e-6 ? base * len : ((base * H) / s) * -expm1(-min(x, 80.0));
}
float within(int shape, float y, float slope, float H, float len) {
  if (shape == HEIGHT_EXPONENTIAL) return slope >= 0.0 ? aboveIntegral(y, slope, H, len) : aboveIntegral(max(0.0, y + slope * len), slope, H, len);
  if (shape == HEIGHT_INVERSE_QUADRATIC) {
    float v = 1.0 + y / H, s = slope / H;
    if (len >= FAR) return s > 0.0 ? 1.0 / (v * s) : FAR;
    return len / (v * (v + s * len));
  }
  float u1 = 1.0 - y / H;
  if (len >= FAR) return u1 > 0.0 ? FAR : 0.0;
  float u2 = max(0.0, u1 - (slope * len) / H);
  return shape == HEIGHT_LINEAR ? 0.5 * len * (u1 + u2) : (len * (u1 * u1 + u1 * u2 + u2 * u2)) / 3.0;
}
float withinInverse(int shape, float y, float slope, float H, float depth) {
  float s = slope / H;
  if (shape == HEIGHT_EXPONENTIAL) {
    float r = y / H;
    if (r > 60.0) return slope >= 0.0 ? FAR : (H / -slope) * (log((depth * -slope) / H) + r);
    float grown = depth * exp(r);
    float q = (grown * slope) / H;
    if (q >= 1.0) return FAR;
    return abs(q) < 1e-6 ? grown : (-H / slope) * log1p(-q);
  }
  if (shape == HEIGHT_INVERSE_QUADRATIC) {
    float v = 1.0 + y / H, rest = 1.0 - depth * v * s;
    return rest > 0.0 ? (depth * v * v) / rest : FAR;
  }
  float u = 1.0 - y / H;
  if (shape == HEIGHT_LINEAR) {
    float q = u * u - 2.0 * s * depth;
    return q < 0.0 ? FAR : (2.0 * depth) / (u + sqrt(q));
  }
  float c = u * u * u - 3.0 * s * depth;
  if (c < 0.0) return FAR;
  float w = pow(c, 1.0 / 3.0);
  return (3.0 * depth) / (u * u + u * w + w * w);
}
bool topped(int shape) { return shape == HEIGHT_LINEAR || shape == HEIGHT_QUADRATIC; }
float profileIntegral(int shape, float y, float slope, float H, float len) {
  if (shape == HEIGHT_NONE) return len;
  if (len <= 0.0) return 0.0;
  float sum = 0.0, at = 0.0;
  if (y < 0.0) {
    if (slope <= 0.0) return len;
    float cross = -y / slope;
    if (cross >= len) return len;
    sum = cross;
    at = cross;
    y = 0.0;
  } else if (topped(shape) && y >= H) {
    if (slope >= 0.0) return 0.0;
    float cross = (y - H) / -slope;
    if (cross >= len) return 0.0;
    at = cross;
    y = H;
  }
  float end = len, below = 0.0;
  if (slope < 0.0) {
    float cross = at + y / -slope;
    if (cross < len) {
      end = cross;
      below = len >= FAR ? FAR : len - cross;
    }
  } else if (slope > 0.0 && topped(shape)) end = min(end, at + (H - y) / slope);
  return min(FAR, sum + within(shape, y, slope, H, end >= FAR ? FAR : end - at) + below);
}
float profileInverse(int shape, float y, float slope, float H, float depth) {
  if (shape == HEIGHT_NONE) return depth;
  float at = 0.0;
  if (y < 0.0) {
    if (slope <= 0.0) return depth;
    float cross = -y / slope;
    if (depth <= cross) return depth;
    depth -= cross;
    at = cross;
    y = 0.0;
  } else if (topped(shape) && y >= H) {
    if (slope >= 0.0) return FAR;
    at = (y - H) / -slope;
    y = H;
  }
  if (slope < 0.0) {
    float cross = y / -slope;
    float toLevel = within(shape, y, slope, H, cross);
    if (depth > toLevel) return at + cross + (depth - toLevel);
    return at + min(cross, withinInverse(shape, y, slope, H, depth));
  }
  return min(FAR, at + withinInverse(shape, y, slope, H, depth));
}
`;

/** Regions: kernel/assembly/region.ts; a mesh is the box about it. */
const regions = `
vec2 narrowed;
bool slab(float o, float d, float h) {
  if (abs(d) < 1e-9) return o >= -h && o <= h;
  float a = (-h - o) / d, b = (h - o) / d;
  narrowed = vec2(max(narrowed.x, min(a, b)), min(narrowed.y, max(a, b)));
  return narrowed.y > narrowed.x;
}
bool between(float a, float b, float c) {
  float q = b * b - a * c;
  if (q <= 0.0) return false;
  float big = b > 0.0 ? -b - sqrt(q) : -b + sqrt(q);
  float t0 = big / a, t1 = big != 0.0 ? c / big : -t0;
  narrowed = vec2(max(narrowed.x, min(t0, t1)), min(narrowed.y, max(t0, t1)));
  return narrowed.y > narrowed.x;
}
vec3 turned(int m, vec3 v) { return vec3(dot(v, mvec(m, M_ROWS)), dot(v, mvec(m, M_ROWS + 3)), dot(v, mvec(m, M_ROWS + 6))); }
/** Narrows [0, far] to the part of the ray inside medium m. */
bool clip(int m, vec3 o, vec3 d, float far) {
  narrowed = vec2(0.0, far);
  int kind = mint(m, M_REGION);
  if (kind == REGION_EVERYWHERE) return far > 0.0;
  if (kind == REGION_LAYER) {
    vec3 up = mvec(m, M_LAYER_UP);
    float h = mword(m, M_HALF) - dot(o, up), s = dot(d, up);
    if (abs(s) < 1e-9) return h > 0.0;
    if (s > 0.0) narrowed.y = min(narrowed.y, h / s);
    else narrowed.x = max(narrowed.x, h / s);
    return narrowed.y > narrowed.x;
  }
  vec3 q = o - mvec(m, M_CENTRE), half3 = mvec(m, M_HALF);
  if (kind == REGION_SPHERE) return between(1.0, dot(q, d), dot(q, q) - half3.x * half3.x);
  q = turned(m, q);
  vec3 v = turned(m, d);
  if (kind == REGION_BOX || kind == REGION_MESH) return slab(q.x, v.x, half3.x) && slab(q.y, v.y, half3.y) && slab(q.z, v.z, half3.z);
  if (!slab(q.y, v.y, half3.y)) return false;
  float round2 = dot(v.xz, v.xz), mixed = dot(q.xz, v.xz), far2 = dot(q.xz, q.xz);
  if (kind == REGION_CYLINDER) {
    float c = far2 - half3.x * half3.x;
    return round2 < 1e-12 ? c <= 0.0 : between(round2, mixed, c);
  }
  if (kind != REGION_CONE) return false;
  float k = half3.x / (2.0 * half3.y), w = half3.y - q.y;
  float a = round2 - k * k * v.y * v.y, b = mixed + k * k * w * v.y, c = far2 - k * k * w * w;
  if (abs(a) < 1e-7) {
    if (abs(b) < 1e-9) return c <= 0.0;
    float t = -c / (2.0 * b);
    if (b > 0.0) narrowed.y = min(narrowed.y, t);
    else narrowed.x = max(narrowed.x, t);
    return narrowed.y > narrowed.x;
  }
  if (a > 0.0) return between(a, b, c);
  float root = b * b - a * c;
  if (root <= 0.0) return true;
  float r = sqrt(root), t0 = (-b - r) / a, t1 = (-b + r) / a;
  if (v.y > 0.0) narrowed.y = min(narrowed.y, min(t0, t1));
  else narrowed.x = max(narrowed.x, max(t0, t1));
  return narrowed.y > narrowed.x;
}
`;

/** Optical depths, phase functions, the point of the ray that is looked at. */
const media = `
float heightOf(int m, vec3 x) { return dot(x, mvec(m, M_HEIGHT_UP)) - mword(m, M_HEIGHT_LEVEL); }
/** A medium of a grid is left out, as the kernel's veil leaves it. */
bool counts(int m) { return mword(m, M_VOLUME) == 0.0; }
vec3 opticalDepth(vec3 o, vec3 d, float far, int ray) {
  vec3 sum = vec3(0.0);
  for (int m = 0; m < mediaCount; m++) {
    float share = mword(m, M_SEEN + ray);
    if (share <= 0.0 || !counts(m) || !clip(m, o, d, far)) continue;
    vec2 part = narrowed;
    float len = part.y >= FAR ? FAR : part.y - part.x;
    float slope = dot(d, mvec(m, M_HEIGHT_UP));
    float k = min(1e12, profileIntegral(mint(m, M_HEIGHT), heightOf(m, o) + part.x * slope, slope, mword(m, M_HEIGHT_SCALE), len));
    sum += k * share * mvec(m, M_SIGMA_T);
  }
  return sum;
}
float lobe(float c, float g) {
  float d = 1.0 + g * g - 2.0 * g * c;
  return (0.0795774715 * (1.0 - g * g)) / (d * sqrt(d));
}
float phaseOf(int m, float c) {
  int model = mint(m, M_PHASE);
  float a = mword(m, M_PHASE_1), b = mword(m, M_PHASE_2), e = mword(m, M_PHASE_3), s = mword(m, M_PHASE_4);
  if (model == PHASE_HENYEY_GREENSTEIN) return lobe(c, a);
  if (model == PHASE_TWO_LOBE) return mix(lobe(c, a), lobe(c, b), e);
  if (model == PHASE_RAYLEIGH) return 0.0596831037 * (1.0 + c * c);
  if (model == PHASE_DROPLETS) return mix(lobe(c, a), (lobe(c, b) * (1.0 + e * c * c)) / (1.0 + (e * (1.0 + 2.0 * b * b)) / 3.0), s);
  return 0.0;
}
float meanCosine(int m) {
  int model = mint(m, M_PHASE);
  float g1 = mword(m, M_PHASE_1), g = mword(m, M_PHASE_2), a = mword(m, M_PHASE_3), s = mword(m, M_PHASE_4);
  if (model == PHASE_HENYEY_GREENSTEIN) return g1;
  if (model == PHASE_TWO_LOBE) return mix(g1, g, a);
  if (model == PHASE_RAYLEIGH) return 0.0;
  if (model == PHASE_DROPLETS) return mix(g1, (g * (1.0 + (a * (3.0 + 2.0 * g * g)) / 5.0)) / (1.0 + (a * (1.0 + 2.0 * g * g)) / 3.0), s);
  return 0.0;
}
bool lit(int mask, int m) { return (mask & (1 << mint(m, M_BIT))) != 0; }
`;

/** Light scattered many times: optics/eddington.ts. */
const eddington = `
float many(float above, float below, float along, float omega, float g, float mu0, float dy, float sun, float sky) {
  if (omega <= 0.0) return 0.0;
  float mu = 0.0;
  if (mu0 > 0.0) mu = mu0 > 0.02 && along > 0.0 && above > 1e-9 ? clamp(above / along, 0.02, 1.0) : max(mu0, 0.02);
  float scaled = 1.0 - omega * g * g;
  float w = min(0.99999, ((1.0 - g * g) * omega) / scaled);
  float a = g / (1.0 + g);
  float end = min((above + below) * scaled, 200.0), at = min(above * scaled, end);
  float k = sqrt(3.0 * (1.0 - w) * (1.0 - w * a)), p = sqrt((3.0 * (1.0 - w)) / (1.0 - w * a));
  float alpha = 0.0, beta = 0.0, m = 1.0, flux = 0.0;
  if (mu > 1e-3 && sun > 0.0) {
    m = mu;
    // further from the pole at k mu = 1 than the kernel, whose numbers are longer
    if (abs(1.0 - k * m) < 2e-3) m *= 1.004;
    flux = sun / 3.1415926536;
    float d = 1.0 - k * k * m * m;
    alpha = (0.75 * w * flux * m * m * (1.0 + a * (1.0 - w))) / d;
    beta = (0.75 * w * flux * m * (1.0 + 3.0 * a * (1.0 - w) * m * m)) / d;
  }
  float e = exp(-k * end), beam = flux > 0.0 ? exp(-end / m) : 0.0;
  const float h = 2.0 / 3.0, r = 0.25;
  float a11 = 1.0 + h * p, a12 = (1.0 - h * p) * e, b1 = sky + alpha + h * beta;
  float a21 = (1.0 - h * p - r * (1.0 + h * p)) * e, a22 = 1.0 + h * p - r * (1.0 - h * p);
  float b2 = beam * ((1.0 - r) * alpha - (1.0 + r) * h * beta + r * m * flux);
  float det = a11 * a22 - a12 * a21;
  float c1 = (b1 * a22 - a12 * b2) / det, c2 = (a11 * b2 - a21 * b1) / det;
  float down = c1 * exp(-k * at), up = c2 * exp(-k * (end - at)), here = flux > 0.0 ? exp(-at / m) : 0.0;
  float mean = max(0.0, down + up - alpha * here);
  return max(0.0, mean + a * dy * (p * (down - up) - beta * here));
}
`;

/** Lights from their middles: lightFromMiddle() of kernel/assembly/lights.ts. Sets towards and away. */
const lights = `
vec3 towards;
float away;
float smoothed(float t) { t = clamp(t, 0.0, 1.0); return t * t * (3.0 - 2.0 * t); }
float fade(int i, float d) {
  float a = lword(i, L_FADE + 1), b = lword(i, L_FADE + 2), c = lword(i, L_FADE + 3), e = lword(i, L_FADE + 4);
  float k = b > a ? smoothed((d - a) / (b - a)) : d >= a ? 1.0 : 0.0;
  return k * (e > c ? 1.0 - smoothed((d - c) / (e - c)) : d <= e ? 1.0 : 0.0);
}
/** Narrows a span of a ray to the part inside the cone with a cosine about a spot's axis; empty has y <= x. False where that is not known. */
bool conePart(int i, float c, vec3 o, vec3 d, inout vec2 span) {
  if (c < 0.05) return false;
  vec3 axis = lvec(i, L_AXIS), w = o - lvec(i, L_POSITION);
  float ad = dot(axis, d), aw = dot(axis, w), c2 = c * c, qa = ad * ad - c2;
  if (abs(qa) < 1e-4) return false;
  float qb = ad * aw - c2 * dot(d, w), qc = aw * aw - c2 * dot(w, w), under = qb * qb - qa * qc;
  if (under <= 0.0) {
    if (qa < 0.0) span.y = span.x;
    return true;
  }
  float root = sqrt(under), t0 = (-qb - root) / qa, t1 = (-qb + root) / qa, first = min(t0, t1), last = max(t0, t1);
  if (qa < 0.0) {
    if (aw + 0.5 * (first + last) * ad <= 0.0) span.y = span.x;
    else span = vec2(max(span.x, first), min(span.y, last));
  } else if (ad > 0.0) span.x = max(span.x, last);
  else span.y = min(span.y, first);
  return true;
}
vec3 lightFrom(int i, vec3 x) {
  int kind = int(lword(i, L_KIND));
  vec3 p = lvec(i, L_POSITION) - x, axis = lvec(i, L_AXIS);
  float d2 = max(dot(p, p), 1e-18), size = lword(i, L_SIZE);
  away = sqrt(d2);
  towards = p / away;
  float k = 1.0 / d2, c = -dot(towards, axis);
  if (kind == LIGHT_SPOT) k *= smoothed((c - lword(i, L_COS_OUTER)) / max(lword(i, L_COS_INNER) - lword(i, L_COS_OUTER), 1e-6));
  else if (kind == LIGHT_RECTANGLE || kind == LIGHT_DISK) {
    if (lword(i, L_BOTH_SIDES) != 0.0) c = abs(c);
    k *= c > 0.0 ? lword(i, L_AREA) * pow(c, lword(i, L_BEAM) + 1.0) : 0.0;
  } else if (kind == LIGHT_SPHERE) k = d2 > size * size ? 3.1415926536 * size * size / d2 : 0.0;
  else if (kind == LIGHT_TUBE) k *= 4.0 * size * lword(i, L_SIZE + 1) * sqrt(max(0.0, 1.0 - c * c));
  else if (kind == LIGHT_PROFILE || kind == LIGHT_DISTANT) k = 0.0; // left out
  else if (kind != LIGHT_POINT) k = 0.0;
  if (lword(i, L_FADE) != 0.0) k *= fade(i, away);
  return k * lvec(i, L_INTENSITY);
}
`;

/** Where sunlight comes: section/sun-map.ts. Without a map (side 0) it comes everywhere. */
export const SUN_AT = `
vec3 sunAt(vec3 x, vec3 towards, sampler2D table, int side, vec3 u, vec3 v, vec2 low) {
  if (side == 0) return vec3(1.0);
  vec2 p = floor(vec2(dot(x, u), dot(x, v)) - low);
  // past the map no geometry throws a shadow
  if (min(p.x, p.y) < 0.0 || max(p.x, p.y) >= float(side)) return vec3(1.0);
  vec4 s = texelFetch(table, ivec2(p), 0);
  return dot(x, towards) > s.r ? s.gba : vec3(0.0);
}
`;

/** What of sunlight comes to a stretch of a ray, on average over the ray's pixel too. */
const sunlight = `${SUN_AT}
const int LOOKS = 8;
/** Sides of the pixel: by metre of the ray where rays spread, in metres where they are parallel; 0 for a ray by itself. */
vec3 pixelX = vec3(0.0), pixelY = vec3(0.0);
bool raysSpread = true;
vec3 sunBetween(vec3 o, vec3 d, float from, float to, int stretch) {
  vec3 sum = vec3(0.0);
  for (int i = 0; i < LOOKS; i++) {
    float t = mix(from, to, (float(i) + 0.5) / float(LOOKS));
    // an even sequence over the pixel: bars finer than it would show as blocks
    vec2 shift = (fract(float(stretch * LOOKS + i) * vec2(0.7548776662, 0.5698402910) + 0.5) - 0.5) * (raysSpread ? t : 1.0);
    vec3 x = o + t * d + shift.x * pixelX + shift.y * pixelY;
    sum += sunAt(x, pvec(P_SUN_DIR), sunMapTable, sunMapSide, sunMapU, sunMapV, sunMapLow);
  }
  return sum / float(LOOKS);
}
`;

/** The parts of the ray in each medium, and the light along them. */
const gather = `
struct Part { int m; vec2 span; float y; float slope; float share; float total; float lead; float norm; };
Part parts[${VEIL_MEDIA}];
int partCount;

// what scatters at a point: coefficients, and extinction that goes with them
vec3 scatter, extinct;
float asymmetry;
float share[${VEIL_MEDIA}];

float densityAt(int m, vec3 x) { return profileDensity(mint(m, M_HEIGHT), heightOf(m, x), mword(m, M_HEIGHT_SCALE)); }

void look(int only, float t, vec3 x) {
  scatter = vec3(0.0);
  extinct = vec3(0.0);
  float g = 0.0, all = 0.0;
  for (int i = 0; i < partCount; i++) {
    share[i] = 0.0;
    if (only >= 0 ? i != only : (t < parts[i].span.x || t > parts[i].span.y)) continue;
    int m = parts[i].m;
    share[i] = parts[i].share * densityAt(m, x);
    vec3 s = share[i] * mvec(m, M_SIGMA_S);
    scatter += s;
    extinct += share[i] * mvec(m, M_SIGMA_T) * vec3(greaterThan(s, vec3(0.0)));
    float sum = s.x + s.y + s.z;
    g += sum * meanCosine(m);
    all += sum;
  }
  asymmetry = all > 0.0 ? g / all : 0.0;
}
vec3 phaseAt(float c, int mask) {
  vec3 sum = vec3(0.0);
  for (int i = 0; i < partCount; i++)
    if (share[i] > 0.0 && lit(mask, parts[i].m)) sum += phaseOf(parts[i].m, c) * share[i] * mvec(parts[i].m, M_SIGMA_S);
  return sum;
}
float depthAlong(Part s, float along) { return profileIntegral(mint(s.m, M_HEIGHT), s.y, s.slope, mword(s.m, M_HEIGHT_SCALE), along); }

void prepare(vec3 o, vec3 d, float far, int ray) {
  partCount = 0;
  for (int m = 0; m < mediaCount; m++) {
    float k = mword(m, M_SEEN + ray);
    if (k <= 0.0 || !counts(m) || !clip(m, o, d, far)) continue;
    vec3 s = mvec(m, M_SIGMA_S), e = mvec(m, M_EMISSION);
    if (s.x + s.y + s.z + e.x + e.y + e.z <= 0.0) continue;
    Part p;
    p.m = m;
    p.span = narrowed;
    p.slope = dot(d, mvec(m, M_HEIGHT_UP));
    p.y = heightOf(m, o) + p.span.x * p.slope;
    p.share = k;
    p.total = depthAlong(p, p.span.y >= FAR ? FAR : p.span.y - p.span.x);
    if (p.total <= 0.0) continue;
    vec3 t = mvec(m, M_SIGMA_T);
    p.lead = (s.y >= s.x && s.y >= s.z ? t.y : s.x >= s.z ? t.x : t.z) * k;
    p.norm = -expm1(-min(80.0, p.lead * p.total));
    parts[partCount++] = p;
  }
}
/** Distance in a part at which a share u of what its leading band can scatter lies behind. */
float placeAt(Part s, float u) {
  float depth = s.lead * s.total > 1e-9 ? -log1p(-u * s.norm) / s.lead : u * min(s.total, 1e9);
  return s.span.x + profileInverse(mint(s.m, M_HEIGHT), s.y, s.slope, mword(s.m, M_HEIGHT_SCALE), min(depth, s.total * 0.999999));
}
float slopeAt(Part s, float t) {
  float along = t - s.span.x;
  float density = profileDensity(mint(s.m, M_HEIGHT), s.y + s.slope * along, mword(s.m, M_HEIGHT_SCALE));
  if (!(s.lead * s.total > 1e-9)) return density / min(s.total, 1e9);
  return (density * s.lead * exp(-s.lead * depthAlong(s, along))) / s.norm;
}

/** Sunlight that was scattered once, of the point or ray last asked for, where a map tells where it comes: apart from all other light. */
vec3 pointSun, sunOnce;

vec3 pointLight(int i, float t, vec3 o, vec3 d, int ray) {
  vec3 x = o + t * d;
  pointSun = vec3(0.0);
  look(i, t, x);
  vec3 through = exp(-opticalDepth(o, d, t, ray));
  vec3 sum = share[i] * mvec(parts[i].m, M_EMISSION);
  if (scatter.x + scatter.y + scatter.z <= 0.0) return through * sum;
  vec3 omega = vec3(extinct.x > 0.0 ? scatter.x / extinct.x : 0.0, extinct.y > 0.0 ? scatter.y / extinct.y : 0.0, extinct.z > 0.0 ? scatter.z / extinct.z : 0.0);
  vec3 sunDir = pvec(P_SUN_DIR), sun = pvec(P_SUN_E) * pword(P_SUN_AIR), sky = pvec(P_SKY_MEAN) * pword(P_SKY_AIR);
  bool multiple = pword(P_AIR_BOUNCES) > 1.0;
  vec3 along = opticalDepth(x, sunDir, FAR, RAY_SHADOW);
  vec3 beam = multiple ? exp(-along * (1.0 - omega * asymmetry * asymmetry)) : exp(-along);
  vec3 once = phaseAt(dot(d, sunDir), int(pword(P_SUN_MASK))) * sun * beam;
  if (sunMapSide > 0) pointSun = through * once;
  else sum += once;
  int distant = int(pword(P_DISTANT_COUNT));
  for (int j = 0; j < distant; j++) {
    vec3 axis = lvec(j, L_AXIS);
    sum += phaseAt(dot(d, axis), int(lword(j, L_MASK))) * lword(j, L_AIR) * lvec(j, L_INTENSITY) * exp(-opticalDepth(x, axis, FAR, RAY_SHADOW));
  }
  vec3 above = opticalDepth(x, vec3(0.0, 1.0, 0.0), FAR, RAY_SHADOW);
  if (!multiple) return through * (sum + scatter * sky * exp(-1.66 * above));
  vec3 below = opticalDepth(x, vec3(0.0, -1.0, 0.0), max(1e-3, x.y - pword(P_GROUND)), RAY_SHADOW);
  sum += scatter * vec3(
    many(above.x, below.x, along.x, omega.x, asymmetry, sunDir.y, d.y, sun.x, sky.x),
    many(above.y, below.y, along.y, omega.y, asymmetry, sunDir.y, d.y, sun.y, sky.y),
    many(above.z, below.z, along.z, omega.z, asymmetry, sunDir.y, d.y, sun.z, sky.z)
  );
  return through * sum;
}

/**
 * A pixel seen through the air: o in metres, d a unit vector, far the distance of the surface (FAR: none), surface its
 * luminance before the air. Where there is a map of sunlight, what sunlight adds by one scattering stays in sunOnce instead.
 */
vec3 veil(vec3 o, vec3 d, float far, vec3 surface) {
  int ray = far < FAR ? RAY_CAMERA : RAY_SKY;
  vec3 sum = surface * exp(-opticalDepth(o, d, far, ray));
  sunOnce = vec3(0.0);
  prepare(o, d, far, ray);
  float from = FAR, to = 0.0;
  for (int s = 0; s < partCount; s++) {
    from = min(from, parts[s].span.x);
    to = max(to, parts[s].span.y);
    float share = 0.0, begin = parts[s].span.x;
    for (int j = 0; j < POINTS; j++) {
      int i = inOrder(j);
      float t = placeAt(parts[s], node(i));
      if (t >= FAR) continue;
      float p = slopeAt(parts[s], t), end = t;
      share += weight(i);
      if (sunMapSide > 0) end = max(t, min(parts[s].span.y, placeAt(parts[s], min(share, 0.998))));
      if (p > 0.0) {
        sum += (weight(i) / p) * pointLight(s, t, o, d, ray);
        // a point speaks for as much of the ray as its weight says; of that so much lies in the sun
        if (sunMapSide > 0) sunOnce += (weight(i) / p) * pointSun * sunBetween(o, d, begin, end, s * POINTS + j);
      }
      begin = end;
    }
  }
  if (partCount == 0) return sum;
  if (to >= FAR) to = from + 1e6;
  for (int i = int(pword(P_DISTANT_COUNT)); i < lightCount; i++) {
    float q = lword(i, L_AIR);
    if (q <= 0.0) continue;
    vec3 p = lvec(i, L_POSITION) - o;
    float near = dot(p, d);
    float gap = max(max(1e-5, 0.5 * lword(i, L_RADIUS)), length(p - near * d));
    vec2 lit = vec2(from, to), whole = lit;
    int pieces = LAMP_PARTS;
    if (int(lword(i, L_KIND)) == LIGHT_SPOT) {
      conePart(i, lword(i, L_COS_OUTER), o, d, lit);
      if (lit.y <= lit.x) continue;
      whole = lit;
      if (conePart(i, lword(i, L_COS_INNER), o, d, whole) && whole.y > whole.x) pieces = 3;
    }
    float a0 = atan((lit.x - near) / gap), a1 = atan((lit.y - near) / gap);
    float b0 = pieces == 3 ? atan((whole.x - near) / gap) : mix(a0, a1, 1.0 / float(LAMP_PARTS));
    float b1 = pieces == 3 ? atan((whole.y - near) / gap) : a1;
    for (int j = 0; j < 3 * POINTS; j++) {
      int piece = j / POINTS;
      if (piece >= pieces) break;
      float low = piece == 0 ? a0 : piece == 1 ? b0 : b1, high = piece == 0 ? b0 : piece == 1 ? b1 : a1;
      float a = low + (high - low) * node(j % POINTS), c = cos(a);
      float t = clamp(near + gap * tan(a), lit.x, lit.y);
      vec3 x = o + t * d;
      look(-1, t, x);
      if (scatter.x + scatter.y + scatter.z <= 0.0) continue;
      vec3 e = lightFrom(i, x);
      if (e.x + e.y + e.z <= 0.0) continue;
      vec3 toLight = towards;
      float distance = away;
      float k = (weight(j % POINTS) * (high - low) * gap) / (c * c);
      vec3 left = exp(-opticalDepth(o, d, t, ray) - opticalDepth(x, toLight, distance, RAY_SHADOW));
      sum += k * q * e * left * phaseAt(dot(d, toLight), int(lword(i, L_MASK)));
    }
  }
  return sum;
}
`;

/** What of a map of sunlight a program reads. @param name what its uniforms' names begin with */
export const sunMapUniforms = (name: string): string => `uniform sampler2D ${name}Table;
uniform int ${name}Side;
uniform vec3 ${name}U, ${name}V;
uniform vec2 ${name}Low;
`;

/** Declarations and functions, up to `vec3 veil(vec3 o, vec3 d, float far, vec3 surface)`; to be put before a main(). */
export const veilSource = (fine: boolean): string => `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
uniform sampler2D parameterTable, mediaTable, lightTable;
uniform int mediaCount, lightCount;
${sunMapUniforms("sunMap")}const float FAR = 1e30;
${constants}
float pword(int i) { return texelFetch(parameterTable, ivec2(i, 0), 0).r; }
vec3 pvec(int i) { return vec3(pword(i), pword(i + 1), pword(i + 2)); }
float mword(int m, int i) { return texelFetch(mediaTable, ivec2(i, m), 0).r; }
int mint(int m, int i) { return int(mword(m, i)); }
vec3 mvec(int m, int i) { return vec3(mword(m, i), mword(m, i + 1), mword(m, i + 2)); }
float lword(int l, int i) { return texelFetch(lightTable, ivec2(i, l), 0).r; }
vec3 lvec(int l, int i) { return vec3(lword(l, i), lword(l, i + 1), lword(l, i + 2)); }
${quadrature(fine)}${profiles}${regions}${media}${eddington}${lights}${sunlight}${gather}`;
