// Installs and builds what is missing or older than its sources. Used by the demo and the tests.
import { execFileSync } from "node:child_process";
import { existsSync, readdirSync, statSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");

function newest(path) {
  const info = statSync(path);
  if (!info.isDirectory()) return info.mtimeMs;
  return Math.max(info.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

export function prepare() {
  process.chdir(root);
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 20)) {
    console.error(`Fumarium needs Node.js 20.20 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = join(root, "package-lock.json");
  const installed = join(root, "node_modules", ".package-lock.json");
  if (!existsSync(installed) || statSync(lock).mtimeMs > statSync(installed).mtimeMs) {
    console.log("Installing packages …");
    execFileSync("npm", ["ci", "--no-audit", "--no-fund"], { stdio: "inherit" });
  }
  const built = join(root, "dist/server/entry.mjs");
  const sources = ["src", "demo", "scripts", "tests/bench", "astro.config.mjs", "package.json"].map((p) => newest(join(root, p)));
  if (!existsSync(built) || statSync(built).mtimeMs < Math.max(...sources)) {
    console.log("Building …");
    execFileSync(process.execPath, ["scripts/build.mjs"], { stdio: "inherit" });
  }
}
