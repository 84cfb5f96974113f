#!/usr/bin/env node
// Runs the built command; says how to build where that has not been done.
import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const build = join(dirname(fileURLToPath(import.meta.url)), "..", "build");
if (!existsSync(join(build, "cli.mjs"))) {
  console.error("fumarium: not built yet; run: npm ci && npm run build");
  process.exit(1);
}
const { main } = await import(join(build, "cli.mjs"));
process.exitCode = await main(process.argv.slice(2), build);
