import { describe, expect, it } from "vitest";
import { memoizeByObject, memoize } from "./memoize";

describe("what is kept", () => {
  it("is made once a key, and the oldest goes", () => {
    const keep = memoize<number>(2);
    let made = 0;
    const get = (key: string): number => keep(key, () => ++made);
    expect([get("a"), get("b"), get("a")]).toEqual([1, 2, 1]);
    expect(get("c")).toBe(3);
    expect([get("b"), get("a")]).toEqual([2, 4]);
  });
  it("is made once an object", () => {
    let made = 0;
    const of = memoizeByObject((_: object) => ++made);
    const a = {};
    expect([of(a), of({}), of(a)]).toEqual([1, 2, 1]);
  });
});
