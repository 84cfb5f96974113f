/** Random walks with one light asked at every vertex (null-collision path integral, Miller et al. 2019). */
import { FAR, MIN_AREA } from "./precision";
import { LEVEL_FULL } from "../../layout/kinds";
import { P_LEVEL, P_AIR_BOUNCES, P_SURFACE_BOUNCES, RAY_INDIRECT, P_SURFACE_EMISSION_GROUP } from "../../layout/layout";
import { paramInt } from "./state";
import { random } from "./random";
import { closestHit, hitT, hitTriangle } from "./bvh";
import { scattererOfCollision, sampleCollision, colT, colR, colG, colB } from "./collision";
import { transmit, tr, tg, tb } from "./transmit";
import { samplePhase, chooseScatterer, px, py, pz, phaseOf } from "./phase";
import { SUN, SKY, NONE, airShare, surfaceShare } from "./lights";
import { sky, skyR, skyG, skyB } from "./sky";
import {
  chanceOfTriangle,
  chancePerWeight,
  chooseLights,
  asksSky,
  asksSun,
  drawOther,
  otherChance,
  otherLight,
  prepareOthers,
  skyChance,
  sunChance,
} from "./light-sampling";
import { sideOf, skyCellAt, skyPdf } from "./light-cells";
import { accumulate, groupOf } from "./accumulate";
import { gx, gy, gz } from "./hit-frame";
import {
  isBlack,
  isGlossy,
  bsdfPdf,
  sampleBsdf,
  sampledRay,
  isPane,
  paneTintR,
  paneTintG,
  paneTintB,
  DELTA_PDF,
  sx,
  sy,
  sz,
  wR,
  wG,
  wB,
} from "./bsdf";
import { readSurface, emissiveIndex, emissiveArea, insideR, insideG, insideB, emR, emG, emB } from "./surface";
import { CHOOSING_LIGHTS, MAX_PANES, PART_AIR_SHIFT, PART_SURFACE_SHIFT, PART_WALK } from "../../layout/scratch";
import { afterLight, atLight, atPart } from "./activity";
import { meetEmitters } from "./emitters";
import { qx, qy, qz, offsetRayOrigin, directInMedium, directOnSurface } from "./direct";

/** Level full: light is scattered more than once. */
export let full: bool = false;
export let surfaceLimit: i32 = 0;
let airLimit: i32 = 1;

/** Reads from the parameters how far walks go in this run. */
export function prepareWalks(): void {
  full = paramInt(P_LEVEL) == LEVEL_FULL;
  airLimit = full ? paramInt(P_AIR_BOUNCES) : 0;
  surfaceLimit = paramInt(P_SURFACE_BOUNCES);
}

// the vertex a walk comes from, as its direct light was asked for: density of the direction taken, chances of lights
let fromPdf: f64 = 0.0,
  fromSky: f64 = 0.0,
  fromPerWeight: f64 = 0.0,
  fromX: f64 = 0.0,
  fromY: f64 = 0.0,
  fromZ: f64 = 0.0;
let fromAir: bool = false;
let fromSide: i32 = 0;

/** Remembers the vertex at x whose lights were last chosen from and whose next direction has density `pdf`. */
// @ts-ignore: decorator
@inline
export function storePreviousVertex(x: f64, y: f64, z: f64, pdf: f64, perWeight: f64, skyOf: f64, air: bool): void {
  fromX = x;
  fromY = y;
  fromZ = z;
  fromPdf = pdf;
  fromPerWeight = perWeight;
  fromSky = skyOf;
  fromAir = air;
  fromSide = air ? 0 : sideOf(gx, gy, gz);
}

