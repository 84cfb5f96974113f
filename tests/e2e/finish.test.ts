/** What is done to the picture where it hangs: glare, looks and tables, scopes, the balance of lights; nothing of it renders. */
import { readFileSync } from "node:fs";
import { decode } from "fast-png";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { LutReader } from "#core/data/lut";
import { readCube, writeCube } from "#core/formats/cube";
import { readExr } from "#core/formats/exr-read";
import {
  type Application,
  brightness,
  drawn,
  eachOnItsPage,
  finished,
  openBench,
  putProject,
  saved,
  SMALL,
  stored,
  wholePixels,
} from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const part = (title: string) =>
  page
    .getByRole("navigation", { name: "Sheet" })
    .getByRole("button", { name: new RegExp(`^${title}`) })
    .first()
    .click();
async function type(label: string, text: string): Promise<void> {
  const field = page.getByRole("spinbutton", { name: label, exact: true });
  await field.focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
}
async function download(button: string): Promise<Buffer> {
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: button, exact: true }).click()]);
  return readFileSync(await file.path());
}
const phase = () => page.getAttribute("[data-testid=phase]", "data-phase");
const opened = async (document: unknown = SMALL): Promise<string> => {
  const id = await putProject(app, document);
  await openBench(page, app, id);
  await finished(page);
  return id;
};

/** Two lamps in a night of haze, one on each side. */
const LAMPS = {
  ...SMALL,
  title: "Two lamps",
  sun: { on: false },
  sky: { on: false },
  lights: [
    { kind: "sphere", name: "left", position: [-4, 2, 0], radius: 0.2, intensity: 3e5, visible: true },
    { kind: "sphere", name: "right", position: [4, 2, 0], radius: 0.2, intensity: 3e5, visible: true },
  ],
  render: { samples: 12, surfaceBounces: 0, airSamples: 2 },
  film: { size: [640, 160], exposure: 9 },
};
const LEFT = [0.02, 0.1, 0.3, 0.8] as [number, number, number, number];
const RIGHT = [0.68, 0.1, 0.3, 0.8] as [number, number, number, number];

