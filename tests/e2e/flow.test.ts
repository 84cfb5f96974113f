/** From the shelf to two good shafts: one's own room in centimetres, with what the screen itself says next, counting actions. */
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { passValues } from "#core/film/film";
import { readExr } from "#core/formats/exr-read";
import { filmFromExr } from "#core/formats/picture";
import { along, sub, sunDirection, type V3 } from "#core/math/vectors";
import { luminance } from "#core/optics/colour";
import { projectPoint } from "#core/scene/pick";
import { ROOM, roomObj } from "../support/room";
import { type Application, brightness, eachOnItsPage, finished, openBench, putProject, saved, SMALL, stored, wholePixels } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const MAX_ACTIONS = 20;
const documentOf = async (id: string): Promise<SceneDocument> => {
  await saved(page);
  return parseDocument((await stored(app, id)).document);
};
const step = (id: string) => page.locator(`[data-step=${id}]`);
const samples = (n: number) =>
  page.waitForFunction((least) => {
    const phase = document.querySelector<HTMLElement>("[data-testid=phase]")!;
    return phase.dataset.phase === "done" || Number(/(\d+) of \d+ samples/.exec(document.querySelector("footer")!.innerText)?.[1]) >= least;
  }, n);
/** The picture has begun anew after an edit: what is said of samples is not of the one before. */
const begun = () => page.waitForFunction(() => Number(/(\d+) of \d+ samples/.exec(document.querySelector("footer")!.innerText)?.[1]) < 2);
/** Middles of the two windows as they stand in the scene, m. */
const windows = ROOM.windows.map(([a, b]): V3 => [
  ROOM.size[0] / 200,
  (ROOM.sill + ROOM.lintel) / 200,
  ((a + b) / 2 - ROOM.size[2] / 2) / 100,
]);

