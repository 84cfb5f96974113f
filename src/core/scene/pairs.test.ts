import { describe, expect, it } from "vitest";
import { buildBvh } from "./bvh";
import { BLOCK_INDEX, BLOCK_PARTNER, BLOCK_SIZE, TRIANGLE_BITS, TURN_BIT } from "../layout/layout";
import { pairTriangles } from "./pairs";
import { thicket } from "../../../tests/bench/rays";

const a = [0, 0, 0],
  b = [1, 0, 0],
  c = [1, 1, 0],
  d = [0, 1, 0];

describe("pairs of triangles", () => {
  it.each([
    ["any corner first", [b, c, a], [d, a, c]],
    ["as a quad is cut", [a, b, c], [a, c, d]],
    ["the other way about", [c, a, b], [c, d, a]],
  ])("the halves of a quad become one, %s", (_, one, two) => {
    const positions = new Float32Array([one, two].flat(2));
    const pairs = pairTriangles(positions);
    expect(pairs.count).toBe(1);
    expect([...pairs.triangles]).toEqual([0, 1]);
    const corner = (t: number, k: number): number[] => [
      ...positions.subarray(9 * t + 3 * ((pairs.first[t]! + k) % 3), 9 * t + 3 * ((pairs.first[t]! + k) % 3) + 3),
    ];
    // the first turns a b c, the second a c d
    expect(corner(0, 0)).toEqual(corner(1, 0));
    expect(corner(0, 2)).toEqual(corner(1, 1));
  });

  it("leaves apart what turns the other way, does not touch, or would have a wasteful box", () => {
    const alone = (one: number[][], two: number[][]): number => pairTriangles(new Float32Array([one, two].flat(2))).count;
    expect(alone([a, b, c], [a, d, c])).toBe(2);
    expect(
      alone(
        [a, b, c],
        [a, c, d].map((v) => v.map((x) => x + 0.001)),
      ),
    ).toBe(2);
    // two long blades from one short edge, in opposite directions aslant
    expect(alone([a, [0.01, 0, 0], [5, 5, 5]], [[0.01, 0, 0], a, [-5, 5, -5]])).toBe(2);
  });
});

describe("the tree's memory", () => {
  const positions = thicket(20_000);
  const { nodes, leaves } = buildBvh(positions);
  const words = new Int32Array(leaves);

  it("stays below 48 bytes a triangle, 64 with its attributes", () => {
    expect((nodes.byteLength + leaves.byteLength) / 20_000).toBeLessThan(48);
  });

  it("holds every triangle, whole and with its own corners", () => {
    const f = new Float32Array(leaves);
    const seen = new Set<number>();
    let wrong = 0;
    for (let at = 0; at < words.length; at += BLOCK_SIZE / 4)
      for (let lane = 0; lane < 4; lane++)
        for (const [index, edges] of [
          [BLOCK_INDEX, 12],
          [BLOCK_PARTNER, 24],
        ] as const) {
          const word = words[at + index / 4 + lane]!;
          if (word < 0) continue;
          const triangle = word & TRIANGLE_BITS,
            turn = (word >> TURN_BIT) & 3;
          seen.add(triangle);
          for (let axis = 0; axis < 3; axis++) {
            const from = f[at + 4 * axis + lane]!;
            const corners = [from, from + f[at + edges + 4 * axis + lane]!, from + f[at + edges + 12 + 4 * axis + lane]!];
            corners.forEach((v, k) => {
              if (Math.abs(v - positions[9 * triangle + 3 * ((turn + k) % 3) + axis]!) > 2e-6) wrong++;
            });
          }
        }
    expect(seen.size).toBe(20_000);
    expect(wrong).toBe(0);
  });
});
