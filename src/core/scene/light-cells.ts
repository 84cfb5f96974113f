/** Plans the cells that know which lights reach them; the kernel fills them as they are asked for (kernel/assembly/light-cells.ts). */
import type { SceneDocument } from "../document/schema";
import * as L from "../layout/layout";
import { sizeOf, type Box } from "../math/box";
import { AXES, map3, MOST, sunDirection, type V3 } from "../math/vectors";
import type { CompiledGeometry } from "./compiled";

export interface LightCells {
  /** Cells that were not looked at yet. */
  values: Float32Array;
  /** What they depend on besides geometry. */
  key: string;
  /** Low corner of the grid and edge of its cells, m from the origin, and cells along each axis. */
  low: V3;
  edge: number;
  count: V3;
}

/** Made when first asked for: most of a kernel's runs share it. */
let unseen: Float32Array | null = null;

/** A grid over where the set has its detail, and what lights lie near it. @returns null where there is nothing to know */
export function lightCells(
  doc: SceneDocument,
  records: Float64Array,
  count: number,
  distant: number,
  geometry: CompiledGeometry,
): LightCells | null {
  const { detail } = geometry;
  if (geometry.triangleCount === 0 || !(doc.sun.on || doc.sky.on || count > 0 || geometry.emissive.length > 0)) return null;
  const box: Box = [...detail];
  const size = sizeOf(detail);
  for (let i = distant; i < count; i++)
    for (const k of AXES) {
      const x = records[i * L.LIGHT_WORDS + L.L_POSITION + k]!;
      box[k] = Math.min(box[k], Math.max(x, detail[k] - size[k]));
      box[MOST[k]] = Math.max(box[MOST[k]], Math.min(x, detail[MOST[k]] + size[k]));
    }
  const across = map3(sizeOf(box), (x) => Math.max(x, 1e-3));
  let edge = Math.cbrt((across[0] * across[1] * across[2]) / L.MAX_LIGHT_CELLS);
  const along = (): V3 => map3(across, (x) => Math.max(1, Math.ceil(x / edge)));
  let cells = along();
  while (cells[0] * cells[1] * cells[2] > L.MAX_LIGHT_CELLS) {
    edge *= 1.03;
    cells = along();
  }
  const low: V3 = [box[0], box[1], box[2]];
  const towards = doc.sun.on ? sunDirection(doc.sun.azimuth, doc.sun.elevation).join(" ") : "";
  const key = ["cells", ...low, edge, digest(records), towards, JSON.stringify(doc.sky)].join(" ");
  unseen ??= new Float32Array((L.MAX_LIGHT_CELLS * L.LIGHT_CELL_BYTES) / 4).fill(-1);
  return { values: unseen.subarray(0, (cells[0] * cells[1] * cells[2] * L.LIGHT_CELL_BYTES) / 4), key, low, edge, count: cells };
}

/** Short name of the numbers of records. */
function digest(records: Float64Array): string {
  let a = 0x811c9dc5,
    b = 1;
  for (const word of new Uint32Array(records.buffer, records.byteOffset, 2 * records.length)) {
    a = Math.imul(a ^ word, 0x01000193);
    b = Math.imul(b + word, 0x85ebca6b) ^ (b >>> 13);
  }
  return `${a >>> 0}.${b >>> 0}`;
}
