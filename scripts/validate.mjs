// npm run validate: the whole validation suite, long parts included, and its report in docs/validation.md.
import { spawnSync } from "node:child_process";
import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { format, resolveConfig } from "prettier";
import { prepare, root } from "./prepare.mjs";

prepare();
const record = join(root, "build/validation.jsonl");
rmSync(record, { force: true });
const run = spawnSync(join(root, "node_modules/.bin/vitest"), ["run", "--project", "validation"], {
  stdio: "inherit",
  env: { ...process.env, FUMARIUM_RECORD: record, FUMARIUM_FUZZ: process.env.FUMARIUM_FUZZ ?? "3000" },
});
const rows = existsSync(record)
  ? readFileSync(record, "utf8")
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line))
  : [];
rows.sort((a, b) => a.case.localeCompare(b.case) || a.quantity.localeCompare(b.quantity));
const number = (v) => (v === 0 ? "0" : Number(v.toPrecision(5)).toString());
const table = rows.map(
  (r) =>
    `| ${r.case} | ${r.quantity} | ${number(r.expected)} | ${r.source} | ${number(r.measured)} | ${number(r.error)} | ${
      r.error > 0 ? ((r.measured - r.expected) / r.error).toFixed(1) : "–"
    } | ${r.passed ? "yes" : "NO"} |`,
);
const text = `# Validation

Written by \`npm run validate\`; not edited by hand. Each row holds a measurement of the renderer against a value that does not
come from it. It passes within 3.5 or 4 standard errors, plus a stated allowance where the expected value itself is inexact (a
table's resolution, a rounded number; see the tests in \`tests/validation\`). The suite holds further checks that are bounds or
identities and have no row here: passes that add up, equal pictures from any number of workers, thousands of random documents
without a number that is not finite.

${rows.length} measurements, ${rows.filter((r) => r.passed).length} hold.

| case | quantity | expected | source | measured | standard error | off by, in errors | holds |
| ---- | -------- | -------- | ------ | -------- | -------------- | ----------------- | ----- |
${table.join("\n")}
`;
const file = join(root, "docs/validation.md");
writeFileSync(file, await format(text, { ...(await resolveConfig(file)), parser: "markdown" }));
console.log(`${file}: ${rows.length} measurements`);
process.exit(run.status ?? 1);
