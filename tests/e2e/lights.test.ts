/** The lights of the bench: kinds and units, gobos and profiles, the sky, the table. */
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { encode } from "fast-png";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { type Application, eachOnItsPage, brightness, finished, openBench, putProject, saved, stored } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const folder = mkdtempSync(join(tmpdir(), "fumarium-lights-"));
const file = (name: string, data: string | Uint8Array): string => {
  writeFileSync(join(folder, name), data);
  return join(folder, name);
};
const IES = "IESNA:LM-63-2002\n[TEST] own\nTILT=NONE\n1 1000 1 7 1 1 2 0 0 0\n1 1 50\n0 15 30 45 60 75 90\n0\n400 380 300 180 80 20 0\n";
const room = {
  fumarium: 2,
  title: "A floor",
  materials: { m: { baseColor: [0.7, 0.7, 0.7] } },
  objects: [{ kind: "rectangle", material: "m", size: [40, 40] }],
  camera: { position: [0, 6, 10], target: [0, 0, 0], fieldOfView: 30 },
  sun: { on: false },
  sky: { on: false },
  render: { samples: 4, surfaceBounces: 0, airSamples: 1 },
  film: { size: [640, 160], exposure: 5 },
};
interface Stored {
  lights: Record<string, never>[];
  sky: Record<string, unknown>;
  assets: Record<string, { uri: string }>;
}
const document = async (id: string): Promise<Stored> => {
  await saved(page);
  return (await stored(app, id)).document as unknown as Stored;
};
const open = async (doc: object): Promise<string> => {
  const id = await putProject(app, doc);
  await openBench(page, app, id);
  await page.keyboard.press("2");
  return id;
};
const lamp = (name: string, x: number, more: object = {}) => ({ kind: "point", name, position: [x, 2, 0], intensity: 200, ...more });

