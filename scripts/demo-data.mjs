// Builds the demo sets' models and documents into build/demo, once.
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const out = join(root, "build", "demo");
mkdirSync(out, { recursive: true });
const bundle = join(root, "build", "demo-sets.mjs");
await build({
  entryPoints: [join(root, "demo/all.ts")],
  outfile: bundle,
  bundle: true,
  platform: "node",
  format: "esm",
  packages: "external",
  logLevel: "warning",
});
const code = createHash("sha256").update(readFileSync(bundle)).digest("hex");
const stamp = join(out, "made-by");
if (existsSync(join(out, "index.json")) && existsSync(stamp) && readFileSync(stamp, "utf8") === code) process.exit(0);

const { ALL_DEMOS } = await import(bundle);
const index = [];
for (const set of ALL_DEMOS) {
  const files = Object.entries(await set.build()).map(([name, { kind, bytes }]) => {
    writeFileSync(join(out, name), bytes);
    return { name, kind, sha256: createHash("sha256").update(bytes).digest("hex"), size: bytes.length };
  });
  const hashes = Object.fromEntries(files.map((f) => [f.name, f.sha256]));
  index.push({
    id: set.id,
    title: set.title,
    description: set.description,
    files: files.map(({ name, kind, sha256 }) => ({ name, kind, sha256 })),
    document: set.document(hashes),
  });
  console.log(`demo set ${set.id}: ${(files.reduce((n, f) => n + f.size, 0) / 1e6).toFixed(1)} MB`);
}
writeFileSync(join(out, "index.json"), JSON.stringify(index, null, 1));
writeFileSync(stamp, code);
