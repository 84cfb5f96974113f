/** The sheet: groups that fold, and one field that finds everything. */
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { type Application, eachOnItsPage, finished, openBench, putProject, saved, SMALL, stored } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

/** As a newcomer has it: nothing opened or folded by hand. */
async function openAnew(document: object = SMALL): Promise<void> {
  await page.addInitScript(() => {
    if (sessionStorage.getItem("anew")) return;
    sessionStorage.setItem("anew", "yes");
    localStorage.removeItem("fumarium.groups");
  });
  await openBench(page, app, await putProject(app, document));
  await finished(page);
}
const head = (name: RegExp) => page.getByRole("heading", { level: 3 }).getByRole("button", { name });

describe("groups of the sheet", () => {
  it("say folded what is inside, mark what differs, and stay as they were left", async () => {
    await openAnew();
    const height = head(/^Height falloff/);
    expect(await height.getAttribute("aria-expanded")).toBe("true");
    await height.click();
    expect(await height.textContent()).toContain("0 m, 6 m");
    expect(await height.textContent()).toContain("changed");
    const phase = head(/^Scattering direction/);
    expect(await phase.textContent()).toContain("g 0.6");
    expect(await phase.textContent()).not.toContain("changed");
    await phase.click();
    await page.getByLabel("Anisotropy", { exact: true }).waitFor();
    await page.reload();
    await finished(page);
    expect(await height.getAttribute("aria-expanded")).toBe("false");
    expect(await phase.getAttribute("aria-expanded")).toBe("true");
  });
});

describe("lengths", () => {
  it("are shown and typed in feet where the project says so, while the document keeps metres", async () => {
    const id = await putProject(app, {
      ...SMALL,
      sun: { illuminance: 1000 },
      lights: [{ kind: "point", name: "porch", position: [2, 3, 2], unit: "lux", intensity: 50 }],
      air: [{ name: "mist", density: 0.05, scattering: [1, 1, 1], absorption: [0, 0, 0] }],
    });
    await openBench(page, app, id);
    await finished(page);
    await page.keyboard.press("1");
    const phase = page.getByTestId("phase");
    expect(await phase.getAttribute("data-phase")).toBe("done");
    await page.getByRole("radio", { name: "feet" }).click();
    await page.keyboard.press("3");
    // what is only read otherwise starts no render
    expect(await phase.getAttribute("data-phase")).toBe("done");
    const number = (name: string) => page.getByRole("spinbutton", { name, exact: true });
    // 0.05 1/m over 0.3048 m
    await expect.poll(() => number("Extinction").inputValue()).toBe("0.01524");
    expect(await number("Extinction").getAttribute("aria-valuetext")).toBe("0.01524 1/ft");
    // a mean free path of 100 feet, then of 100 m
    await number("Mean free path").fill("100");
    await number("Mean free path").press("Enter");
    await saved(page);
    const density = async (): Promise<number> =>
      ((await stored(app, id)).document as unknown as { air: { density: number }[] }).air[0]!.density;
    expect(await density()).toBeCloseTo(1 / 30.48, 5);
    // exp(-1) over 100 feet
    expect(Number(await number("Transmittance over 30 ft").getAttribute("aria-valuenow"))).toBeCloseTo(Math.exp(-0.3), 4);
    // a sun of 200 footcandles; a lamp's lux at a metre are as many footcandles at a foot
    await page.keyboard.press("t");
    const table = page.getByRole("table", { name: "Lights" });
    expect(await table.getByRole("row").filter({ hasText: "porch" }).textContent()).toContain("fc");
    const sun = number("Strength of sun");
    expect(await sun.inputValue()).toBe("92.903");
    await sun.fill("200");
    await sun.press("Enter");
    await saved(page);
    const { sun: lit, lights } = (await stored(app, id)).document as unknown as {
      sun: { illuminance: number };
      lights: { intensity: number }[];
    };
    expect(lit.illuminance).toBeCloseTo(2152.78, 2);
    expect(await number("Strength of porch").inputValue()).toBe("50");
    expect(lights[0]!.intensity).toBe(50);
    await page.keyboard.press("Control+z");
    await number("Mean free path").fill("100 m");
    await number("Mean free path").press("Enter");
    await saved(page);
    expect(await density()).toBeCloseTo(0.01, 6);
    expect(await number("Mean free path").inputValue()).toBe("328.1");
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await expect.poll(() => number("Extinction").getAttribute("aria-valuetext")).toBe("0.05 1/m");
  });
});

describe("a tool", () => {
  it("opens the group where its result is told", async () => {
    await openAnew();
    const [pins, size] = [head(/^Solve density from pins/), head(/^Size of the set/)];
    expect(await pins.getAttribute("aria-expanded")).toBe("false");
    await page.keyboard.press("d");
    expect(await pins.getAttribute("aria-expanded")).toBe("true");
    await page.keyboard.press("m");
    const box = (await page.getByTestId("picture").boundingBox())!;
    for (const y of [0.5, 0.9]) await page.mouse.click(box.x + 0.5 * box.width, box.y + y * box.height);
    await page.getByLabel("Actual length", { exact: true }).waitFor();
    expect(await size.getAttribute("aria-expanded")).toBe("true");
  });
});

describe("the finder", () => {
  const seek = async (text: string): Promise<void> => {
    await page.keyboard.press("/");
    await page.getByRole("dialog").getByRole("combobox").fill(text);
    await page.keyboard.press("Enter");
    await page.getByRole("dialog", { name: "Find" }).waitFor({ state: "detached" });
  };
  const focused = (): Promise<string | null> => page.evaluate(() => document.activeElement!.getAttribute("aria-label"));

  it("opens what is folded and puts the control that is meant under the keys", async () => {
    await openAnew({ ...SMALL, lights: [{ kind: "point", name: "porch", position: [2, 3, 2] }] });
    await seek("g");
    await expect.poll(focused).toBe("Anisotropy");
    await page.keyboard.press("Escape");
    await seek("fov");
    await expect.poll(focused).toBe("Field of view");
    await page.keyboard.press("Escape");
    await seek("hdri");
    await expect.poll(focused).toBe("Image: choose a file …");
    // a list that has the keys gives this one to the bench
    await page.locator("select").first().focus();
    await seek("roll");
    await expect.poll(focused).toBe("Roll");
    await page.keyboard.press("Escape");
    await seek("beam");
    await expect.poll(focused).toBe("Air contribution");
    await page.keyboard.press("Escape");
    await seek("porch");
    await page.getByRole("group", { name: "porch" }).waitFor();
    await page.evaluate(() => (document.activeElement as HTMLElement).blur());
    await seek("keep a proof");
    await page.getByRole("button", { name: /^Proof 1/ }).waitFor();
  });

  it("goes through what it found by arrows, says when it finds nothing, and leaves by Escape", async () => {
    await openAnew();
    await page.keyboard.press("/");
    const field = page.getByRole("dialog").getByRole("combobox");
    await field.fill("noise");
    const options = page.getByRole("dialog").getByRole("option");
    expect(await options.count()).toBeGreaterThan(3);
    await page.keyboard.press("ArrowDown");
    expect(await options.nth(1).getAttribute("aria-selected")).toBe("true");
    await page.keyboard.press("ArrowUp");
    await page.keyboard.press("ArrowUp");
    expect(await options.last().getAttribute("aria-selected")).toBe("true");
    await field.fill("xyzzy");
    await page.getByText("Nothing here goes by that name.").waitFor();
    await page.keyboard.press("Escape");
    await field.waitFor({ state: "detached" });
  });
});
