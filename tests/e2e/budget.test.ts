/** The budget: the price in sight, advice by trials, the frame fitted to what it may take, and the final held against what was said. */
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import type { PaidRecord } from "#api/contract";
import { eachOnItsPage, openBench, putProject, SMALL, type Application } from "./support";

const poll = (of: () => Promise<unknown>) => expect.poll(of, { timeout: 150_000, interval: 300 });

/** A frame with a lamp under the floor that costs much and lights nothing. */
const WASTE = {
  ...SMALL,
  objects: [...SMALL.objects, { kind: "box", position: [0, -8, 0], size: [60, 0.5, 60], material: Object.keys(SMALL.materials)[0] }],
  lights: [
    ...((SMALL as { lights?: object[] }).lights ?? []),
    { kind: "point", name: "under", position: [0, -12, 0], intensity: 3000, airSamples: 16 },
  ],
};

describe("the budget of a project", () => {
  const errors: string[] = [];
  let app: Application, page: Page;
  eachOnItsPage(errors, (a, _, p) => {
    app = a;
    page = p;
  });
  const line = () => page.getByRole("group", { name: "Budget", exact: true });
  const drawing = () => page.getByRole("region", { name: "Budget" });
  const looked = async (): Promise<number> => Number(await line().getAttribute("data-looked"));
  const records = async (): Promise<PaidRecord[]> =>
    ((await (await fetch(`${app.url}/api/budget`)).json()) as { records: PaidRecord[] }).records;

  it("is told by the price of the final, which follows edits and says what moved it", async () => {
    await openBench(page, app, await putProject(app, SMALL));
    await poll(looked).toBeGreaterThanOrEqual(4);
    const said = await page.getByTestId("price").innerText();
    expect(said).toMatch(/\d.*\(.* to .*\) per frame/);
    await page.locator("body").press("Shift+B");
    await drawing().getByLabel("Limit", { exact: true }).selectOption("frame");
    await drawing().getByLabel("Minutes per frame", { exact: true }).fill("0.01");
    await page.keyboard.press("Enter");
    await poll(() => line().getAttribute("data-kept")).toBe("no");
    expect(await line().innerText()).toMatch(/over by/);
    await drawing().getByLabel("Minutes per frame", { exact: true }).fill("5000");
    await page.keyboard.press("Enter");
    await poll(() => line().getAttribute("data-kept")).toBe("yes");
    // other noise costs more or less, and can be taken
    await drawing().getByRole("tab", { name: "Noise", exact: true }).click();
    // which of them are listed goes by what they cost: such as cost no less are not
    await drawing()
      .getByRole("button", { name: /^Take raw noise/ })
      .first()
      .click();
    await poll(() => line().innerText()).toMatch(/\d % noise/);
    await page.locator("body").press("Control+z");
    await page.reload();
    await page.getByTestId("phase").waitFor();
    await page.locator("body").press("Shift+B");
    expect(await drawing().getByLabel("Minutes per frame", { exact: true }).inputValue()).toBe("5000");
    expect(errors).toEqual([]);
  });

  it("is kept by what advice finds: over it, fitted, and the final is held against what was said", async () => {
    await openBench(page, app, await putProject(app, WASTE));
    await poll(looked).toBeGreaterThanOrEqual(4);
    await page.locator("body").press("Shift+B");
    // what it may take is a little less than it does, by the clock of this machine
    const seconds = async (): Promise<number> => {
      const text = (await page.getByTestId("price").getAttribute("title")) ?? "";
      return Number(/([\d.]+) s of processor time/.exec(text)?.[1] ?? NaN);
    };
    await drawing().getByLabel("Limit", { exact: true }).selectOption("frame");
    const cpu = await seconds();
    await drawing()
      .getByLabel("Minutes per frame", { exact: true })
      .fill(Number.isFinite(cpu) ? String(Number(((0.75 * cpu) / 2 / 60).toPrecision(3))) : "1");
    await page.keyboard.press("Enter");
    await drawing().getByRole("tab", { name: "Advice", exact: true }).click();
    await drawing().getByLabel("Time for trials").selectOption("30");
    const settings = async (): Promise<string> => {
      const { document } = (await (await fetch(`${app.url}/api/projects/${page.url().split("/").at(-1)!}`)).json()) as {
        document: Record<"lights" | "render" | "air", object>;
      };
      return JSON.stringify([document.lights, document.render, document.air]);
    };
    const before = await settings();
    await drawing().getByRole("button", { name: "Fit the budget" }).click();
    await poll(() => drawing().innerText()).toContain("Before and after are proofs");
    const row = drawing().getByRole("table", { name: "Advice" }).getByRole("row").filter({ hasText: "under" }).first();
    expect(await row.innerText()).toMatch(/under: (off|none in the air)/);
    // one step, which undo takes back
    await poll(settings).not.toBe(before);
    const fitted = await settings();
    await page.locator("body").press("Control+z");
    await poll(settings).toBe(before);
    await page.locator("body").press("Control+Shift+z");
    await poll(settings).toBe(fitted);
    expect(await page.getByRole("button", { name: "Flip" }).isEnabled()).toBe(true);
    // the final: said when it is ordered, kept beside what it took
    await poll(looked).toBeGreaterThanOrEqual(4);
    await page.locator("body").press("Shift+R");
    const final = page.getByRole("region", { name: "Final" });
    await final.getByLabel("Width", { exact: true }).fill("64");
    await final.getByLabel("Samples", { exact: true }).fill("8");
    await poll(() => final.innerText()).toMatch(/about .* per frame/);
    await final.getByRole("button", { name: "Render in the background" }).click();
    await poll(async () => (await records()).length).toBe(1);
    const [record] = await records();
    expect(record!.paid).toBeGreaterThan(0);
    expect(record!.low).toBeLessThan(record!.said);
    expect(record!.samples).toBe(8);
    expect(record!.samplesSaid).toBe(8);
    await page.locator("body").press("Shift+B");
    await drawing().getByRole("tab", { name: "Record", exact: true }).click();
    await drawing().getByRole("img", { name: "Forecast against taken of 1 frames" }).waitFor();
    expect(errors).toEqual([]);
  });

  it("shows where the time goes, and levels beside one another", async () => {
    await openBench(page, app, await putProject(app, SMALL));
    await page.locator("body").press("Shift+B");
    await drawing().getByRole("tab", { name: "Time", exact: true }).click();
    await drawing().getByRole("img", { name: "Time × variance" }).waitFor();
    await drawing().getByRole("img", { name: "Time per sample" }).hover();
    await poll(() => drawing().innerText()).toMatch(/time per sample ×/);
    await drawing().getByRole("tab", { name: "Levels", exact: true }).click();
    await drawing().getByRole("button", { name: "Levels", exact: true }).click();
    await poll(() => drawing().getByRole("table", { name: "Levels on this frame" }).getByRole("row").count()).toBe(4);
    await drawing().getByRole("button", { name: "Take level veil" }).waitFor({ state: "visible" });
    await poll(() => drawing().getByRole("group", { name: "Sheet of the levels" }).count()).toBe(1);
    await drawing().getByRole("button", { name: "Take level veil" }).click();
    await poll(async () => {
      const { document } = (await (await fetch(`${app.url}/api/projects/${page.url().split("/").at(-1)!}`)).json()) as {
        document: { render: { level: string } };
      };
      return document.render.level;
    }).toBe("veil");
    expect(errors).toEqual([]);
  });

  it("tries three frames of many, which cost what moves makes them cost", async () => {
    // a screen comes down before the lens, and all the costly air is behind it: the last frame is a wall
    const screen = {
      ...{ kind: "box", name: "screen", material: Object.keys(SMALL.materials)[0], position: [0, 2, 11], size: [4, 4, 0.1] },
    };
    const motion = { times: [0, 1], positions: [[0, 2, 10], [0, 2, 14]], targets: [[0, 2, 0], [0, 2, 0]] }; // prettier-ignore
    await openBench(
      page,
      app,
      await putProject(app, {
        ...SMALL,
        objects: [...SMALL.objects, screen],
        air: [{ name: "haze", density: 0.05, region: { kind: "box", centre: [0, 4, 0], size: [30, 8, 20] } }],
        render: { ...SMALL.render, airSamples: 16 },
        camera: { ...SMALL.camera, position: [0, 2, 10], motion },
      }),
    );
    await poll(looked).toBeGreaterThanOrEqual(4);
    await page.locator("body").press("Shift+R");
    const final = page.getByRole("region", { name: "Final" });
    await final.getByLabel("Several frames").check();
    await final.getByLabel("From", { exact: true }).fill("0");
    await final.getByLabel("To", { exact: true }).fill("24");
    await final.getByText("as this moment's").waitFor();
    await final.getByRole("button", { name: "Try three frames" }).click();
    const told = final.getByText(/for 25; frames ×[\d.]+ to ×[\d.]+ of this moment/);
    await told.waitFor();
    // the wall costs a part of what the first frame does; how near that is to this moment's is the machine's unrest
    const [least, most] = /×([\d.]+) to ×([\d.]+)/
      .exec(await told.innerText())!
      .slice(1)
      .map(Number) as [number, number];
    expect(least).toBeLessThan(0.5 * most);
    // another edit, and they are told no more
    await page.locator("body").press("Shift+R");
    expect(errors).toEqual([]);
  });
});
