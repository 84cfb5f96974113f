/** Looking and comparing: zoom, 1:1, pictures beside one another, the strip of proofs, patches, wedges. */
import { readFileSync } from "node:fs";
import { decode } from "fast-png";
import type { Browser, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import {
  drawn,
  eachOnItsPage,
  finished,
  firstPicture,
  openBench,
  putProject,
  saved,
  SMALL,
  stored,
  type Application,
  wholePixels,
} from "./support";

const errors: string[] = [];
const poll = (of: () => Promise<unknown>) => expect.poll(of, { timeout: 90_000 });
let app: Application, page: Page;
eachOnItsPage(errors, (a, _b: Browser, p) => {
  app = a;
  page = p;
});

/** A frame of more pixels than its place on screen has. */
const FINE = { ...SMALL, film: { ...SMALL.film, size: [1200, 300] } };
const key = (name: string) => page.locator("body").press(name);
const box = async () => (await page.getByTestId("picture").boundingBox())!;
const extinction = () => page.getByLabel("Extinction", { exact: true }).first();
const set = async (value: string) => {
  await extinction().fill(value);
  await extinction().press("Enter");
  await finished(page);
};
const proofs = () => page.locator("figure[data-proof]");
const keep = async (count: number) => {
  await key("k");
  await poll(() => proofs().count()).toBe(count);
};
const canvas = () => page.locator("canvas[aria-label=Picture]");

describe("the picture", () => {
  it("is zoomed about the pointer, dragged, rendered at what is seen, and fits again", async () => {
    await wholePixels(page);
    await openBench(page, app, await putProject(app, FINE));
    await finished(page);
    const [fit, before] = [await box(), await canvas().evaluate((c: HTMLCanvasElement) => c.width)];
    const at = { x: fit.x + 0.3 * fit.width, y: fit.y + 0.6 * fit.height };
    await page.mouse.move(at.x, at.y);
    await page.mouse.wheel(0, -400);
    await page.getByRole("group", { name: "Zoom" }).waitFor();
    const zoomed = await box();
    expect(zoomed.width).toBeGreaterThan(1.5 * fit.width);
    expect((at.x - zoomed.x) / zoomed.width).toBeCloseTo(0.3, 2);
    // nothing was rendered for it
    expect(await canvas().evaluate((c: HTMLCanvasElement) => c.width)).toBe(before);
    await page.keyboard.down("Alt");
    await page.mouse.down();
    await page.mouse.move(at.x - 60, at.y, { steps: 3 });
    await page.mouse.up();
    await page.keyboard.up("Alt");
    expect((await box()).x).toBeCloseTo(zoomed.x - 60, 0);

    await key("9");
    await page.waitForSelector("canvas[aria-label=Picture][data-part=yes]");
    await finished(page);
    const part = await canvas().evaluate((c: HTMLCanvasElement) => ({
      pixels: c.width,
      shown: c.getBoundingClientRect().width,
      place: c.closest("main")!.clientWidth,
    }));
    // a pixel of the frame for each of the screen, of what is in sight alone
    expect((await box()).width).toBeCloseTo(1200, 0);
    expect(part.pixels).toBeCloseTo(part.shown, 0);
    expect(part.pixels).toBeLessThanOrEqual(part.place + 1);
    expect(part.pixels).toBeGreaterThan(0.9 * part.place);
    // what is pressed there is found in the frame: the ground before the pillar
    await page.mouse.move(fit.x + 0.5 * fit.width, fit.y + 0.9 * fit.height);
    await poll(() => page.locator("footer").innerText()).toMatch(/\d m away/);
    await key("0");
    await page.waitForSelector("canvas[aria-label=Picture][data-part=no]");
    expect((await box()).width).toBeCloseTo(fit.width, 0);
    expect(await page.getByRole("group", { name: "Zoom" }).count()).toBe(0);
  });

  it("has all its passes in a strip, and the air of each light", async () => {
    await openBench(page, app, await putProject(app, SMALL));
    await finished(page);
    await key("Shift+P");
    const strip = page.getByRole("region", { name: "Passes" });
    const lamp = strip.getByRole("button", { name: / air$/ });
    // opening it has the lights kept apart, in a picture of their own
    await poll(() => lamp.count()).toBeGreaterThan(1);
    const tiles = strip.getByRole("button", { pressed: false });
    await poll(() => strip.locator("canvas[data-there=no]").count()).toBe(0);
    expect(await tiles.count()).toBeGreaterThan(14);
    const names = await lamp.allTextContents();
    const seen: number[] = [];
    const mean = () =>
      canvas().evaluate((c: HTMLCanvasElement) => {
        const { data } = c.getContext("2d")!.getImageData(0, 0, c.width, c.height);
        return data.reduce((a, v, i) => (i % 4 === 3 ? a : a + v), 0) / data.length;
      });
    for (let i = 0; i < names.length; i++) {
      await lamp.nth(i).click();
      await page.getByRole("note", { name: "Pass that is shown" }).getByText("air alone").waitFor();
      await finished(page);
      seen.push(await mean());
    }
    await key("Period");
    expect(await lamp.and(page.locator("[aria-pressed=true]")).count()).toBe(0);
    await strip.getByRole("button", { name: /^air alone/ }).click();
    await finished(page);
    const all = await mean();
    expect(Math.max(...seen)).toBeLessThanOrEqual(all + 0.5);
    expect(Math.max(...seen)).toBeGreaterThan(Math.min(...seen));
  });

  it("has a loupe, and pixels as fine or coarse as is asked", async () => {
    await wholePixels(page);
    await openBench(page, app, await putProject(app));
    await finished(page);
    await key("Shift+U");
    const b = await box();
    await page.mouse.move(b.x + 0.5 * b.width, b.y + 0.5 * b.height);
    const loupe = page.locator("canvas[aria-label=Loupe][data-at]");
    await loupe.waitFor();
    const [x] = (await loupe.getAttribute("data-at"))!.split(" ").map(Number);
    const width = await canvas().evaluate((c: HTMLCanvasElement) => c.width);
    expect(x).toBeCloseTo(0.5 * width, -1);
    // its middle is the pixel under the pointer
    const same = await page.evaluate(() => {
      const of = (label: string, px: number, py: number) =>
        [
          ...document.querySelector<HTMLCanvasElement>(`canvas[aria-label=${label}]`)!.getContext("2d")!.getImageData(px, py, 1, 1).data,
        ].join();
      const [px, py] = document.querySelector<HTMLCanvasElement>("canvas[aria-label=Loupe]")!.dataset.at!.split(" ").map(Number);
      return of("Loupe", 76, 76) === of("Picture", px!, py!);
    });
    expect(same).toBe(true);
    await key("4");
    await page.getByRole("radiogroup", { name: "Live pixels" }).getByRole("radio", { name: "half" }).click();
    await key("3");
    await set("0.03");
    expect(await canvas().evaluate((c: HTMLCanvasElement) => c.width)).toBeCloseTo(width / 2, 0);
  });
});

describe("proofs", () => {
  it("stand beside one another, zoom together, have stars and an order, and leave as sheets", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await keep(1);
    for (const [i, v] of ["0.04", "0.08", "0.005"].entries()) {
      await set(v);
      await keep(i + 2);
    }
    await page.getByRole("button", { name: "Proof 2: show in front" }).click();
    await page.getByRole("button", { name: "Proof 3: show in front" }).click();
    await key("y");
    await poll(() => page.locator("[data-beside]").count()).toBe(1);
    await key("y");
    await poll(() => page.locator("[data-beside]").count()).toBe(3);
    await page.waitForFunction(() =>
      [...document.querySelectorAll<HTMLElement>("[data-beside] canvas[data-shown]")].every((c) => c.dataset.drawn),
    );
    const front = await box();
    await page.mouse.move(front.x + 0.5 * front.width, front.y + 0.5 * front.height);
    await page.mouse.wheel(0, -300);
    const widths = async () =>
      page
        .locator("[data-beside], [data-testid=picture]")
        .evaluateAll((all) => all.map((e) => Math.round(e.getBoundingClientRect().width)));
    await poll(async () => new Set(await widths()).size).toBe(1);
    expect((await widths())[0]).toBeGreaterThan(front.width);
    await page.locator("[data-beside=live]").click();
    await page.waitForSelector("canvas[aria-label=Picture][data-shown=live]");
    await key("y");
    await poll(() => page.locator("[data-beside]").count()).toBe(0);
    await key("0");

    // stars, notes and their filter
    await page.getByRole("button", { name: "Star of proof 2" }).click();
    await page.getByLabel("Note on proof 3").fill("thick haze");
    await page.getByLabel("Note on proof 3").press("Enter");
    const filter = page.getByLabel("Filter of the proofs");
    await filter.fill("thick");
    await poll(() => proofs().count()).toBe(1);
    await filter.fill("");
    await page.getByRole("button", { name: "Those with a star alone" }).click();
    await poll(() => proofs().count()).toBe(1);
    await page.getByRole("button", { name: "Those with a star alone" }).click();
    // order by the keyboard, and by the hand
    const order = async () =>
      proofs().evaluateAll((all) => all.map((f) => f.querySelector("button")!.getAttribute("aria-label")!.slice(6, 7)).join(""));
    await page.getByRole("button", { name: "Proof 4: show in front" }).press("Alt+ArrowUp");
    await poll(order).toBe("1243");
    await proofs().nth(2).dragTo(proofs().nth(0));
    await poll(order).toBe("4123");
    expect(await page.locator("#proofs").innerText()).toMatch(/4 proofs, [\d.]+ [kM]B/);

    await page.getByRole("button", { name: "Contact sheet" }).click();
    const sheet = page.getByRole("group", { name: "Contact sheet" });
    const files: Buffer[] = [];
    for (const kind of ["PNG", "PDF"]) {
      const download = page.waitForEvent("download");
      await sheet.getByRole("button", { name: kind }).click();
      files.push(readFileSync(await (await download).path()));
    }
    const png = decode(files[0]!);
    // white paper with pictures on it
    expect(png.width).toBeGreaterThan(900);
    const dark = Array.from({ length: png.width * png.height }, (_, i) => png.data[i * png.channels]!).filter((v) => v < 200).length;
    expect(dark / (png.width * png.height)).toBeGreaterThan(0.15);
    expect(files[1]!.subarray(0, 5).toString()).toBe("%PDF-");

    await page.reload();
    await firstPicture(page);
    await poll(order).toBe("4123");
    expect(await page.getByRole("button", { name: "Star of proof 2" }).getAttribute("aria-pressed")).toBe("true");
    expect(await page.getByLabel("Note on proof 3").inputValue()).toBe("thick haze");
  });

  it("of a region stay in their place over the live picture, with what they have otherwise, until they are lifted off", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    await key("r");
    const b = await box();
    await page.mouse.move(b.x + 0.5 * b.width, b.y + 0.2 * b.height);
    await page.mouse.down();
    await page.mouse.move(b.x + 0.75 * b.width, b.y + 0.9 * b.height, { steps: 3 });
    await page.mouse.up();
    await set("0.09");
    await keep(1);
    await key("4");
    await page.getByRole("button", { name: "Whole frame" }).click();
    await key("3");
    await set("0.01");
    const patch = page.getByRole("button", { name: "Patch of proof 1: to the front" });
    await poll(() => patch.innerText()).toMatch(/^1 haze extinction 0\.09 1\/m$/);
    const at = (await patch.boundingBox())!;
    expect((at.x - b.x) / b.width).toBeCloseTo(0.5, 1);
    const pixels = page.locator("canvas[aria-label='Patch: proof 1'][data-fresh=yes]");
    await pixels.waitFor();
    // a part of the frame alone, where it lies
    const shown = (await pixels.boundingBox())!;
    expect(shown.width).toBeLessThanOrEqual(b.width + 1);
    await page.getByRole("button", { name: "Patch of proof 1", exact: true }).click();
    await poll(() => patch.count()).toBe(0);
    await page.reload();
    await firstPicture(page);
    await drawn(page);
    expect(await patch.count()).toBe(0);
  });
});

