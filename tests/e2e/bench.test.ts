import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { readExr } from "#core/formats/exr-read";
import { decode } from "fast-png";
import {
  type Application,
  eachOnItsPage,
  brightness,
  drawn,
  finished,
  firstPicture,
  openBench,
  putProject,
  saved,
  SMALL,
  stored,
} from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const field = (label: string) => page.getByRole("spinbutton", { name: label, exact: true });
/** Types into a number field as a user would. */
async function type(label: string, text: string): Promise<void> {
  await field(label).focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
}
const value = async (label: string): Promise<number> => Number(await field(label).getAttribute("aria-valuenow"));
const part = (title: string) =>
  page
    .getByRole("navigation", { name: "Sheet" })
    .getByRole("button", { name: new RegExp(`^${title}`) })
    .first()
    .click();

async function download(button: string): Promise<Buffer> {
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: button }).click()]);
  return readFileSync(await file.path());
}

describe("the bench", () => {
  it("says the amount of air in linked numbers: change one and the rest and the picture follow", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    const thin = await brightness(page, [0.46, 0.3, 0.08, 0.3]);
    expect(await value("Extinction")).toBeCloseTo(0.02, 6);
    await type("Visibility", "10 m");
    expect(await value("Extinction")).toBeCloseTo(-Math.log(0.05) / 10, 5);
    expect(await value("Mean free path")).toBeCloseTo(10 / -Math.log(0.05), 4);
    expect(await value("Transmittance over 10 m")).toBeCloseTo(0.05, 5);
    await type("Transmittance over 10 m", "50");
    expect(await value("Extinction")).toBeCloseTo(Math.log(2) / 10, 6);
    await type("Mean free path", "0.2*20 ft");
    expect(await value("Mean free path")).toBeCloseTo(4 * 0.3048, 4);
    await finished(page);
    // haze this thick keeps even the sun out, and with it what it lit
    const thick = await brightness(page, [0.46, 0.3, 0.08, 0.3]);
    expect(Math.abs(thick[1] - thin[1])).toBeGreaterThan(15);
    await saved(page);
    expect((await stored(app, id)).document.air[0]!.density).toBeCloseTo(1 / (4 * 0.3048), 4);
  });

  it("number fields scrub, step, refuse nonsense, and reset; a drag is one step of undo", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    const box = (await field("Extinction").boundingBox())!;
    await page.mouse.move(box.x + 20, box.y + 8);
    await page.mouse.down();
    for (let i = 1; i <= 10; i++) await page.mouse.move(box.x + 20 + 6 * i, box.y + 8);
    await page.mouse.up();
    const scrubbed = await value("Extinction");
    expect(scrubbed).toBeGreaterThan(0.03);
    await page.keyboard.press("Control+z");
    expect(await value("Extinction")).toBeCloseTo(0.02, 9);
    await page.keyboard.press("Control+Shift+z");
    expect(await value("Extinction")).toBeCloseTo(scrubbed, 9);

    await field("Anisotropy").focus();
    await page.keyboard.press("ArrowUp");
    expect(await value("Anisotropy")).toBeCloseTo(0.61, 9);
    await page.keyboard.press("Shift+ArrowDown");
    expect(await value("Anisotropy")).toBeCloseTo(0.51, 9);
    await field("Anisotropy").focus();
    await page.keyboard.press("Control+a");
    await page.keyboard.type("banana");
    await page.keyboard.press("Enter");
    // said beside the field, which keeps what was typed until it is left
    await page.getByText("Not a number: type one as 0.5 or 1/3.").waitFor();
    await page.keyboard.press("Escape");
    expect(await value("Anisotropy")).toBeCloseTo(0.51, 9);
    await type("Anisotropy", "7");
    expect(await value("Anisotropy")).toBe(0.99);
    await page.getByText("From -0.99 g to 0.99 g.").waitFor();
    // Enter gave the keys back to the bench
    await page.keyboard.press("c");
    await page.getByText("clear air", { exact: true }).waitFor();
    await page.keyboard.press("c");
    await field("Anisotropy").dblclick();
    expect(await value("Anisotropy")).toBe(0.6);
  });

  it("shows what scattering and absorption do, and takes exact zeros and ones", async () => {
    await openBench(page, app, await putProject(app));
    await type("Scattering, red", "0");
    await type("Absorption, red", "1");
    await type("Scattering, blue", "0");
    const emissive = await page.locator("text=in white light").locator("xpath=./span").getAttribute("style");
    expect(emissive).toMatch(/rgb\(0 255 0\)|rgb\(0, 255, 0\)/);
    const left = await page.locator("text=is left of white light").locator("xpath=./span").getAttribute("style");
    expect(left).toMatch(/rgb\(\d+,? \d+,? 255\)/);
    await finished(page);
    expect((await brightness(page)).every(Number.isFinite)).toBe(true);
  });

  it("several media lie over each other, each with its own fields; none is lost when another changes", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await page.getByRole("button", { name: "Add another medium" }).click();
    await page
      .getByRole("group", { name: "Presets" })
      .getByRole("button", { name: /^stage haze/ })
      .click();
    await expect.poll(() => page.getByRole("radio", { name: "stage haze" }).getAttribute("aria-checked")).toBe("true");
    await page.getByLabel("Region", { exact: true }).selectOption("sphere");
    await type("Radius", "3");
    await page.getByLabel("Phase function", { exact: true }).selectOption("droplets");
    await type("Droplet diameter", "20");
    await finished(page);
    const thick = await brightness(page);
    await page.getByRole("radio", { name: "haze", exact: true }).click();
    await page.getByLabel("Shape", { exact: true }).selectOption("linear");
    await type("Extinction", "0.05");
    await saved(page);
    const air = (await stored(app, id)).document.air as unknown as Record<string, { kind?: string; shape?: string; model?: string }>[];
    expect(air).toHaveLength(2);
    expect(air[0]).toMatchObject({ name: "haze", density: 0.05, height: { shape: "linear", scale: 6 } });
    expect(air[1]).toMatchObject({ name: "stage haze", region: { kind: "sphere", radius: 3 }, phase: { model: "droplets", diameter: 20 } });
    await page.getByRole("radio", { name: "stage haze" }).click();
    await page.getByRole("button", { name: "Remove stage haze" }).click();
    await finished(page);
    expect(await brightness(page)).not.toEqual(thick);
    await page.keyboard.press("Control+z");
    await expect.poll(() => page.getByRole("radio", { name: "stage haze" }).count()).toBe(1);
  });

  it("the veil answers without noise in the air, and is one click from shafts", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await page.getByText("veil", { exact: true }).first().click();
    await finished(page);
    await saved(page);
    expect((await stored(app, id)).document.render).toMatchObject({ level: "veil" });
    await page.getByText("shafts", { exact: true }).first().click();
    await finished(page);
    await saved(page);
    expect((await stored(app, id)).document.render).toMatchObject({ level: "shafts" });
  });

  it("clear air is one key away, with no new render of the frame", async () => {
    await openBench(page, app, await putProject(app, { ...SMALL, air: [{ density: 0.3, height: { level: 0, scale: 6 } }] }));
    await finished(page);
    const hazy = await brightness(page, [0.46, 0.35, 0.08, 0.3]);
    await page.keyboard.press("c");
    await page.waitForFunction(() => document.body.innerText.includes("clear air"));
    expect(await page.getAttribute("[data-testid=phase]", "data-phase")).toBe("done");
    const clear = await brightness(page, [0.46, 0.35, 0.08, 0.3]);
    expect(Math.abs(hazy[0] - clear[0])).toBeGreaterThan(10);
    await page.keyboard.press("c");
    await page.waitForFunction(() => document.querySelector("button[aria-pressed=true]")?.textContent !== "Clear air");
    expect(await brightness(page, [0.46, 0.35, 0.08, 0.3])).toEqual(hazy);
  });

  it("drags the sun to a place in the picture, and shafts follow", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await part("Lights");
    await page.getByRole("button", { name: "Drag the sun in the picture" }).click();
    const frame = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.move(frame.x + frame.width * 0.3, frame.y + frame.height * 0.6);
    await page.mouse.down();
    await page.mouse.move(frame.x + frame.width * 0.75, frame.y + frame.height * 0.25, { steps: 5 });
    await page.mouse.up();
    // a frame 30 degrees high and 4 times as wide: a quarter of the height above the middle, a quarter of the width right of it
    const t = Math.tan((15 * Math.PI) / 180);
    expect(await value("Azimuth")).toBeCloseTo((Math.atan2(0.5 * t * 4, 1) * 180) / Math.PI, 0);
    expect(await value("Elevation")).toBeCloseTo((Math.atan2(0.5 * t, Math.hypot(1, 0.5 * t * 4)) * 180) / Math.PI, 0);
    await saved(page);
    await page.keyboard.press("Control+z");
    expect(await value("Elevation")).toBe(20);
    await type("Strength", "-2");
    expect(await value("Illuminance")).toBeCloseTo(25000, -1);
  });

  it("renders a region alone; the rest of the frame stays dark until the whole is asked for", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await page.keyboard.press("r");
    const frame = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.move(frame.x + frame.width * 0.25, frame.y + frame.height * 0.25);
    await page.mouse.down();
    await page.mouse.move(frame.x + frame.width * 0.75, frame.y + frame.height * 0.75, { steps: 4 });
    await page.mouse.up();
    await saved(page);
    const region = (await stored(app, id)).document.film as unknown as { region: { x: number; width: number } };
    expect(region.region.x).toBeCloseTo(0.25, 1);
    expect(region.region.width).toBeCloseTo(0.5, 1);
    await finished(page);
    await part("Finish");
    await page.getByRole("button", { name: "Whole frame" }).click();
    await saved(page);
    expect(((await stored(app, id)).document.film as unknown as { region: unknown }).region).toBeNull();
  });

  it("exposes and balances without rendering again", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    const before = await brightness(page);
    await page.keyboard.press("BracketLeft");
    await page.keyboard.press("BracketLeft");
    await page.keyboard.press("BracketLeft");
    await page.keyboard.press("4");
    await expect.poll(() => value("Exposure")).toBeCloseTo(12, 4);
    const brighter = await brightness(page);
    expect(brighter[1]).toBeGreaterThan(before[1] + 10);
    expect(await page.getAttribute("[data-testid=phase]", "data-phase")).toBe("done");
    await type("White balance", "3000 K");
    const cold = await brightness(page);
    expect(cold[2] - cold[0]).toBeGreaterThan(brighter[2] - brighter[0] + 10);
  });

  it("finishes the picture without rendering again: tone by fields and by a curve, off and on by a key, undone, and in files", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    const plain = await brightness(page);
    await part("Finish");
    // about a bright pivot all that is darker goes down
    await type("Contrast", "1.8");
    await type("Pivot", "2");
    await expect.poll(async () => (await brightness(page))[1]).toBeLessThan(plain[1] - 15);
    await type("Saturation", "0");
    const [r, g, b] = await brightness(page);
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(0.5);
    // nothing of it renders
    expect(await page.getAttribute("[data-testid=phase]", "data-phase")).toBe("done");
    await page.locator("body").press("o");
    await expect.poll(() => brightness(page)).toEqual(plain);
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({ finish: { on: false, contrast: 1.8, saturation: 0 } });
    await page.locator("body").press("o");
    await expect.poll(async () => (await brightness(page))[1]).toBeLessThan(plain[1] - 15);

    // a curve: the first point of blue is lifted by the keyboard
    await page.getByRole("radiogroup", { name: "Curve of" }).getByRole("radio", { name: "blue" }).click();
    const grey = await brightness(page);
    const point = page.getByRole("slider", { name: "Tone curve of blue: point 1" });
    for (let i = 0; i < 3; i++) await point.press("Shift+ArrowUp");
    await expect.poll(async () => (await brightness(page))[2]).toBeGreaterThan(grey[2] + 8);
    expect((await brightness(page))[0]).toBeCloseTo(grey[0], 5);
    const blue = await brightness(page);
    const png = decode(await download("Picture as PNG"));
    const mean = [0, 1, 2].map((k) => {
      let sum = 0;
      for (let i = k; i < png.data.length; i += 3) sum += png.data[i]!;
      return sum / (png.data.length / 3);
    });
    // the better filter has cleaned it: about the same
    mean.forEach((v, k) => expect(Math.abs(v - blue[k]!)).toBeLessThan(3));
    await page.getByRole("button", { name: "Straighten this curve" }).click();
    await expect.poll(async () => (await brightness(page))[2]).toBeCloseTo(grey[2], 5);
    for (let i = 0; i < 9; i++) await page.keyboard.press("Control+z");
    await expect.poll(() => brightness(page)).toEqual(plain);

    // what makes no sense is said, and changes nothing
    await type("Contrast", "9");
    await expect.poll(() => value("Contrast")).toBeLessThanOrEqual(4);
  });

  it("break-up brings the step size, which is automatic until it is set", async () => {
    const id = await putProject(app, { ...SMALL, air: [{ density: 0.05, region: { kind: "box", centre: [0, 2, 0], size: [8, 4, 8] } }] });
    await openBench(page, app, id);
    await page.getByLabel("Noise").check();
    await page.getByRole("radio", { name: "stepping" }).click();
    expect(await field("Step size").isDisabled()).toBe(true);
    await page.getByLabel("Automatic step size").uncheck();
    await type("Step size", "50 cm");
    await page.getByRole("radiogroup", { name: "Level" }).getByRole("radio", { name: "full" }).click();
    await type("Air bounces", "3");
    await saved(page);
    expect((await stored(app, id)).document.render).toMatchObject({ estimator: "stepping", stepSize: 0.5, level: "full", airBounces: 3 });
    await finished(page);
  });

  it("adds a spot, lights with it, and removes it; everything can be undone", async () => {
    const id = await putProject(app, { ...SMALL, sun: { on: false }, sky: { on: false } });
    await openBench(page, app, id);
    await finished(page);
    expect((await brightness(page))[0]).toBeLessThan(1);
    await part("Lights");
    await page.getByLabel("Add a light").selectOption("spot");
    await type("Intensity", "3e6");
    await finished(page);
    expect((await brightness(page))[0]).toBeGreaterThan(3);
    await page.getByRole("button", { name: "Remove spot" }).click();
    const lines = page.getByRole("list", { name: "Lights" }).getByRole("listitem");
    expect(await lines.count()).toBe(0);
    await page.getByRole("button", { name: "Undo" }).click();
    expect(await lines.count()).toBe(1);
  });
});

