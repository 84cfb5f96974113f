/** Finds controls, commands, lights, media and objects by name or by another word for them. */
import { matchSorter, rankings } from "match-sorter";
import type { SceneDocument } from "#core/document/schema";
import { COMMANDS, type Command } from "./commands";
import { CONTROL_INDEX, type IndexedControl } from "./controls-index";
import { GROUPS } from "./groups";

export type Found =
  | { kind: "control"; control: IndexedControl }
  | { kind: "command"; command: Command }
  | { kind: "light" | "medium" | "object"; index: number };

export interface FoundLine {
  name: string;
  /** Where it stands, or which key does it. */
  where: string;
  also: string;
  found: Found;
}

const PARTS = { set: "Set", lights: "Lights", air: "Air", finish: "Finish" } as const;
/** Lines that are offered at once. */
const MOST = 12;

const ALWAYS: readonly FoundLine[] = [
  ...CONTROL_INDEX.map((control) => ({
    name: control.label,
    where: control.group ? `${PARTS[control.part]}, ${GROUPS[control.group].title}` : PARTS[control.part],
    also: control.also,
    found: { kind: "control" as const, control },
  })),
  ...COMMANDS.filter((c) => c.shown !== "/").map((command) => ({
    name: command.words.charAt(0).toUpperCase() + command.words.slice(1),
    where: command.shown,
    also: command.also,
    found: { kind: "command" as const, command },
  })),
];

/** What a document has that goes by a name. */
function named(doc: SceneDocument): FoundLine[] {
  const line = (kind: "light" | "medium" | "object", name: string, where: string, index: number): FoundLine => ({
    name,
    where,
    also: where,
    found: { kind, index },
  });
  return [
    ...doc.air.map((m, i) => line("medium", m.name, "Air, medium", i)),
    ...doc.lights.map((l, i) => line("light", l.name, `Lights, ${l.kind}`, i)),
    ...doc.objects.flatMap((o, i) => (o.name ? [line("object", o.name, `Set, ${o.kind}`, i)] : [])),
  ];
}

/**
 * What a text finds, the likeliest first: by names before other words, by beginnings before what contains it; every word of the text
 * must be found. Nothing for an empty text.
 */
export function find(text: string, doc: SceneDocument): FoundLine[] {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const keys = [
    (l: FoundLine) => l.name.toLowerCase(),
    (l: FoundLine) => l.also.toLowerCase().split(", "),
    { key: (l: FoundLine) => l.where, maxRanking: rankings.CONTAINS },
  ];
  const options = { keys, threshold: rankings.CONTAINS, baseSort: () => 0 };
  const lines = [...ALWAYS, ...named(doc)];
  const whole = matchSorter(lines, words.join(" "), options);
  // each word by itself, where the text as a whole is nowhere
  const single = words.reduceRight<FoundLine[]>((left, word) => matchSorter(left, word, options), lines);
  return [...new Set([...whole, ...single])].slice(0, MOST);
}
