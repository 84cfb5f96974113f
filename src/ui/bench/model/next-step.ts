/** What comes next on the way from an empty scene to lit air, by what the document holds and how the lens stands to the set. */
import type { Finding, Remedy } from "#core/air/diagnose";
import { map3, type V3 } from "#core/math/vectors";
import type { SceneDocument } from "#core/document/schema";
import type { RoomsState } from "./rooms";

export interface Step {
  id: "set" | "inside" | "light" | "shine" | "mend" | "air";
  says: string;
  /** What the button that does it says. */
  does: string;
  /** What declines it for this visit; null where there is no way round it. */
  declines: string | null;
  /** What it makes of the document, where that is all it does. */
  apply?: Remedy["apply"];
}

/** Share of a room's places below which the sun counts as not coming in. */
const COMES_IN = 0.002;

/** Whether anything shines. Models may glow by themselves: that is not known here. */
function isLit(doc: SceneDocument): boolean {
  return (
    (doc.sun.on && doc.sun.illuminance > 0) ||
    doc.sky.on ||
    doc.sky.stars !== null ||
    doc.moon.on ||
    doc.lights.some((l) => l.on && l.intensity > 0) ||
    Object.values(doc.materials).some((m) => m.emission.some((e) => e > 0)) ||
    doc.air.some((m) => m.on && (m.emission !== null || m.grid?.temperature))
  );
}

/** Findings that blacken the whole picture: they are said here too, wherever the sheet is open. */
export const BLACK: readonly string[] = ["in solid", "dark"];

/**
 * The next step; null where none is to be said. @param declined steps that were declined before @param findings about the present frame
 */
export function nextStep(
  doc: SceneDocument,
  rooms: RoomsState,
  declined: readonly string[],
  findings: readonly Finding[] = [],
): Step | null {
  const black = findings.find((f) => BLACK.includes(f.id) && f.remedies.length > 0);
  const [remedy] = black?.remedies ?? [];
  const steps: (Step | false)[] = [
    doc.objects.length === 0 && {
      id: "set",
      says: "Begin with a set: drop its files anywhere on this page, or block it with shapes below.",
      does: "Choose files …",
      declines: null,
    },
    rooms.known &&
      rooms.other !== null &&
      doc.air.length === 0 && {
        id: "inside",
        says: rooms.other.room.opening
          ? "This set is a room with an opening, and the camera stands outside."
          : "This set is a closed room, and the camera stands outside.",
        does: "Stand the camera inside",
        declines: "Stay outside",
      },
    !isLit(doc) && { id: "light", says: "Nothing shines yet: the picture is black.", does: "Switch on sun and sky", declines: "Not now" },
    rooms.lens?.opening != null &&
      rooms.sunlit !== null &&
      rooms.sunlit < COMES_IN && {
        id: "shine",
        says: "No sun comes into this room. Click the opening, then where its light should land.",
        does: "Let the sun in",
        declines: "Leave it so",
      },
    black !== undefined &&
      remedy !== undefined &&
      doc.objects.length > 0 && {
        id: "mend",
        says: black.says,
        does: remedy.words.replace(/^./, (c) => c.toUpperCase()),
        declines: "Leave it so",
        apply: remedy.apply,
      },
    doc.air.length === 0 && {
      id: "air",
      says: "The air is clear. Choose what fills it.",
      does: "Choose the air",
      declines: "Not now",
    },
  ];
  return steps.find((s): s is Step => s !== false && !declined.includes(s.id)) ?? null;
}

/** The document with its lens in the room it stood outside of, looking at the opening. */
export function stoodInside(doc: SceneDocument, { position, target }: { position: V3; target: V3 }): SceneDocument {
  const tidy = (v: Readonly<V3>): V3 => map3(v, (c) => Number(c.toFixed(3)));
  const focus = Number(Math.max(1e-3, Math.hypot(...map3(target, (t, k) => t - position[k]))).toFixed(3));
  return { ...doc, camera: { ...doc.camera, kind: "perspective", position: tidy(position), target: tidy(target), focus } };
}