describe("the finished picture", () => {
  it("has glare about what is bright, and none of it is rendered", async () => {
    const id = await opened(LAMPS);
    const about = [0.36, 0.2, 0.03, 0.5] as [number, number, number, number];
    const before = await brightness(page, about);
    await part("Finish");
    await type("Halo", "30");
    await expect.poll(async () => (await brightness(page, about))[1]).toBeGreaterThan(before[1] + 3);
    const halo = await brightness(page);
    await type("Starburst", "20");
    await type("Turn of the rays", "15");
    await expect.poll(() => brightness(page)).not.toEqual(halo);
    // of bright places alone: past what shines here there are none
    await page.getByLabel("Bright places alone").check();
    await type("Glare threshold", "20");
    await expect.poll(async () => Math.abs((await brightness(page, about))[1] - before[1])).toBeLessThan(0.2);
    expect(await phase()).toBe("done");
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({
      finish: { glare: { halo: 0.3, starburst: 0.2, turn: 15, threshold: 20 } },
    });
  });

  it("goes through a look-up table, which a look takes to another project, and leaves as one", async () => {
    await opened();
    await part("Finish");
    const plain = await brightness(page);
    // a broken file is refused with its line, and nothing changes
    const table = page.getByLabel("File of look-up table");
    const file = (name: string, text: string) => ({ name, mimeType: "text/plain", buffer: Buffer.from(text) });
    await table.setInputFiles(file("cut.cube", "LUT_3D_SIZE 2\n0 0 0\n"));
    await page.getByText("cut.cube: 1 colours, where a table of 2 has 8: the file is cut short. Nothing was changed.").waitFor();
    await table.setInputFiles(file("huge.cube", "LUT_3D_SIZE 200\n"));
    await page.getByText("huge.cube, line 1: the size must be whole, from 2 to 65. Nothing was changed.").waitFor();
    expect(await brightness(page)).toEqual(plain);
    // red and blue change places
    await table.setInputFiles(
      file(
        "swap.cube",
        writeCube("swap", [], (r, g, b) => [b, g, r], 9),
      ),
    );
    await expect.poll(async () => Math.abs((await brightness(page))[0] - plain[2])).toBeLessThan(1);
    const swapped = await brightness(page);
    expect(Math.abs(swapped[2] - plain[0])).toBeLessThan(1);
    const png = decode(await download("Picture as PNG"));
    let red = 0;
    for (let i = 0; i < png.data.length; i += 3) red += png.data[i]!;
    expect(Math.abs(red / (png.data.length / 3) - swapped[0])).toBeLessThan(3);
    await type("Table strength", "0");
    await expect.poll(async () => Math.max(...(await brightness(page)).map((v, k) => Math.abs(v - plain[k]!)))).toBeLessThan(0.2);
    await type("Table strength", "100");
    await type("Saturation", "0.5");
    await page.getByLabel("Name of the look").fill("Swapped");
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: "Swapped", exact: true }).waitFor();

    // as a table for other programs: it holds the finish, the table read in too
    const cube = readCube((await download("Finish as .cube")).toString(), "written", "x");
    const reader = new LutReader(cube);
    reader.look(0.8, 0.3, 0.1);
    expect(cube.size).toBe(33);
    expect(reader.out[2]!).toBeGreaterThan(reader.out[0]! + 0.2);

    // in another project
    const id = await opened({ ...SMALL, title: "Another" });
    await part("Finish");
    await page.getByRole("button", { name: "Swapped", exact: true }).click();
    await expect.poll(async () => (await brightness(page))[0]).not.toBeCloseTo(plain[0], 0);
    await saved(page);
    const { document } = await stored(app, id);
    expect(document.film).toMatchObject({ finish: { saturation: 0.5, lut: { asset: "swap", strength: 1 } } });
    expect(Object.keys(document.assets as object)).toEqual(["swap"]);
    await page.getByRole("button", { name: "Plain" }).click();
    await expect.poll(async () => Math.abs((await brightness(page))[0] - plain[0])).toBeLessThan(1);
    await page.getByRole("button", { name: "Forget the look Swapped" }).click();
    expect(await page.getByRole("button", { name: "Swapped", exact: true }).count()).toBe(0);
  });

  it("is wiped against itself without its finish by a key, and has a waveform", async () => {
    await opened();
    await part("Finish");
    await page.getByRole("radio", { name: "waveform" }).click();
    await page.waitForSelector("canvas[aria-label='Waveform of the finished picture'][data-shown=yes]");
    await type("Contrast", "2.5");
    await type("Pivot", "2");
    await drawn(page);
    const dark = await brightness(page);
    await page.keyboard.press("Shift+O");
    const behind = page.locator("canvas[aria-label='Picture without its finish'][data-fresh=yes]");
    await behind.waitFor();
    const mean = await behind.evaluate((c: HTMLCanvasElement) => {
      const { data } = c.getContext("2d")!.getImageData(0, 0, c.width, c.height);
      let sum = 0;
      for (let i = 1; i < data.length; i += 4) sum += data[i]!;
      return sum / (data.length / 4);
    });
    expect(mean).toBeGreaterThan(dark[1] + 10);
    // the edge is moved by the keyboard
    const edge = page.getByRole("slider", { name: "Edge of the wipe" });
    await edge.focus();
    await page.keyboard.press("ArrowLeft");
    expect(await edge.getAttribute("aria-valuenow")).toBe("48");
    // and turned: on its side the upper half is in front
    for (let i = 0; i < 18; i++) await page.keyboard.press("ArrowDown");
    await page.keyboard.press("ArrowRight");
    expect(await edge.getAttribute("aria-valuetext")).toBe("50 %, turned by 90°");
    const front = page.locator("canvas[aria-label=Picture]");
    await expect
      .poll(() => front.evaluate((c) => getComputedStyle(c.parentElement!).clipPath))
      .toBe("polygon(0% 0%, 100% 0%, 100% 50%, 0% 50%)");
    const frame = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.move(frame.x + frame.width * 0.7, frame.y + frame.height * 0.5);
    await page.mouse.down();
    await page.mouse.move(frame.x + frame.width * 0.7, frame.y + frame.height * 0.2, { steps: 3 });
    await page.mouse.up();
    expect(Number(await edge.getAttribute("aria-valuenow"))).toBe(20);
    await edge.focus();
    await page.keyboard.press("Home");
    expect(await edge.getAttribute("aria-valuetext")).toBe("20 %");
    await page.keyboard.press("Shift+O");
    await expect.poll(() => behind.count()).toBe(0);
  });
});

