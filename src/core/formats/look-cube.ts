/** A finish as a look-up table that other programs read. */
import type { Lut } from "../data/lut";
import type { Finish } from "../document/finish";
import { Finisher } from "../film/finish";
import { decodeSrgb } from "../optics/colour";
import { MIDDLE_GREY } from "../optics/exposure";
import { writeCube } from "./cube";

/** Stops about middle grey at 0 and at 1 of logarithmic light. */
export const LOG_STOPS = [-10, 6] as const;

/** What a table is fed with: display values of light up to white, or light by its logarithm, which goes far beyond white. */
export const CUBE_INPUTS = ["display", "log"] as const;
export type CubeInput = (typeof CUBE_INPUTS)[number];

/** Exposed light (white is 1) of what a table is fed with. */
export const lightOfInput = (input: CubeInput, v: number): number =>
  input === "display" ? decodeSrgb(v) : MIDDLE_GREY * 2 ** (LOG_STOPS[0] + (LOG_STOPS[1] - LOG_STOPS[0]) * v);

const SAID: Record<CubeInput, string> = {
  display: "input: exposed linear light (Rec. 709 primaries, D65), 0 to 1, as sRGB (IEC 61966-2-1)",
  log: `input: exposed linear light (Rec. 709 primaries, D65) as (log2(light / ${MIDDLE_GREY}) + ${-LOG_STOPS[0]}) / ${LOG_STOPS[1] - LOG_STOPS[0]}`,
};

/** A finish as a `.cube` file. Exposure and white balance are not in it, and no table can hold glare. */
export function finishToCube(title: string, finish: Finish, lut: Lut | null, input: CubeInput): string {
  const finisher = new Finisher({ ...finish, on: true }, lut);
  return writeCube(title, [SAID[input], "output: sRGB display values"], (r, g, b) => {
    finisher.applyExactly(lightOfInput(input, r), lightOfInput(input, g), lightOfInput(input, b));
    const { out } = finisher;
    return [out[0]! / 255, out[1]! / 255, out[2]! / 255];
  });
}
