/** Plates made in code, ready for the kernel. */
import { parseDocument } from "#core/document/parse";
import { PLATE_SURFACE, type Plate } from "#core/document/plate";
import { plateCamera } from "#core/document/plate-lens";
import type { SceneDocument } from "#core/document/schema";
import type { PlatePictures } from "#core/plate/read";
import type { Resources } from "#core/scene/compiled";
import { compilePlate } from "#core/scene/plate";
import type { PartialDocument } from "./kernel";

type Given = Partial<Omit<Plate, "picture" | "depth">>;

/** A document of a plate whose lens sees it; its surface is grey. @param size pixels of plate and film */
export function plateDocument(size: readonly [number, number], plate: Given = {}, more: PartialDocument = {}): SceneDocument {
  const doc = parseDocument({
    fumarium: 2,
    ...more,
    assets: { ...more.assets, "p.exr": { uri: "p.exr" } },
    materials: { ...more.materials, plate: {} },
    objects: [...(more.objects ?? []), { kind: "plate", material: "plate" }],
    film: { ...more.film, size: [...size] },
    plate: { along: "ray", light: 0, ...plate, picture: "p.exr", depth: "p.exr" },
  });
  return { ...doc, camera: plateCamera(doc.plate!, doc.camera) };
}

/** What the compiler takes of it. */
export function plateResources(doc: SceneDocument, pictures: PlatePictures): Resources {
  const { surface, compiled } = compilePlate(doc, doc.plate!, pictures);
  return { models: new Map([[PLATE_SURFACE, surface]]), plate: compiled };
}

/** Pictures of a size by functions of a pixel. */
export function picturesOf(
  [width, height]: readonly [number, number],
  colour: (x: number, y: number) => readonly [number, number, number],
  distance: (x: number, y: number) => number,
): PlatePictures {
  const each = (of: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
  return {
    width,
    height,
    bands: [0, 1, 2].map((k) => each((x, y) => colour(x, y)[k]!)),
    depth: each(distance),
    normals: null,
    mattes: [],
    layers: { picture: [""], depth: [""] },
  };
}
