import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { across, sunDirection } from "#core/math/vectors";
import { anglesOf, rotationOf } from "#core/math/rotation";
import { goboKnob } from "./gobo-handles";
import { canMove, moved, placeOf, turned } from "./space-handles";

const doc = parseDocument({
  fumarium: 2,
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
const goboed = parseDocument({
  fumarium: 2,
  lights: [
    { kind: "spot", position: [1, 5, 2], target: [3, 0, -1], cone: 50, roll: 15, gobo: { pattern: "bars", rotation: 40, distance: 0.5 } },
    { kind: "rectangle", position: [0, 3, 0], target: [0, 0, 0], size: [1, 1], gobo: { pattern: "leaves", size: 2, rotation: -70 } },
    { kind: "spot", position: [0, 5, 0], target: [0, 0, 0] },
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

  it("of a gobo turn its pattern about the axis and move it along, as the kernel places it", () => {
    for (const index of [0, 1]) {
      const light = goboed.lights[index]!;
      const gobo = "gobo" in light ? light.gobo! : null;
      const rim = placeOf(goboed, { kind: "goboTurn", index })!;
      const same = moved(goboed, { kind: "goboTurn", index }, rim).lights[index];
      expect(same).toMatchObject({ gobo: { rotation: gobo!.rotation } });
      // a quarter on about the axis, from wherever the hand is
      const quarter = goboKnob({ ...light, gobo: { ...gobo!, rotation: gobo!.rotation + 90 } } as typeof light)!.rim;
      const middle = placeOf(goboed, { kind: "gobo", index })!;
      const far = quarter.map((v, k) => v + 2 * (v - middle[k]!));
      expect(moved(goboed, { kind: "goboTurn", index }, index === 0 ? quarter : far).lights[index]).toMatchObject({
        gobo: { rotation: gobo!.rotation + 90 },
      });
      const out = middle.map((v, k) => v + 0.5 * (light as { target: number[] }).target[k]! - 0.5 * light.position[k]!);
      const { distance } = (moved(goboed, { kind: "gobo", index }, out).lights[index] as { gobo: { distance: number } }).gobo;
      expect(distance).toBeCloseTo(gobo!.distance + 0.5 * Math.hypot(...light.position.map((p, k) => p - (light as { target: number[] }).target[k]!)), 2); // prettier-ignore
    }
    expect(placeOf(goboed, { kind: "gobo", index: 2 })).toBeNull();
    expect(moved(goboed, { kind: "goboTurn", index: 2 }, [1, 1, 1])).toEqual(goboed);
    // behind the lamp there is no place for one
    expect(moved(goboed, { kind: "gobo", index: 1 }, [0, 9, 0]).lights[1]).toMatchObject({ gobo: { distance: 0.001 } });
  });

  it("of the sun's gobo turn it about the sun, as the kernel lays it", () => {
    const d = parseDocument({
      fumarium: 2,
      camera: { target: [3, 1, -2] },
      sun: { azimuth: 130, elevation: 35, gobo: { pattern: "blinds", rotation: 20, size: 5 } },
    });
    const rim = placeOf(d, { kind: "sunGobo" })!;
    const [u] = across(sunDirection(130, 35), 20);
    rim.forEach((v, k) => expect(v).toBeCloseTo(d.camera.target[k]! + 2.5 * u[k]!, 9));
    expect(moved(d, { kind: "sunGobo" }, rim).sun.gobo!.rotation).toBe(20);
    const [, up] = across(sunDirection(130, 35), 20);
    expect(
      moved(
        d,
        { kind: "sunGobo" },
        rim.map((v, k) => v + 2.5 * up[k]!),
      ).sun.gobo!.rotation,
    ).toBe(65);
    expect(moved(d, { kind: "sunGobo" }, d.camera.target)).toBe(d);
    expect(placeOf(doc, { kind: "sunGobo" })).toBeNull();
  });

  it("of a region's side pull that side; air without borders has none", () => {
    expect(placeOf(doc, { kind: "side", index: 0, side: 1 })).toEqual([4.5, 0, 0]);
    expect(moved(doc, { kind: "side", index: 0, side: 1 }, [5.5, 7, 7]).air[0]!.region).toMatchObject({
      size: [2, 1, 1],
      centre: [4.5, 0, 0],
    });
    expect(placeOf(doc, { kind: "side", index: 1, side: 0 })).toBeNull();
    expect(placeOf(doc, { kind: "side", index: 7, side: 0 })).toBeNull();
  });
});
