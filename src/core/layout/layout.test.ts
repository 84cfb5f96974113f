import { readdirSync, readFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { describe, expect, it } from "vitest";
import { instantiateKernel, kernelMemory, type KernelExports } from "../kernel/kernel";
import { INTEGER_WORDS, sealIntegers, integerAt } from "./integers";
import * as L from "./layout";
import * as S from "./scratch";

const here = import.meta.dirname;
const kernelFolder = resolve(here, "../kernel/assembly");
const values = L as unknown as Record<string, number>;
const kernelSources = readdirSync(kernelFolder)
  .filter((f) => f.endsWith(".ts") && f !== "mask.ts")
  .map((f) => ({ file: f, text: readFileSync(join(kernelFolder, f), "utf8") }));

/** Constants of a layout file in their order: name, and the expression they are made of. */
function constants(file: string): { name: string; expression: string }[] {
  return [...readFileSync(join(here, file), "utf8").matchAll(/export const (\w+): i32 = ([^;]+);/g)].map((m) => ({
    name: m[1]!,
    expression: m[2]!,
  }));
}

/** Records: prefix, file, and the constant that is one past their last word. */
const RECORDS = [
  { prefix: "P", file: "parameters.ts", end: "P_END" },
  { prefix: "M", file: "media.ts", end: "M_END" },
  { prefix: "TINT", file: "media.ts", end: "TINT_WORDS" },
  { prefix: "D", file: "media.ts", end: "D_WORDS" },
  { prefix: "L", file: "lights.ts", end: "LIGHT_WORDS" },
  { prefix: "E", file: "lights.ts", end: "EMISSIVE_WORDS" },
  { prefix: "LT", file: "lights.ts", end: "LIGHT_TREE_WORDS" },
  { prefix: "MT", file: "materials.ts", end: "MT_END" },
  { prefix: "F", file: "film.ts", end: "PIXEL_FLOATS" },
  { prefix: "R", file: "film.ts", end: "R_GROUPS" },
] as const;

/** Words of a record with their sizes: up to the next one. */
function sizesOf({ prefix, file, end }: (typeof RECORDS)[number]): Map<string, number> {
  const fields = constants(file).filter(({ name }) => name.startsWith(`${prefix}_`) && name !== end);
  return new Map(
    fields.map(({ name }, i) => [name, (i + 1 < fields.length ? values[fields[i + 1]!.name]! : values[end]!) - values[name]!]),
  );
}

describe("the layout", () => {
  it("is of whole numbers alone: a division would keep its fraction here and lose it in the kernel", () => {
    for (const [name, value] of [...Object.entries(L), ...Object.entries(S)]) expect(Number.isInteger(value), name).toBe(true);
  });

  it.each(RECORDS)("$prefix_… : each word is the one before it plus that one's size, so that none overlaps", (record) => {
    const fields = constants(record.file).filter(({ name }) => name.startsWith(`${record.prefix}_`) && name !== record.end);
    expect(fields.length).toBeGreaterThan(3);
    fields.forEach(({ name, expression }, i) => {
      const before = fields[i - 1]?.name;
      if (before) expect(expression, name).toMatch(new RegExp(`^${before} \\+ \\d+$`));
      else expect(expression, name).toBe("0");
      expect(sizesOf(record).get(name), name).toBeGreaterThan(0);
    });
  });

  it.each(RECORDS)("$prefix_… : the kernel reads no word past its size", (record) => {
    for (const [name, size] of sizesOf(record))
      for (const { file, text } of kernelSources)
        for (const m of text.matchAll(new RegExp(`\\b${name} \\+ (\\d+)\\b`, "g")))
          expect(Number(m[1]), `${file}: ${m[0]}`).toBeLessThan(size);
  });

  it("keeps every record in the room it has", () => {
    expect(L.P_END).toBeLessThanOrEqual(L.PARAM_COUNT);
    expect(L.M_END).toBeLessThanOrEqual(L.MEDIUM_WORDS);
    expect(4 * L.MT_END).toBeLessThanOrEqual(L.MATERIAL_SIZE);
    expect(L.MT_END - L.MT_TEXTURES).toBe(L.TEXTURE_SLOTS * L.TEXTURE_WORDS);
    expect(L.F_SURFACES_LUMINANCE2).toBeLessThan(L.PIXEL_FLOATS);
    expect(L.PIXEL_FLOATS % 4).toBe(0);
    expect(S.SCRATCH_END).toBeLessThanOrEqual(S.SCRATCH_ROOM);
    expect(L.MAX_MEDIA).toBeLessThanOrEqual(32);
    // codes of rays are places in M_SEEN
    expect(L.RAY_SHADOW).toBe(sizesOf(RECORDS[1]).get("M_SEEN")! - 1);
  });

  it("has its regions behind each other, on the boundaries that atomics and pages need", () => {
    const regions = [L.PARAMS, L.MEDIA, L.CONTROL, L.SCRATCH, L.SCENE];
    expect([...regions].sort((a, b) => a - b)).toEqual(regions);
    expect(L.CONTROL % 4).toBe(0);
    expect([L.SCRATCH % L.PAGE_BYTES, L.SCENE % L.PAGE_BYTES]).toEqual([0, 0]);
    expect(L.SCRATCH).toBeGreaterThanOrEqual(L.CONTROL + 4 * L.CONTROL_COUNT);
    expect(L.MIN_PAGES * L.PAGE_BYTES).toBeGreaterThan(L.SCENE);
  });

  it("has its scratch regions behind each other, each with the room it says", () => {
    const regions = constants("scratch.ts").filter(({ name }) => /^SCRATCH_(?!LEAD|ROOM|STACK_BYTES)/.test(name));
    const at = regions.map(({ name }) => (S as unknown as Record<string, number>)[name]!);
    expect([...at].sort((a, b) => a - b)).toEqual(at);
    const room = (name: string): number =>
      at[regions.findIndex((r) => r.name === name) + 1]! - at[regions.findIndex((r) => r.name === name)]!;
    expect(room("SCRATCH_LIST_A")).toBeGreaterThanOrEqual(S.MAX_SEGMENTS * S.SEGMENT_BYTES);
    expect(room("SCRATCH_CROSSINGS")).toBeGreaterThanOrEqual(16 * S.MAX_CROSSINGS);
    expect(room("SCRATCH_SCATTERERS")).toBeGreaterThanOrEqual(S.SCATTERER_BYTES * L.MAX_MEDIA);
    expect(room("SCRATCH_AIR_CHOICES")).toBeGreaterThanOrEqual(12 * (S.MAX_CHOICES + L.MAX_OWN_LIGHTS));
    expect(room("SCRATCH_CELLS")).toBeGreaterThanOrEqual(S.MAX_CELLS * S.CELL_BYTES);
    expect(room("SCRATCH_GROUPS")).toBeGreaterThanOrEqual(8 * L.GROUP_FLOATS * L.MAX_GROUPS);
    expect(room("SCRATCH_SUN_ROWS")).toBeGreaterThanOrEqual(S.MAX_SUN_ROWS * S.SUN_ROW_BYTES);
    expect(room("SCRATCH_PANES")).toBeGreaterThanOrEqual(S.MAX_PANES * S.PANE_BYTES);
    expect(room("SCRATCH_EQUIANGULAR")).toBeGreaterThanOrEqual(8 * S.EQUIANGULAR_BINS);
    // nothing of the kernel has a place in the scratch that is not declared
    for (const { file, text } of kernelSources)
      for (const m of text.matchAll(/\bscratch \+ ([\w.]+)/g)) expect(m[1], file).toMatch(/^SCRATCH_/);
  });

  it("gives every code of a kind a number of its own", () => {
    const kinds = constants("kinds.ts");
    for (const prefix of [
      "LIGHT",
      "REGION",
      "PHASE",
      "HEIGHT",
      "NOISE",
      "LEVEL",
      "ESTIMATOR",
      "CAMERA",
      "FILTER",
      "ALPHA",
      "WRAP",
      "RAY",
    ]) {
      const codes = kinds.filter(({ name }) => name.startsWith(`${prefix}_`)).map(({ name }) => values[name]);
      expect(codes.length, prefix).toBeGreaterThan(1);
      expect(codes, prefix).toEqual(codes.map((_, i) => i));
    }
  });

  it("has one namespace per prefix: the same name in no two files", () => {
    const names = ["memory", "parameters", "media", "lights", "geometry", "materials", "film", "kinds", "scratch"].flatMap((f) => constants(`${f}.ts`).map((c) => c.name)); // prettier-ignore
    expect(new Set(names).size).toBe(names.length);
  });
});

describe("integers", () => {
  const prefixes = { parameters: "P", medium: "M", light: "L", emissive: "E", lightTree: "LT", tint: "TINT", distance: "D" } as const;

  it("are read by the kernel as integers, and nothing else is", () => {
    for (const [kind, prefix] of Object.entries(prefixes)) {
      const record = RECORDS.find((r) => r.prefix === prefix)!;
      const words = new Set<number>(INTEGER_WORDS[kind as keyof typeof INTEGER_WORDS]);
      for (const { name } of constants(record.file).filter((c) => c.name.startsWith(`${prefix}_`) && c.name !== record.end)) {
        const whole = words.has(values[name]!);
        for (const { file, text } of kernelSources)
          for (const m of text.matchAll(
            new RegExp(`\\b(param|word|lightParam)(Int|Address)?\\(([^()]|\\([^()]*\\))*?\\b${name}( \\+ \\d+)?\\)`, "g"),
          )) {
            // a flag may have numbers behind it
            const integer = m[4] ? words.has(values[name]! + Number(m[4].slice(3))) : whole;
            expect(m[2] !== undefined, `${file}: ${m[0]}`).toBe(integer);
          }
      }
    }
  });

  it("pass whole: offsets past two thousand million, masks of all bits, minus one", () => {
    const r = new Float64Array(L.LIGHT_WORDS * 2);
    r[L.LIGHT_WORDS + L.L_MASK] = 0xffffffff;
    r[L.LIGHT_WORDS + L.L_GOBO] = 3_999_999_984;
    r[L.L_GROUP] = -1;
    r[L.L_AREA] = 0.1;
    sealIntegers(r, "light");
    expect([integerAt(r, L.LIGHT_WORDS + L.L_MASK), integerAt(r, L.LIGHT_WORDS + L.L_GOBO), integerAt(r, L.L_GROUP)]).toEqual([0xffffffff, 3_999_999_984, 0xffffffff]); // prettier-ignore
    expect(r[L.L_AREA]).toBe(0.1);
  });
});

describe("the compiled kernel", () => {
  const load = () => new WebAssembly.Module(readFileSync(resolve(here, "../../../build/kernel/kernel.plain.wasm")));

  it("exports what its TypeScript type says, and no more", () => {
    const declared = [...readFileSync(resolve(here, "../kernel/kernel.ts"), "utf8").split("export interface KernelExports {")[1]!.split("\n}")[0]!.matchAll(/^ {2}(\w+)\(/gm)].map((m) => m[1]!); // prettier-ignore
    const exported = WebAssembly.Module.exports(load()).filter((e) => e.kind === "function").map((e) => e.name); // prettier-ignore
    expect(exported.sort()).toEqual(declared.sort());
  });

  it("takes as many arguments as its type says", async () => {
    const kernel = await instantiateKernel(load(), kernelMemory(L.SCENE, false));
    const source = readFileSync(join(kernelFolder, "index.ts"), "utf8") + readFileSync(join(kernelFolder, "section.ts"), "utf8");
    for (const [name, f] of Object.entries(kernel as unknown as Record<string, unknown>)) {
      const list = new RegExp(`export function ${name}\\(([^)]*)\\)`).exec(source)?.[1];
      if (list === undefined || typeof f !== "function") continue;
      expect(f.length, name).toBe(list.split(",").filter((p) => p.trim()).length);
    }
  });

  it("keeps its static data in the room before the parameters", async () => {
    const kernel: KernelExports = await instantiateKernel(load(), kernelMemory(L.SCENE, false));
    expect(kernel.staticEnd()).toBeGreaterThan(0);
    expect(kernel.staticEnd()).toBeLessThanOrEqual(L.STATIC_BYTES);
  });
});
