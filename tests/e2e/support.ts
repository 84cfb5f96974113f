/** What end-to-end tests share: pages, projects, and waiting on states. */
import type { Browser, Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, beforeEach, expect } from "vitest";
import { GROUPS, GROUPS_KEPT } from "../../src/ui/bench/model/groups";
import { FINENESS_KEPT } from "../../src/ui/bench/model/view";
import { Application, openBrowser } from "../support/application";

export { Application, openBrowser };

/** A page that fails the test on any script error. */
export async function openPage(browser: Browser, errors: string[]): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(90_000);
  page.on("pageerror", (e) => errors.push(e.message));
  // as one who has opened every group of the sheet: tests of the sheet itself begin anew
  await remember(page, GROUPS_KEPT, JSON.stringify(Object.fromEntries(Object.keys(GROUPS).map((id) => [id, true]))));
  // pictures of a quarter of the pixels each way are there sixteen times as soon, which most of these tests wait for
  await remember(page, FINENESS_KEPT, "0.25");
  return page;
}

/** Has a page keep a setting from the first, unless it keeps another by then. */
async function remember(page: Page, key: string, value: string): Promise<void> {
  await page.addInitScript(([k, v]) => localStorage.getItem(k!) ?? localStorage.setItem(k!, v!), [key, value]);
}

/** Renders the pages of a test at the pixels that they show. */
export async function wholePixels(page: Page): Promise<void> {
  await page.addInitScript((key) => localStorage.setItem(key, "1"), FINENESS_KEPT);
}

/** A scene that needs no model and renders fast: a pillar in the sun, in haze. */
export const SMALL = {
  fumarium: 2,
  title: "Pillar in haze",
  materials: { stone: { baseColor: [0.5, 0.48, 0.45] } },
  objects: [
    { kind: "rectangle", material: "stone", size: [40, 40], name: "ground" },
    { kind: "box", material: "stone", position: [0, 2, 0], size: [1, 4, 1], name: "pillar" },
  ],
  camera: { position: [0, 2, 12], target: [0, 2, 0], fieldOfView: 30 },
  sun: { azimuth: 30, elevation: 20 },
  air: [{ name: "haze", density: 0.02, height: { level: 0, scale: 6 } }],
  render: { samples: 4, surfaceBounces: 0, airSamples: 1 },
  // a low wide frame has few pixels in a window of any height
  film: { size: [640, 160], exposure: 13 },
};

/** Puts a document on the shelf through the same endpoint as the pages use. @returns its id */
export async function putProject(app: Application, document: unknown = SMALL): Promise<string> {
  const r = await fetch(`${app.url}/api/projects`, {
    method: "POST",
    headers: { origin: app.url, "content-type": "application/json" },
    body: JSON.stringify({ document }),
  });
  if (!r.ok) throw new Error(await r.text());
  return ((await r.json()) as { id: string }).id;
}

/** Opens a project's bench and waits for its first picture. */
export async function openBench(page: Page, app: Application, id: string): Promise<void> {
  await page.goto(`${app.url}/bench/${id}`);
  await firstPicture(page);
}
export async function firstPicture(page: Page): Promise<void> {
  await page.waitForFunction(() => document.querySelector<HTMLElement>("[data-testid=phase]")?.dataset.firstPicture);
}
/** Waits until the live picture is finished, and cleaned. */
export async function finished(page: Page): Promise<void> {
  await page.waitForSelector("[data-testid=phase][data-phase=done][data-cleaning=no]");
  await drawn(page);
}
export async function saved(page: Page): Promise<void> {
  await page.waitForSelector("[data-testid=saved][data-state=saved]");
}
/** The document as the server has it. */
export async function stored(
  app: Application,
  id: string,
): Promise<{ revision: number; document: typeof SMALL & Record<string, unknown> }> {
  return (await (await fetch(`${app.url}/api/projects/${id}`)).json()) as never;
}
/** Waits until what was asked for last is on the canvas. */
export async function drawn(page: Page): Promise<void> {
  await page.waitForSelector("canvas[aria-label=Picture][data-fresh=yes]");
}
/** Mean of the picture's bytes per band, in a part of it given by shares. */
export async function brightness(page: Page, part: [number, number, number, number] = [0, 0, 1, 1]): Promise<[number, number, number]> {
  await drawn(page);
  return page.evaluate(([x, y, w, h]) => {
    const c = document.querySelector<HTMLCanvasElement>("canvas[aria-label=Picture]")!;
    const d = c
      .getContext("2d")!
      .getImageData(
        Math.floor(x * c.width),
        Math.floor(y * c.height),
        Math.max(1, Math.floor(w * c.width)),
        Math.max(1, Math.floor(h * c.height)),
      ).data;
    const sum = [0, 0, 0];
    for (let i = 0; i < d.length; i += 4) for (let k = 0; k < 3; k++) sum[k]! += d[i + k]!;
    return sum.map((v) => v / (d.length / 4)) as [number, number, number];
  }, part);
}

/** How much a part of the picture differs from place to place: standard deviation of its green, 0 to 255. */
export async function contrast(page: Page, part: [number, number, number, number]): Promise<number> {
  await drawn(page);
  return page.evaluate(([x, y, w, h]) => {
    const c = document.querySelector<HTMLCanvasElement>("canvas[aria-label=Picture]")!;
    const d = c.getContext("2d")!.getImageData(x * c.width, y * c.height, w * c.width, h * c.height).data;
    let sum = 0,
      squares = 0;
    for (let i = 1; i < d.length; i += 4) {
      sum += d[i]!;
      squares += d[i]! ** 2;
    }
    const n = d.length / 4;
    return Math.sqrt(Math.max(0, squares / n - (sum / n) ** 2));
  }, part);
}

/** Starts an application and a browser for the tests of a file, and opens a page for each; script errors fail the test. */
export function eachOnItsPage(
  errors: string[],
  ready: (app: Application, browser: Browser, page: Page) => void,
  more: readonly string[] = [],
): void {
  let app: Application, browser: Browser, page: Page;
  beforeAll(async () => {
    app = await Application.start();
    browser = await openBrowser(more);
  });
  afterAll(async () => {
    await browser?.close();
    await app?.kill();
  });
  beforeEach(async () => {
    errors.length = 0;
    page = await openPage(browser, errors);
    ready(app, browser, page);
  });
  afterEach(async () => {
    await page.close();
    expect(errors).toEqual([]);
  });
}
