/**
 * Regions of a kernel memory, each behind the one before it, in bytes. Addresses in records are offsets from the beginning
 * of this one memory, so that the same buffer serves a back end whose memory is a plain array.
 */

/** What the kernel keeps for itself: tables made at compile time. A test holds that they fit. */
export const STATIC_BYTES: i32 = 65536;

/** f64[PARAM_COUNT]: everything of a frame that an edit changes without building geometry (parameters.ts). */
export const PARAMS: i32 = STATIC_BYTES;
export const PARAM_COUNT: i32 = 512;

/** f64[MAX_MEDIA × MEDIUM_WORDS] (media.ts). */
export const MEDIA: i32 = PARAMS + PARAM_COUNT * 8;
export const MAX_MEDIA: i32 = 32;
export const MEDIUM_WORDS: i32 = 128;

/** i32[CONTROL_COUNT]: atomics that all workers share. */
export const CONTROL: i32 = MEDIA + MAX_MEDIA * MEDIUM_WORDS * 8;
export const CONTROL_COUNT: i32 = 64;
/** Number of the run now allowed to work; a kernel whose run differs stops within a row. */
export const CTL_RUN: i32 = 0;
/** Next task of the current run. */
export const CTL_NEXT: i32 = CTL_RUN + 1;
/** 1 while workers take no further task. */
export const CTL_PAUSE: i32 = CTL_NEXT + 1;

/** Sizes are rounded up by masks, since a division keeps its fraction in TypeScript. One block of SCRATCH_STRIDE for each worker (scratch.ts), from the next page on. */
export const PAGE_BYTES: i32 = 65536;
export const SCRATCH: i32 = (CONTROL + CONTROL_COUNT * 4 + PAGE_BYTES - 1) & ~(PAGE_BYTES - 1);
export const SCRATCH_STRIDE: i32 = 2 * PAGE_BYTES;
export const MAX_WORKERS: i32 = 64;

/** Nodes, leaves, attributes, materials, then tables that change with an edit, then the film: see MemoryPlan. */
export const SCENE: i32 = SCRATCH + MAX_WORKERS * SCRATCH_STRIDE;
/** Pages before the scene and one of it: what a memory begins with. */
export const MIN_PAGES: i32 = (SCENE >> 16) + 1;
/** Pages a memory may have: 4 GB. */
export const MAX_PAGES: i32 = 65536;
