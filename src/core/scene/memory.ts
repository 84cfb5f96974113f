/** Where everything lies in kernel memory, and its writing there. */
import { glassIndices } from "./facets";
import type { SurfaceMaterial } from "../data/geometry";
import { keepsLightGroups } from "../document/balance";
import type { SceneDocument } from "../document/schema";
import { AIR_EVERY } from "../document/air-size";
import { InputError } from "../errors";
import { NO_EXTRAS, pixelFloats, type FilmExtras, type FrameWindow } from "../film/film";
import { ALPHA_CODES } from "../layout/codes";
import * as L from "../layout/layout";
import type { CompiledGeometry, MemoryPlan } from "./compiled";
import { activeMedia } from "./media";
import { lightGroups } from "./light-groups";
import { showsPlate } from "./plate";
import { buildTables } from "./parameters";

/** What a document asks its film to keep beyond the usual passes. */
export function filmExtras(doc: SceneDocument, geometry: CompiledGeometry): FilmExtras {
  return {
    lights: keepsLightGroups(doc.film) ? lightGroups(doc, geometry.materials).names : [],
    mattes: doc.film.mattes ? matteNames(doc, geometry) : null,
    ...(showsPlate(doc, geometry.plate) ? { plate: true } : {}),
    ...(doc.render.airSize === "full" ? {} : { airEvery: AIR_EVERY[doc.render.airSize] }),
  };
}

/** Names of objects, and of the mattes of a plate's file behind them, of materials and media in the air by number. */
export const matteNames = (doc: SceneDocument, geometry: CompiledGeometry): NonNullable<FilmExtras["mattes"]> => ({
  object: [...doc.objects.map((o, i) => o.name ?? `${o.kind} ${i + 1}`), ...(geometry.plate?.mattes ?? [])],
  material: geometry.materials.map((m, i) => m.name ?? `material ${i + 1}`),
  medium: activeMedia(doc).map((m) => m.name),
});

/**
 * Plans memory for a geometry, the tables of a document and a film of `pixels`.
 * @throws InputError past the 4 GB of a kernel memory
 */
export function planMemory(geometry: CompiledGeometry, pixels: number, doc?: SceneDocument): MemoryPlan {
  const align = (n: number): number => Math.ceil(n / 128) * 128;
  const nodes = L.SCENE;
  const leaves = align(nodes + geometry.bvh.nodes.byteLength);
  const triangles = align(leaves + geometry.bvh.leaves.byteLength);
  const places = align(triangles + geometry.triangles.byteLength);
  const materials = align(places + geometry.places.byteLength);
  const uvs = align(materials + Math.max(1, geometry.materials.length) * L.MATERIAL_SIZE);
  const uvsSecond = align(uvs + (geometry.uvs?.byteLength ?? 0));
  const colours = align(uvsSecond + (geometry.uvsSecond?.byteLength ?? 0));
  const textures = align(colours + (geometry.colours?.byteLength ?? 0));
  const plate = align(textures + geometry.textures.reduce((n, t) => n + t.rgba.byteLength, geometry.textures.length * L.TEXTURE_SIZE));
  let next = align(plate + (geometry.plate?.pixels.byteLength ?? 0));
  const place = (grids: CompiledGeometry["volumes"]): Record<string, number> =>
    Object.fromEntries(
      Object.entries(grids).map(([key, { packed }]) => {
        const at = next;
        next = align(next + packed.byteLength);
        return [key, at];
      }),
    );
  const volumes = place(geometry.volumes);
  const distances = place(geometry.distances);
  const tables = next;
  const content = doc ? buildTables(doc, geometry, tables, { volumes, distances }) : null;
  const film = align(tables + (content?.tables.byteLength ?? 0));
  const extras = doc ? filmExtras(doc, geometry) : NO_EXTRAS;
  const stride = pixelFloats(extras);
  const end = film + pixels * stride * 4;
  if (end > 4_000_000_000) throw new InputError(`scene and picture need ${(end / 1e9).toFixed(1)} GB, more than the 4 GB a render may use`);
  return {
    nodes,
    leaves,
    triangles,
    places,
    materials,
    uvs,
    uvsSecond,
    colours,
    textures,
    plate,
    volumes,
    distances,
    tables,
    film,
    stride,
    extras,
    end,
    content,
  };
}

/** Copies geometry into kernel memory. */
export function writeGeometry(memory: ArrayBufferLike, geometry: CompiledGeometry, plan: MemoryPlan): void {
  const copy = (from: ArrayBuffer, to: number): void => new Uint8Array(memory, to, from.byteLength).set(new Uint8Array(from));
  copy(geometry.bvh.nodes, plan.nodes);
  copy(geometry.bvh.leaves, plan.leaves);
  copy(geometry.triangles, plan.triangles);
  copy(geometry.places, plan.places);
  if (geometry.uvs) new Float32Array(memory, plan.uvs, geometry.uvs.length).set(geometry.uvs);
  if (geometry.uvsSecond) new Float32Array(memory, plan.uvsSecond, geometry.uvsSecond.length).set(geometry.uvsSecond);
  if (geometry.colours) new Uint16Array(memory, plan.colours, geometry.colours.length).set(geometry.colours);
  writeMaterials(memory, geometry.materials, plan.materials);
  if (geometry.plate) copy(geometry.plate.pixels, plan.plate);
  for (const [key, at] of Object.entries(plan.volumes)) copy(geometry.volumes[key]!.packed, at);
  for (const [key, at] of Object.entries(plan.distances)) copy(geometry.distances[key]!.packed, at);
  let texels = plan.textures + geometry.textures.length * L.TEXTURE_SIZE;
  geometry.textures.forEach((t, i) => {
    const record = new Int32Array(memory, plan.textures + i * L.TEXTURE_SIZE, L.TEXTURE_SIZE / 4);
    record.set([texels, t.width, t.height, ...t.wrap, t.srgb ? 1 : 0, t.nearest ? 1 : 0]);
    new Uint8Array(memory, texels, t.rgba.length).set(t.rgba);
    texels += t.rgba.length;
  });
}

