import { existsSync, readFileSync, statSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { ESLint, type Linter } from "eslint";
import tseslint from "typescript-eslint";
import { describe, expect, it } from "vitest";
import { BENCH_FLOORS, CORE_FLOORS, MODULES } from "../../eslint.modules.mjs";
import { sourceFiles } from "../support/source-files";

const root = resolve(import.meta.dirname, "../..");
const ALIASES: readonly (readonly [prefix: string, folder: string])[] = [
  ["#core/", "src/core/"],
  ["#api/", "src/api/"],
  ["#engine/", "src/engine/"],
  ["#server/", "src/server/"],
  ["#ui/", "src/ui/"],
  ["#cli/", "src/cli/"],
  ["#demo/", "demo/"],
];

/** The source file that an import names, relative to the project; null for packages and files that are not sources. */
function resolveImport(from: string, specifier: string): string | null {
  const alias = ALIASES.find(([prefix]) => specifier.startsWith(prefix));
  if (!alias && !specifier.startsWith(".")) return null;
  const base = alias ? join(root, alias[1], specifier.slice(alias[0].length)) : resolve(root, dirname(from), specifier);
  const file = ["", ".ts", ".tsx", "/index.ts"].map((end) => base + end).find((f) => existsSync(f) && statSync(f).isFile());
  return file && /\.(ts|tsx|astro)$/.test(file) ? relative(root, file) : null;
}

/** Imports of every source file, types included: who needs a type knows the file it stands in. */
function importGraph(): Map<string, string[]> {
  const graph = new Map<string, string[]>();
  for (const file of [...sourceFiles("src"), ...sourceFiles("demo")]) {
    const text = readFileSync(join(root, file), "utf8");
    const names = [...text.matchAll(/(?:^|\n)\s*(?:import|export)\b[^;"]*?"([^"]+)"|\bimport\(\s*"([^"]+)"/g)].map((m) => m[1] ?? m[2]!);
    graph.set(file, [...new Set(names.map((n) => resolveImport(file, n)).filter((f) => f !== null))]);
  }
  return graph;
}

/** Groups of files that reach each other (Tarjan 1972). */
function circles(graph: ReadonlyMap<string, readonly string[]>): string[][] {
  const order = new Map<string, number>(),
    low = new Map<string, number>(),
    open: string[] = [],
    found: string[][] = [];
  const visit = (file: string): void => {
    order.set(file, order.size);
    low.set(file, order.get(file)!);
    open.push(file);
    for (const next of graph.get(file) ?? []) {
      if (!order.has(next)) visit(next);
      if (open.includes(next)) low.set(file, Math.min(low.get(file)!, low.get(next)!));
    }
    if (low.get(file) !== order.get(file)) return;
    const group = open.splice(open.indexOf(file));
    if (group.length > 1) found.push(group);
  };
  for (const file of graph.keys()) if (!order.has(file)) visit(file);
  return found;
}

describe("imports", () => {
  const graph = importGraph();

  it("are all found: the graph holds what a known file imports", () => {
    expect(graph.get("src/core/scene/parameters.ts")).toContain("src/core/layout/layout.ts");
    expect(graph.get("src/ui/bench/BenchPage.tsx")!.length).toBeGreaterThan(5);
    expect(graph.size).toBeGreaterThan(300);
  });

  it("form no circle anywhere in the project", () => {
    expect(circles(graph)).toEqual([]);
  });

  it("a circle would be found", () => {
    expect(circles(new Map([["a", ["b"]], ["b", ["c"]], ["c", ["b"]]])).map((c) => c.sort())).toEqual([["b", "c"]]); // prettier-ignore
  });

  it.each([
    ["src/core/", CORE_FLOORS],
    ["src/ui/bench/", BENCH_FLOORS],
  ] as const)("within %s run down the declared floors", (folder, floors) => {
    const moduleOf = (file: string): string | null => (file.startsWith(folder) ? (file.slice(folder.length).split("/")[0] ?? null) : null);
    const wrong: string[] = [];
    for (const [file, targets] of graph) {
      if (file.includes(".test.")) continue;
      const from = moduleOf(file);
      if (!from || !(from in floors)) continue;
      for (const target of targets) {
        const to = moduleOf(target);
        if (to && to in floors && to !== from && !floors[from]!.includes(to)) wrong.push(`${file} → ${target}`);
      }
    }
    expect(wrong).toEqual([]);
  });

  it("every folder of core and of the bench has a floor", () => {
    const folders = (of: string): string[] => [...new Set([...graph.keys()].filter((f) => f.startsWith(of)).map((f) => f.slice(of.length).split("/")).filter((p) => p.length > 1).map((p) => p[0]!))].sort(); // prettier-ignore
    expect(folders("src/core/")).toEqual(Object.keys(CORE_FLOORS).sort());
    expect(folders("src/ui/bench/")).toEqual(Object.keys(BENCH_FLOORS).sort());
  });
});

// these files do not exist, so rules that ask for types cannot run on them
const lint = new ESLint({ overrideConfig: [tseslint.configs.disableTypeChecked] as Linter.Config[] });
async function messages(file: string, from: string): Promise<string[]> {
  const [result] = await lint.lintText(`import x from "${from}";\nexport default x;\n`, { filePath: file });
  return result!.messages.filter((m) => m.ruleId === "no-restricted-imports").map((m) => m.message);
}

describe("the linter holds the direction of imports", () => {
  it.each([
    ["src/core/scene/x.ts", "#engine/engine"],
    ["src/core/scene/x.ts", "../../engine/engine"],
    ["src/core/scene/x.ts", "node:fs"],
    ["src/core/scene/x.ts", "react"],
    ["src/core/math/x.ts", "../document/schema"],
    ["src/core/film/x.ts", "../scene/media"],
    ["src/core/formats/x.ts", "../scene/media"],
    ["src/core/scene/x.ts", "../air/diagnose"],
    ["src/core/formats/deep/x.ts", "../../scene/media"],
    ["src/engine/x.ts", "#server/http"],
    ["src/engine/x.ts", "../ui/bench/model/store"],
    ["src/server/x.ts", "../ui/bench/model/store"],
    ["src/ui/bench/x.tsx", "#server/http"],
    ["src/ui/bench/sheet/x.tsx", "../viewport/Picture"],
    ["src/ui/bench/viewport/x.tsx", "../sheet/Sheet"],
    ["src/ui/bench/model/x.ts", "../drawings/outlines"],
    ["src/ui/shared/x.tsx", "../bench/model/context"],
    ["src/cli/x.ts", "#server/http"],
  ])("%s may not import %s", async (file, from) => {
    expect(await messages(file, from)).toHaveLength(1);
  });

  it.each([
    ["src/engine/x.ts", "#core/layout/layout"],
    ["src/core/scene/x.ts", "../document/schema"],
    ["src/core/air/x.ts", "../scene/media"],
    ["src/ui/bench/x.tsx", "#engine/engine"],
    ["src/ui/bench/sheet/x.tsx", "../model/store"],
    ["src/server/x.ts", "#core/document/parse"],
    ["src/pages/x.ts", "#server/services"],
  ])("%s may import %s", async (file, from) => {
    expect(await messages(file, from)).toHaveLength(0);
  });

  it("every module is one that the linter knows", () => {
    for (const [name, below] of Object.entries(MODULES)) for (const b of below) expect(Object.keys(MODULES), name).toContain(b);
  });
});
