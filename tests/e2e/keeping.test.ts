import { readFileSync } from "node:fs";
import type { Browser, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { Application, eachOnItsPage, brightness, finished, firstPicture, openBench, openPage, putProject, saved, stored } from "./support";

let app: Application, browser: Browser, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, b, p) => ([app, browser, page] = [a, b, p]));

const extinction = () => page.getByRole("spinbutton", { name: "Extinction", exact: true });
async function setExtinction(p: Page, text: string): Promise<void> {
  await p.getByRole("spinbutton", { name: "Extinction", exact: true }).focus();
  await p.keyboard.press("Control+a");
  await p.keyboard.type(text);
  await p.keyboard.press("Enter");
}

describe("the shelf", () => {
  it("holds the demo from the first start: open, make another, duplicate, rename, delete and put back", async () => {
    await page.goto(app.url);
    await page.waitForSelector("[data-project]");
    expect(await page.locator("[data-project]").count()).toBe(1);
    await page.getByRole("button", { name: "Duplicate" }).click();
    await page.waitForFunction(() => document.querySelectorAll("[data-project]").length === 2);
    const copy = page.locator("[data-project]").filter({ hasText: "(copy)" });
    await copy.getByRole("button", { name: "Rename" }).click();
    await page.getByLabel("New name").fill("Thicker morning");
    await page.keyboard.press("Enter");
    const renamed = page.locator("[data-project]").filter({ hasText: "Thicker morning" });
    await renamed.waitFor();
    await renamed.getByRole("button", { name: "Delete" }).click();
    await page.waitForFunction(() => document.querySelectorAll("[data-project]").length === 1);
    await page.getByRole("button", { name: "Restore" }).click();
    await renamed.waitFor();
    await page.getByRole("button", { name: "Begin with palm house at dawn" }).click();
    await page.waitForURL(/\/bench\//);
    await firstPicture(page);
    // a real picture of the demo: neither black nor white
    const [r, g, b] = await brightness(page);
    for (const v of [r, g, b]) {
      expect(v).toBeGreaterThan(15);
      expect(v).toBeLessThan(240);
    }
  });

  it("begins with any set, or empty; a project leaves as one file and comes back the same", async () => {
    await page.goto(app.url);
    const begin = page.getByRole("region", { name: "Begin with" });
    await begin.getByRole("button").first().waitFor();
    // an empty scene, a picture with its depth, four sets, two plates
    expect(await begin.getByRole("button").count()).toBe(8);
    await begin.getByRole("button", { name: "Begin with bell foundry" }).click();
    await firstPicture(page);
    const id = page.url().split("/").at(-1)!;
    await page.keyboard.press("4");
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("button", { name: "Project as one file" }).click(),
    ]);
    expect(download.suggestedFilename()).toBe("bell-foundry.zip");
    const file = await download.path();
    await page.goto(app.url);
    await page.setInputFiles("input[aria-label='Project file']", {
      name: "bell-foundry.zip",
      mimeType: "application/zip",
      buffer: readFileSync(file),
    });
    await firstPicture(page);
    const other = page.url().split("/").at(-1)!;
    expect(other).not.toBe(id);
    expect((await stored(app, other)).document).toEqual((await stored(app, id)).document);
    // a wrong file leaves the shelf as it is
    await page.goto(app.url);
    await page.getByRole("list", { name: "Projects" }).getByRole("listitem").first().waitFor();
    const before = await page.getByRole("list", { name: "Projects" }).getByRole("listitem").count();
    await page.setInputFiles("input[aria-label='Project file']", {
      name: "wrong.zip",
      mimeType: "application/zip",
      buffer: Buffer.from("PK nonsense"),
    });
    await page.getByRole("alert").waitFor();
    expect(await page.getByRole("alert").textContent()).toContain("wrong.zip: not readable as a zip archive");
    expect(await page.getByRole("list", { name: "Projects" }).getByRole("listitem").count()).toBe(before);
  });

  it("says so when a project is not there, and leads back", async () => {
    await page.goto(`${app.url}/bench/nothing`);
    await page.getByText("There is no such project.").waitFor();
    await page.getByRole("link", { name: "Back to the shelf" }).click();
    await page.waitForURL(`${app.url}/`);
  });
});