const TEXTURES = {
  base: L.SLOT_BASE,
  rough: L.SLOT_METALLIC_ROUGHNESS,
  normal: L.SLOT_NORMAL,
  emission: L.SLOT_EMISSION,
  transmission: L.SLOT_TRANSMISSION,
} as const;

function writeMaterials(memory: ArrayBufferLike, materials: readonly SurfaceMaterial[], at: number): void {
  const all = new Float32Array(memory, at, Math.max(1, materials.length) * (L.MATERIAL_SIZE / 4));
  const glass = glassIndices(materials);
  materials.forEach((material, i) => {
    const m = all.subarray(i * (L.MATERIAL_SIZE / 4), (i + 1) * (L.MATERIAL_SIZE / 4));
    m.set(material.baseColor, L.MT_BASE);
    m[L.MT_METALLIC] = material.metallic;
    m.set(material.emission, L.MT_EMISSION);
    m[L.MT_ROUGHNESS] = material.roughness;
    m[L.MT_SPECULAR] = material.specular;
    m.set(material.specularColor ?? [1, 1, 1], L.MT_SPECULAR_COLOUR);
    m[L.MT_DIFFUSE_TRANSMISSION] = material.diffuseTransmission;
    m.set(material.diffuseTransmissionColor ?? [-1, -1, -1], L.MT_PASSED_COLOUR);
    m[L.MT_OPACITY] = material.opacity;
    const mode = material.alphaMode ?? "opaque";
    m[L.MT_ALPHA_MODE] = mode === "opaque" && material.opacity < 1 ? L.ALPHA_BLEND : ALPHA_CODES[mode];
    m[L.MT_CUTOFF] = material.cutoff ?? 0.5;
    m[L.MT_TRANSMISSION] = material.transmission;
    m[L.MT_SOLID] = material.solid ? 1 : 0;
    m[L.MT_IOR] = material.ior;
    m.set(
      material.attenuationColor.map((c) => Math.min(1e6, -Math.log(Math.max(c, 1e-30)) / material.attenuationDistance)),
      L.MT_ABSORPTION,
    );
    m[L.MT_GLASS_TABLE] = Math.max(0, glass.indexOf(Math.fround(material.ior)));
    m[L.MT_NORMAL_SCALE] = material.normalScale ?? 1;
    m[L.MT_HOLDOUT] = material.holdout ? 1 : 0;
    for (const [name, slot] of Object.entries(TEXTURES)) {
      const use = material.textures?.[name as keyof typeof TEXTURES];
      const to = L.MT_TEXTURES + slot * L.TEXTURE_WORDS;
      m[to] = use ? use.texture : -1;
      m.set(use?.transform ?? [1, 0, 0, 0, 1, 0], to + 1);
      m[to + 7] = use?.set ?? 0;
    }
  });
}

/** Pixels to render: [x0, y0, x1, y1) of a frame of the given size. */
export function cropOf(
  doc: SceneDocument,
  width: number,
  height: number,
  frame: FrameWindow = { x: 0, y: 0, width, height },
): [number, number, number, number] {
  const r = doc.film.region;
  if (!r) return [0, 0, width, height];
  const whole = regionOf(r, frame.width, frame.height);
  const clamp = (v: number, most: number): number => Math.max(0, Math.min(most, v));
  const [x0, y0] = [clamp(whole[0] - frame.x, width - 1), clamp(whole[1] - frame.y, height - 1)];
  // of a region out of sight a pixel is left: a picture has one at least
  return [x0, y0, Math.max(x0 + 1, clamp(whole[2] - frame.x, width)), Math.max(y0 + 1, clamp(whole[3] - frame.y, height))];
}

/** Pixels [x0, y0, x1, y1) of a region (shares) of a frame. */
function regionOf(r: NonNullable<SceneDocument["film"]["region"]>, width: number, height: number): [number, number, number, number] {
  const x0 = Math.min(width - 1, Math.floor(r.x * width + 1e-6)),
    y0 = Math.min(height - 1, Math.floor(r.y * height + 1e-6));
  const x1 = Math.max(x0 + 1, Math.min(width, Math.ceil((r.x + r.width) * width - 1e-6)));
  const y1 = Math.max(y0 + 1, Math.min(height, Math.ceil((r.y + r.height) * height - 1e-6)));
  return [x0, y0, x1, y1];
}
