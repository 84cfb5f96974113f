/** Groups of fields that the sheet folds: their titles, where they stand, and whether they are open at first. */
import type { TextStorage } from "../../shared/page-host";

export type PartId = "set" | "lights" | "air" | "finish";

interface GroupFacts {
  part: PartId;
  title: string;
  /** Open until it is folded: what matters first. */
  open: boolean;
}

const group = (part: PartId, title: string, open = false): GroupFacts => ({ part, title, open });

export const GROUPS = {
  plate: group("set", "Plate", true),
  size: group("set", "Size of the set"),
  lens: group("set", "Lens", true),
  frame: group("set", "Frame"),
  sun: group("lights", "Sun", true),
  sky: group("lights", "Sky"),
  moon: group("lights", "Moon"),
  contributions: group("lights", "Contributions, fade, samples"),
  density: group("air", "Density", true),
  colour: group("air", "Colour", true),
  height: group("air", "Height falloff", true),
  noise: group("air", "Noise", true),
  noiseDetail: group("air", "Noise detail"),
  phase: group("air", "Scattering direction"),
  placement: group("air", "Placement"),
  pins: group("air", "Solve density from pins"),
  grid: group("air", "Grid"),
  start: group("air", "Distance from the camera"),
  proximity: group("air", "Proximity"),
  emission: group("air", "Emission"),
  seen: group("air", "Seen by"),
  transport: group("air", "Light transport"),
  tone: group("finish", "Tone"),
  glare: group("finish", "Glare"),
  looks: group("finish", "Looks"),
  picture: group("finish", "Picture", true),
  sampling: group("finish", "Sampling and noise"),
  cleanUp: group("finish", "Clean-up"),
  export: group("finish", "Export", true),
} as const satisfies Record<string, GroupFacts>;

export type GroupId = keyof typeof GROUPS;

/** Where it is remembered which groups were opened and folded. */
export const GROUPS_KEPT = "fumarium.groups";

/** Groups that were opened or folded by hand. */
export type Folds = Partial<Record<GroupId, boolean>>;

/** What was remembered; whatever else is found there is left out. */
export function keptFolds(storage: TextStorage): Folds {
  try {
    const kept: unknown = JSON.parse(storage.getItem(GROUPS_KEPT) ?? "{}");
    const pairs = Object.entries(kept as object).filter(([id, open]) => id in GROUPS && typeof open === "boolean");
    return Object.fromEntries(pairs);
  } catch {
    return {};
  }
}

/** Whether a group is open. */
export const isOpen = (folds: Folds, id: GroupId): boolean => folds[id] ?? GROUPS[id].open;
