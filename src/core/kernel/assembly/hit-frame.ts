/** How a surface lies where a ray met it: its normals, from corners and normal map, the side, and how exact the place is. */
import { EDGE_ERROR, HIT_ERROR, MIN_DETERMINANT, MIN_FACING, MIN_NORMAL } from "./precision";
import {
  P_TRIANGLES,
  TRIANGLE_SIZE,
  FLAT_NORMAL,
  MT_NORMAL_SCALE,
  SLOT_NORMAL,
  INSTANCE_FORWARD,
  INSTANCE_MIRRORS,
} from "../../layout/layout";
import { paramAddress } from "./state";
import { codeX, codeY, codeZ, decodeNormal } from "./normal-code";
import { hitT, hitU, hitV, hitTriangle, hitEdges, hitTurn, hitInstance } from "./bvh";
import { coordinates, coordinatesOf, material, materialOf, sample, textureUse, texR, texG, texB } from "./any-hit-filter";

/** Shading normal and geometric normal, both on the side the ray came from. */
export let nx: f64 = 0.0;
export let ny: f64 = 0.0;
export let nz: f64 = 0.0;
export let gx: f64 = 0.0;
export let gy: f64 = 0.0;
export let gz: f64 = 0.0;
/** How far (m) the point last met may lie off its surface by rounding, besides what its coordinates' size does (POSITION_ERROR). */
export let positionError: f64 = 0.0;
/** Direction back along the ray. */
export let vx: f64 = 0.0;
export let vy: f64 = 0.0;
export let vz: f64 = 0.0;
/** Adds w times the normal of a code (scene/normals.ts) as it is in the scene; nothing for that of the face. */
// @ts-ignore: decorator
@inline
function addNormal(code: i32, w: f64): void {
  if (code == FLAT_NORMAL) return;
  decodeNormal(code);
  let x = codeX,
    y = codeY,
    z = codeZ;
  if (hitInstance != 0) {
    // normals go by the inverse transposed
    const p = hitInstance,
      a = x,
      b = y,
      c = z;
    x = <f64>load<f32>(p) * a + <f64>load<f32>(p, 16) * b + <f64>load<f32>(p, 32) * c;
    y = <f64>load<f32>(p, 4) * a + <f64>load<f32>(p, 20) * b + <f64>load<f32>(p, 36) * c;
    z = <f64>load<f32>(p, 8) * a + <f64>load<f32>(p, 24) * b + <f64>load<f32>(p, 40) * c;
  }
  const k = w / Math.sqrt(x * x + y * y + z * z);
  nx += k * x;
  ny += k * y;
  nz += k * z;
}

// edges of the triangle last hit, in the scene
let e1x: f64 = 0.0,
  e1y: f64 = 0.0,
  e1z: f64 = 0.0,
  e2x: f64 = 0.0,
  e2y: f64 = 0.0,
  e2z: f64 = 0.0;

/** Brings the edges of a shared triangle from the frame of its place into the scene. */
function instanceEdges(place: usize): void {
  const f = place + INSTANCE_FORWARD;
  let x = e1x,
    y = e1y,
    z = e1z;
  e1x = <f64>load<f32>(f) * x + <f64>load<f32>(f, 4) * y + <f64>load<f32>(f, 8) * z;
  e1y = <f64>load<f32>(f, 16) * x + <f64>load<f32>(f, 20) * y + <f64>load<f32>(f, 24) * z;
  e1z = <f64>load<f32>(f, 32) * x + <f64>load<f32>(f, 36) * y + <f64>load<f32>(f, 40) * z;
  x = e2x;
  y = e2y;
  z = e2z;
  e2x = <f64>load<f32>(f) * x + <f64>load<f32>(f, 4) * y + <f64>load<f32>(f, 8) * z;
  e2y = <f64>load<f32>(f, 16) * x + <f64>load<f32>(f, 20) * y + <f64>load<f32>(f, 24) * z;
  e2z = <f64>load<f32>(f, 32) * x + <f64>load<f32>(f, 36) * y + <f64>load<f32>(f, 40) * z;
}

/** Whether the surface last read was met from behind: from inside, where it bounds a solid. */
export let back: bool = false;