describe("the way in", () => {
  it("leads from an empty scene to two shafts of sun in haze over ground fog, in at most twenty actions", async () => {
    const file = join(mkdtempSync(join(tmpdir(), "room-")), "room.obj");
    writeFileSync(file, roomObj());
    let actions = 0;
    const act = async <T>(work: Promise<T>): Promise<T> => {
      actions++;
      return work;
    };
    const frame = async (x: number, y: number): Promise<void> => {
      const box = (await page.getByTestId("picture").boundingBox())!;
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
    };
    const button = (name: string | RegExp) => page.getByRole("button", { name, exact: typeof name === "string" });

    await wholePixels(page);
    await page.goto(app.url);
    await act(page.getByRole("button", { name: "Begin with an empty scene" }).click());
    await step("set").waitFor();
    const id = page.url().split("/").at(-1)!;
    expect(await page.getByRole("button", { name: /^Set\s*\d/ }).getAttribute("aria-expanded")).toBe("true");
    await act(page.getByLabel("Files of a first set").setInputFiles(file));
    await act(button("In centimetres: 8.9 m").click());
    await act(button("Place in the scene").click());
    await act(button("Stand the camera inside").click());
    const inside = await documentOf(id);
    const [hx, hy, hz] = [ROOM.size[0] / 200, ROOM.size[1] / 100, ROOM.size[2] / 200];
    const [cx, cy, cz] = inside.camera.position;
    expect(Math.abs(cx) < hx && cy > 0 && cy < hy && Math.abs(cz) < hz).toBe(true);
    // both windows are in the frame
    const seen = windows.map((w) => projectPoint(inside, w)!);
    for (const s of seen) expect(s.depth > 0 && s.x > 0.02 && s.x < 0.98 && s.y > 0.02 && s.y < 0.98).toBe(true);

    // sun by the middle of the left window, onto the floor two and a half metres from the wall
    await act(step("shine").getByRole("button", { name: "Let the sun in" }).click());
    await samples(1);
    await act(frame(seen[0]!.x, seen[0]!.y));
    await page.getByText("Click where it should land.").waitFor();
    const landing: V3 = [hx - 2.5, 0, windows[0]![2] + 0.5];
    const { x, y } = projectPoint(inside, landing)!;
    await act(frame(x, y));
    await page.locator("[data-step=air], [data-step=mend]").waitFor();
    const lit = await documentOf(id);
    const wanted = sub(windows[0]!, landing);
    const towards = sunDirection(lit.sun.azimuth, lit.sun.elevation);
    // the clicks hit pixels, and the recess is 0.35 m deep
    const cosine = towards.reduce((s, v, k) => s + v * wanted[k]!, 0) / Math.hypot(...wanted);
    expect(cosine).toBeGreaterThan(Math.cos((7 * Math.PI) / 180));

    // a room that is still dark at this exposure is brightened first, by the same line
    if (await step("mend").count())
      await act(
        step("mend")
          .getByRole("button", { name: /^Expose/ })
          .click(),
      );
    await act(step("air").getByRole("button", { name: "Choose the air" }).click());
    const presets = page.getByRole("group", { name: "Presets" });
    await presets.getByText("Bounded by the room that the camera is in.").waitFor();
    await act(presets.getByRole("button", { name: /^stage haze/ }).click());
    // a proof waits by itself for the picture that it is of
    await act(page.keyboard.press("k"));
    await page.getByRole("button", { name: "Restore" }).waitFor();
    const density = page.getByRole("spinbutton", { name: "Extinction" });
    const haze = await density.getAttribute("aria-valuenow");
    await act(button("Add another medium").click());
    await act(presets.getByRole("button", { name: /^low fog 1 m deep/ }).click());
    // the field is the new medium's once it is there
    await expect.poll(() => density.getAttribute("aria-valuenow"), { timeout: 30_000 }).not.toBe(haze);
    const before = await density.getAttribute("aria-valuenow");
    const red = page.getByRole("spinbutton", { name: "Scattering, red" });
    const typed = async (): Promise<void> => {
      await red.focus();
      await page.keyboard.press("Control+a");
      await page.keyboard.type("0.7");
      await page.keyboard.press("Enter");
    };
    await act(typed());
    // a colour keeps the amount
    expect(Number(await density.getAttribute("aria-valuenow"))).toBeCloseTo(Number(before), 8);
    await begun();
    // by then the frame has its picture in clear air too
    await samples(8);
    await act(page.keyboard.press("k"));
    await page.getByRole("button", { name: "Restore" }).nth(1).waitFor();
    await act(page.keyboard.press("c"));
    await page.getByText("clear air", { exact: true }).waitFor();
    await act(page.keyboard.press("c"));
    await act(page.keyboard.press("4"));
    await samples(12);
    const download = page.waitForEvent("download");
    await act(button("Picture as OpenEXR").click());
    const bytes = new Uint8Array(readFileSync(await (await download).path()));
    expect(actions).toBeLessThanOrEqual(MAX_ACTIONS);

    const doc = await documentOf(id);
    expect(doc.air.map((m) => m.name)).toEqual(["stage haze", "low fog"]);
    for (const m of doc.air) {
      const { region } = m;
      if (region.kind !== "box") throw new Error(`${m.name} is not bounded by the room`);
      // the room, and at most the recesses of its windows
      [2 * hx, hy, 2 * hz].forEach((s, k) => {
        expect(region.size[k]).toBeGreaterThan(s - 0.02);
        expect(region.size[k]).toBeLessThan(s + (k === 0 ? ROOM.wall / 100 : 0) + 0.02);
      });
    }
    expect(doc.air[1]!.height).toMatchObject({ shape: "linear", scale: 1 });
    expect(doc.air[1]!.height!.level).toBeCloseTo(0, 2);

    // two shafts in the air, and a gap between them: half way from each window to where its light lands
    const film = filmFromExr(readExr(bytes, "room.exr"));
    const air = passValues(film, "air");
    const down = windows.map((w) => along(w, sunDirection(doc.sun.azimuth, doc.sun.elevation), (-0.5 * w[1]) / towards[1]));
    const between = along(down[0]!, sub(down[1]!, down[0]!), 0.5);
    const [left, right, gap] = [...down, between].map((p) => {
      const at = projectPoint(doc, p)!;
      const radius = Math.round(0.02 * film.width);
      let [sum, n] = [0, 0];
      for (let j = -radius; j <= radius; j++)
        for (let i = -radius; i <= radius; i++) {
          const o = 3 * ((Math.round(at.y * film.height) + j) * film.width + Math.round(at.x * film.width) + i);
          sum += luminance(air[o]!, air[o + 1]!, air[o + 2]!);
          n++;
        }
      return sum / n;
    }) as [number, number, number];
    expect(left / gap, `air ${left}, ${gap}, ${right} cd/m²`).toBeGreaterThan(1.5);
    expect(right / gap, `air ${left}, ${gap}, ${right} cd/m²`).toBeGreaterThan(1.5);
  });

  it("light from below is refused with words, and Escape lays the tool away", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    await page.keyboard.press("b");
    const box = (await page.getByTestId("picture").boundingBox())!;
    // the ground, then the top of the pillar
    await page.mouse.click(box.x + 0.7 * box.width, box.y + 0.85 * box.height);
    await page.getByText("Click where it should land.").waitFor();
    await page.mouse.click(box.x + 0.5 * box.width, box.y + 0.3 * box.height);
    await page.getByText("From there it would shine upwards.").waitFor();
    await page.keyboard.press("Escape");
    expect(await page.getByText("From there it would shine upwards.").count()).toBe(0);
    expect(await page.getByRole("button", { name: "Undo" }).isDisabled()).toBe(true);
    // nor is a distance measured to the sky
    await page.keyboard.press("m");
    await page.mouse.click(box.x + 0.9 * box.width, box.y + 0.04 * box.height);
    await page.getByText("Only background is there").waitFor();
    await page.keyboard.press("Escape");
  });
});

