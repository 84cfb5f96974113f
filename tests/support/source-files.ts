import { readdirSync } from "node:fs";
import { join, resolve } from "node:path";

const root = resolve(import.meta.dirname, "../..");

/** Source files below a folder of the project, relative to the project, sorted; declarations left out. */
export function sourceFiles(folder: string): string[] {
  return readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.(ts|tsx|astro)$/.test(entry.name) && !entry.name.endsWith(".d.ts"))
    .map((entry) => join(entry.parentPath, entry.name).slice(root.length + 1))
    .sort();
}
