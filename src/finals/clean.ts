/** The clean-up of a film that is finished. */
import type { Strengths } from "#core/clean/cleaner";
import { CLEANED_PASSES, SIDES } from "#core/film/cleaned";
import type { Film } from "#core/film/film";
import type { PassName } from "#core/film/passes";
import type { CleanPool } from "#engine/clean-pool";

/** The film with what is cleaned of the wanted passes, its light groups too. @param says told how far it is, in words */
export async function cleanedFilm(
  pool: CleanPool,
  film: Film,
  passes: readonly PassName[],
  strengths: Strengths,
  says?: (line: string) => void,
): Promise<Film> {
  const medium = passes.some((p) => p !== "clear" && CLEANED_PASSES.includes(p));
  const sides = SIDES.filter((side) => (side === "clear" ? passes.includes("clear") : medium));
  const onProgress = (share: number): void => says?.(`cleaning, ${(100 * share).toFixed(0)} %`);
  return { ...film, cleaned: await pool.finish(film, { sides, strengths, lights: true, onProgress }) };
}
