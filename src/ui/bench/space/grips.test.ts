import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { anglesOf, rotationOf } from "#core/scene/turns";
import { canMove, moved, placeOf, turned } from "./grips";

const doc = parseDocument({
  fumarium: 1,
  materials: { m: {} },
  objects: [
    { kind: "box", material: "m", size: [1, 1, 1], position: [1, 2, 3] },
    { kind: "box", material: "m", size: [1, 1, 1], locked: true },
  ],
  lights: [{ kind: "spot", position: [0, 5, 0], target: [0, 0, 0] }],
  air: [
    { density: 1, region: { kind: "box", centre: [4, 0, 0], size: [1, 1, 1] } },
    { name: "all", density: 1 },
  ],
});

describe("grips", () => {
  it("turn angles to a matrix and back", () => {
    for (const angles of [[10, 20, 30], [-80, 45, 170], [0, 89, -20], [179, -60, 5]] as const)
      anglesOf(rotationOf(angles)).forEach((a, k) => expect(a).toBeCloseTo(angles[k]!, 6));
    // straight up there are many angles of one rotation: the same rotation comes back
    rotationOf(anglesOf(rotationOf([30, 90, 0]))).forEach((v, k) => expect(v).toBeCloseTo(rotationOf([30, 90, 0])[k]!, 5));
  }); // prettier-ignore

  it("move what they hold, and nothing that is locked or would lose its direction", () => {
    expect(moved(doc, { kind: "object", index: 0 }, [7, 8, 9]).objects[0]!.position).toEqual([7, 8, 9]);
    expect(moved(doc, { kind: "object", index: 1 }, [7, 8, 9])).toBe(doc);
    expect(canMove(doc, { kind: "object", index: 1 })).toBe(false);
    expect(moved(doc, { kind: "light", index: 0 }, [0, 0, 0]).lights[0]!.position).toEqual([0, 5, 0]);
    expect(moved(doc, { kind: "target", index: 0 }, [1, 0, 0]).lights[0]).toMatchObject({ target: [1, 0, 0] });
    expect(moved(doc, { kind: "lens" }, doc.camera.target)).toBe(doc);
    expect(moved(doc, { kind: "medium", index: 0 }, [0, 1, 0]).air[0]!.region).toMatchObject({ centre: [0, 1, 0] });
    expect(placeOf(doc, { kind: "medium", index: 1 })).toBeNull();
    expect(moved(doc, { kind: "aim" }, [NaN, 0, 0])).toBe(doc);
    expect(turned(doc, { kind: "object", index: 0 }, [0, 90, 1e-9]).objects[0]!.rotation).toEqual([0, 90, 0]);
  });
});
