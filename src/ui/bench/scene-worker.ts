/** Work that must not hold up the interface: models to scenes, films to files and back. */
import { expose, transfer } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import { emptyFilm, type Film, type PassName } from "#core/film/film";
import { readExr } from "#core/formats/exr";
import { readModel } from "#core/formats/gltf";
import { filmToExr, filmToPng, type RenderFacts } from "#core/formats/picture";
import { assemble, compileGeometry, type CompiledGeometry } from "#core/scene/compile";
import type { Mesh } from "#core/scene/geometry";
import { F_AIR, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_DEPTH, F_HITS, F_SURFACES, F_TRANSMITTANCE, PIXEL_FLOATS } from "#core/scene/layout";

const models = new Map<string, Mesh>();

async function model(sha256: string, name: string): Promise<Mesh> {
  const known = models.get(sha256);
  if (known) return known;
  const response = await fetch(`/api/assets/${sha256}`);
  if (!response.ok) throw new Error(`The model "${name}" could not be loaded (${response.status}).`);
  const { mesh } = await readModel(new Uint8Array(await response.arrayBuffer()), name);
  models.set(sha256, mesh);
  return mesh;
}

const api = {
  /** Loads the models of a document and builds its scene. */
  async build(doc: SceneDocument): Promise<CompiledGeometry> {
    const found = new Map<string, Mesh>();
    for (const [name, asset] of Object.entries(doc.assets)) {
      if (!doc.objects.some((o) => o.kind === "model" && o.asset === name && !o.hidden)) continue;
      if (!asset.sha256) throw new Error(`The model "${name}" has no hash to find it by.`);
      found.set(name, await model(asset.sha256, name));
    }
    const geometry = compileGeometry(assemble(doc, found));
    return transfer(geometry, [geometry.bvh.nodes, geometry.bvh.leaves, geometry.triangles]);
  },

  /** A film as OpenEXR. */
  exr(film: Film, passes: PassName[], type: "half" | "float", doc: SceneDocument, facts: RenderFacts): Uint8Array {
    const bytes = filmToExr(film, passes, type, doc, facts);
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },

  /** A film developed, as PNG. */
  png(film: Film, pass: PassName, doc: SceneDocument): Uint8Array {
    const bytes = filmToPng(film, pass, doc);
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },

  /** The film of a proof, from its OpenEXR file: every pass as one sample a pixel. */
  async film(sha256: string): Promise<Film> {
    const response = await fetch(`/api/assets/${sha256}`);
    if (!response.ok) throw new Error(`The proof's film could not be loaded (${response.status}).`);
    const image = readExr(new Uint8Array(await response.arrayBuffer()), "proof");
    const film = emptyFilm(image.width, image.height);
    const layers: Record<string, number> = { "air.": F_AIR, "surfaces.": F_SURFACES, "clear.": F_CLEAR, "transmittance.": F_TRANSMITTANCE };
    const n = image.width * image.height;
    for (const c of image.channels) {
      if (c.name === "depth.Z") {
        for (let i = 0; i < n; i++) {
          if (c.values[i]! === Infinity) continue;
          film.data[i * PIXEL_FLOATS + F_DEPTH] = c.values[i]!;
          film.data[i * PIXEL_FLOATS + F_HITS] = 1;
        }
        continue;
      }
      const layer = Object.keys(layers).find((l) => c.name.startsWith(l));
      if (!layer) continue;
      const at = layers[layer]! + "RGB".indexOf(c.name.slice(layer.length));
      for (let i = 0; i < n; i++) film.data[i * PIXEL_FLOATS + at] = c.values[i]!;
      if (layer === "clear.") for (let i = 0; i < n; i++) film.data[i * PIXEL_FLOATS + F_CLEAR_COUNT] = 1;
      else for (let i = 0; i < n; i++) film.data[i * PIXEL_FLOATS + F_COUNT] = 1;
    }
    return transfer(film, [film.data.buffer as ArrayBuffer]);
  },
};

export type SceneWorker = typeof api;
expose(api);
