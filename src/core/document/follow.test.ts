import type { V3 } from "../math/vectors";
import { describe, expect, it } from "vitest";
import { placementMatrix } from "../math/affine";
import { withFollowers } from "./follow";
import { parseDocument } from "./parse";
import type { SceneDocument } from "./schema";

const doc = parseDocument({
  fumarium: 2,
  materials: { m: {} },
  objects: [
    { kind: "box", name: "cart", material: "m", position: [1, 2, 3], rotation: [10, -20, 30], size: [1, 1, 1] },
    { kind: "box", name: "post", material: "m", size: [1, 1, 1] },
  ],
  lights: [
    { kind: "spot", name: "lantern", position: [2, 3, 3], target: [4, 0, 3], follows: "cart" },
    { kind: "point", name: "free", position: [0, 9, 0] },
  ],
  air: [
    { name: "smoke", follows: { kind: "object", name: "cart" }, region: { kind: "box", centre: [1, 4, 3], size: [1, 2, 1] } },
    { name: "beam dust", follows: { kind: "light", name: "lantern" }, region: { kind: "cone", centre: [3, 1.5, 3], radius: 1, height: 3 } },
  ],
});
const put = (d: SceneDocument, i: number, change: object): SceneDocument => ({
  ...d,
  objects: d.objects.map((o, k) => (k === i ? { ...o, ...change } : o)),
});
const near = (a: readonly number[], b: readonly number[]): void => a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, 6));
const centre = (d: SceneDocument, i: number): readonly number[] => (d.air[i]!.region as { centre: number[] }).centre;

/** Place of p in the frame of the first object. */
function local(d: SceneDocument, p: readonly number[]): number[] {
  const o = d.objects[0]!;
  const m = placementMatrix(o.position, o.rotation);
  const q = p.map((v, k) => v - o.position[k]!);
  return [0, 1, 2].map((c) => m[c]! * q[0]! + m[4 + c]! * q[1]! + m[8 + c]! * q[2]!);
}

describe("followers", () => {
  it("keep their place in the frame of an object that is moved and turned, and what hangs on them too", () => {
    const after = withFollowers(doc, put(doc, 0, { position: [-4, 1, 8], rotation: [0, 75, -15] }));
    const [a, b] = [doc.lights[0]!, after.lights[0]!];
    if (a.kind !== "spot" || b.kind !== "spot") throw new Error("a spot");
    near(local(after, b.position), local(doc, a.position));
    near(local(after, b.target), local(doc, a.target));
    near(local(after, centre(after, 0)), local(doc, centre(doc, 0)));
    // the dust hangs on the light: its distances to lamp and target stay
    const gap = (d: SceneDocument, p: readonly number[]): number => Math.hypot(...centre(d, 1).map((v, k) => v - p[k]!));
    expect(gap(after, b.position)).toBeCloseTo(gap(doc, a.position), 6);
    expect(gap(after, b.target)).toBeCloseTo(gap(doc, a.target), 6);
    expect(after.lights[1]).toBe(doc.lights[1]);
  });

  it("turn a region with its object", () => {
    const after = withFollowers(doc, put(doc, 0, { rotation: [10, 70, 30] }));
    const r = after.air[0]!.region;
    if (r.kind !== "box") throw new Error("a box");
    // the region's axes in the object's frame are what they were
    const axes = (d: SceneDocument, rotation: V3, k: number): number[] => {
      const m = placementMatrix([0, 0, 0], rotation);
      return local(d, [0, 1, 2].map((row) => m[4 * row + k]! + d.objects[0]!.position[row]!)); // prettier-ignore
    };
    for (const k of [0, 1, 2]) near(axes(after, r.rotation, k), axes(doc, [0, 0, 0], k));
  });

  it("follow names, and let go of what is gone", () => {
    const renamed = withFollowers(doc, put(doc, 0, { name: "wagon" }));
    expect(renamed.lights[0]!.follows).toBe("wagon");
    expect(renamed.air[0]!.follows).toEqual({ kind: "object", name: "wagon" });
    const gone = withFollowers(doc, { ...doc, objects: [doc.objects[1]!], lights: [doc.lights[1]!] });
    expect(gone.air.map((m) => m.follows)).toEqual([null, null]);
    const { fumarium: _, ...rest } = gone;
    expect(() => parseDocument({ fumarium: 2, ...rest })).not.toThrow();
  });

  it("stay where an edit puts themselves, and are moved by nothing else", () => {
    const own = withFollowers(doc, {
      ...doc,
      lights: doc.lights.map((l, i) => (i === 0 ? { ...l, position: [9, 9, 9] as [number, number, number] } : l)),
    });
    near(own.lights[0]!.position, [9, 9, 9]);
    expect(withFollowers(doc, put(doc, 1, { position: [5, 5, 5] })).lights[0]!.position).toEqual(doc.lights[0]!.position);
    expect(() => parseDocument({ ...doc, lights: [{ ...doc.lights[0]!, follows: "nobody" }] })).toThrow(/no object named "nobody"/);
  });
});
