import { map3, type V3 } from "../math/vectors";
import { describe, expect, it } from "vitest";
import { mediumSchema, regionSchema, type Region } from "../document/air";
import { middleOf, regionSides, withMiddleAt, withSideAt } from "./sides";

const region = (r: unknown): Region => regionSchema.parse(r);
const along = (a: V3, s: number, d: V3): V3 => map3(a, (v, k) => v + s * d[k]);

describe("sides of a region", () => {
  const turned = { centre: [1, 2, 3], rotation: [20, 30, 40] };
  const all: Region[] = [
    region({ kind: "box", ...turned, size: [2, 4, 6] }),
    region({ kind: "cylinder", ...turned, radius: 2, height: 5 }),
    region({ kind: "cone", ...turned, radius: 2, height: 5 }),
    region({ kind: "sphere", centre: [1, 2, 3], radius: 2 }),
    region({ kind: "layer", level: 3, up: [0, 2, 1] }),
  ];

  it("lie on the border, and follow the hand along their direction alone", () => {
    for (const r of all)
      regionSides(r, [5, 6, 7]).forEach((side, i) => {
        expect(Math.hypot(...side.direction)).toBeCloseTo(1, 6);
        // any across the direction changes nothing
        const d = side.direction;
        const aside: V3 = [d[1] - d[2], d[2] - d[0], d[0] - d[1]];
        const next = withSideAt(r, i, along(along(side.at, 0.5, d), 3, aside), [5, 6, 7]);
        const now = regionSides(next, [5, 6, 7])[i]!;
        now.at.forEach((v, k) => expect(v).toBeCloseTo(side.at[k]! + 0.5 * d[k]!, 3));
      });
  });

  it("across from the one pulled stay, but for those of round regions", () => {
    const [box, cylinder] = [all[0]!, all[1]!];
    const before = regionSides(box);
    const after = regionSides(withSideAt(box, 1, along(before[1]!.at, 1.5, before[1]!.direction)));
    after[0]!.at.forEach((v, k) => expect(v).toBeCloseTo(before[0]!.at[k]!, 4));
    const top = regionSides(cylinder);
    const higher = regionSides(withSideAt(cylinder, 3, along(top[3]!.at, 2, top[3]!.direction)));
    higher[2]!.at.forEach((v, k) => expect(v).toBeCloseTo(top[2]!.at[k]!, 4));
  });

  it("cannot be pulled through each other; air without borders has none", () => {
    const box = all[0]!;
    const side = regionSides(box)[3]!;
    const squeezed = withSideAt(box, 3, along(side.at, -50, side.direction));
    expect(squeezed).toMatchObject({ kind: "box", size: [2, 0.01, 6] });
    expect(regionSides(region({ kind: "everywhere" }))).toEqual([]);
    expect(regionSides(region({ kind: "mesh", object: "a" }))).toEqual([]);
    expect(withSideAt(box, 9, [0, 0, 0])).toBe(box);
  });

  it("a medium is moved by its middle, one of a file by the file's origin", () => {
    const medium = (more: object) => mediumSchema.parse(more);
    const box = medium({ region: { kind: "box", centre: [1, 2, 3], size: [1, 1, 1] }, grid: { asset: "a", position: [9, 9, 9] } });
    expect(middleOf(box)).toEqual([1, 2, 3]);
    expect(withMiddleAt(box, [4, 5, 6])).toMatchObject({ region: { centre: [4, 5, 6] }, grid: { position: [9, 9, 9] } });
    const puff = medium({ grid: { asset: "a", position: [7, 8, 9] } });
    expect(middleOf(puff)).toEqual([7, 8, 9]);
    expect(withMiddleAt(puff, [4, 5, 6]).grid!.position).toEqual([4, 5, 6]);
    const haze = medium({});
    expect(middleOf(haze)).toBeNull();
    expect(withMiddleAt(haze, [1, 1, 1])).toBe(haze);
  });
});
