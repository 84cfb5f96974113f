import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { MEDIA, MEDIUM_WORDS, PASS_AIR, PASS_CLEAR } from "../layout/layout";
import {
  CHOOSING_LIGHTS,
  NO_LIGHT,
  PART_AIR,
  PART_AIR_SHIFT,
  PART_LENS,
  PART_NONE,
  PART_SURFACE_SHIFT,
  PART_WALK,
} from "../layout/scratch";
import { addLook, noLooks, timeShares, timeSharesAt } from "./time-shares";

const doc = parseDocument({
  fumarium: 2,
  sky: { on: false },
  lights: [{ kind: "point", name: "lamp", position: [0, 1, 0] }],
  air: [{ name: "off", on: false }, { name: "haze" }, { name: "smoke" }],
});
const medium = (i: number): number => MEDIA + i * MEDIUM_WORDS * 8;
/** What two workers note. */
const words = (...of: [part: number, light: number, medium: number, passes?: number, x?: number, y?: number][]): Int32Array =>
  Int32Array.from(of.flatMap(([part, light, m, passes = PASS_AIR, x = 0, y = 0]) => [part, light, m, passes, x | (y << 16)]));
/** A film of these pixels. */
const FILM = [320, 180] as const;

describe("where the time goes", () => {
  it("counts looks by part, light and medium, each adding up to all of it", () => {
    const looks = noLooks();
    for (let i = 0; i < 60; i++) addLook(looks, words([PART_AIR, 1, medium(0)], [PART_LENS, NO_LIGHT, 0]), ...FILM);
    for (let i = 0; i < 30; i++)
      addLook(looks, words([PART_WALK | (2 << PART_AIR_SHIFT), CHOOSING_LIGHTS, medium(1)], [PART_NONE, 1, 0]), ...FILM);
    for (let i = 0; i < 10; i++)
      addLook(looks, words([PART_WALK | (1 << PART_SURFACE_SHIFT), 0, 0], [PART_AIR, 1, 0, PASS_CLEAR]), ...FILM);
    const found = timeShares(looks, doc, []);
    expect(found.looks).toBe(160);
    const told = (rows: typeof found.parts): Record<string, number> => Object.fromEntries(rows.map((r) => [r.words, 160 * r.share]));
    expect(told(found.parts)).toEqual({ "Air, once": 60, "Lens rays": 60, "Air, 3 times": 30, "Surfaces, bounce 1": 10 });
    expect(told(found.lights)).toEqual({ lamp: 60, "no light": 60, "choosing lights": 30, sun: 10 });
    // media that do nothing have no number
    expect(told(found.media)).toEqual({ haze: 60, smoke: 30, "no medium": 70 });
    for (const rows of [found.parts, found.lights, found.media]) {
      expect(rows.reduce((s, r) => s + r.share, 0)).toBeCloseTo(1, 9);
      expect(rows.map((r) => r.share)).toEqual(rows.map((r) => r.share).sort((a, b) => b - a));
    }
    // of 160 looks a share of 3/8 is known to √(3/8 · 5/8 / 160)
    expect(found.parts[0]!.error).toBeCloseTo(Math.sqrt((0.375 * 0.625) / 160), 9);
  });

  it("tells lights and media of a place, with those around it where it was looked at seldom", () => {
    const looks = noLooks();
    // smoke at the right, lit by the lamp; haze at the left, by nothing; and a few looks in the corner below
    for (let i = 0; i < 80; i++) addLook(looks, words([PART_AIR, 1, medium(1), PASS_AIR, 300, 90]), ...FILM);
    for (let i = 0; i < 80; i++) addLook(looks, words([PART_AIR, NO_LIGHT, medium(0), PASS_AIR, 20, 90]), ...FILM);
    for (let i = 0; i < 45; i++) addLook(looks, words([PART_AIR, 1, 0, PASS_AIR, 319, 179]), ...FILM);
    for (let i = 0; i < 30; i++) addLook(looks, words([PART_AIR, 0, medium(0), PASS_AIR, 300, 150]), ...FILM);
    const told = (x: number, y: number) => {
      const at = timeSharesAt(looks, x, y, doc, []);
      return at && { looks: at.looks, lights: at.lights.map((r) => [r.words, r.share]), media: at.media.map((r) => [r.words, r.share]) };
    };
    expect(told(300 / 320, 0.5)).toEqual({ looks: 80, lights: [["lamp", 1]], media: [["smoke", 1]] });
    expect(told(20 / 320, 0.5)).toEqual({ looks: 80, lights: [["no light", 1]], media: [["haze", 1]] });
    expect(told(1, 1)).toEqual({
      looks: 75,
      lights: [
        ["lamp", 0.6],
        ["sun", 0.4],
      ],
      media: [
        ["no medium", 0.6],
        ["haze", 0.4],
      ],
    });
    expect(told(0.5, 0.1)).toBe(null);
  });
});