describe("proofs", () => {
  it("are kept with their settings and figures, flip and wipe against the live picture and each other, and lead back", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    const first = await brightness(page);
    await page.keyboard.press("k");
    await page.waitForSelector("[data-proof]");
    await type("Visibility", "8");
    await finished(page);
    const second = await brightness(page);
    expect(Math.abs(second[1] - first[1])).toBeGreaterThan(5);
    await page.keyboard.press("k");
    await page.waitForFunction(() => document.querySelectorAll("[data-proof]").length === 2);
    const proofs = page.locator("[data-proof]");
    expect(await proofs.first().innerText()).toMatch(/4 samples/);
    expect(await proofs.first().innerText()).toMatch(/noise [\d.]+ %/);

    // the first proof in front: it is developed from its own film
    await proofs
      .first()
      .getByRole("button", { name: /show in front/ })
      .click();
    await page.waitForSelector("canvas[data-shown]:not([data-shown=live])[data-drawn]");
    await expect.poll(async () => Math.abs((await brightness(page))[1] - first[1])).toBeLessThan(1.5);
    await page.keyboard.press("f");
    await expect.poll(async () => Math.abs((await brightness(page))[1] - second[1])).toBeLessThan(1.5);
    // two proofs against each other
    await proofs
      .first()
      .getByRole("button", { name: /show in front/ })
      .click();
    await proofs
      .nth(1)
      .getByRole("button", { name: /show in front/ })
      .click();
    await page.keyboard.press("w");
    expect(await page.getByTestId("picture").locator("canvas[role=img]").count()).toBe(2);
    const edge = page.getByRole("slider", { name: "Edge of the wipe" });
    const frame = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.move(frame.x + frame.width * 0.5, frame.y + 20);
    await page.mouse.down();
    await page.mouse.move(frame.x + frame.width * 0.2, frame.y + 20, { steps: 3 });
    await page.mouse.up();
    expect(Number(await edge.getAttribute("aria-valuenow"))).toBeCloseTo(20, -1);
    await edge.focus();
    await page.keyboard.press("ArrowRight");
    expect(Number(await edge.getAttribute("aria-valuenow"))).toBeCloseTo(22, -0.5);

    await proofs.first().getByLabel("Note on proof 1").fill("thin and quiet");
    await page.keyboard.press("Enter");
    await proofs.first().getByRole("button", { name: "Restore settings" }).click();
    await expect.poll(() => value("Extinction")).toBeCloseTo(0.02, 6);
    await saved(page);

    // all of it is still there after a reload; a removed one can be brought back
    await page.reload();
    await firstPicture(page);
    expect(await page.getByLabel("Note on proof 1").inputValue()).toBe("thin and quiet");
    await page.getByRole("button", { name: "Remove proof 2" }).click();
    expect(await proofs.count()).toBe(1);
    await page.getByRole("button", { name: "Restore proof" }).click();
    await page.waitForFunction(() => document.querySelectorAll("[data-proof]").length === 2);
  });
});

