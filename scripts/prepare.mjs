// Installs and builds what is missing or older than its sources. Used by the demo and the tests.
import { execFileSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");

function newest(path) {
  const info = statSync(path);
  if (!info.isDirectory()) return info.mtimeMs;
  return Math.max(info.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/** Whether a version lies in a range as package.json says it: alternatives of comparators, as in ">=20.20 <21 || >=22.12". */
export function inRange(version, range) {
  const numbers = (v) => v.split(".").map(Number);
  const compare = (a, b) => [0, 1, 2].map((k) => (a[k] ?? 0) - (b[k] ?? 0)).find((d) => d !== 0) ?? 0;
  const holds = (comparator) => {
    const [, sign, bound] = /^(>=|<)([\d.]+)$/.exec(comparator);
    const d = compare(numbers(version), numbers(bound));
    return sign === "<" ? d < 0 : d >= 0;
  };
  return range.split("||").some((alternative) => alternative.trim().split(/\s+/).every(holds));
}

/** Installs packages where they are missing or older than what names them. */
export function install() {
  process.chdir(root);
  const { engines } = JSON.parse(readFileSync(join(root, "package.json"), "utf8"));
  if (!inRange(process.versions.node, engines.node)) {
    console.error(`Fumarium needs Node.js ${engines.node}; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = join(root, "package-lock.json");
  const installed = join(root, "node_modules", ".package-lock.json");
  if (!existsSync(installed) || statSync(lock).mtimeMs > statSync(installed).mtimeMs) {
    console.log("Installing packages …");
    execFileSync("npm", ["ci", "--no-audit", "--no-fund"], { stdio: "inherit" });
  }
}

/** Whether what is built is missing, or older than its sources. */
export function isStale() {
  // what the build writes last: one that was broken off has not come to it
  const built = join(root, "dist/client/kernel/kernel.shared.wasm");
  const sources = ["src", "demo", "scripts", "tests/bench", "astro.config.mjs", "package.json"].map((p) => newest(join(root, p)));
  return !existsSync(built) || statSync(built).mtimeMs < Math.max(...sources);
}

export function prepare() {
  install();
  if (!isStale()) return;
  console.log("Building …");
  execFileSync(process.execPath, ["scripts/build.mjs"], { stdio: "inherit" });
}