describe("the balance of light groups", () => {
  it("mutes, solos and weighs lights without a new render, is undone, and becomes strengths that look the same", async () => {
    const id = await opened(LAMPS);
    await page.keyboard.press("Shift+T");
    await page.getByRole("row", { name: /right/ }).waitFor();
    await finished(page);
    const even = [await brightness(page, LEFT), await brightness(page, RIGHT)] as const;
    const cell = (name: string) => page.getByRole("spinbutton", { name, exact: true });
    const set = async (name: string, text: string): Promise<void> => {
      await cell(name).fill(text);
      await cell(name).press("Enter");
    };
    await page.getByLabel("right is shown").uncheck();
    await expect.poll(async () => (await brightness(page, RIGHT))[1]).toBeLessThan(even[1][1] / 2);
    expect(Math.abs((await brightness(page, LEFT))[1] - even[0][1])).toBeLessThan(6);
    await page.getByLabel("right is shown").check();
    await page.getByRole("button", { name: "Solo the group right" }).click();
    await expect.poll(async () => (await brightness(page, LEFT))[1]).toBeLessThan(even[0][1] / 2);
    await page.getByRole("button", { name: "Solo the group right" }).click();
    await expect.poll(async () => Math.abs((await brightness(page, LEFT))[1] - even[0][1])).toBeLessThan(1);
    // the air and surfaces apart
    await set("Stops of right, air", "-8");
    await set("Stops of left, air and surfaces", "1.5");
    await expect.poll(async () => (await brightness(page, LEFT))[1]).toBeGreaterThan(even[0][1] + 5);
    expect(await phase()).toBe("done");
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({
      balance: { right: { air: { stops: -8 }, surfaces: { stops: 0 } }, left: { air: { stops: 1.5 }, surfaces: { stops: 1.5 } } },
    });
    await set("Stops of right, surfaces", "-8");
    const balanced = [await brightness(page, LEFT), await brightness(page, RIGHT)] as const;
    // as files have it: groups as they were rendered, the picture as it is balanced
    const exr = readExr(await download2("Picture as OpenEXR"), "exr");
    expect(exr.channels.map((c) => c.name)).toContain("air.left.R");

    await page.getByRole("button", { name: "Apply to the lights" }).click();
    await finished(page);
    await saved(page);
    const { document } = await stored(app, id);
    expect((document.lights as { stops: number }[]).map((l) => l.stops)).toEqual([1.5, -8]);
    expect(document.film).toMatchObject({ balance: {} });
    const after = [await brightness(page, LEFT), await brightness(page, RIGHT)] as const;
    for (const i of [0, 1]) expect(Math.abs(after[i]![1] - balanced[i]![1])).toBeLessThan(4);
    // one step back is the balance
    await page.keyboard.press("Control+z");
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({ balance: { left: { air: { stops: 1.5 } } } });
    await page.getByRole("button", { name: "As rendered" }).click();
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({ balance: {} });
    // groups are put together in the table of settings
    await page.getByRole("radio", { name: "Settings" }).click();
    for (const name of ["left", "right"]) {
      await page.getByLabel(`Light group of ${name}`).fill("pair");
      await page.keyboard.press("Enter");
    }
    await page.getByRole("radio", { name: "Balance" }).click();
    await page.getByRole("row", { name: /pair/ }).waitFor();
    expect(await page.getByRole("row").count()).toBe(2);
  });
});

describe("passes", () => {
  it("are stepped through by keys, each with its unit and what its greys stand for", async () => {
    await opened();
    const note = page.getByRole("note", { name: "Pass that is shown" });
    const beauty = await brightness(page);
    expect(await note.count()).toBe(0);
    for (const said of [/^clear air cd\/m²/, /^air alone cd\/m²/, /^surfaces through the air/, /^transmittance share/]) {
      await page.locator("body").press(".");
      await expect.poll(() => note.innerText()).toMatch(said);
    }
    await page.locator("body").press(",");
    await expect.poll(() => note.innerText()).toMatch(/^surfaces/);
    await page.locator("body").press("Backspace");
    await expect.poll(() => brightness(page)).toEqual(beauty);
    await page.locator("body").press(",");
    await expect.poll(() => note.innerText()).toMatch(/^rays rays per sample\s+[\d.]+\s+[\d.]+\s+[\d.]+$/);
    for (let i = 0; i < 7; i++) await page.locator("body").press(",");
    // the pillar stands some 12 m away
    await expect.poll(() => note.innerText()).toMatch(/^depth m\s+[\d.]+\s+[\d.]+\s+[\d.]+$/);
    const numbers = (await note.innerText()).split(/\s+/).slice(2).map(Number);
    expect(numbers).toHaveLength(3);
    expect(numbers[0]!).toBeGreaterThan(numbers[1]!);
    expect(numbers[1]!).toBeGreaterThan(5);
  });
});

