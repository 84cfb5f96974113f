/** What compiling a document comes to: geometry, resources, and the plan of kernel memory. Types alone, for writers and readers. */
import type { Mesh, SurfaceMaterial, Texture } from "../data/geometry";
import type { V3 } from "../math/vectors";
import type { Picture } from "../data/picture";
import type { Volume } from "../data/volume";
import type { FilmExtras } from "../film/film";
import type { Bvh } from "./bvh";
import type { CompiledPlate } from "./plate";
import type { Tables } from "./tables";

/** The part of a scene that is slow to make: triangles, BVH, and facts about them. */
export interface CompiledGeometry {
  /** Place (m) of the document that is zero in all that follows (origin.ts). */
  origin: V3;
  bvh: Bvh;
  /** TRIANGLE_SIZE bytes a triangle. */
  triangles: ArrayBuffer;
  /** Triangles that are kept, and that are shown: those in several places are kept once. */
  triangleCount: number;
  shownTriangles: number;
  /** Places of shared triangles, INSTANCE_SIZE bytes each. */
  places: ArrayBuffer;
  materials: SurfaceMaterial[];
  /** What corners have besides their places (Mesh), and the textures. */
  uvs: Float32Array | null;
  uvsSecond: Float32Array | null;
  colours: Uint16Array | null;
  textures: Texture[];
  /** minx, miny, minz, maxx, maxy, maxz in metres from the origin */
  bounds: [number, number, number, number, number, number];
  /** Box about where most of it lies (detail.ts). */
  detail: CompiledGeometry["bounds"];
  /** Bounds by object, m from the origin; null where none of it is in the scene. */
  objectBounds: (CompiledGeometry["bounds"] | null)[];
  /** Emissive triangles, EMISSIVE_WORDS numbers each, by rising triangle number. */
  emissive: Float64Array;
  /** Closed meshes that serve as regions of media, by object name: trees of their own among the nodes. */
  regions: Record<string, { root: number; bounds: CompiledGeometry["bounds"] }>;
  pictures: Record<string, Picture>;
  /** Photometric profiles by asset name: candela over LP_ROWS × LP_COLUMNS angles. */
  profiles: Record<string, Float32Array>;
  /** Grids of media (gridKey). */
  volumes: Record<string, { volume: Volume; packed: ArrayBuffer }>;
  /** Distances to objects by object name. */
  distances: Record<string, { volume: Volume; packed: ArrayBuffer }>;
  /** The plate, where the document has one. */
  plate: CompiledPlate | null;
}

/** The part of a compiled scene that changes with time and files alone. */
export type TimeVaryingGeometry = Pick<CompiledGeometry, "volumes" | "pictures" | "profiles">;

/** What a document's assets hold, by asset name. */
export interface Resources {
  models: ReadonlyMap<string, Mesh>;
  pictures?: ReadonlyMap<string, Picture>;
  profiles?: ReadonlyMap<string, Float32Array>;
  /** Channels of volume files by asset name. */
  volumes?: ReadonlyMap<string, Readonly<Record<string, Volume>>>;
  /** The document's plate; its surface is among the models as PLATE_SURFACE. */
  plate?: CompiledPlate;
}

/** Where each buffer lies in kernel memory. */
export interface MemoryPlan {
  nodes: number;
  leaves: number;
  triangles: number;
  places: number;
  materials: number;
  uvs: number;
  uvsSecond: number;
  colours: number;
  /** Texture records, and the texels behind them. */
  textures: number;
  /** Pixels of the plate. */
  plate: number;
  /** Grids and distances by key. */
  volumes: Record<string, number>;
  distances: Record<string, number>;
  /** Tables of lights, sky and media. */
  tables: number;
  film: number;
  /** Floats of a film pixel, and what the film keeps. */
  stride: number;
  extras: FilmExtras;
  /** Bytes in all. */
  end: number;
  /** What is written to the parameters and tables. */
  content: SceneTables | null;
}

/** Tables of a document, and the parameters that depend on where they lie. */
export interface SceneTables {
  tables: Tables;
  media: Float64Array;
  /** Parameter values by index, set over the rest. */
  parameters: Map<number, number>;
}