describe("the camera in the picture", () => {
  it("goes round what is pressed, moves along, comes nearer and walks, each as one step", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    const start = (await documentOf(id)).camera;
    await page.keyboard.press("v");
    const tool = page.getByTestId("lens-tool");
    const box = (await tool.boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    const drag = async (dx: number, dy: number): Promise<SceneDocument["camera"]> => {
      await page.mouse.move(x, y);
      await page.mouse.down();
      for (let i = 1; i <= 4; i++) await page.mouse.move(x + (dx * i) / 4, y + (dy * i) / 4);
      await page.mouse.up();
      return (await documentOf(id)).camera;
    };
    const distance = (c: SceneDocument["camera"], p: V3): number => Math.hypot(...sub(p, c.position));
    // the pillar's face is what stands in the middle
    const face: V3 = [0, 2, 0.5];
    const round = await drag(120, 0);
    expect(distance(round, face)).toBeCloseTo(distance(start, face), 1);
    expect(round.position[0]).toBeLessThan(-1);
    expect(round.position[1]).toBeCloseTo(2, 3);
    await page.keyboard.down("Shift");
    const moved = await drag(0, 30);
    await page.keyboard.up("Shift");
    expect(moved.position[1]).toBeGreaterThan(round.position[1]);
    expect(moved.target[1] - round.target[1]).toBeCloseTo(moved.position[1] - round.position[1], 6);
    for (let i = 0; i < 5; i++) await page.mouse.wheel(0, -120);
    await expect.poll(async () => distance((await documentOf(id)).camera, face)).toBeLessThan(0.7 * distance(moved, face));
    await tool.press("ArrowLeft");
    // the wheel's turns and the key came within one breath, or in two: never one by one
    await expect.poll(() => page.evaluate(() => document.querySelector("[data-testid=saved]")?.getAttribute("data-state"))).toBe("saved");
    await page.keyboard.press("Escape");
    expect(await tool.count()).toBe(0);
    let undone = 0;
    while (!(await page.getByRole("button", { name: "Undo" }).isDisabled())) {
      await page.keyboard.press("Control+z");
      undone++;
      if (undone > 8) break;
    }
    expect(undone).toBeGreaterThanOrEqual(3);
    expect(undone).toBeLessThanOrEqual(4);
    expect((await documentOf(id)).camera).toEqual(start);
    const bright = await brightness(page);
    expect(bright.every(Number.isFinite)).toBe(true);
    expect(SMALL.camera.fieldOfView).toBe(start.fieldOfView);
  });
});

describe("air inside an object", () => {
  it("fills one that is closed, from the menu, and shows where another is open", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    const region = page.getByLabel("Region", { exact: true });
    expect(await region.locator("option").allInnerTexts()).not.toContain("inside ground");
    await region.selectOption({ label: "inside pillar" });
    await expect.poll(async () => (await documentOf(id)).air[0]!.region).toEqual({ kind: "mesh", object: "pillar" });
    await finished(page);
    // a tent of two sheets without ends
    const file = join(mkdtempSync(join(tmpdir(), "tent-")), "tent.obj");
    writeFileSync(file, "v -1 0 -1\nv -1 0 1\nv 0 2 -1\nv 0 2 1\nv 1 0 -1\nv 1 0 1\nf 1 2 4 3\nf 3 4 6 5\n");
    await page.keyboard.press("1");
    await page.getByLabel("Files of a set").setInputFiles(file);
    await page.getByRole("button", { name: "Place in the scene" }).click();
    await page.getByText("tent", { exact: true }).first().waitFor();
    await page.keyboard.press("3");
    await region.selectOption({ label: "inside tent" });
    await page.getByText("tent is open at 6 edges").waitFor();
    expect(await page.locator("[data-mark=gaps] path").count()).toBeGreaterThan(0);
    expect((await documentOf(id)).air[0]!.region).toEqual({ kind: "mesh", object: "pillar" });
    await page.getByRole("button", { name: "Put the marks away" }).click();
    expect(await page.locator("[data-mark=gaps]").count()).toBe(0);
  });
});

describe("the picture alone", () => {
  it("is one key away, helpers another; Escape lays a tool away first and then brings everything back", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    const sheet = page.getByRole("navigation", { name: "Sheet" });
    const outlines = page.getByTestId("picture").locator("svg");
    expect(await outlines.count()).toBeGreaterThan(0);
    await page.keyboard.press("h");
    expect(await outlines.count()).toBe(0);
    await page.keyboard.press("h");
    const before = (await page.getByTestId("picture").boundingBox())!;
    await page.keyboard.press("z");
    await sheet.waitFor({ state: "detached" });
    expect(await page.locator("footer, header").count()).toBe(0);
    expect(await outlines.count()).toBe(0);
    await page.waitForFunction(
      (w) => document.querySelector("[data-testid=picture]")!.getBoundingClientRect().width > 1.2 * w,
      before.width,
    );
    await page.keyboard.press("m");
    await page.getByText("Click two points to measure").waitFor();
    await page.keyboard.press("Escape");
    expect(await sheet.count()).toBe(0);
    await page.keyboard.press("Escape");
    await sheet.waitFor();
    await finished(page);
    expect((await brightness(page)).every((v) => v > 1)).toBe(true);
  });
});
