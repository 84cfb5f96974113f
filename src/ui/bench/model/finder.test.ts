import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { COMMANDS } from "./commands";
import { CONTROL_INDEX } from "./controls-index";
import { find } from "./finder";

const doc = parseDocument({
  fumarium: 2,
  air: [{ name: "valley fog" }],
  lights: [{ kind: "point", name: "ladle", position: [0, 1, 0] }],
  materials: { stone: {} },
  objects: [{ kind: "box", name: "ladle stand", material: "stone", size: [1, 1, 1] }],
});
const first = (text: string): string | undefined => find(text, doc)[0]?.name;

describe("the finder", () => {
  it.each([
    ["visibility", "Visibility"],
    ["g", "Anisotropy"],
    ["anisot", "Anisotropy"],
    ["fov", "Field of view"],
    ["wind", "Drift x"],
    ["denoise", "Show cleaned"],
    ["step size", "Step size"],
    ["undo", "Undo"],
    ["valley", "valley fog"],
  ])("finds what %s is most likely to mean", (text, name) => {
    expect(first(text)).toBe(name);
  });

  it("finds by other words, by several words in any order, and things of the document by their names", () => {
    expect(find("god rays", doc).map((l) => l.name)).toContain("Level");
    expect(find("picture save", doc).map((l) => l.name)).toEqual(expect.arrayContaining(["Picture as PNG", "Picture as OpenEXR"]));
    expect(find("ladle", doc).map((l) => l.found.kind)).toEqual(["light", "object"]);
    expect(find("  ", doc)).toEqual([]);
    expect(find("xyzzy", doc)).toEqual([]);
  });

  it("has every command once, by its key", () => {
    const keys = COMMANDS.flatMap((c) => c.key ?? []);
    expect(new Set(keys).size).toBe(keys.length);
    for (const { words } of COMMANDS.slice(1)) expect(find(words, doc).map((l) => l.name.toLowerCase())).toContain(words.toLowerCase());
  });
});

describe("the index of controls", () => {
  /** Labels that are read and not set, name lists, or stand inside what is found by another name. */
  const LEFT = new Set(
    [
      ["Lights", "Next step", "Sheet", "Diagnosis", "Media", "Presets", "Kept lenses", "Set", "Import", "Noise by source"],
      ["Picture", "Depth from", "Files of a plate", "What the depth says"],
      ["Scattered colour", "Extent", "Voxels", "Values", "In this frame", "Equals", "Distances", "Luminous flux", "Plot scale"],
      [
        "Light by number of bounces, in percent of the most",
        "Colours of stops",
        "Density by value",
        "Solved for",
        "Colours of the ramp",
        "Trial picture",
      ],
      // of one light, object, material, import or ramp, found by its own name
      ["Intensity", "Unit", "Stops", "Cone", "Spread", "Both sides", "Visible", "Profile", "Multiplier", "Colour", "Solid", "Holdout"],
      ["Offset", "Pose", "Triangles", "Instances", "Materials", "Units", "Custom unit", "Up axis", "Replace the set", "At"],
      ["Tint channel", "Value", "Ramp start", "Ramp end", "Images", "Repeats", "Open area", "Seed", "Distance", "UTC offset", "On"],
      [
        "Density",
        "Preset file",
        "File of looks",
        "Own looks",
        "Waveform of the finished picture",
        "Files of a first set",
        "Photometric profile of a new light",
      ],
    ].flat(),
  );

  it("knows every control of the sheet", () => {
    const folders = ["../sheet", "../../shared/finish"].map((f) => join(import.meta.dirname, f));
    const files = folders.flatMap((folder) =>
      readdirSync(folder, { recursive: true, encoding: "utf8" })
        .filter((f) => f.endsWith(".tsx"))
        .map((f) => join(folder, f)),
    );
    const known = new Set(CONTROL_INDEX.map((c) => c.label));
    const missing = files.flatMap((file) => {
      const source = readFileSync(file, "utf8");
      return [...source.matchAll(/\blabel[=:] ?"([^"]+)"/g)].flatMap(([, label]) =>
        known.has(label!) || LEFT.has(label!) ? [] : [`${label} (${file})`],
      );
    });
    expect(files.length).toBeGreaterThan(30);
    expect(missing).toEqual([]);
  });

  it("names nothing twice in one group, and has other words for each", () => {
    const places = CONTROL_INDEX.map((c) => `${c.part} ${c.group} ${c.label}`);
    expect(new Set(places).size).toBe(places.length);
    for (const c of CONTROL_INDEX) expect([c.label.length > 0, c.also.length > 0]).toEqual([true, true]);
  });
});
