// npm run validate: the whole validation suite, long parts included, and its report in docs/validation.md.
import { spawnSync } from "node:child_process";
import { rmSync } from "node:fs";
import { join } from "node:path";
import { prepare, root } from "./prepare.mjs";
import { writeReport } from "./validation-report.mjs";

prepare();
const record = join(root, "build/validation.jsonl");
rmSync(record, { force: true });
const run = spawnSync(join(root, "node_modules/.bin/vitest"), ["run", "--project", "validation"], {
  stdio: "inherit",
  env: { ...process.env, FUMARIUM_RECORD: record, FUMARIUM_FUZZ: process.env.FUMARIUM_FUZZ ?? "3000" },
});
if (run.status === null) {
  console.error(`ended early (${run.signal ?? run.error?.message}); docs/validation.md stays as it is`);
  process.exit(1);
}
const { file, rows } = await writeReport(record);
console.log(`${file}: ${rows.length} measurements`);
process.exit(run.status ?? 1);
