import { describe, expect, it } from "vitest";
import { z } from "zod";
import { InputError } from "#core/errors";
import { areNumbers, beatSchema, envelope, floatsOf, opened, unitOf, unitSchema, workerName } from "./unit";

const of = { frame: "a".repeat(64), brief: "b".repeat(64), tiles: [3, 4], from: 0, to: 7, check: false };
const head = z.strictObject({ a: z.number() });

describe("A unit", () => {
  it("is named by what it is: the same twice is one, and a check of it another", () => {
    expect(unitOf(of)).toEqual(unitOf({ ...of }));
    expect(unitOf({ ...of, to: 8 }).id).not.toBe(unitOf(of).id);
    // made of one that has a name
    const check = unitOf({ ...unitOf(of), check: true });
    expect(check.id).not.toBe(unitOf(of).id);
    expect(unitSchema.parse(check)).toEqual(check);
  });

  it("is refused where it is none", () => {
    const unit = unitOf(of);
    for (const wrong of [{ tiles: [] }, { tiles: [-1] }, { tiles: [0.5] }, { frame: "x" }, { id: "" }, { to: 0 }, { more: 1 }])
      expect(unitSchema.safeParse({ ...unit, ...wrong }).success).toBe(false);
    for (const name of ["", "-a", "a b", "a/b", "ä", "x".repeat(41)]) expect(workerName.safeParse(name).success).toBe(false);
    for (const name of ["a", "studio-2.local", "w_1"]) expect(workerName.safeParse(name).success).toBe(true);
    expect(beatSchema.safeParse({}).success).toBe(false);
  });
});

describe("An envelope", () => {
  const body = new Uint8Array(new Float32Array([1, -2, 0.5]).buffer);

  it("comes back as it was, whatever memory it lies in", () => {
    const sent = envelope({ a: 1 }, body);
    const within = new Uint8Array(sent.length + 3);
    within.set(sent, 3);
    for (const bytes of [sent, Buffer.from(sent), within.subarray(3)]) {
      const got = opened(bytes, head, "result");
      expect(got.head).toEqual({ a: 1 });
      expect([...floatsOf(got.body, 3, "result")]).toEqual([1, -2, 0.5]);
    }
    expect(opened(envelope({ a: 1 }, new Uint8Array()), head, "result").body).toHaveLength(0);
  });

  it("is refused in words where any of its bits changed, or it is cut off", () => {
    const sent = envelope({ a: 1 }, body);
    for (let i = 0; i < sent.length; i++)
      for (const bit of [1, 16, 128]) {
        const changed = sent.slice();
        changed[i]! ^= bit;
        expect(() => opened(changed, head, "result")).toThrow(InputError);
      }
    for (let n = 0; n < sent.length; n++) expect(() => opened(sent.subarray(0, n), head, "result")).toThrow(/result: /);
    expect(() => opened(envelope({ b: 1 }, body), head, "result")).toThrow(InputError);
    for (const wrong of [NaN, Infinity, -Infinity]) expect(areNumbers(new Float32Array([1, wrong, 2]))).toBe(false);
    expect(areNumbers(new Float32Array([1, -3e38, 1e-40, -0]))).toBe(true);
    expect(() => floatsOf(body, 2, "result")).toThrow("result: 12 bytes of numbers came, and 8 belong to it");
  });
});