describe("a light", () => {
  it("stays as strong when its unit changes, and breaks into rays behind a gobo", async () => {
    const id = await open({
      ...room,
      lights: [{ kind: "spot", name: "beam", position: [0, 6, 0], target: [0, 0, 0], intensity: 800, cone: 60 }],
    });
    await finished(page);
    const plain = await brightness(page);
    await page.getByRole("list", { name: "Lights" }).getByRole("button", { name: /^beam/ }).first().click();
    await page.getByLabel("Unit", { exact: true }).selectOption("lm");
    await finished(page);
    expect(Math.abs((await brightness(page))[0] - plain[0])).toBeLessThan(0.5);
    expect((await document(id)).lights[0]).toMatchObject({ unit: "lm" });
    await page.getByRole("group", { name: "beam" }).getByRole("combobox", { name: "Gobo" }).selectOption("bars");
    await page.getByRole("img", { name: "The gobo's bars on a wall" }).waitFor();
    await finished(page);
    expect((await brightness(page))[0]).toBeLessThan(0.8 * plain[0]);
    const png = encode({ width: 2, height: 2, data: new Uint8Array([255, 0, 0, 255, 0, 0, 255, 0, 0, 255, 0, 0]), channels: 3, depth: 8 });
    await page.getByRole("group", { name: "beam" }).getByRole("combobox", { name: "Gobo" }).selectOption("image");
    await page.setInputFiles("[aria-label=beam] input[aria-label='File of image']", file("red.png", new Uint8Array(png)));
    await page.getByRole("img", { name: "The gobo's image on a wall" }).waitFor();
    await finished(page);
    const [r, g] = await brightness(page);
    expect(r).toBeGreaterThan(3 * g);
    expect((await document(id)).lights[0]).toMatchObject({ gobo: { pattern: "image", image: "red" } });
  });

  it("throws images by time, in the order of their names", async () => {
    const id = await open({
      ...room,
      lights: [{ kind: "spot", name: "beam", position: [0, 6, 0], target: [0, 0, 0], intensity: 800, cone: 60 }],
    });
    await page.getByRole("list", { name: "Lights" }).getByRole("button", { name: /^beam/ }).first().click();
    await page.getByRole("group", { name: "beam" }).getByRole("combobox", { name: "Gobo" }).selectOption("sequence");
    const plain = (rgb: number[]): Uint8Array =>
      new Uint8Array(encode({ width: 1, height: 1, data: new Uint8Array(rgb), channels: 3, depth: 8 }));
    const frames = { "f 10.png": [0, 0, 255], "f 2.png": [0, 255, 0], "f 1.png": [255, 0, 0] };
    await page.setInputFiles(
      "[aria-label=beam] input[aria-label='File of images']",
      Object.entries(frames).map(([name, rgb]) => file(name, plain(rgb))),
    );
    await page.getByRole("img", { name: "The gobo's sequence on a wall" }).waitFor();
    await finished(page);
    const [r, g] = await brightness(page);
    expect(r).toBeGreaterThan(2 * g);
    const time = page.getByRole("group", { name: "beam" }).getByLabel("Time", { exact: true });
    await time.fill("1/24");
    await time.press("Enter");
    await finished(page);
    const later = await brightness(page);
    expect(later[1]).toBeGreaterThan(2 * later[0]);
    expect((await document(id)).lights[0]).toMatchObject({ gobo: { pattern: "sequence", frames: ["f 1", "f 2", "f 10"] } });
  });

  it("is marked in the picture when chosen, and moves with what it hangs on, as one step", async () => {
    const id = await open({
      ...room,
      objects: [...room.objects, { kind: "box", name: "cart", material: "m", size: [1, 1, 1], position: [2, 0.5, 0] }],
      lights: [lamp("lantern", 2)],
    });
    await page
      .getByRole("list", { name: "Lights" })
      .getByRole("button", { name: /^lantern/ })
      .first()
      .click();
    await page.locator("[data-mark=lantern]").waitFor();
    await page.getByRole("group", { name: "lantern" }).getByLabel("Moves with").selectOption({ label: "cart" });
    await page.keyboard.press("1");
    await page.getByRole("button", { name: /^cart/ }).first().click();
    const x = page.getByRole("group", { name: "cart" }).getByLabel("At x");
    await x.fill("5");
    await x.press("Enter");
    expect((await document(id)).lights[0]).toMatchObject({ position: [5, 2, 0], follows: "cart" });
    await page.getByRole("button", { name: "Undo" }).click();
    expect((await document(id)).lights[0]).toMatchObject({ position: [2, 2, 0] });
  });

  it("and the lens are aimed at a point of the picture, as one step each", async () => {
    const id = await open({ ...room, lights: [{ kind: "spot", name: "spot", position: [0, 8, 0], target: [9, 0, 9], intensity: 4000 }] });
    await page.getByRole("list", { name: "Lights" }).getByRole("button", { name: /^spot/ }).first().click();
    await finished(page);
    const aim = page.getByRole("button", { name: "Aim at a point" });
    await aim.click();
    const box = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    const target = (await document(id)).lights[0]!.target as unknown as number[];
    // the lens looks at the origin
    expect(Math.hypot(...target)).toBeLessThan(0.2);
    expect(await aim.getAttribute("aria-pressed")).toBe("false");
    await page.keyboard.press("Control+z");
    expect((await document(id)).lights[0]!.target).toEqual([9, 0, 9]);
    await page.keyboard.press("1");
    await finished(page);
    await page.getByRole("button", { name: "Aim at a point" }).click();
    await page.mouse.click(box.x + box.width * 0.75, box.y + box.height / 2);
    const camera = (await document(id)) as unknown as { camera: { target: number[] } };
    expect(camera.camera.target[0]).toBeGreaterThan(1);
    expect(Math.abs(camera.camera.target[1]!)).toBeLessThan(0.1);
    await finished(page);
  });

  it("where the set hides the sun is hatched while it is dragged; the dome of the sky moves it by hand and keys", async () => {
    const id = await open({
      ...room,
      sun: { azimuth: 0, elevation: 8 },
      camera: { position: [0, 1.6, 10], target: [0, 2.5, 0], fieldOfView: 40 },
      objects: [...room.objects, { kind: "box", material: "m", size: [4, 8, 1], position: [0, 4, 0] }],
    });
    await finished(page);
    await page.keyboard.press("s");
    const hatched = page.getByRole("img", { name: "Hatched: where the set would hide the sun" });
    await page.waitForSelector("canvas[data-hidden=drawn]");
    const share = (from: number, to: number): Promise<number> =>
      hatched.evaluate(
        (c: HTMLCanvasElement, [a, b]) => {
          const x = Math.floor(a! * c.width),
            w = Math.floor((b! - a!) * c.width);
          const d = c.getContext("2d")!.getImageData(x, 0, w, Math.floor(c.height / 4)).data;
          let n = 0;
          for (let i = 3; i < d.length; i += 4) if (d[i]! > 0) n++;
          return n / (d.length / 4);
        },
        [from, to],
      );
    // the block stands in the middle; beside it the sky is open
    expect(await share(0.48, 0.52)).toBeGreaterThan(0.1);
    expect(await share(0.05, 0.15)).toBe(0);
    // the lens looks along azimuth 0, which lies upwards: a quarter turn to the right is 90
    await page.waitForSelector("[data-testid=sky-dome][data-looked=yes]");
    const dome = page.locator("main").getByRole("slider", { name: "Place of the sun in the sky" });
    const box = (await dome.boundingBox())!;
    await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.2 * box.height);
    await page.mouse.down();
    await page.mouse.move(box.x + 0.8 * box.width, box.y + 0.5 * box.height, { steps: 4 });
    await page.mouse.up();
    await saved(page);
    const { sun } = (await document(id)) as unknown as { sun: { azimuth: number; elevation: number } };
    expect(Math.abs(sun.azimuth - 90)).toBeLessThan(2);
    expect(Math.abs(sun.elevation - (90 - 0.6 * 102))).toBeLessThan(2);
    await dome.press("Shift+ArrowUp");
    await expect.poll(() => dome.getAttribute("aria-valuetext")).toContain(`elevation ${Number((sun.elevation + 10).toFixed(2))}°`);
    // a drag is one step
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await expect.poll(() => dome.getAttribute("aria-valuenow")).toBe("0");
  });

  it("takes a photometric profile with its candela, says lumens against the header, and refuses what is none", async () => {
    const id = await open(room);
    await page.setInputFiles("input[aria-label='Photometric profile of a new light']", file("wrong.ies", "hello"));
    await page.getByText("has no line TILT=…").waitFor();
    expect((await document(id)).lights).toEqual([]);
    await page.setInputFiles("input[aria-label='Photometric profile of a new light']", file("lantern.ies", IES));
    await page.getByRole("img", { name: "Candela by angle, at most 400" }).waitFor();
    await page.getByText(/of the 1000 lm its lamps have \(79 %\)/).waitFor();
    await finished(page);
    expect((await brightness(page))[0]).toBeGreaterThan(1);
    expect((await document(id)).lights[0]).toMatchObject({ kind: "profile", asset: "lantern" });
  });

  it("the sky is clear, overcast or an image, with stars", async () => {
    const id = await open({ ...room, sun: { elevation: 30 }, film: { ...room.film, exposure: 13 } });
    await page.getByLabel("Kind", { exact: true }).selectOption("overcast");
    await page.getByText("Stars", { exact: true }).click();
    const png = encode({ width: 4, height: 2, data: new Uint8Array(24).fill(180), channels: 3, depth: 8 });
    await page.setInputFiles("input[aria-label='File of image'] >> nth=0", file("around.png", new Uint8Array(png)));
    await page.getByLabel("Kind", { exact: true }).locator("option[value=image]").waitFor({ state: "attached" });
    await finished(page);
    const doc = await document(id);
    expect(doc.sky).toMatchObject({ model: "image", image: "around", stars: { count: 4000 } });
    await page.setInputFiles("input[aria-label='File of image'] >> nth=0", file("broken.hdr", "#?RADIANCE\nnonsense"));
    await page.getByText("Nothing was changed.").waitFor();
    expect((await document(id)).sky).toMatchObject({ image: "around" });
  });
});

