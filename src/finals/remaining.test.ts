import { expect, it } from "vitest";
import { Remaining } from "./remaining";

it("tells what is left by the speed of the later half, once there is some", () => {
  const left = new Remaining();
  expect(left.after(0, 0)).toBeNull();
  // a slow beginning, then one hundredth a second
  for (let i = 1; i <= 10; i++) left.after(i / 1000, i);
  let told = null as ReturnType<Remaining["after"]>;
  for (let i = 1; i <= 40; i++) told = left.after(0.01 + i / 100, 10 + i);
  expect(told!.left).toBeCloseTo(59, 0);
  expect(told!.error).toBeLessThan(1);
});

it("is as uncertain as the speed is uneven: of many renders two thirds end within it", () => {
  let state = 7;
  const random = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
  let within = 0;
  const runs = 300;
  for (let run = 0; run < runs; run++) {
    const left = new Remaining();
    const paces = Array.from({ length: 100 }, () => 0.5 + random());
    let seconds = 0,
      told = null as ReturnType<Remaining["after"]>;
    for (let i = 0; i < 50; i++) told = left.after((i + 1) / 100, (seconds += paces[i]!));
    const truth = paces.slice(50).reduce((a, p) => a + p, 0);
    if (Math.abs(truth - told!.left) <= told!.error!) within++;
  }
  // 68 % of a normal one; six parts make the estimate itself uncertain
  expect(within / runs).toBeGreaterThan(0.5);
  expect(within / runs).toBeLessThan(0.85);
});

it("starts from where a frame was gone on with", () => {
  const left = new Remaining();
  let told = null as ReturnType<Remaining["after"]>;
  for (let i = 0; i <= 20; i++) told = left.after(0.5 + i / 100, 1000 + i);
  expect(told!.left).toBeCloseTo(30, 0);
});
