// npm test: from a fresh checkout to a verdict. Ends with the plain line "N passed, N failed".
import { spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { prepare, root } from "./prepare.mjs";

prepare();
process.chdir(root);

/** What the tests need besides npm packages, by Debian package. */
const needed = [
  ["chromium", process.env.CHROMIUM ?? "/usr/bin/chromium"],
  ["openexr", "/usr/bin/exrheader"],
].filter(([, file]) => !existsSync(file));
/** What one test does without where it cannot be had. */
const welcome = [["libopenvdb-tools", "/usr/bin/vdb_tool"]].filter(([, file]) => !existsSync(file));
if (needed.length || welcome.length) {
  const names = needed.map(([name]) => name);
  const apt = (...args) =>
    spawnSync("apt-get", args, { stdio: ["ignore", "ignore", "inherit"], env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" } })
      .status === 0;
  console.log(`Installing ${[...needed, ...welcome].map(([name]) => name).join(" and ")} …`);
  const may = process.getuid?.() === 0 && existsSync("/usr/bin/apt-get") && apt("update");
  const install = (list) => may && apt("install", "-y", "--no-install-recommends", ...list);
  for (const [name] of welcome) if (!install([name])) console.log(`Without ${name}: files are not tried with that library's own tool.`);
  if (names.length && !install(names)) {
    console.error(`The tests need Debian's ${names.join(" and ")}. Install with: sudo apt-get install ${names.join(" ")}`);
    process.exit(1);
  }
}

let passed = 0,
  failed = 0;
function step(name, command, args) {
  console.log(`\n— ${name}`);
  const ok = spawnSync(command, args, { stdio: "inherit" }).status === 0;
  if (ok) passed++;
  else failed++;
}
const bin = (name) => join(root, "node_modules/.bin", name);
step("types of core (no DOM, no Node)", bin("tsc"), ["-p", "tsconfig.core.json"]);
step("types", bin("tsc"), ["-p", "tsconfig.json"]);
step("lint, and the direction of imports", bin("eslint"), ["."]);
step("formatting", bin("prettier"), ["--check", "--log-level", "warn", "."]);

console.log("\n— unit, validation and end-to-end tests");
mkdirSync("build", { recursive: true });
const report = join(root, "build/test-report.json");
rmSync(report, { force: true });
const run = spawnSync(bin("vitest"), ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${report}`], { stdio: "inherit" });
if (existsSync(report)) {
  const { numPassedTests, numFailedTests, numFailedTestSuites, success } = JSON.parse(readFileSync(report, "utf8"));
  passed += numPassedTests;
  // a file that cannot be loaded has no failed test to count
  failed += numFailedTests > 0 ? numFailedTests : success && run.status === 0 ? 0 : Math.max(1, numFailedTestSuites);
} else failed++;
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
