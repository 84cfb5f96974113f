import { describe, expect, it } from "vitest";
import { clampTo, DRAG_SLOP, Scrub, stepped, trackPosition } from "./scrub";

const linear = { min: -10, max: 10, step: 0.5 };
const density = { min: 0, max: 100, useful: [0.001, 1] as const, logarithmic: true };

describe("steps of a number", () => {
  it("of a linear field are its step, of one without a step a two-hundredth of its useful range", () => {
    expect(stepped(linear, 1, 3)).toBe(2.5);
    expect(stepped({ min: 0, max: 400 }, 10, 1)).toBe(12);
    expect(stepped({ min: 0, max: 400, useful: [0, 100] }, 10, 1)).toBe(10.5);
  });
  it("stop at the ends", () => {
    expect(stepped(linear, 9.9, 5)).toBe(10);
    expect(stepped(linear, -9.9, -5)).toBe(-10);
  });
  it("of a logarithmic field multiply, there and back, and lead away from 0", () => {
    const up = stepped(density, 0.02, 40);
    expect(up / 0.02).toBeCloseTo(1.015 ** 40, 3);
    expect(stepped(density, up, -40)).toBeCloseTo(0.02, 5);
    expect(stepped(density, 0, 1)).toBeGreaterThan(0);
  });
  it("of whole numbers are whole", () => {
    expect(stepped({ min: 1, max: 8, whole: true, step: 1 }, 2, 1.4)).toBe(3);
    expect(clampTo({ min: 1, max: 8, whole: true }, 99)).toBe(8);
  });
});

describe("the track under a number", () => {
  it("is empty, half and full at the ends and the middle of the useful range", () => {
    expect([-10, 0, 10].map((v) => trackPosition(linear, v))).toEqual([0, 50, 100]);
    expect(trackPosition(density, 0.001)).toBe(0);
    expect(trackPosition(density, Math.sqrt(0.001))).toBeCloseTo(50, 9);
    expect(trackPosition(density, 1)).toBe(100);
    expect(trackPosition(density, 50)).toBe(100);
    expect(trackPosition(density, 0)).toBe(0);
  });
});

describe("a press on a number", () => {
  const press = () => {
    const gestures: boolean[] = [];
    return { gestures, scrub: new Scrub(linear, 100, 2, (active) => gestures.push(active)) };
  };
  it("is a click while the pointer rests", () => {
    const { gestures, scrub } = press();
    expect(scrub.move(100 + DRAG_SLOP - 1, false)).toBeNull();
    expect(scrub.end()).toBe(false);
    expect(gestures).toEqual([]);
  });
  it("is a drag from then on, even back across the place it began at, and one gesture", () => {
    const { gestures, scrub } = press();
    expect(scrub.move(104, false)).toBe(4);
    expect(scrub.move(100, false)).toBe(2);
    expect(scrub.move(98, false)).toBe(1);
    expect(scrub.end()).toBe(true);
    expect(gestures).toEqual([true, false]);
  });
  it("goes a tenth as far when fine", () => {
    expect(press().scrub.move(120, true)).toBe(3);
  });
});
