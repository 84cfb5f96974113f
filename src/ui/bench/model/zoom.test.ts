import { describe, expect, it } from "vitest";
import { fitBox, gridOf, inSight, keptInside, pixelsOf, pixelZoom, zoomedAbout, zoomedBox } from "./zoom";

const place = [800, 400] as const;
const film = [1920, 1080] as const;
const fit = fitBox(film, place, 24);

describe("a zoomed picture", () => {
  it("fits its place and keeps its shape", () => {
    expect(fit).toEqual([668, 376]);
    expect(zoomedBox(fit, place, null)).toEqual({ left: 66, top: 12, width: 668, height: 376 });
  });

  it("keeps what is under the pointer where it is, until the border would come into sight", () => {
    const at = { x: 0.4, y: 0.55 };
    const onScreen = (zoom: ReturnType<typeof zoomedAbout>): [number, number] => {
      const b = zoomedBox(fit, place, zoom);
      return [b.left + at.x * b.width, b.top + at.y * b.height];
    };
    const twice = zoomedAbout(null, 2, at, fit, place);
    expect(twice!.scale).toBe(2);
    const [before, after] = [onScreen(null), onScreen(twice)];
    expect(after[0]).toBeCloseTo(before[0], 6);
    expect(after[1]).toBeCloseTo(before[1], 6);
    // at a corner the picture's border ends at that of its place
    const corner = zoomedBox(fit, place, zoomedAbout(null, 3, { x: 0, y: 0 }, fit, place));
    expect(corner.left).toBeCloseTo(0, 6);
    expect(corner.top).toBeCloseTo(0, 6);
    expect(zoomedAbout(twice, 0.25, at, fit, place)).toBeNull();
  });

  it("moves no further than it must to show a place", () => {
    const zoom = { scale: 4, x: 0.5, y: 0.5 };
    expect(inSight(zoom, { x: 0.52, y: 0.5 }, fit, place)).toEqual(zoom);
    const moved = inSight(zoom, { x: 0.9, y: 0.5 }, fit, place)!;
    const b = zoomedBox(fit, place, moved);
    expect(b.left + 0.9 * b.width).toBeLessThan(800);
    expect(moved.y).toBe(0.5);
    expect(keptInside({ scale: 1.001, x: 0, y: 0 }, fit, place)).toBeNull();
  });

  it("is rendered whole in the pixels of its place, coarser or finer as asked", () => {
    const of = (fineness: number) => pixelsOf(film, fit, place, { zoom: { scale: 3, x: 0.5, y: 0.5 }, seenOnly: false, fineness });
    expect(of(1)).toEqual({ width: 668, height: 376, frame: null });
    expect(of(0.5)).toEqual({ width: 334, height: 188, frame: null });
    expect(of(2)).toEqual({ width: 1336, height: 752, frame: null });
    expect(pixelsOf([3000, 3000], [2400, 2400], [2500, 2500], { zoom: null, seenOnly: true, fineness: 1 }).width).toBe(1600);
  });

  it("is rendered where it is seen as fine as it is drawn, but no finer than it will be in the end", () => {
    const seen = (scale: number) => pixelsOf(film, fit, place, { zoom: { scale, x: 0.5, y: 0.5 }, seenOnly: true, fineness: 1 });
    // twice as large: the frame has twice the pixels, of which those in sight are rendered
    expect(seen(2)).toEqual({ width: 800, height: 400, frame: { x: 268, y: 176, width: 1336, height: 752 } });
    const most = seen(20);
    expect(most.frame!.width).toBe(1920);
    expect(most.width).toBeLessThanOrEqual(Math.ceil((800 / (20 * 668)) * 1920) + 1);
    expect(most.frame!.x + most.width / 2).toBeCloseTo(960, -1);
    // a frame that is smaller than its place is not rendered finer
    expect(pixelsOf([320, 180], fit, place, { zoom: { scale: 2, x: 0.5, y: 0.5 }, seenOnly: true, fineness: 1 }).frame).toBeNull();
  });

  it("has a pixel of the frame on each of the screen at 1:1", () => {
    const zoom = pixelZoom(film, { x: 0.5, y: 0.5 }, fit, place);
    expect(zoomedBox(fit, place, zoom).width).toBeCloseTo(1920, 6);
    expect(pixelsOf(film, fit, place, { zoom, seenOnly: true, fineness: 1 }).frame!.width).toBe(1920);
    expect(pixelZoom([600, 338], { x: 0.5, y: 0.5 }, fit, place)).toBeNull();
  });

  it("stands beside others so that all are largest", () => {
    expect(gridOf(1, film, place)).toEqual([1, 1]);
    expect(gridOf(2, film, place)).toEqual([2, 1]);
    expect(gridOf(2, film, [400, 800])).toEqual([1, 2]);
    expect(gridOf(4, film, place)).toEqual([2, 2]);
  });
});
