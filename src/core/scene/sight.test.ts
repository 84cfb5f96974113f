import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { emptyFilm } from "../film/film";
import { F_COUNT, F_DISTANCE, F_HITS, F_NORMAL } from "../layout/layout";
import { projectPoint } from "./pick";
import { lampPlace, regionBox, shapePlace, sightOf, type Sight } from "./sight";

// a lens 2 m above the ground that looks level along -z, 90° high
const doc = parseDocument({ fumarium: 2, camera: { position: [0, 2, 0], target: [0, 2, -5], fieldOfView: 90 }, film: { size: [64, 64] } });
const unknown = { room: null, bounds: null };
const HIGH = 64;

/** What the lens films of ground at y = 0 and a wall at z = -8, without a kernel. */
function wallAndGround() {
  const film = emptyFilm(HIGH, HIGH);
  for (let j = 0; j < HIGH; j++)
    for (let i = 0; i < HIGH; i++) {
      const [x, y] = [(2 * (i + 0.5)) / HIGH - 1, 1 - (2 * (j + 0.5)) / HIGH];
      const length = Math.hypot(x, y, 1);
      const [wall, ground] = [8 * length, y < 0 ? (2 / -y) * length : Infinity];
      const at = (j * HIGH + i) * film.stride;
      film.data[at + F_COUNT] = film.data[at + F_HITS] = 1;
      film.data[at + F_DISTANCE] = Math.min(wall, ground);
      film.data[at + F_NORMAL + (ground < wall ? 1 : 2)] = 1;
    }
  return film;
}

describe("what is looked at", () => {
  it("is the surface in the middle, and the ground below it", () => {
    const { middle, ground } = sightOf(doc, wallAndGround(), unknown);
    expect(middle![2]).toBeCloseTo(-8, 0);
    expect(middle![1]).toBeCloseTo(2, 0);
    expect(ground![1]).toBeCloseTo(0, 0);
    // the ground next to the wall's foot
    expect(ground![2]).toBeGreaterThan(-8.2);
    expect(ground![2]).toBeLessThan(-5);
  });

  it("is nothing before anything is rendered, and in the sky", () => {
    expect(sightOf(doc, null, unknown)).toMatchObject({ middle: null, ground: null });
    expect(sightOf(doc, emptyFilm(8, 8), unknown)).toMatchObject({ middle: null, ground: null });
  });
});

const sights: [string, Sight][] = [
  ["a wall", { ...sightOf(doc, wallAndGround(), unknown) }],
  ["nothing", { middle: null, ground: null, ...unknown }],
  ["a room", { ...sightOf(doc, wallAndGround(), { room: [-3, 0, -8, 3, 4, 1], bounds: [-3, 0, -8, 3, 4, 1] }) }],
];

describe("new things", () => {
  it.each(sights)("lamps before %s are in the upper half of the frame, before what is looked at", (_, sight) => {
    const { position, target, reach } = lampPlace(doc, sight);
    const seen = projectPoint(doc, position)!;
    expect(seen.x).toBeCloseTo(0.5, 1);
    expect(seen.y).toBeGreaterThan(0);
    expect(seen.y).toBeLessThan(0.5);
    expect(seen.depth).toBeLessThan(reach);
    expect(target[2]).toBeLessThan(position[2]);
  });

  it("lamps hang below the ceiling, clear of the walls, even where the lens looks at the ceiling", () => {
    const room = [-3, 0, -8, 3, 4, 1] as const;
    const up = parseDocument({ fumarium: 2, camera: { position: [2.9, 2, 0], target: [2.9, 4, -1] } });
    const { position } = lampPlace(up, { middle: [2.9, 4, -1], ground: null, room, bounds: null });
    expect(position[1]).toBeLessThan(3.6);
    expect(position[0]).toBeLessThan(2.4);
  });

  it("lamps hang above the ground of a set that is flat, whose bounds have no height", () => {
    const flat = [-20, 0, -20, 20, 0, 20] as const;
    const down = parseDocument({ fumarium: 2, camera: { position: [0, 2, 9], target: [0, 0, 0] } });
    for (const ground of [[0, 0, 0] as [number, number, number], null]) {
      const { position } = lampPlace(down, { middle: ground, ground, room: null, bounds: flat });
      expect(position[1]).toBeGreaterThan(0.5);
    }
  });

  it("are as exact far from the origin as near it", () => {
    const far = parseDocument({ fumarium: 2, camera: { position: [54321, 3002, 9], target: [54321, 3000, 0] } });
    const ground: [number, number, number] = [54321.375, 3000.125, 0.5];
    expect(shapePlace(far, { middle: ground, ground, room: null, bounds: null }).at).toEqual([54321.375, 3000.125, 0.5]);
    expect(lampPlace(far, { middle: ground, ground, room: null, bounds: null }).target).toEqual([54321.375, 3000.125, 0.5]);
  });

  it("shapes stand on the ground in sight, of a size that is seen whole, and fit into the room", () => {
    const wall = shapePlace(doc, sights[0]![1]);
    expect(wall.at[1]).toBeCloseTo(0, 0);
    const top = projectPoint(doc, [wall.at[0], wall.at[1] + wall.size, wall.at[2]])!;
    expect(top.y).toBeGreaterThan(0);
    expect(shapePlace(doc, sights[2]![1]).size).toBeLessThanOrEqual(0.4 * 4);
    // without any ground in sight, on the floor of the set
    expect(shapePlace(doc, { middle: null, ground: null, room: null, bounds: [-9, -1, -9, 9, 5, 9] }).at[1]).toBe(-1);
  });

  it("regions fill the room, and in the open stand on the ground and reach from the lens to what is looked at", () => {
    expect(regionBox(doc, sights[2]![1])).toEqual([-3, 0, -8, 3, 4, 1]);
    const box = regionBox(doc, sights[0]![1]);
    expect(box[1]).toBeCloseTo(0, 0);
    expect(box[4]).toBeGreaterThan(2);
    expect(box[2]).toBeCloseTo(-8, 0);
    expect(box[5]).toBeCloseTo(0, 0);
    expect(box[0]).toBeLessThan(-3);
  });
});
