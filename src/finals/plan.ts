/** What rendering a frame is, from what is wanted of it: the same on every machine that takes part. */
import { createHash } from "node:crypto";
import type { Strengths } from "#core/clean/cleaner";
import { AIR_EVERY, wholeAir } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import type { PassName } from "#core/film/passes";
import { PASS_CLEAR } from "#core/layout/layout";
import type { CompiledGeometry } from "#core/scene/compiled";
import { cropOf, planMemory } from "#core/scene/memory";
import { finalSchedule, MEDIUM_PASSES, type Stage } from "#engine/schedule";
import type { Identity } from "./checkpoint";

/** What of a frame is wanted. */
export interface FrameWork {
  /** As it is rendered: its size, samples, level and time count. */
  document: SceneDocument;
  passes: readonly PassName[];
  firstSample?: number;
  /** Strengths of a clean-up; null: as it is rendered. */
  strengths: Strengths | null;
  /** Seconds after which the frame ends with what it has. */
  timeLimit?: number;
}

/** A frame as it is rendered. */
export interface FramePlan {
  document: SceneDocument;
  stages: Stage[];
  identity: Identity;
}

/** The document that is rendered: without media there is no air to be sampled at another size. */
export const renderedDocument = ({ document, passes }: FrameWork): SceneDocument =>
  passes.some((p) => p !== "clear") ? document : wholeAir(document);

/** @param geometry that of renderedDocument() @param kernel its hash */
export function planFrame(work: FrameWork, geometry: CompiledGeometry, kernel: string): FramePlan {
  const { passes } = work;
  const document = renderedDocument(work);
  const [width, height] = document.film.size;
  const wanted = (passes.some((p) => p !== "clear") ? MEDIUM_PASSES : 0) | (passes.includes("clear") ? PASS_CLEAR : 0);
  const first = work.firstSample ?? 0;
  const stages = finalSchedule(first, first + document.render.samples, wanted, AIR_EVERY[document.render.airSize]);
  const { stride } = planMemory(geometry, width * height, document);
  return {
    document,
    stages,
    identity: { key: keyOf(work, geometry, kernel), width, height, stride, crop: cropOf(document, width, height) },
  };
}

/** Names all that decides what a frame's film holds. */
function keyOf({ document, passes, firstSample, strengths }: FrameWork, { triangles, places }: CompiledGeometry, kernel: string): string {
  const hash = createHash("sha256");
  // what it may cost changes no picture
  const { budget: _, ...seen } = document;
  hash.update(JSON.stringify([kernel, seen, passes, firstSample ?? 0, strengths]));
  hash.update(new Uint8Array(triangles));
  hash.update(new Uint8Array(places));
  return hash.digest("hex");
}