/** Random walk from a vertex already lit and remembered; adds to out. */
export function walk(
  x: f64,
  y: f64,
  z: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  br: f64,
  bg: f64,
  bb: f64,
  airCount: i32,
  surfaceCount: i32,
  ray: i32,
): void {
  const start = Math.max(br, Math.max(bg, bb));
  let vertices = 1;
  let panes = 0;
  // way since the vertex remembered
  let gone = 0.0;
  while (true) {
    // what follows, up to the next vertex and the light at it, is by how often it was scattered before
    atPart(PART_WALK | (airCount << PART_AIR_SHIFT) | (surfaceCount << PART_SURFACE_SHIFT));
    const found = closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>FAR);
    const t: f64 = found ? <f64>hitT : Infinity;
    let scattered = false;
    if (airCount < airLimit) {
      scattered = sampleCollision(x, y, z, dx, dy, dz, t, br, bg, bb, ray);
      br *= colR;
      bg *= colG;
      bb *= colB;
    } else {
      transmit(x, y, z, dx, dy, dz, t, ray);
      br *= tr;
      bg *= tg;
      bb *= tb;
    }
    if (!(br + bg + bb > 0.0)) return;
    if (scattered) {
      airCount++;
      x += colT * dx;
      y += colT * dy;
      z += colT * dz;
      scattererOfCollision();
      atLight(CHOOSING_LIGHTS);
      chooseLights(x, y, z, false, true, random());
      prepareOthers(1);
      afterLight();
      const perWeight = chancePerWeight,
        skyOf = skyChance;
      if (asksSun) directInMedium(SUN, sunChance, x, y, z, dx, dy, dz, br, bg, bb, random(), random(), true);
      if (asksSky) directInMedium(SKY, skyOf, x, y, z, dx, dy, dz, br, bg, bb, random(), random(), true);
      drawOther(random());
      if (otherLight != NONE) directInMedium(otherLight, otherChance, x, y, z, dx, dy, dz, br, bg, bb, random(), random(), true);
      const p = chooseScatterer();
      samplePhase(p, dx, dy, dz, random(), random());
      storePreviousVertex(x, y, z, phaseOf(p, dx * px + dy * py + dz * pz), perWeight, skyOf, true);
      dx = px;
      dy = py;
      dz = pz;
      ray = RAY_INDIRECT;
      gone = 0.0;
    } else {
      if (!found) {
        sky(dx, dy, dz);
        let k = fromAir ? airShare(SKY) : surfaceShare(SKY);
        if (fromSky > 0.0) {
          const pe = fromSky * skyPdf(skyCellAt(fromX, fromY, fromZ, fromSide), dx, dy, dz);
          k *= fromPdf / (fromPdf + pe);
        }
        accumulate(groupOf(SKY), k * br * skyR, k * bg * skyG, k * bb * skyB);
        return;
      }
      readSurface(dx, dy, dz);
      if (insideR + insideG + insideB > 0.0) {
        br *= Math.exp(-insideR * t);
        bg *= Math.exp(-insideG * t);
        bb *= Math.exp(-insideB * t);
      }
      if (emR + emG + emB > 0.0) {
        let k = 1.0;
        const glow = emissiveIndex(hitTriangle);
        if (glow >= 0) {
          const cos = Math.abs(dx * gx + dy * gy + dz * gz);
          const area = emissiveArea(glow);
          const pl =
            (chanceOfTriangle(glow, fromX, fromY, fromZ, fromSide, fromPerWeight) * (gone + t) * (gone + t)) /
            Math.max(MIN_AREA, cos * area);
          // light scattered by air takes emissive surfaces by choice alone
          k = fromAir ? 0.0 : fromPdf / (fromPdf + pl);
        }
        accumulate(paramInt(P_SURFACE_EMISSION_GROUP), k * br * emR, k * bg * emG, k * bb * emB);
      }
      if (isBlack()) return;
      x += t * dx;
      y += t * dy;
      z += t * dz;
      const last = surfaceCount >= surfaceLimit;
      atLight(CHOOSING_LIGHTS);
      chooseLights(x, y, z, last, false, random());
      prepareOthers(1);
      afterLight();
      const perWeight = chancePerWeight,
        skyOf = skyChance,
        meets = !last || isGlossy();
      if (asksSun) directOnSurface(SUN, sunChance, x, y, z, br, bg, bb, random(), random(), !last, meets);
      if (asksSky) directOnSurface(SKY, skyOf, x, y, z, br, bg, bb, random(), random(), !last, meets);
      drawOther(random());
      if (otherLight != NONE) directOnSurface(otherLight, otherChance, x, y, z, br, bg, bb, random(), random(), !last, meets);
      let passes = false;
      if (last && meets && sampleBsdf(random(), random()) && bsdfPdf < DELTA_PDF) meetEmitters(x, y, z, br, bg, bb);
      if (last) {
        // light goes on straight through panes even where no bounce is left
        if (!isPane()) return;
        br *= paneTintR;
        bg *= paneTintG;
        bb *= paneTintB;
        passes = true;
      } else {
        if (!sampleBsdf(random(), random())) return;
        if (bsdfPdf < DELTA_PDF) meetEmitters(x, y, z, br, bg, bb);
        br *= wR;
        bg *= wG;
        bb *= wB;
        passes = bsdfPdf >= DELTA_PDF;
      }
      if (passes) {
        // no vertex: the one before asked for its lights through the pane
        gone += t;
        panes++;
        if (panes > MAX_PANES) return;
        offsetRayOrigin(x, y, z, dx, dy, dz);
        x = qx;
        y = qy;
        z = qz;
        continue;
      }
      surfaceCount++;
      gone = 0.0;
      storePreviousVertex(x, y, z, bsdfPdf, perWeight, skyOf, false);
      dx = sx;
      dy = sy;
      dz = sz;
      ray = sampledRay;
      offsetRayOrigin(x, y, z, dx, dy, dz);
      x = qx;
      y = qy;
      z = qz;
    }
    vertices++;
    if (vertices > 3) {
      const keep = Math.min(1.0, Math.max(br, Math.max(bg, bb)) / start);
      if (keep < 0.999) {
        if (random() >= keep) return;
        const k = 1.0 / keep;
        br *= k;
        bg *= k;
        bb *= k;
      }
    }
  }
}
