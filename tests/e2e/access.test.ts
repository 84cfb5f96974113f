/** Everybody can use it: no violation that axe knows of on any screen, and whole screens by the keyboard. */
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "playwright-core";
import type { AxeResults } from "axe-core";
import { describe, expect, it } from "vitest";
import { type Application, eachOnItsPage, finished, openBench, putProject, SMALL } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** What axe finds wrong, a line each. */
async function violations(where: string): Promise<string[]> {
  if (!(await page.evaluate(() => "axe" in window))) await page.evaluate(AXE);
  // what fades from one state to the next has the colours of neither
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every(
        ({ playState, timeline, effect }) =>
          playState !== "running" || timeline !== document.timeline || effect?.getTiming().iterations === Infinity,
      ),
  );
  const { violations: found } = await page.evaluate(async () =>
    (window as unknown as { axe: { run(options: object): Promise<AxeResults> } }).axe.run({ resultTypes: ["violations"] }),
  );
  return found.flatMap((v) => v.nodes.map((n) => `${where}: ${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary?.split("\n")[1] ?? ""}`));
}

const RICH = {
  ...SMALL,
  lights: [{ kind: "spot", name: "porch", position: [2, 3, 2], target: [0, 0, 0] }],
  air: [{ ...SMALL.air[0]!, noise: {}, region: { kind: "box", centre: [0, 1, 0], size: [8, 2, 8] } }],
};

describe("screens", () => {
  it("have nothing that axe objects to: shelf", async () => {
    await putProject(app, RICH);
    await page.goto(app.url);
    await page
      .getByRole("link", { name: /Pillar/ })
      .first()
      .waitFor();
    expect(await violations("shelf")).toEqual([]);
  });

  it("have nothing that axe objects to: renders, none and some", async () => {
    await page.goto(`${app.url}/renders`);
    await page.getByText("Nothing is rendered yet").waitFor();
    expect(await violations("no renders")).toEqual([]);
    await openBench(page, app, await putProject(app, SMALL));
    await page.locator("body").press("Shift+R");
    const final = page.getByRole("region", { name: "Final" });
    await final.getByLabel("Width", { exact: true }).fill("64");
    await final.getByRole("button", { name: "Render in the background" }).click();
    await final.getByRole("link", { name: "To the renders" }).click();
    await page.locator("li[data-render][data-state=done]").waitFor();
    await page.getByRole("button", { name: "Files" }).click();
    await page.getByRole("list", { name: "Files" }).getByRole("link").waitFor();
    expect(await violations("renders")).toEqual([]);
  });

  it("have nothing that axe objects to: a stack, its layers and masks", async () => {
    const bytes = { ...SMALL, film: { ...SMALL.film, size: [64, 16] } };
    await openBench(page, app, await putProject(app, bytes));
    await finished(page);
    await page.keyboard.press("k");
    await page.getByRole("button", { name: /^Proof 1/ }).waitFor();
    await page.getByRole("link", { name: "Compose proof 1" }).click();
    await page.waitForFunction(() => Number(document.querySelector<HTMLElement>("[data-testid=composed]")?.dataset.painted) > 0);
    const found = await violations("stack");
    await page.getByRole("button", { name: "air", exact: true }).click();
    for (const kind of ["distance", "paint", "gradient"]) {
      await page.getByLabel("Add to the mask").selectOption(kind);
      found.push(...(await violations(`mask by ${kind}`)));
    }
    for (const fold of ["Air", "Exposure", "Finish", "Glare", "Sources", "Export"])
      await page.getByRole("button", { name: new RegExp(`^${fold}`) }).click();
    found.push(...(await violations("folds")));
    expect(found).toEqual([]);
  });

  it("have nothing that axe objects to: each part of the bench, its drawings and dialogs", async () => {
    await openBench(page, app, await putProject(app, RICH));
    await finished(page);
    const found: string[] = [];
    for (const [key, part] of ["set", "lights", "air", "finish"].entries()) {
      await page.keyboard.press(String(key + 1));
      await page.locator(`#part-${part}`).waitFor();
      if (part === "lights") await page.getByRole("button", { name: /^porch/ }).click();
      found.push(...(await violations(part)));
    }
    await page.keyboard.press("k");
    await page.getByRole("button", { name: /^Proof 1/ }).waitFor();
    for (const [key, name] of [
      ["t", "Light table"],
      ["Shift+T", "Light balance"],
      ["u", "Probes"],
      ["x", "Space"],
      ["Shift+W", "Wedge"],
      ["Shift+P", "Passes"],
      ["Shift+R", "Final"],
      ["Shift+B", "Budget"],
      ["a", "Section"],
    ] as const) {
      await page.keyboard.press(key);
      await page.getByRole("region", { name }).waitFor();
      found.push(...(await violations(name)));
    }
    await page.keyboard.press("BracketRight");
    await page.getByRole("button", { name: /^Proof 1/ }).click();
    await page.locator("body").press("i");
    await page.getByRole("region", { name: "Differences" }).getByRole("listitem").first().waitFor();
    found.push(...(await violations("differences")));
    await page.keyboard.press("Escape");
    await page.keyboard.press("?");
    await page.getByRole("dialog", { name: "Keys" }).waitFor();
    found.push(...(await violations("keys")));
    await page.keyboard.press("Escape");
    await page.keyboard.press("/");
    await page.getByRole("dialog").getByRole("combobox").fill("vis");
    found.push(...(await violations("finder")));
    expect(found).toEqual([]);
  });
});

describe("the keyboard", () => {
  it("goes from the sheet to the picture and the proofs in three keys, and links at the top do too", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    const focused = (): Promise<string> => page.evaluate(() => document.activeElement!.id);
    const stops: string[] = [];
    for (let i = 0; i < 4; i++) {
      await page.keyboard.press("F6");
      stops.push(await focused());
    }
    expect(stops).toEqual(["sheet", "picture", "drawing", "proofs"]);
    await page.keyboard.press("Shift+F6");
    expect(await focused()).toBe("drawing");
    await page.reload();
    await finished(page);
    await page.keyboard.press("Tab");
    await page.keyboard.press("Tab");
    await page.keyboard.press("Enter");
    expect(await focused()).toBe("picture");
  });

  it("stops at a group of choices once, and arrows choose within", async () => {
    await openBench(page, app, await putProject(app));
    await finished(page);
    const level = page.getByRole("radiogroup", { name: "Level" });
    await level.getByRole("radio", { checked: true }).focus();
    await page.keyboard.press("ArrowRight");
    const chosen = await level.getByRole("radio", { checked: true }).textContent();
    expect(await page.evaluate(() => document.activeElement!.textContent)).toBe(chosen);
    await page.keyboard.press("Tab");
    expect(await level.evaluate((g) => g.contains(document.activeElement))).toBe(false);
  });
});

describe("small windows", () => {
  it.each([
    [1024, 700],
    [640, 400],
  ])("of %d × %d have no sideways scrolling", async (width, height) => {
    await page.setViewportSize({ width, height });
    await openBench(page, app, await putProject(app));
    await finished(page);
    const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
    expect(over).toBeLessThanOrEqual(0);
    const picture = (await page.getByTestId("picture").boundingBox())!;
    expect(picture.width).toBeGreaterThan(100);
    await page.goto(app.url);
    await page
      .getByRole("link", { name: /Pillar/ })
      .first()
      .waitFor();
    expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
  });
});
