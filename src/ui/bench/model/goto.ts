/** Opens the sheet where something stands that was found, or does what was found. */
import { middleOf } from "#core/section/sides";
import type { Bench } from "./context";
import type { Found } from "./finder";

/** What the sheet must bring into sight next: a control by its label in a group or part, or a whole part. */
export interface Sought {
  /** Id of the element that it stands in. */
  within: string;
  label: string | null;
}

/** @returns what to bring into sight; null where nothing is */
export function goTo(bench: Bench, found: Found): Sought | null {
  const { view, store } = bench;
  const doc = store.getState().document;
  if (found.kind !== "command") view.setState({ alone: false });
  switch (found.kind) {
    case "command":
      found.command.run(bench);
      return null;
    case "light":
      view.setState({ open: "lights", lights: [found.index], grip: { kind: "light", index: found.index } });
      return { within: "part-lights", label: doc.lights[found.index]!.name };
    case "medium": {
      const medium = doc.air[found.index]!;
      view.setState({ open: "air", medium: found.index, grip: middleOf(medium) ? { kind: "medium", index: found.index } : null });
      return { within: "part-air", label: medium.name };
    }
    case "object":
      view.setState({ open: "set", chosen: { object: found.index, part: null } });
      return { within: "part-set", label: doc.objects[found.index]!.name ?? null };
    case "control": {
      const { part, group, label } = found.control;
      if (group) view.unfold(group);
      else view.setState({ open: part });
      // fields of one light need a light
      if (group === "contributions" && typeof view.getState().lights.at(-1) !== "number" && doc.lights.length)
        view.setState({ lights: [0] });
      return { within: group ? `group-${group}` : `part-${part}`, label };
    }
  }
}