describe("nothing is lost", () => {
  it("a reload at once after a change keeps it", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await setExtinction(page, "0.123");
    await page.reload();
    await firstPicture(page);
    expect(Number(await extinction().getAttribute("aria-valuenow"))).toBeCloseTo(0.123, 9);
    await saved(page);
    expect((await stored(app, id)).document.air[0]!.density).toBeCloseTo(0.123, 6);
  });

  it("a server killed in the middle: changes stay in the page, are kept over a reload, and saved when it is back", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await saved(page);
    await app.kill();
    await setExtinction(page, "0.077");
    await page.waitForSelector("[data-testid=saved][data-state=offline]");
    await app.run();
    await page.reload();
    await firstPicture(page);
    expect(Number(await extinction().getAttribute("aria-valuenow"))).toBeCloseTo(0.077, 9);
    await saved(page);
    expect((await stored(app, id)).document.air[0]!.density).toBeCloseTo(0.077, 6);
  });

  it("undo and redo outlive a reload", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    const now = async (): Promise<number> => Number(await extinction().getAttribute("aria-valuenow"));
    for (const v of ["0.2", "0.3", "0.4"]) await setExtinction(page, v);
    await page.keyboard.press("Control+z");
    await saved(page);
    await expect
      .poll(() =>
        page.evaluate(
          (key) =>
            new Promise<number>((done) => {
              const open = indexedDB.open("fumarium", 1);
              open.onsuccess = () => {
                const got = open.result.transaction("records").objectStore("records").get(key);
                got.onsuccess = () => done((got.result as { past: unknown[] } | undefined)?.past.length ?? 0);
              };
            }),
          `undo.${id}`,
        ),
      )
      .toBe(2);
    await page.reload();
    await firstPicture(page);
    expect(await now()).toBeCloseTo(0.3, 9);
    const [undo, redo] = [page.getByRole("button", { name: "Undo" }), page.getByRole("button", { name: "Redo" })];
    await expect.poll(() => redo.isEnabled()).toBe(true);
    await redo.click();
    expect(await now()).toBeCloseTo(0.4, 9);
    for (const v of [0.3, 0.2, 0.02]) {
      await undo.click();
      expect(await now()).toBeCloseTo(v, 9);
    }
    expect(await undo.isDisabled()).toBe(true);
  });

  it("two windows: the later one is told, and chooses whose state stays", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    const other = await openPage(browser, errors);
    await openBench(other, app, id);
    await setExtinction(other, "0.2");
    await saved(other);
    await setExtinction(page, "0.4");
    await page.waitForSelector("[data-testid=saved][data-state=conflict]");
    expect((await stored(app, id)).document.air[0]!.density).toBeCloseTo(0.2, 6);
    await page.getByRole("button", { name: "Overwrite" }).click();
    await saved(page);
    expect((await stored(app, id)).document.air[0]!.density).toBeCloseTo(0.4, 6);
    await setExtinction(other, "0.3");
    await other.waitForSelector("[data-testid=saved][data-state=conflict]");
    await other.getByRole("button", { name: "Load the other version" }).click();
    await firstPicture(other);
    expect(Number(await other.getByRole("spinbutton", { name: "Extinction", exact: true }).getAttribute("aria-valuenow"))).toBeCloseTo(
      0.4,
      9,
    );
    await other.close();
  });

  it("two windows of one browser: the other is told before it changes anything, and loads what was saved", async () => {
    const id = await putProject(app);
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const [one, other] = [await context.newPage(), await context.newPage()];
    for (const p of [one, other]) p.setDefaultTimeout(90_000);
    await openBench(other, app, id);
    await openBench(one, app, id);
    await setExtinction(one, "0.25");
    await saved(one);
    await other.waitForSelector("[data-testid=saved][data-state=behind]");
    await other.getByRole("button", { name: "Load the other version" }).click();
    await saved(other);
    await firstPicture(other);
    expect(Number(await other.getByRole("spinbutton", { name: "Extinction", exact: true }).getAttribute("aria-valuenow"))).toBeCloseTo(
      0.25,
      9,
    );
    await context.close();
  });

  it("the latest picture reaches the shelf", async () => {
    const id = await putProject(app);
    await openBench(page, app, id);
    await finished(page);
    await expect
      .poll(
        async () =>
          ((await (await fetch(`${app.url}/api/projects`)).json()) as { projects: { id: string; picture: string | null }[] }).projects.find(
            (p) => p.id === id,
          )?.picture,
        { timeout: 20_000 },
      )
      .toMatch(/^[0-9a-f]{64}$/);
  });
});

