/** fumarium demo: lists the demo sets that the build made, or writes them to a folder. */
import { existsSync, readFileSync } from "node:fs";
import { mkdir } from "node:fs/promises";
import { join } from "node:path";
import { DEMO_FOLDER, DEMO_INDEX, demoIndex } from "#api/demo-sets";
import { InputError } from "#core/errors";
import { writeWhole } from "#finals/output";
import { options } from "./arguments";

/** @throws InputError where the folder cannot be made, or the sets were not built */
export async function demoCommand(args: string[], buildDirectory: string, say: (line: string) => void): Promise<void> {
  const { values: v } = options(args, { list: { type: "boolean" }, write: { type: "string" } });
  const from = join(buildDirectory, DEMO_FOLDER);
  if (!existsSync(join(from, DEMO_INDEX))) throw new InputError("demo: its sets are not built yet; run: npm run build");
  const sets = demoIndex.parse(JSON.parse(readFileSync(join(from, DEMO_INDEX), "utf8")));
  if (v.list) {
    for (const set of sets) say(`${set.id}  ${set.title}: ${set.description}`);
    return;
  }
  const to = v.write;
  if (!to) throw new InputError("demo: say --list or --write DIR");
  await mkdir(to, { recursive: true }).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(`${to}: cannot be made (${e.code})`);
  });
  for (const set of sets) {
    for (const { name } of set.files) await writeWhole(join(to, name), readFileSync(join(from, name)));
    const file = join(to, `${set.id}.fumarium.json`);
    await writeWhole(file, `${JSON.stringify(set.document, null, 2)}\n`);
    say(file);
  }
}
