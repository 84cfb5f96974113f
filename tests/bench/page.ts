/**
 * How long the page's own thread is held up while things are dragged on the palm house's bench, in a real browser: the tasks of 50 ms or
 * more, as its PerformanceObserver tells them.
 */
import type { Browser, Locator, Page } from "playwright-core";
import { Application, openBrowser } from "../support/application";

const SIZES = [
  [1280, 800],
  [1920, 1080],
] as const;
/** Moves of a drag, and pixels of each. */
const MOVES = 60;

interface Held {
  longest: number;
  count: number;
  sum: number;
  /** What the longest was about, as far as the browser tells. */
  what: string;
}

/** Tasks of 50 ms or more while something is done, and for a second after it. */
async function heldUp(page: Page, act: () => Promise<void>): Promise<Held> {
  await page.evaluate(() => {
    const tasks: [number, string][] = ((globalThis as { tasks?: unknown }).tasks = []);
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) tasks.push([e.duration, ""]);
    }).observe({ type: "longtask" });
    new PerformanceObserver((list) => {
      for (const e of list.getEntries() as (PerformanceEntry & { scripts?: { invoker: string; duration: number }[] })[]) {
        const [most] = (e.scripts ?? []).toSorted((a, b) => b.duration - a.duration);
        if (most && most.duration >= 50) tasks.push([most.duration, most.invoker]);
      }
    }).observe({ type: "long-animation-frame" });
  });
  await act();
  await page.waitForTimeout(1000);
  const tasks = await page.evaluate(() => (globalThis as unknown as { tasks: [number, string][] }).tasks);
  const longest = tasks.filter(([, what]) => !what).map(([ms]) => ms);
  const [named] = tasks.filter(([, what]) => what).toSorted((a, b) => b[0] - a[0]);
  return { longest: Math.max(0, ...longest), count: longest.length, sum: longest.reduce((a, v) => a + v, 0), what: named?.[1] ?? "" };
}

/** Drags from the middle of something. */
async function drag(page: Page, what: Locator, dx: number, dy: number, moves = MOVES): Promise<void> {
  const box = (await what.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= moves; i++) {
    await page.mouse.move(x + (dx * i) / moves, y + (dy * i) / moves);
    await page.waitForTimeout(16);
  }
  await page.mouse.up();
}

async function say(page: Page, words: string, act: () => Promise<void>): Promise<void> {
  const { longest, count, sum, what } = await heldUp(page, act);
  console.log(
    `  ${words}: longest task ${longest.toFixed(0)} ms, ${count} of 50 ms or more, ${sum.toFixed(0)} ms in all${what ? ` (${what})` : ""}`,
  );
}

/** Waits for two samples a pixel. */
async function settled(page: Page): Promise<void> {
  await page.waitForFunction(() => Number(/(\d+) of/.exec(document.querySelector("footer")?.textContent ?? "")?.[1]) >= 2, null, {
    polling: 500,
  });
}

async function open(browser: Browser, url: string, [width, height]: readonly [number, number]): Promise<Page> {
  const page = await (await browser.newContext({ viewport: { width, height } })).newPage();
  page.setDefaultTimeout(120_000);
  await page.goto(url);
  await page.getByTestId("phase").waitFor();
  await settled(page);
  return page;
}

async function fields(page: Page): Promise<void> {
  const number = (name: string): Locator => page.getByRole("spinbutton", { name, exact: true });
  await say(page, "rendering alone", () => page.waitForTimeout(4000));
  await say(page, "density", () => drag(page, number("Extinction"), 60, 0));
  const handle = page.locator("[data-testid=section] [role=slider]").first();
  await handle.waitFor();
  await settled(page);
  await say(page, "a handle of the section", () => drag(page, handle, 0, -20));
  await page.getByRole("button", { name: /^Finish/ }).click();
  await number("Exposure").waitFor();
  await page.getByRole("img", { name: /^Histogram/ }).waitFor();
  await settled(page);
  // its first drawing is not the drag's
  await page.waitForTimeout(1000);
  await say(page, "exposure", () => drag(page, number("Exposure"), 40, 0));
}

async function space(page: Page): Promise<void> {
  const drawing = page.getByTestId("space");
  const canvas = drawing.locator("canvas[data-drawings]");
  await say(page, "opening space", async () => {
    await page.keyboard.press("x");
    await canvas.waitFor();
    await page.waitForFunction(() => Number(document.querySelector<HTMLElement>("[data-triangles]")?.dataset.triangles) > 100, null, {
      polling: 100,
    });
  });
  await settled(page);
  const drawings = async (): Promise<number> => Number(await canvas.getAttribute("data-drawings"));
  const before = await drawings();
  await say(page, "turning space", () => drag(page, drawing, 40, 8));
  console.log(`    ${(await drawings()) - before} pictures of it`);
}

export async function benchPage(): Promise<void> {
  const app = await Application.start();
  // space is drawn in software, the rest is put together without a graphics processor: both at once would share two processors
  const plain = await openBrowser();
  const drawn = await openBrowser(["--use-angle=swiftshader", "--enable-unsafe-swiftshader"], true);
  try {
    const made = await fetch(`${app.url}/api/projects`, {
      method: "POST",
      headers: { origin: app.url, "content-type": "application/json" },
      body: JSON.stringify({ demo: "palm-house" }),
    });
    const { id } = (await made.json()) as { id: string };
    for (const size of SIZES) {
      console.log(size.join(" × "));
      for (const [browser, act] of [
        [plain, fields],
        [drawn, space],
      ] as const) {
        const page = await open(browser, `${app.url}/bench/${id}`, size);
        await act(page);
        await page.context().close();
      }
    }
  } finally {
    await plain.close();
    await drawn.close();
    await app.kill();
  }
}
