/** The rendered picture carried along by the veil while air is dragged. */
import type { Locator, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { type Application, eachOnItsPage, finished, openBench, putProject, SMALL } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]), ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]);

/** Mean of what is seen of the picture, sRGB bytes. */
async function seen(): Promise<number> {
  // what is written over the picture is not its light
  await page.evaluate(() => {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync("[data-testid=picture] p { visibility: hidden }");
    document.adoptedStyleSheets = [sheet];
  });
  const png = (await page.getByTestId("picture").screenshot()).toString("base64");
  return page.evaluate(async (data) => {
    const image = await createImageBitmap(new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], { type: "image/png" }));
    const canvas = new OffscreenCanvas(image.width, image.height);
    const context = canvas.getContext("2d")!;
    context.drawImage(image, 0, 0);
    const d = context.getImageData(0, 0, image.width, image.height).data;
    let sum = 0;
    for (let i = 0; i < d.length; i += 4) sum += d[i]! + d[i + 1]! + d[i + 2]!;
    return sum / (0.75 * d.length);
  }, png);
}

const shown = (yes: "yes" | "no") => page.locator(`[data-testid=veil][data-shown=${yes}]`).waitFor({ state: "attached" });

async function open(document: object): Promise<void> {
  // asked for outright it is drawn without a graphics processor too
  await page.addInitScript(() => localStorage.setItem("fumarium.carry", "yes"));
  await openBench(page, app, await putProject(app, document));
  await finished(page);
}

/** Drags the extinction; again, until the veil is seen (its programs compile in the background). The last drag is still held. */
async function dragUntilShown(): Promise<void> {
  const undo = page.getByRole("button", { name: "Undo" });
  const frame = () =>
    page.evaluate(() => new Promise((go) => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(go)))));
  while (true) {
    // findings that come meanwhile move the sheet
    const box = (await page.getByLabel("Extinction", { exact: true }).boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    for (let i = 1; i <= 6; i++) await page.mouse.move(x + 12 * i, y);
    await frame();
    if ((await page.getByTestId("veil").getAttribute("data-shown")) === "yes") return;
    await page.mouse.up();
    await frame();
    if (await undo.isEnabled()) await undo.click();
    await finished(page);
  }
}

/** Drags a field, and sees that the renderer answers before the hand lets go. */
async function rendersWhileDragging(field: Locator): Promise<void> {
  const box = (await field.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 20, y);
  await finished(page);
  expect(await page.getByTestId("veil").getAttribute("data-shown")).toBe("no");
  await page.mouse.up();
}

describe("a drag of the air", () => {
  it.each(["veil", "shafts"])("carries the picture along at level %s, the way that the render goes after it", async (level) => {
    await open({ ...SMALL, render: { ...SMALL.render, level } });
    const before = await seen();
    await dragUntilShown();
    const carried = await seen();
    await page.mouse.up();
    await shown("no");
    await finished(page);
    const rendered = await seen();
    // it went the way that the render then went
    expect(Math.abs(carried - before)).toBeGreaterThan(0.3);
    expect((carried - before) * (rendered - before)).toBeGreaterThan(0);
    await page.getByRole("button", { name: "Undo" }).click();
    await finished(page);
    expect(Math.abs((await seen()) - before)).toBeLessThan(1);
  });

  it("is left to the renderer where the artist wants it so, and where a veil would stand still", async () => {
    await open({ ...SMALL, air: [{ ...SMALL.air[0]!, noise: {} }] });
    await rendersWhileDragging(page.getByLabel("Size", { exact: true }).first());
    await page.getByLabel("Preview while dragging").uncheck();
    await rendersWhileDragging(page.getByLabel("Extinction", { exact: true }));
    expect(await page.evaluate(() => localStorage.getItem("fumarium.carry"))).toBe("no");
  });
});