describe("the table of lights", () => {
  it("lists what each gives and costs, sorts, filters, edits many at once, and looks at one alone", async () => {
    const id = await open({ ...room, lights: [lamp("near", 0), lamp("weak", 2, { intensity: 2 }), lamp("far", -30)] });
    await page.keyboard.press("t");
    const table = page.getByRole("region", { name: "Light table" });
    const rows = table.getByRole("row");
    await expect.poll(async () => (await rows.nth(3).textContent())?.includes("%")).toBe(true);
    await finished(page);
    await table.getByRole("button", { name: "Light" }).click();
    await expect.poll(async () => await rows.nth(1).textContent()).toMatch(/^◉near/);
    await table.getByRole("searchbox").fill("point");
    expect(await rows.count()).toBe(4);
    // all three two stops up, as one step
    await table.getByRole("button", { name: "near", exact: true }).click();
    await rows
      .nth(3)
      .getByRole("button")
      .nth(1)
      .click({ modifiers: ["Shift"] });
    await table.getByText("3 chosen").waitFor();
    await table.getByRole("button", { name: "+1" }).click();
    const stops = table.getByRole("spinbutton", { name: /^Stops of near/ });
    await stops.fill("2");
    await stops.press("Enter");
    await finished(page);
    expect((await document(id)).lights.map((l) => l["stops"])).toEqual([2, 2, 2]);
    await page.keyboard.press("Escape");
    await table.getByRole("checkbox", { name: "weak shines" }).click();
    await finished(page);
    expect((await document(id)).lights.map((l) => l["on"])).toEqual([false, false, false]);
    await table.getByRole("searchbox").fill("");
    await page.getByRole("button", { name: "Undo" }).click();
    await finished(page);
    const all = await brightness(page);
    await table.getByRole("button", { name: "Solo far" }).click();
    await finished(page);
    expect((await brightness(page))[0]).toBeLessThan(0.5 * all[0]);
    // the document is as it was
    expect((await document(id)).lights.map((l) => l["on"])).toEqual([true, true, true]);
    await page.getByText("All again").click();
    await finished(page);
    expect(Math.abs((await brightness(page))[0] - all[0])).toBeLessThan(1);
  });

  it("holds a thousand lights and draws those in sight", async () => {
    await open({
      ...room,
      lights: Array.from({ length: 1000 }, (_, i) =>
        lamp(`lamp ${i}`, (i % 40) - 20, { position: [(i % 40) - 20, 2, Math.floor(i / 40) - 12], intensity: 1 }),
      ),
    });
    await page.keyboard.press("t");
    const table = page.getByRole("region", { name: "Light table" });
    await table.getByText("1002 lights").waitFor();
    expect(await table.getByRole("row").count()).toBeLessThan(40);
    await table.getByRole("table").evaluate((e) => (e.scrollTop = 1e6));
    await table.getByRole("button", { name: "lamp 999", exact: true }).waitFor();
    await table.getByRole("button", { name: "lamp 999", exact: true }).click();
    await page.getByRole("group", { name: "lamp 999" }).waitFor();
  });
});
