/** The rendered picture carried along by the veil while air is dragged. */
import type { Locator, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { type Application, drawn, eachOnItsPage, finished, openBench, putProject, SMALL, wholePixels } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]), ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]);

/** What is seen of the picture at a tenth of its size, sRGB bytes, four a pixel. */
async function pixels(): Promise<number[]> {
  await drawn(page);
  // what is written over the picture is not its light
  await page.evaluate(() => {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync("[data-testid=picture] p { visibility: hidden }");
    document.adoptedStyleSheets = [sheet];
  });
  const png = (await page.getByTestId("picture").screenshot()).toString("base64");
  return page.evaluate(async (data) => {
    const image = await createImageBitmap(new Blob([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], { type: "image/png" }));
    const [width, height] = [Math.round(image.width / 10), Math.round(image.height / 10)];
    const canvas = new OffscreenCanvas(width, height);
    const context = canvas.getContext("2d")!;
    context.imageSmoothingQuality = "high";
    context.drawImage(image, 0, 0, width, height);
    return [...context.getImageData(0, 0, width, height).data];
  }, png);
}
/** Mean of what is seen, and how far two pictures are apart (root mean square); opacity is the same everywhere. */
const meanOf = (p: number[]): number => (p.reduce((a, v) => a + v, 0) / p.length - 63.75) / 0.75;
const apart = (a: number[], b: number[]): number => Math.sqrt(a.reduce((sum, v, i) => sum + (v - b[i]!) ** 2, 0) / (0.75 * a.length));
const seen = async (): Promise<number> => meanOf(await pixels());

const shown = (yes: "yes" | "no") => page.locator(`[data-testid=veil][data-shown=${yes}]`).waitFor({ state: "attached" });

async function open(document: object): Promise<void> {
  // asked for outright it is drawn without a graphics processor too
  await page.addInitScript(() => localStorage.setItem("fumarium.carry", "yes"));
  await openBench(page, app, await putProject(app, document));
  await finished(page);
}

/** Drags a field; again, until the veil is seen (its programs compile in the background). The last drag is still held. */
async function dragUntilShown(field = "Extinction", step = 12): Promise<void> {
  const undo = page.getByRole("button", { name: "Undo" });
  const frame = () =>
    page.evaluate(() => new Promise((go) => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(go)))));
  while (true) {
    // findings that come meanwhile move the sheet
    const box = (await page.getByLabel(field, { exact: true }).first().boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    for (let i = 1; i <= 6; i++) await page.mouse.move(x + step * i, y);
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

  it("of the sun carries shadows and shafts along, the way that the render goes after it", async () => {
    await wholePixels(page);
    await open({
      ...SMALL,
      air: [{ name: "haze", density: 0.02, height: { level: 0, scale: 6 } }],
      render: { ...SMALL.render, level: "shafts" },
    });
    await page
      .getByRole("navigation", { name: "Sheet" })
      .getByRole("button", { name: /^Lights/ })
      .first()
      .click();
    const before = await pixels();
    await dragUntilShown("Elevation", 10);
    // to and fro between two places of the sun, whose maps are there in a while; at rest the renderer would take over
    const veil = page.getByTestId("veil");
    const is = async (what: "shown" | "tracing"): Promise<boolean> => (await veil.getAttribute(`data-${what}`)) === "yes";
    const box = (await page.getByLabel("Elevation", { exact: true }).first().boundingBox())!;
    let moves = 0;
    const move = async (): Promise<void> => page.mouse.move(box.x + box.width / 2 + 60 - 5 * (++moves % 2), box.y + box.height / 2);
    let carried: number[] | null = null;
    while (!carried) {
      do await move();
      while (await is("tracing"));
      if (!(await is("shown"))) continue;
      let taken = false;
      const picture = pixels().finally(() => (taken = true));
      while (!taken) await move();
      if (await is("shown")) carried = await picture;
    }
    await page.mouse.up();
    await shown("no");
    await finished(page);
    const rendered = await pixels();
    expect(apart(before, rendered)).toBeGreaterThan(5);
    expect(apart(carried, rendered)).toBeLessThan(0.3 * apart(before, rendered));
  });

  it("is left to the renderer where the artist wants it so, and where a veil would stand still", async () => {
    await open({ ...SMALL, air: [{ ...SMALL.air[0]!, noise: {} }] });
    await rendersWhileDragging(page.getByLabel("Size", { exact: true }).first());
    await page.getByLabel("Preview while dragging").uncheck();
    await rendersWhileDragging(page.getByLabel("Extinction", { exact: true }));
    expect(await page.evaluate(() => localStorage.getItem("fumarium.carry"))).toBe("no");
  });
});
