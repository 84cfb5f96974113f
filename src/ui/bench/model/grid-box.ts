/** Boxes about the grids of media, as they are placed now. */
import type { Medium } from "#core/document/air";
import type { CompiledGeometry } from "#core/scene/compiled";
import { gridCorners } from "#core/scene/media";
import { gridKey } from "#core/document/sequence";

/** @returns corners, null for a medium without a grid or one whose file is not read yet */
export function gridBox({ grid }: Medium, volumes: CompiledGeometry["volumes"], time: number): [number, number, number][] | null {
  const known = grid && volumes[gridKey(grid, grid.channel, time)];
  return known ? gridCorners(known.volume, grid) : null;
}