describe("differences of proofs", () => {
  it("are said in words, and each can be taken over, refused or undone", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await page.keyboard.press("k");
    await page.waitForFunction(() => document.querySelectorAll("[data-proof]").length === 1);
    await type("Extinction", "0.05");
    await page.keyboard.press("BracketLeft");
    await finished(page);
    const proof = page.locator("[data-proof]").first();
    await proof.getByRole("button", { name: /show in front/ }).click();
    await page.locator("body").press("i");
    const panel = page.getByRole("region", { name: "Differences" });
    const lines = panel.getByRole("listitem");
    await expect.poll(() => lines.count()).toBe(2);
    await expect.poll(() => panel.innerText()).toMatch(/What proof 1 has otherwise than the live picture/);
    const said = (await lines.allInnerTexts()).join("\n").replaceAll(/\s+/g, " ");
    expect(said).toMatch(/Picture exposure 12\.67 EV → 13 EV/);
    expect(said).toMatch(/haze extinction 0\.05 1\/m → 0\.02 1\/m/);
    await panel.getByRole("button", { name: "Take over: haze extinction" }).click();
    await expect.poll(() => lines.count()).toBe(1);
    await saved(page);
    expect((await stored(app, id)).document).toMatchObject({ air: [{ density: 0.02 }] });
    await page.keyboard.press("Control+z");
    await expect.poll(() => lines.count()).toBe(2);
    await page.keyboard.press("Escape");
    expect(await panel.count()).toBe(0);
  });
});

