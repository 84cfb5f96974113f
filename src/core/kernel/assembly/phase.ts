/** Phase functions of media and of mixtures of media: evaluation and sampling. */
import { PHASE_DROPLETS, PHASE_HENYEY_GREENSTEIN, PHASE_RAYLEIGH, PHASE_TWO_LOBE } from "../../layout/kinds";
import { M_PHASE, M_PHASE_1, M_PHASE_2, M_PHASE_3, M_PHASE_4, M_BIT } from "../../layout/layout";
import { draine, henyeyGreenstein, rayleigh, sampleHenyeyGreenstein, sampleRayleigh } from "../../optics/phase";
import { word, wordInt } from "./state";
import { random } from "./random";
import { scattererCount, scatterer, scattererWeight } from "./scatterers";

/** Phase function of one medium (1/sr). */
export function phaseOf(p: usize, cos: f64): f64 {
  const model = wordInt(p, M_PHASE);
  if (model == PHASE_HENYEY_GREENSTEIN) return henyeyGreenstein(cos, word(p, M_PHASE_1));
  if (model == PHASE_TWO_LOBE) {
    const mix = word(p, M_PHASE_3);
    return (1.0 - mix) * henyeyGreenstein(cos, word(p, M_PHASE_1)) + mix * henyeyGreenstein(cos, word(p, M_PHASE_2));
  }
  if (model == PHASE_RAYLEIGH) return rayleigh(cos);
  if (model != PHASE_DROPLETS) unreachable();
  const share = word(p, M_PHASE_4);
  return (1.0 - share) * henyeyGreenstein(cos, word(p, M_PHASE_1)) + share * draine(cos, word(p, M_PHASE_2), word(p, M_PHASE_3));
}

/** Cosine drawn from a medium's phase function, exactly. */
export function sampleCosine(p: usize, u: f64): f64 {
  const model = wordInt(p, M_PHASE);
  if (model == PHASE_HENYEY_GREENSTEIN) return sampleHenyeyGreenstein(word(p, M_PHASE_1), u);
  if (model == PHASE_TWO_LOBE) {
    const mix = word(p, M_PHASE_3);
    if (u < mix) return sampleHenyeyGreenstein(word(p, M_PHASE_2), u / mix);
    return sampleHenyeyGreenstein(word(p, M_PHASE_1), (u - mix) / (1.0 - mix));
  }
  if (model == PHASE_RAYLEIGH) return sampleRayleigh(u);
  if (model != PHASE_DROPLETS) unreachable();
  const share = word(p, M_PHASE_4);
  if (u >= share) return sampleHenyeyGreenstein(word(p, M_PHASE_1), (u - share) / (1.0 - share));
  // Draine's lobe by rejection from Henyey–Greenstein: the factor 1 + α cos² is largest at the ends
  const g = word(p, M_PHASE_2),
    alpha = word(p, M_PHASE_3);
  let c = sampleHenyeyGreenstein(g, u / share);
  while (random() * (1.0 + alpha) > 1.0 + alpha * c * c) c = sampleHenyeyGreenstein(g, random());
  return c;
}

/** Set by samplePhase(). */
export let px: f64 = 0.0;
export let py: f64 = 0.0;
export let pz: f64 = 0.0;

/** Direction (px, py, pz) around the travel direction w by medium p's phase function. */
export function samplePhase(p: usize, wx: f64, wy: f64, wz: f64, u: f64, v: f64): void {
  const c = sampleCosine(p, u);
  const s = Math.sqrt(Math.max(0.0, 1.0 - c * c));
  const phi = 6.283185307179586 * v;
  const a = s * Math.cos(phi),
    b = s * Math.sin(phi);
  const sign = wz >= 0.0 ? 1.0 : -1.0;
  const k = -1.0 / (sign + wz);
  const m = wx * wy * k;
  px = a * (1.0 + sign * wx * wx * k) + b * m + c * wx;
  py = a * (sign * m) + b * (sign + wy * wy * k) + c * wy;
  pz = a * (-sign * wx) - b * wy + c * wz;
}

/** Set by phaseAt(): Σ weight × phase function per band over the scatterers at a point. */
export let phR: f64 = 0.0;
export let phG: f64 = 0.0;
export let phB: f64 = 0.0;

/** Sums the scatterers that a light with this mask of media reaches, for the cosine between directions of travel. */
export function phaseAt(cos: f64, mask: u32): void {
  phR = 0.0;
  phG = 0.0;
  phB = 0.0;
  for (let i = 0; i < scattererCount; i++) {
    const p = scatterer(i);
    if ((mask & (1 << (<u32>wordInt(p, M_BIT)))) == 0) continue;
    const f = phaseOf(p, cos);
    phR += f * scattererWeight(i, 0);
    phG += f * scattererWeight(i, 1);
    phB += f * scattererWeight(i, 2);
  }
}

/** Set by chooseScatterer(): weight per band over the chance of the choice. */
export let chR: f64 = 0.0;
export let chG: f64 = 0.0;
export let chB: f64 = 0.0;

/** One of the scatterers at a point by its weight. @returns its record; its weight over its chance in chR, chG, chB */
export function chooseScatterer(): usize {
  if (scattererCount == 1) {
    chR = scattererWeight(0, 0);
    chG = scattererWeight(0, 1);
    chB = scattererWeight(0, 2);
    return scatterer(0);
  }
  let sum = 0.0;
  for (let i = 0; i < scattererCount; i++) sum += scattererWeight(i, 0) + scattererWeight(i, 1) + scattererWeight(i, 2);
  let u = random() * sum;
  let chosen = 0;
  let w = 0.0;
  for (let i = 0; i < scattererCount; i++) {
    chosen = i;
    w = scattererWeight(i, 0) + scattererWeight(i, 1) + scattererWeight(i, 2);
    if (u < w) break;
    u -= w;
  }
  const k = sum / w;
  chR = k * scattererWeight(chosen, 0);
  chG = k * scattererWeight(chosen, 1);
  chB = k * scattererWeight(chosen, 2);
  return scatterer(chosen);
}

/** Density (1/sr) of a direction drawn from one of the scatterers at a point, chosen by weight. */
export function mixture(cos: f64): f64 {
  if (scattererCount == 1) return phaseOf(scatterer(0), cos);
  let sum = 0.0,
    f = 0.0;
  for (let i = 0; i < scattererCount; i++) {
    const w = scattererWeight(i, 0) + scattererWeight(i, 1) + scattererWeight(i, 2);
    sum += w;
    f += w * phaseOf(scatterer(i), cos);
  }
  return sum > 0.0 ? f / sum : 0.0;
}
