/** Air on the bench: the Section and its handles, the stack and its shelf, pins, diagnosis, who lights what. */
import type { Affine } from "#core/math/affine";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import type { Medium, SceneDocument } from "#core/document/schema";
import { readVdb, writeVdb } from "#core/formats/vdb";
import { VolumeBuilder } from "#core/data/volume";
import { type Application, eachOnItsPage, brightness, finished, openBench, putProject, saved, SMALL, stored } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const kept = async (id: string): Promise<SceneDocument> => {
  await saved(page);
  return (await stored(app, id)).document as unknown as SceneDocument;
};
const cut = () => page.waitForSelector("[data-testid=section][data-ready=yes]");
const lit = () => page.waitForSelector("[data-testid=section][data-lit=yes]");
const open = async (document: object): Promise<string> => {
  const id = await putProject(app, document);
  await openBench(page, app, id);
  await cut();
  return id;
};
const handle = (name: string) => page.getByRole("slider", { name, exact: true });
/** Drags a handle by its own middle. */
async function drag(name: string, dx: number, dy: number): Promise<void> {
  // a line's grip lies in its middle
  const grip = handle(name).locator("rect, circle").last();
  const box = (await grip.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(x + (dx * i) / 5, y + (dy * i) / 5);
  await page.mouse.up();
}
const first = (d: SceneDocument): Medium => d.air[0]!;

describe("the Section", () => {
  it("a ground fog is made from nothing by dragging, as one step each, and the picture follows", async () => {
    const id = await open({ ...SMALL, air: [] });
    await finished(page);
    const bare = await brightness(page);
    await page.getByRole("button", { name: "Fill the scene with air" }).click();
    await page
      .getByRole("group", { name: "Presets" })
      .getByRole("button", { name: /^ground fog/ })
      .click();
    await handle("Level of ground fog").waitFor();
    const before = first(await kept(id)).height!;
    await drag("Scale height of ground fog", 0, -30);
    const taller = first(await kept(id)).height!;
    expect(taller.scale).toBeGreaterThan(before.scale);
    expect(taller.level).toBe(before.level);
    await drag("Level of ground fog", 0, -12);
    const raised = first(await kept(id)).height!;
    expect(raised.level).toBeGreaterThan(taller.level);
    await finished(page);
    expect(Math.abs((await brightness(page))[0] - bare[0])).toBeGreaterThan(1);
    await page.getByRole("button", { name: "Undo" }).click();
    expect(first(await kept(id)).height!.level).toBe(taller.level);
    // by the keyboard alone
    await handle("Level of ground fog").focus();
    await page.keyboard.press("Shift+ArrowUp");
    expect(first(await kept(id)).height!.level).toBeGreaterThan(taller.level);
  });

  it("follows the point clicked in the picture, and says what survives and what is gained", async () => {
    await open(SMALL);
    await lit();
    const head = page.getByRole("region", { name: "Section" });
    // the pillar stands in the middle, 11.5 m from the lens
    await head.getByText(/to 11\.5 m/).waitFor();
    await head.getByText(/^sun \d+ %/).waitFor();
    const picture = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.click(picture.x + picture.width * 0.1, picture.y + picture.height * 0.1);
    await head.getByText(/to the background/).waitFor();
    const drawing = (await page.getByTestId("section").boundingBox())!;
    await page.mouse.move(drawing.x + drawing.width / 2, drawing.y + drawing.height * 0.7);
    await head.getByText(/m away, .* m up: .* % transmitted, .* scattered in/).waitFor();
    await page.getByRole("button", { name: "from above" }).click();
    await cut();
    await page.getByRole("button", { name: "logarithmic" }).click();
    await cut();
    expect(await page.getByRole("img", { name: "Section of the air" }).isVisible()).toBe(true);
    // broken air that is stepped through shows its steps; tracked and even air takes none
    expect(await page.getByTestId("steps").count()).toBe(0);
    await page.getByLabel("Noise").check();
    await page.getByRole("radiogroup", { name: "Estimator" }).getByText("stepping").click();
    await page.getByTestId("steps").waitFor({ state: "attached" });
    // the choice still has the focus: single keys are the bench's all the same
    await page.keyboard.press("a");
    await head.waitFor({ state: "detached" });
  });

  it("a region is moved and stretched by its borders, a lamp by its mark", async () => {
    const id = await open({
      ...SMALL,
      air: [{ name: "bank", density: 0.2, region: { kind: "box", centre: [0, 2, 3], size: [6, 2, 4] } }],
      lights: [{ kind: "point", name: "lamp", position: [0, 1.4, 6], intensity: 500 }],
    });
    await drag("Top of bank", 0, -20);
    const region = first(await kept(id)).region as { centre: number[]; size: number[] };
    expect(region.size[1]).toBeGreaterThan(2.05);
    // the other side stays
    expect(region.centre[1]! - region.size[1]! / 2).toBeCloseTo(1, 3);
    await drag("Middle of bank", 40, 0);
    expect((first(await kept(id)).region as { centre: number[] }).centre[2]).toBeLessThan(2.8);
    const box = (await handle("lamp").locator("circle").boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + 40, box.y - 10, { steps: 4 });
    await page.mouse.up();
    const lamp = (await kept(id)).lights[0]!;
    expect(lamp.position[2]).toBeLessThan(5.7);
    expect(lamp.position[0]).toBeCloseTo(0, 6);
  });
});

describe("the air", () => {
  it("is set by pins: two points, each with its share; what cannot be met is said", async () => {
    const id = await open({ ...SMALL, air: [{ name: "haze", density: 0.02 }] });
    await finished(page);
    await page.keyboard.press("d");
    const box = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.5);
    await page.mouse.click(box.x + box.width * 0.2, box.y + box.height * 0.9);
    await page.keyboard.press("Escape");
    expect(await page.locator("[data-pin]").count()).toBe(2);
    const pin = page.getByRole("group", { name: "Pin 1" }).getByRole("spinbutton");
    await pin.fill("30");
    await pin.press("Enter");
    await page.getByRole("group", { name: "Pin 2" }).getByRole("button").click();
    // 11.5 m of even air that keeps 30 %
    await expect.poll(async () => first(await kept(id)).density).toBeCloseTo(-Math.log(0.3) / 11.5, 3);
    await page.getByRole("group", { name: "Pin 1" }).getByText("30 %").waitFor();
    await page.keyboard.press("d");
    await page.mouse.click(box.x + box.width * 0.2, box.y + box.height * 0.9);
    await page.keyboard.press("Escape");
    const near = page.getByRole("group", { name: "Pin 2" }).getByRole("spinbutton");
    await near.fill("10");
    await near.press("Enter");
    await page.getByText(/should keep more than the one at/).waitFor();
    // the share and what was solved for it are one step
    await page.keyboard.press("Control+z");
    await expect.poll(() => near.inputValue()).not.toBe("10");
    await expect.poll(async () => first(await kept(id)).density).toBeCloseTo(-Math.log(0.3) / 11.5, 3);
    await page.keyboard.press("Control+Shift+z");
    await expect.poll(() => near.inputValue()).toBe("10");
    // pins are part of the document, and stay on their points when the lens moves
    await saved(page);
    await page.reload();
    await finished(page);
    expect(await page.locator("[data-pin]").count()).toBe(2);
    const place = () => page.locator("[data-pin='1']").getAttribute("transform");
    const before = await place();
    await page.keyboard.press("1");
    await page.getByRole("spinbutton", { name: "Field of view" }).fill("60");
    await page.keyboard.press("Enter");
    await page.keyboard.press("3");
    await expect.poll(place).not.toBe(before);
  });

  it("ends at a point picked in the picture", async () => {
    const id = await open({ ...SMALL, air: [{ name: "haze", density: 0.001 }] });
    await finished(page);
    await page.getByRole("button", { name: "Visibility ends at …" }).click();
    const box = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.5);
    await expect.poll(async () => first(await kept(id)).density).toBeCloseTo(-Math.log(0.05) / 11.5, 2);
  });

  it("a black picture is mended by its diagnosis, and undone by one key", async () => {
    const id = await open({ ...SMALL, air: [{ name: "murk", density: 3 }] });
    const finding = page.getByRole("list", { name: "Diagnosis" }).getByRole("listitem");
    await finding.filter({ hasText: /Nothing of the sun and sky reaches .* murk is unbounded/ }).waitFor();
    await finished(page);
    const black = await brightness(page);
    await finding.getByRole("button", { name: "add a height falloff" }).click();
    await expect.poll(async () => first(await kept(id)).height?.shape).toBe("exponential");
    await finding.getByRole("button", { name: /30 % transmittance to there/ }).click();
    await expect.poll(async () => first(await kept(id)).density).toBeLessThan(1);
    await finished(page);
    expect((await brightness(page))[1]).toBeGreaterThan(black[1] + 5);
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await expect.poll(async () => first(await kept(id)).height).toBeNull();
    // all is well: silent
    const good = await putProject(app, {
      ...SMALL,
      render: { ...SMALL.render, airSamples: 8 },
      film: { ...SMALL.film, exposure: 15 },
    });
    await openBench(page, app, good);
    await finished(page);
    await expect.poll(() => page.getByRole("list", { name: "Diagnosis" }).count()).toBe(0);
  });

  it("media are named, copied, muted, looked at alone, kept for other projects and passed on as files", async () => {
    const id = await open({ ...SMALL, sun: { ...SMALL.sun, media: ["haze"] } });
    const name = page.getByLabel("Name of haze");
    await name.fill("river breath");
    await name.press("Enter");
    await page.getByRole("button", { name: "Copy river breath" }).click();
    let doc = await kept(id);
    expect(doc.air.map((m) => m.name)).toEqual(["river breath", "river breath 2"]);
    expect(doc.sun.media).toEqual(["river breath", "river breath 2"]);
    await page.getByRole("button", { name: "Solo river breath 2" }).click();
    await page.getByLabel("Enable river breath", { exact: true }).uncheck();
    doc = await kept(id);
    expect(doc.air.map((m) => m.on)).toEqual([false, true]);
    await page.getByRole("button", { name: "Keep river breath 2" }).click();
    await page.getByRole("button", { name: "Add another medium" }).click();
    const shelf = page.getByRole("group", { name: "Presets" });
    await shelf.getByText("Your own", { exact: true }).waitFor();
    const folder = mkdtempSync(join(tmpdir(), "fumarium-airs-"));
    writeFileSync(join(folder, "bad.json"), '{"fumariumAirs":1,"airs":[{"density":-4}]}');
    await page.setInputFiles("[aria-label='Preset file']", join(folder, "bad.json"));
    await shelf.getByText(/bad\.json: airs\.0\.density: .*Nothing was changed/).waitFor();
    writeFileSync(join(folder, "good.json"), '{"fumariumAirs":1,"airs":[{"name":"kiln breath","density":0.3}]}');
    await page.setInputFiles("[aria-label='Preset file']", join(folder, "good.json"));
    await shelf.getByRole("button", { name: /^kiln breath/ }).click();
    expect((await kept(id)).air.map((m) => m.name)).toEqual(["river breath", "river breath 2", "kiln breath"]);
  });

  it("two-coloured media mix, and the matrix says which lamp lights which", async () => {
    const half = (x: number) => ({ kind: "box", centre: [x, 2, 4], size: [6, 6, 4] });
    const id = await open({
      ...SMALL,
      sun: { on: false },
      sky: { on: false },
      air: [
        { name: "red dust", density: 0.15, scattering: [1, 0.05, 0.05], region: half(-3) },
        { name: "blue dust", density: 0.15, scattering: [0.05, 0.05, 1], region: half(3) },
      ],
      lights: [{ kind: "point", name: "lamp", position: [0, 5, 4], intensity: 60000 }],
    });
    await finished(page);
    const left = await brightness(page, [0.1, 0.1, 0.25, 0.5]),
      right = await brightness(page, [0.65, 0.1, 0.25, 0.5]);
    expect(left[0]).toBeGreaterThan(1.5 * left[2]);
    expect(right[2]).toBeGreaterThan(1.5 * right[0]);
    await page.getByRole("button", { name: "Light linking" }).click();
    await page.getByLabel("lamp lights red dust").uncheck();
    await finished(page);
    expect((await brightness(page, [0.1, 0.1, 0.25, 0.5]))[0]).toBeLessThan(0.5 * left[0]);
    expect((await kept(id)).lights[0]!.media).toEqual(["blue dust"]);
    await page.getByLabel("Air contribution of lamp").fill("0");
    await page.keyboard.press("Enter");
    await page
      .getByRole("list", { name: "Diagnosis" })
      .getByText(/lamp gives 0 % of its light to the air/)
      .waitFor();
  });

  it("densities come from a file, with its channels and figures; a broken one changes nothing; baked air is a file again", async () => {
    const id = await open(SMALL);
    const broken = readFileSync("tests/fixtures/library.vdb").subarray(0, 900);
    const folder = mkdtempSync(join(tmpdir(), "fumarium-grids-"));
    writeFileSync(join(folder, "broken.vdb"), broken);
    await page.setInputFiles("[aria-label='File of volume']", join(folder, "broken.vdb"));
    await page.getByText(/broken\.vdb: .*Nothing was changed/).waitFor();
    expect(first(await kept(id)).grid).toBeNull();
    await page.setInputFiles("[aria-label='File of volume']", "tests/fixtures/library.vdb");
    const channels = page.getByLabel("Density channel");
    await channels.waitFor();
    await channels.selectOption("half");
    await page.getByRole("img", { name: /^Values of half, from/ }).waitFor();
    await finished(page);
    expect(first(await kept(id)).grid).toMatchObject({ asset: "library", channel: "half" });
    await page.getByRole("button", { name: "Remove grid" }).click();
    await page.getByLabel("Region", { exact: true }).selectOption("sphere");
    const download = page.waitForEvent("download");
    await page.getByRole("button", { name: "Bake OpenVDB" }).click();
    const bytes = readFileSync(await (await download).path());
    const { grids } = await readVdb(new Uint8Array(bytes), "haze.vdb");
    expect(grids.map((g) => g.name)).toEqual(["density"]);
    expect(grids[0]!.voxels).toBeGreaterThan(1000);
  });

  it("levels and bounces are compared on this frame, and taken by a click", async () => {
    const id = await open({ ...SMALL, air: [{ name: "fog", density: 0.15, height: { level: 0, scale: 6 } }] });
    await page.getByRole("button", { name: "Compare levels" }).click();
    const table = page.getByRole("table", { name: "Levels on this frame" });
    await table.waitFor();
    expect(await table.getByRole("row").count()).toBe(4);
    await table.getByRole("button", { name: "full" }).click();
    expect((await kept(id)).render.level).toBe("full");
    await page.getByRole("button", { name: "Compare bounces" }).click();
    await page.getByRole("table", { name: "Bounces on this frame" }).getByRole("button", { name: "4", exact: true }).click();
    expect((await kept(id)).render.airBounces).toBe(4);
    // the live picture is back
    await finished(page);
  });

  it("is sampled at half size where that is wanted, with the same light, raw and cleaned", async () => {
    const id = await open({ ...SMALL, render: { ...SMALL.render, samples: 8 } });
    await finished(page);
    const before = await brightness(page);
    const size = page.getByRole("radiogroup", { name: "Air size", exact: true });
    await size.getByRole("radio", { name: "half" }).click();
    await page.waitForSelector("[data-testid=phase][data-phase=rendering]");
    await finished(page);
    const after = await brightness(page);
    for (let k = 0; k < 3; k++) expect(Math.abs(after[k]! - before[k]!)).toBeLessThan(2.5);
    expect(before[1]).toBeGreaterThan(20);
    await page.keyboard.press("n");
    const raw = await brightness(page);
    for (let k = 0; k < 3; k++) expect(Math.abs(raw[k]! - before[k]!)).toBeLessThan(4);
    await page.keyboard.press("n");
    expect((await kept(id)).render.airSize).toBe("half");
    await page.keyboard.press("Control+z");
    expect((await kept(id)).render.airSize).toBe("full");
  });

  it("a region is moved and shaped over the picture, as one step each, and by the keyboard", async () => {
    const region = { kind: "box", centre: [0, 1.5, 0], size: [3, 2, 3] };
    const id = await open({ ...SMALL, air: [{ name: "block", density: 0.6, region }] });
    await finished(page);
    const size = async (): Promise<number[]> => (first(await kept(id)).region as { size: number[] }).size;
    const picture = (await page.getByTestId("picture").boundingBox())!;
    // the outline is there under the hand alone
    await page.mouse.move(5, 5);
    expect(await page.getByTestId("region-grips").evaluate((e) => getComputedStyle(e).opacity)).toBe("0");
    const grab = async (name: string, dx: number, dy: number): Promise<void> => {
      const box = (await handle(`${name} of block, in the picture`).boundingBox())!;
      const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
      await page.mouse.move(x, y);
      await page.mouse.down();
      for (let i = 1; i <= 5; i++) await page.mouse.move(x + (dx * i) / 5, y + (dy * i) / 5);
      await page.mouse.up();
    };
    await grab("Right side", picture.width / 12, 0);
    const wider = await size();
    expect(wider[0]).toBeGreaterThan(3.2);
    expect(wider.slice(1)).toEqual([2, 3]);
    await grab("Top", 0, -picture.height / 12);
    expect((await size())[1]).toBeGreaterThan(2.2);
    await page.getByRole("button", { name: "Undo" }).click();
    expect(await size()).toEqual(wider);
    const before = (first(await kept(id)).region as { centre: number[] }).centre;
    await grab("Middle", 0, -picture.height / 10);
    const after = (first(await kept(id)).region as { centre: number[] }).centre;
    expect(after[1]).toBeGreaterThan(before[1]! + 0.2);
    // dragged far out of the frame it stays in hand, and the step ends with it
    await grab("Right side", picture.width, 0);
    const far = await size();
    expect(far[0]).toBeGreaterThan(wider[0]! + 2);
    await page.getByRole("button", { name: "Undo" }).click();
    expect(await size()).toEqual(wider);
    await handle("Top of block, in the picture").focus();
    await page.keyboard.press("Shift+ArrowUp");
    expect((await size())[1]).toBeGreaterThan(2);
  });

  it("several files are frames: time runs through them, a curve bends them, a channel tints them", async () => {
    const puff = (n: number): Uint8Array => {
      const [density, temperature] = [new VolumeBuilder(0), new VolumeBuilder(0)];
      for (let k = -8; k <= 8; k++)
        for (let j = -8; j <= 8; j++)
          for (let i = -8; i <= 8; i++)
            if (Math.hypot(i, j, k) < 8) {
              density.set(i, j, k, n * (1 - Math.hypot(i, j, k) / 8));
              temperature.set(i, j, k, 300 + 50 * (j + 8));
            }
      const place: Affine = [0.15, 0, 0, 0, 0, 0.15, 0, 2, 0, 0, 0.15, 0];
      return writeVdb({ density: density.build(place), temperature: temperature.build(place) });
    };
    const folder = mkdtempSync(join(tmpdir(), "fumarium-frames-"));
    const files = [1, 2, 3].map((n) => join(folder, `puff-${n}.vdb`));
    files.forEach((f, i) => writeFileSync(f, puff(i + 1)));
    const id = await open({ ...SMALL, air: [{ name: "puff", density: 12 }] });
    await page.setInputFiles("[aria-label='File of volume']", files);
    await page.getByText("3 frames").waitFor();
    await finished(page);
    const grid = async () => first(await kept(id)).grid!;
    // full is the largest of all frames, so that density does not pump
    expect(await grid()).toMatchObject({ sequence: { frames: ["puff-1", "puff-2", "puff-3"] }, channel: "density" });
    expect((await grid()).high).toBeCloseTo(3, 2);
    await page.getByRole("img", { name: /^Values of density, from .* to 1$/ }).waitFor();
    const early = await brightness(page, [0.3, 0.1, 0.7, 0.9]);
    const time = page.getByRole("spinbutton", { name: "Time", exact: true }).first();
    await time.focus();
    await page.keyboard.type("2/24");
    await page.keyboard.press("Enter");
    await page.getByRole("img", { name: /^Values of density, from .* to 3$/ }).waitFor();
    await finished(page);
    const late = await brightness(page, [0.3, 0.1, 0.7, 0.9]);
    expect(Math.abs(late[0] - early[0])).toBeGreaterThan(1);
    // a curve: its middle point lifted by the keyboard
    await page.getByLabel("Density curve").check();
    await page.getByRole("slider", { name: "Density by value: point 2" }).focus();
    await page.keyboard.press("Shift+ArrowUp");
    await page.keyboard.press("Shift+ArrowUp");
    expect((await grid()).curve![1]).toEqual([0.5, 0.7]);
    await page.getByRole("slider", { name: "Density by value: point 2" }).dblclick();
    expect((await grid()).curve).toEqual([[0, 0], [1, 1]]); // prettier-ignore
    await page.getByLabel("Tint").selectOption("ramp");
    await page.getByRole("radiogroup", { name: "Colours of the ramp" }).getByRole("radio").last().click();
    await page.getByRole("button", { name: "Add a colour" }).click();
    expect((await grid()).tint).toMatchObject({ from: "ramp", channel: "temperature", low: 350, high: 1050 });
    expect(((await grid()).tint as { colours: unknown[] }).colours).toHaveLength(3);
    await finished(page);
    // one file in their place is no sequence any more; the tint goes where the file has no such channel
    await page.setInputFiles("[aria-label='File of volume']", "tests/fixtures/library.vdb");
    await page.getByText("library.vdb").waitFor();
    expect(await grid()).toMatchObject({ asset: "library", sequence: null, tint: null, low: 0 });
    // a level set: full three voxels of 0.1 m within its surface
    expect((await grid()).high).toBeCloseTo(-0.3, 5);
    await finished(page);
  });

  it("break-up is looked at by itself, and step sizes are compared and taken", async () => {
    const id = await open({
      ...SMALL,
      air: [
        { name: "wisps", density: 0.8, region: { kind: "sphere", centre: [0, 2, 2], radius: 2 }, noise: { character: "wisps", size: 3 } },
      ],
    });
    const slice = page.getByRole("img", { name: "Slice of the break-up" });
    await page.waitForSelector("canvas[aria-label='Slice of the break-up'][data-drawn=yes]");
    const look = () => slice.evaluate((c: HTMLCanvasElement) => c.toDataURL());
    const before = await look();
    await page.getByLabel("Character").selectOption("cells");
    await page.waitForFunction(
      (was) => document.querySelector<HTMLCanvasElement>("canvas[aria-label='Slice of the break-up']")!.toDataURL() !== was,
      before,
    );
    await page.getByRole("button", { name: "Compare steps" }).click();
    const table = page.getByRole("table", { name: "Steps on this frame" });
    await table.waitFor();
    expect(await table.getByRole("row").count()).toBe(7);
    await table.getByRole("row").nth(2).getByRole("button").click();
    const doc = await kept(id);
    expect(doc.render.estimator).toBe("stepping");
    expect(doc.render.stepSize).toBeGreaterThan(0);
    await page.getByLabel("Adaptive sampling").check();
    expect((await kept(id)).render.noiseThreshold).toBe(0.02);
    await page.getByLabel("Threshold for").selectOption("cleaned picture");
    expect((await kept(id)).render.thresholdOf).toBe("cleaned");
    await finished(page);
  });
});
