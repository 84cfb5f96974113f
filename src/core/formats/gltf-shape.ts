/** Other ways of glTF to say the same: strips and fans of triangles, files without a scene. */
import type { Document, Node } from "@gltf-transform/core";

/** How corners make triangles, by the format's numbers. */
const TRIANGLES = 4,
  STRIP = 5,
  FAN = 6;

/** Nodes that a file shows: those of its scene, or all that lie in no other where it has none. */
export function rootNodes(doc: Document): Node[] {
  const root = doc.getRoot();
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  return scene ? scene.listChildren() : root.listNodes().filter((node) => !node.getParentNode());
}

/** Corners of a strip or a fan as those of single triangles, which face the same way (glTF 2.0, 3.7.2.1). */
export function singleTriangles(corners: ArrayLike<number>, fan: boolean): Uint32Array {
  const n = Math.max(0, corners.length - 2);
  const out = new Uint32Array(3 * n);
  for (let i = 0; i < n; i++) {
    const odd = i % 2;
    out.set(fan ? [corners[i + 1]!, corners[i + 2]!, corners[0]!] : [corners[i]!, corners[i + 1 + odd]!, corners[i + 2 - odd]!], 3 * i);
  }
  return out;
}

/** Turns strips and fans of a document into single triangles, in place. */
export function asTriangles(doc: Document): void {
  for (const mesh of doc.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const mode = primitive.getMode();
      if (mode !== STRIP && mode !== FAN) continue;
      const count = primitive.getAttribute("POSITION")?.getCount() ?? 0;
      const indexed = (primitive.getIndices()?.getArray() ?? null) as ArrayLike<number> | null;
      const corners = indexed ?? Uint32Array.from({ length: count }, (_, i) => i);
      const indices = singleTriangles(corners, mode === FAN);
      primitive.setIndices(doc.createAccessor().setType("SCALAR").setArray(indices)).setMode(TRIANGLES);
    }
}
