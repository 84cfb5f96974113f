/** The drawings of space: handles, looking through lights, from above. WebGL runs in software here: tests wait on states. */
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { type Application, eachOnItsPage, finished, openBench, openBrowser, openPage, putProject, saved, stored } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]), ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]);

const scene = {
  fumarium: 2,
  title: "A yard",
  materials: { m: { baseColor: [0.6, 0.6, 0.6] } },
  objects: [
    { kind: "rectangle", material: "m", size: [30, 30], name: "yard", locked: true },
    { kind: "box", material: "m", size: [4, 4, 4], position: [0, 2, 0], name: "block" },
  ],
  lights: [{ kind: "spot", name: "beam", position: [-6, 8, 6], target: [0, 0, 0], intensity: 5000 }],
  camera: { position: [0, 4, 16], target: [0, 2, 0], fieldOfView: 40 },
  air: [{ name: "mist", density: 0.05, region: { kind: "box", centre: [0, 4, -8], size: [6, 6, 6] } }],
  render: { samples: 4, surfaceBounces: 0, airSamples: 1 },
  film: { size: [640, 160], exposure: 8 },
};
interface Stored {
  lights: { position: number[]; target: number[] }[];
  objects: { position: number[]; rotation: number[] }[];
  camera: { position: number[]; target: number[] };
}
const kept = async (id: string): Promise<Stored> => {
  await saved(page);
  return (await stored(app, id)).document as unknown as Stored;
};
const canvas = () => page.locator("[data-testid=space] canvas");
const shown = () => page.waitForFunction(() => Number(document.querySelector<HTMLElement>("[data-testid=space] canvas")?.dataset.set) > 0);
/** Where the present grip is on the screen. */
const grip = async (): Promise<[number, number]> => {
  const at = await page.waitForFunction(() => {
    const c = document.querySelector<HTMLElement>("[data-testid=space] canvas");
    return c?.dataset.grip ? c.dataset.grip.split(" ").map(Number) : null;
  });
  const [x, y] = (await at.jsonValue()) as [number, number];
  const box = (await canvas().boundingBox())!;
  return [box.x + x, box.y + y];
};
async function drag(from: [number, number], by: [number, number]): Promise<void> {
  await page.mouse.move(...from);
  // the handle lights up under the pointer before it can be taken
  await page.mouse.move(from[0] + 1, from[1]);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(from[0] + (by[0] * i) / 6, from[1] + (by[1] * i) / 6);
  await page.mouse.up();
}

