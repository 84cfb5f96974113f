/**
 * A picture made elsewhere as what the lens sees first: each pixel has its light, and how far it lies. Its light is seen as it is, without
 * lights upon it; a surface through its depth stands in the way of light, and is passed by the rays of the lens.
 */
import {
  P_PLATE,
  P_PLATE_ALONE,
  P_PLATE_GROUP,
  P_PLATE_HELD,
  P_PLATE_HEIGHT,
  P_PLATE_OBJECT,
  P_PLATE_WIDTH,
  P_FRAME_HEIGHT,
  P_FRAME_WIDTH,
  PLATE_COVER,
  PLATE_FAR,
  PLATE_MATTE,
  PLATE_MATTE_SECOND,
  PLATE_MATTE_SHARE,
  PLATE_NEAR,
  PLATE_NORMAL,
  PLATE_SHARES,
  PLATE_SIZE,
} from "../../layout/layout";
import { paramAddress, paramInt } from "./state";
import { decodeNormal } from "./normal-code";

let pixels: usize = 0,
  across: i32 = 0,
  down: i32 = 0;
/** Whether the lens sees a plate at all, pixel by pixel, and nothing else. */
export let hasPlate: bool = false;
export let plateAlone: bool = false;
let same: bool = false;
let surface: i32 = -1;
export let plateGroup: i32 = 0;
/** Whether what stands in it is black to the lens. */
export let plateHeld: bool = false;

/** Record of the pixel that the present ray looks at; 0 without a plate. */
let at: usize = 0;
/** How far (m) what the ray meets lies, and the other thing in a pixel that an edge crosses. */
export let plateT: f64 = Infinity;
export let plateOtherT: f64 = Infinity;
let front: bool = true;
let matteChance: f64 = 0.0;

/** Reads from the parameters whether there is a plate. */
export function preparePlate(): void {
  pixels = paramAddress(P_PLATE);
  hasPlate = pixels != 0;
  at = 0;
  if (!hasPlate) return;
  across = paramInt(P_PLATE_WIDTH);
  down = paramInt(P_PLATE_HEIGHT);
  same = across == paramInt(P_FRAME_WIDTH) && down == paramInt(P_FRAME_HEIGHT);
  surface = paramInt(P_PLATE_OBJECT);
  plateAlone = paramInt(P_PLATE_ALONE) != 0;
  plateGroup = paramInt(P_PLATE_GROUP);
  plateHeld = paramInt(P_PLATE_HELD) != 0;
}

/**
 * Chooses the pixel of a ray from pixel (x, y) of the frame, at (fx, fy) of it: the same one where both are of one size.
 * @param u,v what was drawn for its place: of one size the place counts for nothing, so that it chooses well between front and back, and
 * between the two mattes of a pixel
 */
export function aimPlate(x: i32, y: i32, fx: f64, fy: f64, u: f64, v: f64): void {
  matteChance = v;
  let px = x,
    py = y;
  let chance = u;
  if (!same) {
    const sx = (fx * <f64>across) / <f64>paramInt(P_FRAME_WIDTH);
    px = <i32>Math.floor(sx);
    py = <i32>Math.floor((fy * <f64>down) / <f64>paramInt(P_FRAME_HEIGHT));
    // the place within the plate's pixel, which is as evenly spread
    chance = sx - Math.floor(sx);
  }
  px = px < 0 ? 0 : px >= across ? across - 1 : px;
  py = py < 0 ? 0 : py >= down ? down - 1 : py;
  at = pixels + <usize>(py * across + px) * <usize>PLATE_SIZE;
  const near = <f64>load<f32>(at, PLATE_NEAR),
    far = <f64>load<f32>(at, PLATE_FAR);
  front = near == far || chance * 255.0 < <f64>load<u8>(at, PLATE_COVER);
  plateT = front ? near : far;
  plateOtherT = front ? far : near;
}

/** Whether an object is the surface of the plate, which the lens looks through. */
// @ts-ignore: decorator
@inline
export function isPlateSurface(object: i32): bool {
  return object == surface;
}

/** Light of the pixel in one band, cd/m². */
// @ts-ignore: decorator
@inline
export function plateLight(band: i32): f64 {
  return <f64>load<f32>(at + ((<usize>band) << 2));
}

/** What comes of the pixel's light in one band through what lies before the thing that the ray meets, and before the other. */
export function plateThrough(band: i32, met: f64, other: f64): f64 {
  const share = <f64>load<u8>(at + <usize>(PLATE_SHARES + band)) / 255.0;
  return front ? share * met + (1.0 - share) * other : share * other + (1.0 - share) * met;
}

/** Number of a matte of the plate's file that the sample is of; -1 where it is of none. */
export function plateMatte(): i32 {
  const first = matteChance * 255.0 < <f64>load<u8>(at, PLATE_MATTE_SHARE);
  return (first ? <i32>load<u16>(at, PLATE_MATTE) : <i32>load<u16>(at, PLATE_MATTE_SECOND)) - 1;
}

/** Sets codeX, codeY, codeZ to the normal of the pixel. */
export function plateNormal(): void {
  decodeNormal(load<i32>(at, PLATE_NORMAL));
}