describe("without shared memory", () => {
  it("everything works, and the bench says that it is slower", async () => {
    const plain = await Application.start({ FUMARIUM_ISOLATION: "off" });
    try {
      const id = await putProject(plain);
      await openBench(page, plain, id);
      expect(await page.evaluate(() => globalThis.crossOriginIsolated)).toBe(false);
      await page.getByText("without shared memory: slower").waitFor();
      await finished(page);
      const thin = await brightness(page);
      expect(thin[1]).toBeGreaterThan(10);
      await setExtinction(page, "0.5");
      await finished(page);
      expect(await brightness(page)).not.toEqual(thin);
    } finally {
      await plain.kill();
    }
  });
});

describe("with the keyboard alone", () => {
  it("a newcomer opens the demo, thickens the air, keeps a proof and finds the keys", async () => {
    const id = await putProject(app);
    await page.goto(app.url);
    await page.waitForSelector(`[data-project="${id}"]`);
    const tabTo = async (matches: string): Promise<void> => {
      for (let i = 0; i < 120; i++) {
        await page.keyboard.press("Tab");
        if (await page.evaluate((m) => document.activeElement?.matches(m) ?? false, matches)) return;
      }
      throw new Error(`no way to ${matches} by Tab`);
    };
    await tabTo(`[data-project="${id}"] a`);
    await page.keyboard.press("Enter");
    await page.waitForURL(/\/bench\//);
    await firstPicture(page);
    await tabTo("input[aria-label=Extinction]");
    const before = Number(await extinction().getAttribute("aria-valuenow"));
    await page.keyboard.press("ArrowUp");
    await page.keyboard.press("ArrowUp");
    expect(Number(await extinction().getAttribute("aria-valuenow"))).toBeGreaterThan(before);
    await page.keyboard.press("Escape");
    await page.keyboard.press("k");
    await page.waitForSelector("[data-proof]");
    await page.keyboard.press("?");
    await page.getByRole("dialog", { name: "Keys" }).waitFor();
    await page.keyboard.press("Escape");
    await expect.poll(() => page.getByRole("dialog", { name: "Keys" }).isVisible()).toBe(false);
  });

  it("points of the picture are moved to and taken: a pin is set, a lens exposed", async () => {
    const id = await putProject(app);
    await page.goto(`${app.url}/bench/${id}`);
    await firstPicture(page);
    await finished(page);
    await page.keyboard.press("d");
    // the pillar stands in the middle: a little down it, and to the ground beside it
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Enter");
    await page.waitForSelector("[data-pin='0']");
    await page.keyboard.press("Shift+ArrowRight");
    await page.keyboard.press("Shift+ArrowDown");
    await page.keyboard.press("Shift+ArrowDown");
    await page.keyboard.press("Enter");
    await page.waitForSelector("[data-pin='1']");
    await page.keyboard.press("Escape");
    const ev = async (): Promise<number> => {
      await saved(page);
      return ((await stored(app, id)).document as unknown as { film: { exposure: number } }).film.exposure;
    };
    const before = await ev();
    await page.keyboard.press("e");
    await page.keyboard.press("Enter");
    await expect.poll(ev).not.toBe(before);
  });
});
