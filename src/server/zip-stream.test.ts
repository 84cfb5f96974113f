import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { unzipSync } from "fflate";
import { expect, it } from "vitest";
import { zipStream } from "./zip-stream";

it("sends files as one archive that unpacks to them", async () => {
  const folder = mkdtempSync(join(tmpdir(), "fumarium-zip-"));
  const contents = { "a.exr": Buffer.alloc(3_000_000, 7), "b.png": Buffer.from("short"), "empty.png": Buffer.alloc(0) };
  for (const [name, bytes] of Object.entries(contents)) writeFileSync(join(folder, name), bytes);
  const bytes = await new Response(zipStream(Object.keys(contents).map((name) => ({ name, path: join(folder, name) })))).arrayBuffer();
  const found = unzipSync(new Uint8Array(bytes));
  expect(Object.keys(found)).toEqual(Object.keys(contents));
  for (const [name, given] of Object.entries(contents)) expect(Buffer.from(found[name]!).equals(given)).toBe(true);
  rmSync(folder, { recursive: true });
});
