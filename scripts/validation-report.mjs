// Writes docs/validation.md from the measurements that a run of the validation suite noted (tests/support/record.ts), one JSON a line.
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { format, resolveConfig } from "prettier";
import { root } from "./prepare.mjs";

/** @throws Error where nothing was noted: a report of nothing must not take the place of the last one */
export async function writeReport(record) {
  const rows = existsSync(record)
    ? readFileSync(record, "utf8")
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line))
    : [];
  if (!rows.length) throw new Error(`${record}: no measurements; docs/validation.md stays as it is`);
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
  return { file, rows };
}
