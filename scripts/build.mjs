// Builds everything: kernel, command and workers, demo data, web application.
import { execFileSync } from "node:child_process";
import { cpSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
process.chdir(root);
const run = (...args) => execFileSync(process.execPath, args, { stdio: "inherit", env: { ...process.env, ASTRO_TELEMETRY_DISABLED: "1" } });
run("scripts/build-kernel.mjs");
run("scripts/build-tools.mjs");
run("scripts/demo-data.mjs");
run("node_modules/astro/astro.js", "build", "--silent");
cpSync("build/kernel", "dist/client/kernel", { recursive: true });
