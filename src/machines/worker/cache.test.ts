import { createHash } from "node:crypto";
import { existsSync, mkdtempSync, readdirSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { FileCache } from "./cache";

const hash = (text: string) => createHash("sha256").update(text).digest("hex");
const folder = () => join(mkdtempSync(join(tmpdir(), "fumarium-cache-")), "files");

describe("Fetched files", () => {
  it("are fetched once, and looked at before they are used", async () => {
    const at = folder();
    let asked = 0;
    const cache = new FileCache(at, 1e6, async () => Promise.resolve((asked++, Buffer.from("fog"))));
    const both = await Promise.all([cache.get(hash("fog")), cache.get(hash("fog"))]);
    expect(both.map(String)).toEqual([String(Buffer.from("fog")), String(Buffer.from("fog"))]);
    await cache.get(hash("fog"));
    expect(asked).toBe(1);
    // one that has changed on the disk is fetched anew
    writeFileSync(join(at, hash("fog")), "mud");
    expect(Buffer.from(await cache.get(hash("fog"))).toString()).toBe("fog");
    expect(asked).toBe(2);
  });

  it("that are not what was asked for are refused in words, and not kept", async () => {
    const at = folder();
    let asked = 0;
    const cache = new FileCache(at, 1e6, async () => Promise.resolve((asked++, Buffer.from("mud"))));
    await expect(cache.get(hash("fog"))).rejects.toThrow(/what comes is another one/);
    expect(asked).toBe(3);
    expect(existsSync(join(at, hash("fog")))).toBe(false);
  });

  it("give way to new ones, the oldest first; a folder that cannot be written is none", async () => {
    const at = folder();
    const cache = new FileCache(at, 250, async (h) => Promise.resolve(Buffer.from(texts.find((t) => hash(t) === h)!)));
    const texts = ["a", "b", "c"].map((c) => c.repeat(100));
    for (const t of texts) {
      await cache.get(hash(t));
      await new Promise((go) => setTimeout(go, 15));
    }
    expect(readdirSync(at).sort()).toEqual(texts.slice(1).map(hash).sort());
    writeFileSync(`${at}-file`, "");
    const nowhere = new FileCache(join(`${at}-file`, "x"), 250, async () => Promise.resolve(Buffer.from("fog")));
    expect(Buffer.from(await nowhere.get(hash("fog"))).toString()).toBe("fog");
  });
});
