// Bundles what runs outside the web application: the worker thread, the command, the benchmarks.
import { existsSync, readdirSync, rmSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

process.chdir(join(dirname(fileURLToPath(import.meta.url)), ".."));
// those of an earlier build have other names
if (existsSync("build")) for (const name of readdirSync("build")) if (/^part-[\w-]+\.mjs(\.map)?$/.test(name)) rmSync(join("build", name));
await build({
  entryPoints: {
    worker: "src/engine/node-worker.ts",
    "clean-worker": "src/engine/node-clean-worker.ts",
    bodies: "src/server/body-worker.ts",
    renderer: "src/server/renderer.ts",
    cli: "src/cli/main.ts",
    bench: "tests/bench/main.ts",
  },
  outdir: "build",
  outExtension: { ".js": ".mjs" },
  bundle: true,
  // what is loaded where it is needed is a file of its own, beside the others
  splitting: true,
  chunkNames: "part-[name]-[hash]",
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  sourcemap: "linked",
  logLevel: "warning",
});
