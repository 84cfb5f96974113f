import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { Interior } from "#core/section/interior";
import { nextStep, stoodInside } from "./next-step";
import type { RoomsState } from "./rooms";

const doc = (more: object = {}) => parseDocument({ fumarium: 2, ...more });
const box = { kind: "box", material: "m", size: [1, 1, 1] };
const set = { materials: { m: {} }, objects: [box] };
const room: Interior = { box: [0, 0, 0, 8, 3, 5], opening: { at: [8, 1.5, 2], out: [1, 0, 0] }, places: [[4, 1, 2]] };
const stand = { position: [0.50004, 1.6, 2.5] as [number, number, number], target: [8, 1.55, 2] as [number, number, number] };
const open: RoomsState = { known: true, lens: null, other: null, sunlit: null };
const idOf = (...a: Parameters<typeof nextStep>) => nextStep(...a)?.id ?? null;

describe("what comes next", () => {
  it("leads from an empty scene to a set, into its room, to light, and to air; then says nothing more", () => {
    expect(idOf(doc(), { ...open, known: false }, [])).toBe("set");
    const outside: RoomsState = { ...open, other: { room, stand } };
    expect(idOf(doc(set), outside, [])).toBe("inside");
    expect(idOf(doc({ ...set, sun: { on: false }, sky: { on: false } }), open, [])).toBe("light");
    const inside: RoomsState = { ...open, lens: room, sunlit: 0 };
    expect(idOf(doc(set), inside, [])).toBe("shine");
    expect(idOf(doc(set), { ...inside, sunlit: 0.03 }, [])).toBe("air");
    expect(idOf(doc({ ...set, air: [{}] }), { ...inside, sunlit: 0.03 }, [])).toBeNull();
  });

  it("mends what blackens the picture, after sun and before air; other findings are the sheet's", () => {
    const apply = (d: ReturnType<typeof doc>) => ({ ...d, film: { ...d.film, exposure: 3 } });
    const dark = { id: "dark", says: "The picture is dark.", remedies: [{ words: "expose it", apply }] };
    const step = nextStep(doc(set), open, [], [{ ...dark, id: "noise" }, dark])!;
    expect(step).toMatchObject({ id: "mend", says: "The picture is dark.", does: "Expose it" });
    expect(step.apply!(doc(set)).film.exposure).toBe(3);
    expect(idOf(doc(set), { ...open, lens: room, sunlit: 0 }, [], [dark])).toBe("shine");
    expect(idOf(doc(), open, [], [dark])).toBe("set");
    expect(idOf(doc(set), open, [], [{ ...dark, remedies: [] }])).toBe("air");
  });

  it("takes no for an answer, and does not call dark what glows", () => {
    expect(idOf(doc(set), { ...open, other: { room, stand } }, ["inside"])).toBe("air");
    expect(idOf(doc(set), { ...open, other: { room, stand } }, ["inside", "air"])).toBeNull();
    const dark = { sun: { on: false }, sky: { on: false } };
    expect(idOf(doc({ ...set, ...dark, materials: { m: { emission: [1, 0, 0] } } }), open, [])).toBe("air");
    expect(idOf(doc({ ...set, ...dark, lights: [{ kind: "point", position: [0, 1, 0] }] }), open, [])).toBe("air");
    expect(idOf(doc({ ...set, ...dark, lights: [{ kind: "point", position: [0, 1, 0], on: false }] }), open, [])).toBe("light");
    // a room without an opening has none to shine through
    expect(idOf(doc(set), { ...open, lens: { ...room, opening: null }, sunlit: 0 }, [])).toBe("air");
  });

  it("stands a lens in the room, and what it makes can be stored", () => {
    const inside = stoodInside(doc({ ...set, camera: { kind: "orthographic" } }), stand);
    expect(inside.camera).toMatchObject({ kind: "perspective", position: [0.5, 1.6, 2.5], target: [8, 1.55, 2] });
    expect(inside.camera.focus).toBeCloseTo(7.517, 2);
    expect(() => parseDocument(JSON.parse(JSON.stringify(inside)))).not.toThrow();
  });
});