describe("the clean-up", () => {
  /** How much neighbouring pixels of the ground differ: noise, where nothing is to be seen. */
  const roughness = (): Promise<number> =>
    drawn(page).then(() =>
      page.evaluate(() => {
        const c = document.querySelector<HTMLCanvasElement>("canvas[aria-label=Picture]")!;
        const [x, y, w, h] = [0.05 * c.width, 0.75 * c.height, 0.3 * c.width, 0.2 * c.height].map(Math.floor) as [
          number,
          number,
          number,
          number,
        ];
        const d = c.getContext("2d")!.getImageData(x, y, w, h).data;
        let sum = 0;
        for (let j = 0; j < h; j++) for (let i = 0; i < w - 1; i++) sum += Math.abs(d[4 * (j * w + i) + 1]! - d[4 * (j * w + i + 1) + 1]!);
        return sum / (h * (w - 1));
      }),
    );
  // a wall that only the sky lights, seen at two samples a pixel
  const grainy = { ...SMALL, sun: { on: false }, sky: { luminance: 4000 }, render: { samples: 2, surfaceBounces: 1, airSamples: 1 } };

  it("shows the picture with its noise taken out; a key holds the rendered one up, another keeps it there", async () => {
    const id = await putProject(app, grainy);
    await openBench(page, app, id);
    await finished(page);
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=yes]");
    const clean = await roughness();
    await page.keyboard.down("q");
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=no]");
    const raw = await roughness();
    expect(raw).toBeGreaterThan(2 * clean);
    expect(await page.getByText("as rendered", { exact: true }).count()).toBe(1);
    await page.keyboard.up("q");
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=yes]");
    await page.keyboard.press("n");
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=no]");
    expect(await page.getByRole("button", { name: "Clean", exact: true }).getAttribute("aria-pressed")).toBe("false");
    await page.keyboard.press("n");
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=yes]");
    expect(await page.getByTestId("noise").innerText()).toMatch(/noise [\d.]+ %, cleaned [\d.]+ %/);
  });

  it("has strengths of its own, which are part of the document and undone; none leaves the picture as it is", async () => {
    const id = await putProject(app, grainy);
    await openBench(page, app, id);
    await finished(page);
    await part("Finish");
    const clean = await roughness();
    for (const label of ["Fireflies", "Air", "Surfaces"]) await type(label, "0");
    await finished(page);
    await expect.poll(roughness).toBeGreaterThan(2 * clean);
    await saved(page);
    expect((await stored(app, id)).document.film).toMatchObject({ cleanUp: { fireflies: 0, air: 0, surfaces: 0 } });
    for (let i = 0; i < 3; i++) await page.keyboard.press("Control+z");
    await finished(page);
    await expect.poll(roughness).toBeLessThan(1.3 * clean);
  });

  it("a picture can be read while density is dragged: coarse sweeps are shown cleaned", async () => {
    const id = await putProject(app, { ...grainy, render: { ...grainy.render, samples: 64 } });
    await openBench(page, app, id);
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=yes]");
    const box = (await field("Extinction").boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    for (let i = 1; i <= 8; i++) {
      await page.mouse.move(box.x + box.width / 2 + 6 * i, box.y + box.height / 2);
      // never the blocks of an early stage
      expect(await page.locator("canvas[aria-label=Picture]").getAttribute("data-cleaned")).toBe("yes");
    }
    await page.mouse.up();
    await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=yes]");
  });

  it("a proof keeps both, the cleaned picture and the rendered one", async () => {
    const id = await putProject(app, grainy);
    await openBench(page, app, id);
    await finished(page);
    await page.keyboard.press("k");
    await page.waitForSelector("[data-proof]");
    await page.reload();
    await firstPicture(page);
    await page
      .locator("[data-proof]")
      .first()
      .getByRole("button", { name: /show in front/ })
      .click();
    await page.waitForSelector("canvas[aria-label=Picture]:not([data-shown=live])[data-cleaned=yes]");
    const clean = await roughness();
    await page.keyboard.down("q");
    await page.waitForSelector("canvas[aria-label=Picture]:not([data-shown=live])[data-cleaned=no]");
    expect(await roughness()).toBeGreaterThan(2 * clean);
    await page.keyboard.up("q");
  });
});

