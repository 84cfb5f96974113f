import { describe, expect, it } from "vitest";
import { API, ASSET_KIND_NAMES, ASSET_KINDS, call, type Transport } from "./contract";

describe("the contract of the API", () => {
  it("gives every endpoint a method and path of its own", () => {
    const all = Object.values(API).map(
      (e) => `${e.method} ${(e.path as (p: object) => string)({ id: "p", proof: "q", wedge: "w", kind: "model" })}`,
    );
    expect(new Set(all).size).toBe(all.length);
    for (const path of all) expect(path).toMatch(/^[A-Z]+ \/api\/[a-z]/);
  });

  it("escapes what stands in a path", () => {
    expect(API.openProject.path({ id: "a/../b?c" })).toBe("/api/projects/a%2F..%2Fb%3Fc");
  });

  it("sends method, path and body, and hands over the answer", async () => {
    const sent: unknown[] = [];
    const transport: Transport = async (...given) => {
      sent.push(given);
      return Promise.resolve({ revision: 4 });
    };
    expect(await call(transport, API.saveDocument, { id: "p" }, { revision: 3, document: {} }, { keepalive: true })).toEqual({
      revision: 4,
    });
    expect(sent).toEqual([["PUT", "/api/projects/p/document", { revision: 3, document: {} }, { keepalive: true }]]);
  });

  it("refuses an answer that is not as agreed, with the place", async () => {
    await expect(
      call(async () => Promise.resolve({ revision: "4" }), API.saveDocument, { id: "p" }, { revision: 3, document: {} }),
    ).rejects.toThrow(/revision/);
  });

  it("knows each kind of asset by its limit, type and mark", () => {
    expect(ASSET_KIND_NAMES).toEqual(["model", "picture", "film", "image", "profile", "lut", "volume"]);
    for (const kind of ASSET_KIND_NAMES) expect(ASSET_KINDS[kind].limit, kind).toBeGreaterThan(1e6);
  });
});
