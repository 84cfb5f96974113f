import { describe, expect, it } from "vitest";
import { checkClosed, openEdges } from "./closed";

/** A tetrahedron, faces outwards. */
const [a, b, c, d] = [[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]] as const; // prettier-ignore
const faces = [[a, c, b], [a, b, d], [a, d, c], [b, c, d]]; // prettier-ignore
const mesh = (of: typeof faces): Float32Array => new Float32Array(of.flat(2));

describe("whether a surface is closed", () => {
  it("a closed one has no open edges, and one without a face has that face's three", () => {
    expect(openEdges(mesh(faces))).toEqual([]);
    expect(() => checkClosed(mesh(faces), "it")).not.toThrow();
    const edges = openEdges(mesh(faces.slice(0, 3)));
    const found = Array.from({ length: edges.length / 6 }, (_, i) => [edges.slice(6 * i, 6 * i + 3), edges.slice(6 * i + 3, 6 * i + 6)].map(String).sort().join(" to ")); // prettier-ignore
    expect(found.sort()).toEqual([[b, c], [c, d], [b, d]].map((e) => e.map(String).sort().join(" to ")).sort()); // prettier-ignore
    expect(() => checkClosed(mesh(faces.slice(0, 3)), "it")).toThrow(/it: its surface is open at 3 edges \(the first near .* m\)/);
  });

  it("a face turned the wrong way is open all round", () => {
    const turned = [[a, b, c], ...faces.slice(1)];
    expect(openEdges(mesh(turned)).length / 6).toBe(3);
  });

  it("nothing bounds nothing", () => {
    expect(openEdges(new Float32Array(0))).toEqual([]);
    expect(() => checkClosed(new Float32Array(0), "it")).toThrow(/no triangles/);
  });
});