describe("in and out", () => {
  it("light groups leave cleaned too, as layers that add up to the cleaned air and surfaces", async () => {
    const id = await putProject(app, { ...SMALL, film: { ...SMALL.film, lightGroups: true } });
    await openBench(page, app, id);
    await finished(page);
    await part("Finish");
    await page.getByRole("radiogroup", { name: "OpenEXR bit depth" }).getByRole("radio", { name: "float" }).click();
    const exr = readExr(await download("Picture as OpenEXR"));
    const of = (name: string): ArrayLike<number> => exr.channels.find((c) => c.name === name)!.values;
    for (const side of ["air", "surfaces"]) {
      const parts = exr.channels.filter((c) => new RegExp(`^${side}\\.[^.]+\\.clean\\.G$`).test(c.name));
      expect(parts.length).toBeGreaterThan(1);
      const sum = of(`${side}.clean.G`);
      for (let i = 0; i < sum.length; i++) {
        const all = parts.reduce((a, c) => a + c.values[i]!, 0);
        expect(Math.abs(all - sum[i]!)).toBeLessThan(1e-4 * (1 + sum[i]!));
      }
    }
  });

  it("the picture leaves as layered OpenEXR and as PNG, the document as JSON that comes back", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await part("Finish");
    const exr = readExr(await download("Picture as OpenEXR"));
    expect(exr.channels.map((c) => c.name)).toEqual(
      expect.arrayContaining(["R", "air.G", "clear.B", "surfaces.R", "transmittance.G", "depth.Z"]),
    );
    expect(JSON.parse(exr.attributes!["fumarium.document"]!)).toMatchObject({ title: "Pillar in haze" });
    // both are kept: as rendered, and cleaned
    expect(exr.channels.map((c) => c.name)).toEqual(expect.arrayContaining(["beauty.clean.R", "air.clean.G", "surfaces.clean.B"]));
    const png = decode(await download("Picture as PNG"));
    expect([png.width, png.height]).toEqual([exr.width, exr.height]);

    const text = (await download("Document as JSON")).toString("utf8");
    const changed = { ...(JSON.parse(text) as typeof SMALL), title: "Came back" };
    const file = join(app.data, "doc.json");
    writeFileSync(file, JSON.stringify(changed));
    await page.getByTestId("document-file").setInputFiles(file);
    await expect.poll(() => page.getByLabel("Title of the project").inputValue()).toBe("Came back");
    await saved(page);
    expect((await stored(app, id)).document.title).toBe("Came back");

    // wrong files: said clearly, nothing changed
    for (const [content, words] of [
      ["{", /not JSON/],
      [JSON.stringify({ ...changed, fumarium: 3 }), /newer/],
      [JSON.stringify({ ...changed, air: [{ density: -4 }] }), /air\[0\]\.density/],
      [JSON.stringify({ ...changed, assets: { a: { uri: "a.glb", sha256: "1".repeat(64) } } }), /not in the store/],
    ] as const) {
      writeFileSync(file, content);
      await page.getByTestId("document-file").setInputFiles(file);
      await expect.poll(async () => (await page.getByRole("alert").allInnerTexts()).join()).toMatch(words);
    }
    expect(await page.getByLabel("Title of the project").inputValue()).toBe("Came back");
  });
});
