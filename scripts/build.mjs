// Builds everything: kernel, command and workers, demo data, web application.
import { spawn } from "node:child_process";
import { cpSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
process.chdir(root);
const run = (...args) =>
  new Promise((done) => {
    const child = spawn(process.execPath, args, { stdio: "inherit", env: { ...process.env, ASTRO_TELEMETRY_DISABLED: "1" } });
    child.on("close", (code) => (code === 0 ? done() : process.exit(code ?? 1)));
  });
await run("scripts/build-kernel.mjs");
await run("scripts/build-tools.mjs");
// neither needs the other, and each has one thread
await Promise.all([run("scripts/demo-data.mjs"), run("node_modules/astro/astro.js", "build", "--silent")]);
cpSync("build/kernel", "dist/client/kernel", { recursive: true });
