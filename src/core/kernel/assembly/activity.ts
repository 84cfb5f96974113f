/** What this worker is at just now, where another thread may look: of many looks is found where the time goes. */
import { A_LIGHT, A_MEDIUM, A_PART, A_PASSES, A_PIXEL, NO_LIGHT, SCRATCH_ACTIVITY } from "../../layout/scratch";
import { scratch } from "./state";

/** Says which part of a sample is traced, one of PART_… */
// @ts-ignore: decorator
@inline
export function atPart(part: i32): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, part, A_PART * 4);
}

/** Says for which light group rays are traced. */
// @ts-ignore: decorator
@inline
export function atLight(group: i32): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, group, A_LIGHT * 4);
}

/** Says that no light is asked any more. */
// @ts-ignore: decorator
@inline
export function afterLight(): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, NO_LIGHT, A_LIGHT * 4);
}

/** Says through which medium light goes, by its address. */
// @ts-ignore: decorator
@inline
export function atMedium(p: usize): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, <i32>p, A_MEDIUM * 4);
}

/** Says that light goes through no medium any more. */
// @ts-ignore: decorator
@inline
export function afterMedium(): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, 0, A_MEDIUM * 4);
}

/** Says which pixel of the film is sampled. */
// @ts-ignore: decorator
@inline
export function atPixel(x: i32, y: i32): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, x | (y << 16), A_PIXEL * 4);
}

/** Says which passes of the film samples are for. */
export function atPasses(passes: i32): void {
  store<i32>(scratch + SCRATCH_ACTIVITY, passes, A_PASSES * 4);
}
