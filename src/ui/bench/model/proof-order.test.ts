import { describe, expect, it } from "vitest";
import type { Proof } from "#api/contract";
import { filtered, inOrder, numbered, placeBefore, placeBeside } from "./proof-order";

const proof = (id: string, createdAt: number, more: Partial<Proof> = {}): Proof => ({
  id, createdAt, place: createdAt, note: "", seconds: 1, samples: 1, noise: null, picture: "", film: "", part: null, laid: false, star: false, bytes: 10, ...more,
}); // prettier-ignore
const proofs = [
  proof("a", 1, { note: "thin haze" }),
  proof("b", 2, { star: true, note: "Thick haze" }),
  proof("c", 3),
  proof("d", 4, { star: true }),
];
const moved = (id: string, place: number | null): string =>
  inOrder(proofs.map((p) => (p.id === id && place !== null ? { ...p, place } : p)))
    .map((p) => p.id)
    .join("");

describe("proofs on the strip", () => {
  it("keep their number wherever they are moved", () => {
    const order = numbered(proofs.map((p) => (p.id === "d" ? { ...p, place: 0 } : p)));
    expect(order.map((p) => `${p.id}${p.number}`)).toEqual(["d4", "a1", "b2", "c3"]);
  });

  it("are found by words of their notes, by number, by star", () => {
    const of = (text: string, starred = false) => filtered(numbered(proofs), { text, starred }).map((p) => p.id);
    expect(of("")).toEqual(["a", "b", "c", "d"]);
    expect(of("haze thick")).toEqual(["b"]);
    expect(of("3")).toEqual(["c"]);
    expect(of("haze", true)).toEqual(["b"]);
    expect(of("nothing")).toEqual([]);
  });

  it("are moved before any other, to the end, and by one", () => {
    expect(moved("d", placeBefore(proofs, "d", "a"))).toBe("dabc");
    expect(moved("a", placeBefore(proofs, "a", null))).toBe("bcda");
    expect(moved("a", placeBefore(proofs, "a", "d"))).toBe("bcad");
    expect(placeBefore(proofs, "b", "c")).toBeNull();
    expect(moved("b", placeBeside(proofs, "b", -1))).toBe("bacd");
    expect(moved("c", placeBeside(proofs, "c", 1))).toBe("abdc");
    expect(placeBeside(proofs, "a", -1)).toBeNull();
    expect(placeBeside(proofs, "d", 1)).toBeNull();
    // again and again between the same two: there is always room
    let p = proofs;
    for (let i = 0; i < 20; i++) {
      const [, second, third] = inOrder(p);
      p = p.map((q) => (q.id === third!.id ? { ...q, place: placeBefore(p, third!.id, second!.id)! } : q));
    }
    expect(new Set(p.map((q) => q.place)).size).toBe(4);
  });
});