describe("space", () => {
  it("a light is moved by its handles from above, as one step; the picture follows", async () => {
    const id = await putProject(app, scene);
    await openBench(page, app, id);
    await page.keyboard.press("2");
    await page.keyboard.press("Shift+X");
    await shown();
    await page.getByRole("list", { name: "Lights" }).getByRole("button", { name: /^beam/ }).first().click();
    const [x, y] = await grip();
    await drag([x + 24, y], [60, 0]);
    await finished(page);
    let doc = await kept(id);
    expect(doc.lights[0]!.position[0]).toBeGreaterThan(-5.5);
    expect(doc.lights[0]!.position.slice(1)).toEqual([8, 6]);
    await page.keyboard.press("Control+z");
    await finished(page);
    doc = await kept(id);
    expect(doc.lights[0]!.position).toEqual([-6, 8, 6]);
  });

  it("a click takes hold of an object, handles move it once let go; what is locked stays", async () => {
    const id = await putProject(app, scene);
    await openBench(page, app, id);
    await page.keyboard.press("Shift+X");
    await shown();
    const box = (await canvas().boundingBox())!;
    // the block is in the middle of the yard, which is in the middle of the drawing; its middle holds the lens's aim
    const middle: [number, number] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.click(middle[0] + 9, middle[1] + 9);
    await page.getByRole("group", { name: "block" }).waitFor();
    const [x, y] = await grip();
    await drag([x + 24, y], [40, 0]);
    await finished(page);
    let doc = await kept(id);
    expect(doc.objects[1]!.position[0]).toBeGreaterThan(0.5);
    expect(doc.objects[1]!.position.slice(1)).toEqual([2, 0]);
    // the ground is locked: a click on it lets go
    await page.mouse.click(middle[0], box.y + box.height - 30);
    await page.getByRole("group", { name: "block" }).waitFor({ state: "detached" });
    doc = await kept(id);
    expect(doc.objects[0]!.position).toEqual([0, 0, 0]);
  });

  it("looks through a light and moves it from there; measures between points", async () => {
    const id = await putProject(app, scene);
    await openBench(page, app, id);
    await page.keyboard.press("x");
    await shown();
    await page.getByLabel("Look through").selectOption({ label: "through beam" });
    const box = (await canvas().boundingBox())!;
    await drag([box.x + box.width * 0.3, box.y + box.height * 0.3], [70, 20]);
    await finished(page);
    const doc = await kept(id);
    const distance = (p: number[], q: number[]): number => Math.hypot(...p.map((v, k) => v - q[k]!));
    expect(distance(doc.lights[0]!.position, [-6, 8, 6])).toBeGreaterThan(0.3);
    // turned about its aim: as far from it as before
    expect(distance(doc.lights[0]!.position, doc.lights[0]!.target)).toBeCloseTo(Math.hypot(6, 8, 6), 2);
    expect(doc.lights[0]!.target.map((v) => Math.round(v * 1e3) / 1e3 + 0)).toEqual([0, 0, 0]);
    // at rest all of a small set is drawn
    await page.waitForFunction(() => {
      const { set, triangles } = document.querySelector<HTMLElement>("[data-testid=space] canvas")!.dataset;
      return Number(triangles) >= Number(set) && Number(set) > 0;
    });
    await page.getByLabel("Look through").selectOption("free");
    await page.getByRole("button", { name: "Measure" }).last().click();
    await page.mouse.click(box.x + box.width / 2 - 60, box.y + box.height / 2 + 40);
    await page.mouse.click(box.x + box.width / 2 + 60, box.y + box.height / 2 + 40);
    await page.getByRole("spinbutton", { name: "Actual length" }).waitFor();
    const length = Number(await page.getByRole("spinbutton", { name: "Actual length" }).getAttribute("aria-valuenow"));
    expect(length).toBeGreaterThan(0.5);
    expect(length).toBeLessThan(30);
  });

  it("a gobo is turned by its knob, a region's side is pulled", async () => {
    const id = await putProject(app, {
      ...scene,
      lights: [{ ...scene.lights[0]!, position: [0, 9, 0.01], cone: 100, gobo: { pattern: "bars", distance: 0.5 } }],
      air: [{ name: "mist", density: 0.05, region: { kind: "box", centre: [6, 4, -8], size: [16, 6, 6] } }],
    });
    await openBench(page, app, id);
    await page.keyboard.press("Shift+X");
    await shown();
    const box = (await canvas().boundingBox())!;
    // from above, the lamp and its gobo lie over its target; the medium's middle is 6 m aside
    await page.keyboard.press("3");
    await page.getByRole("radio", { name: "mist", exact: true }).click();
    const [mx] = await grip();
    await page.keyboard.press("2");
    await page.getByRole("list", { name: "Lights" }).getByRole("button", { name: /^beam/ }).first().click();
    await page.waitForFunction(
      (was) => document.querySelector<HTMLElement>("[data-testid=space] canvas")?.dataset.grip !== was,
      `${mx - box.x}`,
    );
    const [cx, cy] = await grip();
    const m = (mx - cx) / 6;
    expect(m).toBeGreaterThan(3);
    const rim = 9 * Math.tan((50 * Math.PI) / 180) * m;
    // turned by 0° the pattern's right is level: along x, one way or the other
    for (const sign of [1, -1]) {
      await page.mouse.click(cx + sign * rim, cy);
      const [x] = await grip();
      if (Math.abs(x - cx) > rim / 2) break;
    }
    const [kx, ky] = await grip();
    expect(Math.abs(kx - cx)).toBeGreaterThan(rim * 0.8);
    // along the arrow that points up in the plan
    await drag([kx, ky - 24], [0, -Math.round(rim)]);
    await finished(page);
    const turned = (await kept(id)).lights[0] as unknown as { gobo: { rotation: number } };
    expect(Math.abs(Math.abs(turned.gobo.rotation) % 90)).toBeGreaterThan(20);
    await page.keyboard.press("Control+z");
    await finished(page);
    expect(((await kept(id)).lights[0] as unknown as { gobo: { rotation: number } }).gobo.rotation).toBe(0);
    // the right side of the mist, 8 m from its middle
    await page.keyboard.press("3");
    await page.getByRole("radio", { name: "mist", exact: true }).click();
    await page.mouse.click(cx + 14 * m, cy - 8 * m);
    const [sx, sy] = await grip();
    expect(sx).toBeCloseTo(cx + 14 * m, -1);
    await drag([sx + 24, sy], [Math.round(2 * m), 0]);
    await finished(page);
    const air = (await kept(id)) as unknown as { air: { region: { size: number[] } }[] };
    expect(air.air[0]!.region.size[0]).toBeGreaterThan(16.5);
  });

  it("without WebGL says so, and the rest works", async () => {
    const plain = await openBrowser(["--disable-3d-apis"]);
    try {
      const other = await openPage(plain, errors);
      const id = await putProject(app, scene);
      await openBench(other, app, id);
      await other.keyboard.press("x");
      await other.getByText("This browser cannot draw space here").waitFor();
      await finished(other);
    } finally {
      await plain.close();
    }
  });
});
