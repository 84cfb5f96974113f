/** What renders are told in. */
import type { Render, RenderOrder } from "./contract";
import { durationText, formatNumber } from "#core/document/quantities";

export const STATE_WORDS: Readonly<Record<Render["state"], string>> = {
  waiting: "waits",
  rendering: "rendering",
  ending: "ends",
  paused: "paused",
  done: "done",
  failed: "failed",
  cancelled: "cancelled",
};

export const percentText = (share: number): string => `${formatNumber(100 * share, 3)} %`;

/** Share of all of a render's frames that is done. */
export const shareOf = ({ done, frames, now, state }: Render): number =>
  state === "done" ? 1 : Math.min(1, (done + (now?.share ?? 0)) / frames);

/** What of it was asked, in a line. */
export function askedText({ order, frames }: Render): string {
  const { size, samples, noise, clean, file, seconds } = order;
  const count = order.frames
    ? `frames ${order.frames.from} to ${order.frames.to}${order.frames.step > 1 ? ` by ${order.frames.step}` : ""}`
    : "";
  return [
    `${size[0]} × ${size[1]}`,
    count && `${count} (${frames})`,
    noise
      ? `${percentText(noise.threshold)} noise${noise.of === "cleaned" ? " cleaned" : ""}, at most ${samples} samples`
      : `${samples} samples`,
    seconds !== null && `at most ${durationText(seconds)} a frame`,
    clean && "cleaned",
    ...ownLight(order),
    fileText(file),
  ]
    .filter(Boolean)
    .join(", ");
}

/** What of the light differs from the bench, in words. */
function ownLight({ level, airBounces, surfaceBounces, airSize, estimator, whole }: RenderOrder): string[] {
  return [
    level ? `level ${level}` : "",
    airBounces !== null ? `${airBounces} bounces in air` : "",
    surfaceBounces !== null ? `${surfaceBounces} off surfaces` : "",
    airSize ? `air at ${airSize} size` : "",
    estimator ?? "",
    whole ? "whole frame" : "",
  ].filter(Boolean);
}

const LAYOUT_WORDS = { layers: "", parts: " in parts", files: ", a file each pass" } as const;

function fileText({ ending, depth, layout, masks }: RenderOrder["file"]): string {
  const kind = `${ending.slice(1).toUpperCase()} ${depth}`;
  if (ending === ".exr") return kind + LAYOUT_WORDS[layout];
  return masks.length > 0
    ? `${kind} with a mask of ${masks.map((m) => (m.of === "air" ? "the air" : "depth")).join(" and one of ")}`
    : kind;
}

/** Time that is left of the frame in hand and of all, with how far off that may be. */
export function leftText({ now, done, frames, seconds, state }: Render): string | null {
  if (state !== "rendering" || now?.left == null) return null;
  const rest = Math.max(0, frames - done - now.hand);
  // frames to come take what those before took, or as long as this one
  const each = done > 0 ? seconds / done : now.seconds + now.left;
  const left = now.left + rest * each;
  const error = now.leftError === null ? null : now.leftError * (rest > 0 && done === 0 ? frames : 1);
  return `${durationText(left)}${error === null || error < 1 ? "" : ` ± ${durationText(error)}`} left`;
}
