import { along } from "../math/vectors";
import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { render, type PartialDocument } from "../../../tests/support/kernel";
import { acrossFrame, alongAxis, pickPoint, projectPoint, rayOf, reachOf } from "./pick";

const scene = (camera: PartialDocument["camera"]): PartialDocument => ({
  materials: { m: {} },
  objects: [
    { kind: "rectangle", material: "m", size: [400, 400] },
    { kind: "sphere", material: "m", position: [1, 2, -3], radius: 1 },
  ],
  camera,
  film: { size: [96, 54] },
});

describe("places in the frame", () => {
  it.each([
    ["perspective", { position: [2, 3, 9], target: [0, 1, -2], roll: 12, fieldOfView: 50 }],
    ["orthographic", { kind: "orthographic", position: [2, 3, 9], target: [0, 1, -2], roll: 12, height: 12 }],
  ] as [string, PartialDocument["camera"]][])("are rays and points back and forth, %s", (_, camera) => {
    const doc = parseDocument({ fumarium: 2, ...scene(camera) });
    for (const [x, y] of [[0.5, 0.5], [0.1, 0.8], [0.97, 0.03]] as const) {
      const { origin, direction } = rayOf(doc, x, y);
      expect(Math.hypot(...direction)).toBeCloseTo(1, 10);
      const p = projectPoint(doc, along(origin, direction, 7));
      expect(p!.x).toBeCloseTo(x, 9);
      expect(p!.y).toBeCloseTo(y, 9);
    }
  }); // prettier-ignore

  it("move points along an axis and across the frame to where the pointer is", () => {
    const doc = parseDocument({ fumarium: 2, ...scene({ position: [2, 3, 9], target: [0, 1, -2], roll: 12, fieldOfView: 50 }) });
    const [at, axis] = [[1, 2, -3], [0.6, 0.8, 0]] as const; // prettier-ignore
    const to = projectPoint(doc, [1 + 0.6 * 1.7, 2 + 0.8 * 1.7, -3])!;
    expect(alongAxis(doc, to.x, to.y, at, axis)).toBeCloseTo(1.7, 8);
    // straight away from the lens a place of the frame tells nothing
    const { direction } = rayOf(doc, to.x, to.y);
    expect(alongAxis(doc, to.x, to.y, at, direction)).toBeNull();
    const across = acrossFrame(doc, 0.3, 0.6, at)!;
    const seen = projectPoint(doc, across)!;
    expect([seen.x, seen.y]).toEqual([expect.closeTo(0.3, 9), expect.closeTo(0.6, 9)]);
    expect(seen.depth).toBeCloseTo(projectPoint(doc, at)!.depth, 9);
    expect(acrossFrame(doc, 0.3, 0.6, [4, 5, 20])).toBeNull();
  });

  it("are points on what is seen there, and background where nothing is", async () => {
    const input = scene({ position: [2, 3, 9], target: [0, 2, -2], fieldOfView: 50 });
    const doc = parseDocument({ fumarium: 2, ...input });
    const film = await render(input, 16);
    const at = projectPoint(doc, [1, 2, -3])!;
    const ball = pickPoint(doc, film, at.x, at.y)!;
    expect(Math.hypot(ball.point![0] - 1, ball.point![1] - 2, ball.point![2] + 3)).toBeCloseTo(1, 1);
    const ground = pickPoint(doc, film, 0.1, 0.95)!;
    expect(Math.abs(ground.point![1])).toBeLessThan(0.05);
    expect(ground.distance).toBeCloseTo(Math.hypot(...ground.point!.map((v, k) => v - doc.camera.position[k]!)), 6);
    expect(pickPoint(doc, film, 0.5, 0.02)).toEqual({ distance: Infinity, point: null });
    const { subject, farthest, median } = reachOf(film);
    expect(median!).toBeGreaterThan(1);
    expect(median!).toBeLessThan(farthest!);
    expect(subject).toBeGreaterThan(9);
    expect(farthest).toBeGreaterThan(100);
    film.data.fill(0);
    expect(pickPoint(doc, film, 0.5, 0.5)).toBeNull();
    expect(reachOf(film)).toEqual({ subject: null, farthest: null, median: null });
  });
});
