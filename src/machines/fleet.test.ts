import { beforeEach, describe, expect, it } from "vitest";
import { clockWords, Fleet, LEASE } from "./fleet";
import type { Beat } from "./unit";

let now: number, fleet: Fleet<null>;
const beat = (more: Partial<Beat> = {}): Beat => ({
  ...{ session: "1", host: "desk", threads: 4, kernel: "0".repeat(64), pace: 200, clock: now, units: [], says: "waits", leaves: false },
  ...more,
});
beforeEach(() => {
  now = 1e6;
  fleet = new Fleet(
    () => 100,
    () => now,
  );
});

describe("A fleet", () => {
  it("knows how fast each is against this machine", () => {
    fleet.hear("a", beat());
    fleet.hear("b", beat({ threads: 2, pace: 50 }));
    expect(fleet.machines.get("a")!.speed).toBe(2);
    expect(fleet.threads()).toBe(4 * 2 + 2 * 0.5);
  });

  it("lets one of a name be here at a time; another may come once it is silent", () => {
    const first = fleet.hear("a", beat());
    expect(fleet.hear("a", beat({ session: "2" }))).toBeNull();
    expect(fleet.hear("a", beat())).toBe(first);
    now += LEASE;
    expect(fleet.hear("a", beat({ session: "2" }))).not.toBe(first);
  });

  it("tells once that one fell silent, and takes it back", () => {
    const a = fleet.hear("a", beat())!;
    now += LEASE - 1;
    expect(fleet.silent()).toEqual([]);
    now += 1;
    expect(fleet.silent()).toEqual([a]);
    expect(fleet.silent()).toEqual([]);
    expect(fleet.working()).toEqual([]);
    fleet.hear("a", beat());
    expect(fleet.working()).toEqual([a]);
    now += 1e6;
    fleet.silent();
    expect(fleet.machines.size).toBe(0);
  });

  it("goes by its own clock alone", () => {
    fleet.hear("a", beat({ clock: now + 3_600_000 }));
    fleet.hear("b", beat({ clock: now - 3_600_000 }));
    expect(fleet.working()).toHaveLength(2);
    expect(clockWords(fleet.machines.get("a")!.ahead)).toMatch(/60 min ahead/);
    expect(clockWords(fleet.machines.get("b")!.ahead)).toMatch(/60 min behind/);
    expect(clockWords(1000)).toBeNull();
  });
});
