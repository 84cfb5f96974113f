/** Normals in four bytes (scene/normals.ts), as directions again. */
import { FLAT_NORMAL } from "../../layout/layout";

/** Direction decoded last, of any length; zero where the code is none. */
export let codeX: f64 = 0.0;
export let codeY: f64 = 0.0;
export let codeZ: f64 = 0.0;

/** Unfolds a code from the octahedron. */
// @ts-ignore: decorator
@inline
export function decodeNormal(code: i32): void {
  if (code == FLAT_NORMAL) {
    codeX = 0.0;
    codeY = 0.0;
    codeZ = 0.0;
    return;
  }
  let x = <f64>((code << 16) >> 16) * (1.0 / 32767.0),
    y = <f64>(code >> 16) * (1.0 / 32767.0);
  const z = 1.0 - Math.abs(x) - Math.abs(y);
  if (z < 0.0) {
    const t = x;
    x = (1.0 - Math.abs(y)) * (t >= 0.0 ? 1.0 : -1.0);
    y = (1.0 - Math.abs(t)) * (y >= 0.0 ? 1.0 : -1.0);
  }
  codeX = x;
  codeY = y;
  codeZ = z;
}
