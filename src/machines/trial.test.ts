import { expect, it } from "vitest";
import { Pace } from "./trial";

it("takes the trial again after rests that grow, never while there is work, and keeps the best", async () => {
  let now = 0,
    taken = 0;
  const found = [50, 140, 120];
  const pace = new Pace(
    100,
    async () => {
      const next = found[taken++];
      if (next === undefined) throw new Error("ended");
      return Promise.resolve(next);
    },
    () => now,
  );
  const rest = async (seconds: number, idle = true): Promise<number> => {
    for (const end = now + 1000 * seconds; now < end; now += 1000) {
      pace.rest(idle);
      await Promise.resolve();
    }
    await new Promise(setImmediate);
    return pace.samples;
  };
  expect(await rest(600, false)).toBe(100);
  // work in between begins the rest anew
  for (let k = 0; k < 40; k++) {
    await rest(15);
    await rest(1, false);
  }
  expect(taken).toBe(0);
  expect(await rest(42)).toBe(100);
  expect(taken).toBe(1);
  await rest(70);
  expect(taken).toBe(1);
  expect(await rest(200)).toBe(140);
  expect(await rest(1000)).toBe(140);
  expect(taken).toBe(3);
  expect(await rest(10_000)).toBe(140);
  expect(taken).toBeGreaterThan(3);
});
