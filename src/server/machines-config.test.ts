import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { doorAddress, machinesConfig } from "./machines-config";
import { MACHINES_FILE, readMachines } from "./machines-file";

const set = { FUMARIUM_REDIS: "redis://127.0.0.1:6379", FUMARIUM_TOKEN: "a token of the tests" };

describe("Other machines", () => {
  it("take part only where Redis is named, bound to this machine unless it is told", () => {
    expect(machinesConfig({})).toBeNull();
    expect(machinesConfig({ FUMARIUM_REDIS: "" })).toBeNull();
    const config = machinesConfig(set)!;
    expect(config).toMatchObject({ host: "127.0.0.1", port: 4681, url: null });
    expect(doorAddress(config, 4681)).toBe("http://127.0.0.1:4681");
    expect(doorAddress({ ...config, host: "::1" }, 1)).toBe("http://[::1]:1");
    expect(doorAddress({ ...config, host: "0.0.0.0" }, 1)).not.toContain("0.0.0.0");
    expect(doorAddress({ ...config, url: "http://desk:9" }, 1)).toBe("http://desk:9");
  });

  it("are refused in words where something is wrong", () => {
    for (const [more, words] of [
      [{ FUMARIUM_TOKEN: undefined }, /no token/],
      [{ FUMARIUM_TOKEN: "short" }, /5 characters/],
      [{ FUMARIUM_REDIS: "localhost:6379" }, /must be an address/],
      [{ FUMARIUM_WORKER_PORT: "x" }, /must be a port/],
      [{ FUMARIUM_WORKER_PORT: "70000" }, /must be a port/],
      [{ FUMARIUM_WORKER_URL: "desk" }, /must be an address/],
    ] as const)
      expect(() => machinesConfig({ ...set, ...more })).toThrow(words);
  });
});

describe("What is told of them", () => {
  afterEach(() => vi.unstubAllEnvs());

  it("is nothing without Redis, said to be old where it is, and survives a file that is none", async () => {
    const folder = mkdtempSync(join(tmpdir(), "fumarium-machines-"));
    vi.stubEnv("FUMARIUM_REDIS", "");
    expect(await readMachines(folder)).toBeNull();
    vi.stubEnv("FUMARIUM_REDIS", set.FUMARIUM_REDIS);
    expect((await readMachines(folder))?.trouble).toMatch(/is being started/);
    const state = { redis: "r", trouble: null, warnings: [], url: "http://x", threads: 2, machines: [], received: 0, sent: 0 };
    writeFileSync(join(folder, MACHINES_FILE), JSON.stringify({ at: 1000, state }));
    expect((await readMachines(folder, 2000))?.trouble).toBeNull();
    expect((await readMachines(folder, 60_000))?.trouble).toMatch(/does not answer/);
    writeFileSync(join(folder, MACHINES_FILE), "{");
    expect((await readMachines(folder))?.trouble).toMatch(/is being started/);
  });
});