describe("a wedge", () => {
  const cells = () => page.locator("[data-cell] img");

  it("shows a setting over a range, goes on after a reload, and one of its pictures becomes the setting", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await key("Shift+W");
    await page.getByLabel("from").fill("1");
    await page.getByLabel("to", { exact: true }).fill("-1");
    await page.getByRole("button", { name: "Make the wedge" }).click();
    await page.getByText("by factors, both ends have to lie on one side of zero").waitFor();
    await page.getByLabel("from").fill("0.01");
    await page.getByLabel("to", { exact: true }).fill("0.16");
    await page.getByLabel("Samples each").fill("2");
    await page.getByRole("button", { name: "Make the wedge" }).click();
    await poll(() => cells().count()).toBeGreaterThanOrEqual(1);
    await page.reload();
    await firstPicture(page);
    await key("Shift+W");
    await poll(() => cells().count()).toBe(5);
    await page.getByRole("button", { name: "Take over 0.08 1/m" }).click();
    expect(await extinction().inputValue()).toBe("0.08");
    await saved(page);
    expect((await stored(app, id)).document.air[0]).toMatchObject({ density: 0.08 });
    await key("Control+z");
    expect(await extinction().inputValue()).toBe("0.02");
    await page.getByRole("button", { name: "Remove the wedge" }).click();
    await page.getByRole("button", { name: "Bring it back" }).click();
    await poll(() => cells().count()).toBe(5);
  });

  it("of two settings is a table; it is cancelled, gone on with, and left as a sheet", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    await key("Shift+W");
    await page.getByRole("button", { name: "Vary a second setting" }).click();
    await page.getByLabel("values").first().fill("3");
    await page.getByLabel("values").nth(1).fill("2");
    await page.getByLabel("Second setting: find").fill("exposure");
    await page.locator("select[aria-label='Second setting']").selectOption({ label: "Picture: exposure (13)" });
    await page.getByLabel("Samples each").fill("16");
    await page.getByRole("button", { name: "Make the wedge" }).click();
    await page.getByRole("button", { name: "Cancel the wedge" }).click();
    const on = page.getByRole("button", { name: /^Go on, \d left$/ });
    await on.click();
    await poll(() => cells().count()).toBe(6);
    expect(await page.locator("[data-cell='5']").innerText()).toMatch(/0\.04 1\/m, 26 EV\s+[\d.]+ s, noise [\d.]+ %/);
    const download = page.waitForEvent("download");
    await page.getByRole("group", { name: "Sheet of the wedge" }).getByRole("button", { name: "PNG" }).click();
    expect(decode(readFileSync(await (await download).path())).width).toBeGreaterThan(700);
  });
});