/** Reads how the surface last hit by a ray travelling along d lies there, and what its corners say (any-hit-filter). */
export function readFrame(dx: f64, dy: f64, dz: f64): void {
  e1x = <f64>load<f32>(hitEdges);
  e1y = <f64>load<f32>(hitEdges, 16);
  e1z = <f64>load<f32>(hitEdges, 32);
  e2x = <f64>load<f32>(hitEdges, 48);
  e2y = <f64>load<f32>(hitEdges, 64);
  e2z = <f64>load<f32>(hitEdges, 80);
  const tri = paramAddress(P_TRIANGLES) + <usize>hitTriangle * TRIANGLE_SIZE;
  const u = <f64>hitU,
    v = <f64>hitV,
    w = 1.0 - u - v;
  nx = 0.0;
  ny = 0.0;
  nz = 0.0;
  addNormal(load<i32>(tri), w);
  addNormal(load<i32>(tri, 4), u);
  addNormal(load<i32>(tri, 8), v);
  if (hitInstance != 0) instanceEdges(hitInstance);
  // measured: two to four times the worst that rounding does (docs/physics.md)
  positionError =
    HIT_ERROR * <f64>hitT + EDGE_ERROR * (Math.abs(e1x) + Math.abs(e1y) + Math.abs(e1z) + Math.abs(e2x) + Math.abs(e2y) + Math.abs(e2z));
  gx = e1y * e2z - e1z * e2y;
  gy = e1z * e2x - e1x * e2z;
  gz = e1x * e2y - e1y * e2x;
  const l = 1.0 / Math.sqrt(gx * gx + gy * gy + gz * gz);
  const turned = gx * dx + gy * dy + gz * dz > 0.0;
  const side = turned ? -l : l;
  // corners that are mirrored turn the other way about
  back = turned != (hitInstance != 0 && load<i32>(hitInstance, INSTANCE_MIRRORS) != 0);
  gx *= side;
  gy *= side;
  gz *= side;
  let nl = Math.sqrt(nx * nx + ny * ny + nz * nz);
  if (!(nl > MIN_NORMAL)) {
    nx = gx;
    ny = gy;
    nz = gz;
    nl = 1.0;
  }
  const m = materialOf(hitTriangle);
  coordinates(hitTriangle, u, v);
  const s = nx * gx + ny * gy + nz * gz < 0.0 ? -1.0 / nl : 1.0 / nl;
  nx *= s;
  ny *= s;
  nz *= s;
  const bumps = textureUse(m, SLOT_NORMAL);
  if (bumps != 0) bump(bumps, material(m, MT_NORMAL_SCALE), turned);
  // a shading normal turned away from the viewer would lose energy: fall back to the face
  if (!(nx * dx + ny * dy + nz * dz < -MIN_FACING)) {
    nx = gx;
    ny = gy;
    nz = gz;
  }
  vx = -dx;
  vy = -dy;
  vz = -dz;
}

/** Turns the shading normal by a normal map; tangents from the texture coordinates of the triangle. */
function bump(use: usize, scale: f64, turned: bool): void {
  const p = coordinatesOf(use, hitTriangle);
  // edges go from the corner that is the pair's first
  const first = p + ((<usize>hitTurn) << 3),
    second = p + ((<usize>((hitTurn + 1) % 3)) << 3),
    third = p + ((<usize>((hitTurn + 2) % 3)) << 3);
  const u0 = <f64>load<f32>(first),
    v0 = <f64>load<f32>(first, 4);
  const u1 = <f64>load<f32>(second) - u0,
    v1 = <f64>load<f32>(second, 4) - v0;
  const u2 = <f64>load<f32>(third) - u0,
    v2 = <f64>load<f32>(third, 4) - v0;
  const det = u1 * v2 - u2 * v1;
  if (!(Math.abs(det) > MIN_DETERMINANT)) return;
  let tx = (e1x * v2 - e2x * v1) / det,
    ty = (e1y * v2 - e2y * v1) / det,
    tz = (e1z * v2 - e2z * v1) / det;
  const d = tx * nx + ty * ny + tz * nz;
  tx -= d * nx;
  ty -= d * ny;
  tz -= d * nz;
  const l = Math.sqrt(tx * tx + ty * ty + tz * tz);
  if (!(l > MIN_DETERMINANT)) return;
  tx /= l;
  ty /= l;
  tz /= l;
  // v grows downwards in glTF, so that the map's green lies against it; the far side of a sheet turns it over
  const hand = (det < 0.0 ? -1.0 : 1.0) * (turned ? -1.0 : 1.0);
  const bx = hand * (ny * tz - nz * ty),
    by = hand * (nz * tx - nx * tz),
    bz = hand * (nx * ty - ny * tx);
  sample(use);
  const a = (2.0 * texR - 1.0) * scale,
    b = (2.0 * texG - 1.0) * scale,
    c = Math.max(MIN_FACING, 2.0 * texB - 1.0);
  const mx = a * tx + b * bx + c * nx,
    my = a * ty + b * by + c * ny,
    mz = a * tz + b * bz + c * nz;
  const k = 1.0 / Math.sqrt(mx * mx + my * my + mz * mz);
  if (!(k < 1e9)) return;
  nx = mx * k;
  ny = my * k;
  nz = mz * k;
}
