/** What an exposure makes of luminances. */

/** Luminance (cd/m²) that an exposure (EV at ISO 100) shows as white: 1.2 · 2^EV. */
export const whiteAt = (exposure: number): number => 1.2 * 2 ** exposure;

/** Share of white that middle grey is. */
export const MIDDLE_GREY = 0.18;
