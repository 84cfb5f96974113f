/** What an order makes of its document, and what rendering it needs. */
import type { RenderNeeds, RenderOrder } from "#api/contract";
import { AIR_EVERY } from "#core/document/air-size";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { keepsLightGroups } from "#core/document/balance";
import { groupsOf, pixelBytes } from "#core/film/film-bytes";
import { channelsOf } from "#core/film/passes";
import { fileNameOf, frameCount, frameTime } from "#finals/numbers";

/** The document as a frame of it is rendered; null: the picture at its own moment. @throws InputError */
export function orderedDocument(doc: SceneDocument, order: RenderOrder, frame: number | null): SceneDocument {
  return parseDocument(
    {
      ...doc,
      ...(frame === null ? {} : { time: frameTime(doc.time, frame, order.fps) }),
      film: {
        ...doc.film,
        size: order.size,
        lightGroups: order.lightGroups || keepsLightGroups(doc.film),
        mattes: order.mattes || doc.film.mattes,
        ...(order.whole ? { region: null } : {}),
      },
      render: {
        ...doc.render,
        samples: order.samples,
        noiseThreshold: order.noise?.threshold ?? null,
        ...(order.noise ? { thresholdOf: order.noise.of } : {}),
        ...(order.level ? { level: order.level } : {}),
        ...(order.airBounces !== null ? { airBounces: order.airBounces } : {}),
        ...(order.surfaceBounces !== null ? { surfaceBounces: order.surfaceBounces } : {}),
        ...(order.airSize ? { airSize: order.airSize } : {}),
        ...(order.estimator ? { estimator: order.estimator } : {}),
        seed: order.seedByFrame && frame !== null ? (doc.render.seed + frame) % 4294967296 : doc.render.seed,
      },
    },
    "render",
  );
}

/** Name of a frame's file, or of the one that holds a layer of it. */
export const fileName = ({ name, file }: RenderOrder, frame: number | null, layer: string | null = null): string =>
  fileNameOf(name + file.ending, frame, layer);

/** Frames of an order by their numbers; null for the one picture. */
export const framesIn = ({ frames }: Pick<RenderOrder, "frames">): (number | null)[] =>
  frames === null ? [null] : Array.from({ length: frameCount(frames) }, (_, i) => frames.from + i * frames.step);

/** Bytes of a process with its scene, about: what is sure is reckoned, not that. */
const PROCESS = 300e6;
/** Films in memory: the one that is rendered, what it was gone on with, and what is on its way to the disk. */
const FILMS = 3;
/** Bytes of a checkpoint beside those of the film: each tile lies there twice. */
const SLOTS = 2;

/** What an order needs, bytes: the film with what is cleaned of it in memory, its checkpoint and all its files (not packed) on disk. */
export function needsOf(doc: SceneDocument, order: RenderOrder): RenderNeeds {
  const ordered = orderedDocument(doc, order, null);
  const groups = groupsOf(ordered);
  const pixels = order.size[0] * order.size[1];
  const film = pixelBytes(ordered) * pixels;
  const every = AIR_EVERY[ordered.render.airSize];
  // air that is joined is cleaned as a film of its own
  const cleaned = order.clean ? 4 * 4 * (3 + 2 * groups) * pixels + (every > 1 ? film / every ** 2 : 0) : 0;
  const deep = order.file.depth === "float" ? 4 : 2;
  const file =
    order.file.ending !== ".exr"
      ? pixels * (order.file.depth === "16" ? 2 : 1) * (3 + order.file.masks.length)
      : pixels * deep * (1 + order.passes.reduce((n, pass) => n + channelsOf(pass).length, 0) * (order.clean ? 2 : 1) + 6 * groups);
  // layers of a file that is written take less than the films that are gone by then
  return { memory: PROCESS + FILMS * film + cleaned, disk: SLOTS * film + file * (order.frames ? frameCount(order.frames) : 1) };
}
