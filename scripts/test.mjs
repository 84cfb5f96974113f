// npm test: from a fresh checkout to a verdict. Ends with the plain line "N passed, N failed".
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { install, isStale, root } from "./prepare.mjs";

install();

/** What the tests need besides npm packages: Debian package, files of which one is enough, what it is for, and whether they can do without. */
const TOOLS = [
  {
    name: "chromium-headless-shell",
    files: process.env.CHROMIUM ? [process.env.CHROMIUM] : ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"],
    use: "drives the pages in the end-to-end tests",
    must: true,
  },
  { name: "openexr", files: ["/usr/bin/exrheader"], use: "reads back the OpenEXR files that are written", must: true },
  { name: "assimp-testmodels", files: ["/usr/share/assimp/models/glTF2"], use: "has sets of other makers to be read", must: false },
  { name: "redis-server", files: ["/usr/bin/redis-server"], use: "hands units to other machines in their tests", must: false },
  { name: "libopenvdb-tools", files: ["/usr/bin/vdb_tool"], use: "reads back the OpenVDB files that are written", must: false },
];
const refused = process.argv.includes("--no-install") || process.env.FUMARIUM_NO_INSTALL === "1";
const absent = () => TOOLS.filter(({ files }) => !files.some((file) => existsSync(file)));

if (absent().length > 0) {
  for (const { name, use, must } of absent()) console.log(`Missing: ${name}, which ${use}${must ? "" : " (its tests go without it)"}.`);
  const apt = (...args) =>
    spawnSync("apt-get", args, { stdio: ["ignore", "ignore", "inherit"], env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" } })
      .status === 0;
  if (refused) console.log("Nothing is installed, as asked.");
  else if (process.getuid?.() === 0 && existsSync("/usr/bin/apt-get")) {
    console.log("Installing from Debian, once; --no-install refuses it.");
    if (apt("update")) for (const { name } of absent()) apt("install", "-y", "--no-install-recommends", name);
  }
  const needed = absent().filter(({ must }) => must).map(({ name }) => name); // prettier-ignore
  if (needed.length > 0) {
    console.error(`The tests need Debian's ${needed.join(" and ")}. Install with: sudo apt-get install ${needed.join(" ")}`);
    process.exit(1);
  }
}

let passed = 0,
  failed = 0;
const bin = (name) => join(root, "node_modules/.bin", name);
/** Runs a check; what it says is printed when it is done, so that two at once stay legible. */
const step = (name, command, args) =>
  new Promise((done) => {
    const child = spawn(command, args, { stdio: ["ignore", "pipe", "pipe"] });
    let said = "";
    for (const stream of [child.stdout, child.stderr]) stream.on("data", (d) => (said += d));
    child.on("error", (error) => (said += error));
    child.on("close", (code) => {
      console.log(`\n— ${name}\n${said}`);
      if (code === 0) passed++;
      else failed++;
      done();
    });
  });
/** Runs a part of the build; without it there is nothing to test. */
const build = (script) =>
  new Promise((done) => {
    spawn(process.execPath, [script], { stdio: "inherit" }).on("close", (code) => {
      if (code === 0) return done();
      console.log("\n0 passed, 1 failed");
      process.exit(1);
    });
  });
// two things at once, of one thread each: what the build makes early is enough for some of the checks
const stale = isStale();
if (stale) {
  console.log("Building …");
  await build("scripts/build-kernel.mjs");
}
await Promise.all([
  stale ? build("scripts/build.mjs") : null,
  (async () => {
    await step("types of core (no DOM, no Node)", bin("tsc"), ["-p", "tsconfig.core.json"]);
    await step("formatting", bin("prettier"), ["--check", "--log-level", "warn", "."]);
  })(),
]);
await Promise.all([step("lint, and the direction of imports", bin("eslint"), ["."]), step("types", bin("tsc"), ["-p", "tsconfig.json"])]);

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
