/**
 * Holds the schema's enums against the tables of codes: a member that stands in one of them alone does not compile. Whatever needs
 * the members of a kind (options, random documents, tests of completeness) takes them from the tables.
 */
import type {
  CAMERA_CODES,
  ESTIMATOR_CODES,
  FILTER_CODES,
  HEIGHT_CODES,
  LEVEL_CODES,
  LIGHT_CODES,
  NOISE_CODES,
  PHASE_CODES,
  REGION_CODES,
} from "../layout/codes";
import type { Medium } from "./air";
import type { Gobo, Light, Sky } from "./lights";
import type { SceneDocument, SceneObject } from "./schema";

export type LightKind = Light["kind"];
export type RegionKind = Medium["region"]["kind"];
export type PhaseModel = Medium["phase"]["model"];
export type HeightShape = NonNullable<Medium["height"]>["shape"];
export type NoiseCharacter = NonNullable<Medium["noise"]>["character"];
export type GoboPattern = Gobo["pattern"];
export type SkyModel = Sky["model"];
export type ObjectKind = SceneObject["kind"];
export type TransportLevel = SceneDocument["render"]["level"];
export type AirSize = SceneDocument["render"]["airSize"];
export type Estimator = SceneDocument["render"]["estimator"];
export type CameraKind = SceneDocument["camera"]["kind"];
export type PixelFilter = SceneDocument["film"]["filter"];

/** True where two unions have the same members. */
type Same<A, B> = [A] extends [B] ? ([B] extends [A] ? true : never) : never;

/** Of each kind that has codes: its schema has the same members. */
export const KINDS_AGREE: {
  light: Same<LightKind, keyof typeof LIGHT_CODES>;
  region: Same<RegionKind, keyof typeof REGION_CODES>;
  phase: Same<PhaseModel, keyof typeof PHASE_CODES>;
  height: Same<HeightShape, keyof typeof HEIGHT_CODES>;
  noise: Same<NoiseCharacter, keyof typeof NOISE_CODES>;
  level: Same<TransportLevel, keyof typeof LEVEL_CODES>;
  estimator: Same<Estimator, keyof typeof ESTIMATOR_CODES>;
  camera: Same<CameraKind, keyof typeof CAMERA_CODES>;
  filter: Same<PixelFilter, keyof typeof FILTER_CODES>;
} = { light: true, region: true, phase: true, height: true, noise: true, level: true, estimator: true, camera: true, filter: true };
