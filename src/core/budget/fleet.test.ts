import { describe, expect, it } from "vitest";
import { FLEET_SHARE, TAKING, machinesFor, onFleet, stopsForLook, type FleetWork } from "./fleet";

const price = (seconds: number) => ({ seconds, low: seconds / 2, high: 2 * seconds });
const work = (more: Partial<FleetWork> = {}): FleetWork => ({
  ...{ price: price(1010), besides: { scene: 10, clean: 0 }, pixels: 1e6, pixelBytes: 0, frames: 1, server: 2 },
  ...more,
});

describe("Frames on several machines", () => {
  it("take what one thread takes, spread over all, after their scene is there", () => {
    // 10 s here, 10 s there, and 1000 s by ten threads
    expect(onFleet(work(), { machines: 5, threads: 10 }).seconds).toBeCloseTo(20 + 1000 / (10 * FLEET_SHARE), 6);
    const { low, high } = onFleet(work(), { machines: 5, threads: 10 });
    expect(low).toBeLessThan(high);
    // machines of half the speed build it in twice the time
    expect(onFleet(work(), { machines: 20, threads: 10 }).seconds).toBeCloseTo(30 + 1000 / (10 * FLEET_SHARE), 6);
  });

  it("are no faster than tiles of one frame, or the clean-up of many, allow", () => {
    const few = work({ pixels: 64 * 32 });
    expect(onFleet(few, { machines: 500, threads: 1000 })).toEqual(onFleet(few, { machines: 1, threads: 2 }));
    const many = work({ frames: 100, besides: { scene: 0, clean: 10 }, price: price(1010), server: 2 });
    // 5 s of the server for each, whatever the number of machines
    expect(onFleet(many, { machines: 1e4, threads: 1e5 }).seconds).toBeGreaterThan(500);
    expect(machinesFor(499, many, 8)).toBeNull();
  });

  it("are no faster than the server takes in what comes back", () => {
    // 4K with 192 bytes a pixel: 1.6 GB of sums a frame
    const frames = work({ price: price(27_400), besides: { scene: 3, clean: 0 }, pixels: 3840 * 2160, pixelBytes: 192, frames: 200 });
    const each = (machines: number) => onFleet(frames, { machines, threads: 8 * machines }).seconds / 200;
    expect(each(1000)).toBeGreaterThan(TAKING * 3840 * 2160 * 192);
    expect(each(1000)).toBeCloseTo(each(500), 0);
    // where they are few it is their threads that count
    expect(each(20)).toBeCloseTo(27_397 / (160 * FLEET_SHARE), 0);
    expect(machinesFor(200 * 9, frames, 8)).toBeNull();
  });

  it("stop for a first look where somebody may look, and the server is not kept busy by it", () => {
    expect(stopsForLook(59, 0)).toBe(false);
    expect(stopsForLook(61, 0)).toBe(true);
    // 1.6 GB there and back: 35 s of the server, a fifth of three minutes
    const bytes = 3840 * 2160 * 192;
    const bound = 10 * TAKING * bytes;
    expect(stopsForLook(1.01 * bound, bytes)).toBe(true);
    expect(stopsForLook(0.99 * bound, bytes)).toBe(false);
    // then a frame that the server alone holds up takes its film once
    const frame = (samples: number) =>
      onFleet(work({ price: price(samples), besides: { scene: 0, clean: 0 }, pixels: bytes, pixelBytes: 1, frames: 1001 }), {
        machines: 1e4,
        threads: 1e4,
      }).seconds;
    expect(frame(1000) / 1001).toBeCloseTo(TAKING * bytes, 0);
  });

  it("need just so many machines for a deadline", () => {
    const many = work({ frames: 200, besides: { scene: 5, clean: 0 }, price: price(605), server: 2 });
    for (const allowed of [200, 1000, 3600, 36_000]) {
      const count = machinesFor(allowed, many, 8)!;
      const takes = (machines: number) => onFleet(many, { machines, threads: 8 * machines }).seconds;
      expect(takes(count)).toBeLessThanOrEqual(allowed);
      if (count > 1) expect(takes(count - 1)).toBeGreaterThan(allowed);
    }
    expect(machinesFor(1e9, many, 8)).toBe(1);
  });
});