describe("probes", () => {
  it("read every pass under the pointer and where they are set, follow edits, and say what the back has otherwise", async () => {
    await opened();
    await page.locator("body").press("u");
    const table = page.getByRole("region", { name: "Probes" });
    await table.waitFor();
    const frame = (await page.getByTestId("picture").boundingBox())!;
    // the pillar, then the ground before it, by the keyboard
    await page.mouse.click(frame.x + frame.width / 2, frame.y + frame.height / 2);
    await page.getByTestId("picture").focus();
    for (let i = 0; i < 4; i++) await page.keyboard.press("Shift+ArrowDown");
    await page.keyboard.press("Enter");
    await page.mouse.move(frame.x + frame.width + 200, frame.y + 400);
    const row = async (words: string): Promise<string[]> => {
      const cells = table.getByRole("row").filter({ has: page.getByRole("rowheader", { name: words }) });
      return (await cells.first().getByRole("cell").allInnerTexts()).map((t) => t.trim());
    };
    await expect.poll(() => row("seen there")).toEqual(["pillar, stone", "ground, stone"]);
    const [pillar, ground] = (await row("depth")).map(Number);
    expect(pillar).toBeCloseTo(11.5, 0);
    expect(ground!).toBeLessThan(11.5);
    const before = Number((await row("luminance"))[0]);
    expect(before).toBeGreaterThan(0);
    // they stay while one edits: twice the light
    await finished(page);
    await page.keyboard.press("k");
    await page.waitForFunction(() => document.querySelectorAll("[data-proof]").length === 1);
    await page
      .locator("[data-proof]")
      .first()
      .getByRole("button", { name: /show in front/ })
      .click();
    await page.locator("body").press("l");
    await type("Extinction", "0.2");
    await finished(page);
    await expect.poll(async () => (await row("transmittance"))[0]!.split(/\s+/).map(Number)[0]!).toBeLessThan(20);
    // what the proof behind has otherwise
    await expect.poll(async () => (await row("surfaces through the air"))[0]).toMatch(/\+[\d.]+ stops$/);
    await page.getByRole("button", { name: "Take probe 1 away" }).click();
    await expect.poll(() => row("seen there")).toEqual(["ground, stone"]);
    await page.locator("body").press("u");
    expect(await table.count()).toBe(0);
  });
});

describe("the difference of front and back", () => {
  it("is shown in colours where it is more than noise, in the unit that is asked for", async () => {
    await wholePixels(page);
    await opened();
    await page.keyboard.press("k");
    await page.waitForFunction(() => document.querySelectorAll("[data-proof]").length === 1);
    await part("Finish");
    await page.locator("body").press("BracketLeft");
    await page.locator("body").press("BracketLeft");
    await page.locator("body").press("BracketLeft");
    await page
      .locator("[data-proof]")
      .first()
      .getByRole("button", { name: /show in front/ })
      .click();
    await page.locator("body").press("j");
    const said = page.getByRole("group", { name: "How the difference is shown" }).getByRole("status");
    // the live picture behind the proof is a stop brighter throughout
    await expect.poll(() => said.innerText()).toMatch(/^100 % differ, (1|0\.99|1\.0\d) stops? RMS$/);
    const colour = () =>
      page.locator("canvas[aria-label=Difference]").evaluate((c: HTMLCanvasElement) => {
        const { data } = c.getContext("2d")!.getImageData(c.width >> 1, c.height >> 1, 1, 1);
        return [...data.subarray(0, 3)];
      });
    const [r, , b] = await colour();
    expect(r!).toBeGreaterThan(b! + 60);
    await page.getByRole("radio", { name: "relative" }).click();
    await expect.poll(() => said.innerText()).toMatch(/ 50 % RMS$/);
    await page.getByLabel("Scale of the difference").selectOption({ label: "100 %" });
    await page.getByRole("radio", { name: "ΔE" }).click();
    await expect.poll(() => said.innerText()).toMatch(/ΔE [\d.]+ RMS$/);
    // front and back change places: what was brighter is darker
    await page.locator("body").press("f");
    await expect.poll(async () => (await colour())[2]! - (await colour())[0]!).toBeGreaterThan(40);
    await page.locator("body").press("j");
    await expect.poll(() => page.locator("canvas[aria-label=Difference]").count()).toBe(0);
  });
});

/** A file by a button of the sheet's last part. */
async function download2(button: string): Promise<Buffer> {
  await part("Finish");
  return download(button);
}
