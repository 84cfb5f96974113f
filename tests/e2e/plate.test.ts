/** A picture made elsewhere with its depth: brought in, its lens set by the horizon, fog before it by two pins, out and read back; wrong files. */
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { encode } from "fast-png";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import type { SceneDocument } from "#core/document/schema";
import { readExr } from "#core/formats/exr-read";
import { unit } from "#core/math/vectors";
import { axisDirection, horizonOf, upOf, type PlateLens } from "#core/plate/lens";
import { decodeSrgb } from "#core/optics/colour";
import {
  type Application,
  brightness,
  eachOnItsPage,
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

const folder = mkdtempSync(join(tmpdir(), "fumarium-plate-e2e-"));
const RAD = Math.PI / 180;
const [WIDTH, HEIGHT] = [320, 120];
/** The lens that the picture was made with: 1.5 m over the ground, looking down a little, leaning. */
const LENS: PlateLens = { fieldOfView: 40 * RAD, width: WIDTH, height: HEIGHT };
const [TALL, TILT, ROLL] = [1.5, -4, 3];
const UP = upOf({ tilt: TILT * RAD, roll: -ROLL * RAD });
/** What white of the depth stands for, m. */
const WHITE = 200;

/** Distance along the ray, and along the axis, of ground and a wall from 12 m on; Infinity above it. */
function seen(x: number, y: number): { ray: number; axis: number; grey: number } {
  const d = unit(axisDirection(LENS, (x + 0.5) / WIDTH, (y + 0.5) / HEIGHT));
  const up = UP[0] * d[0] + UP[1] * d[1] + UP[2] * d[2];
  const ground = up < 0 ? -TALL / up : Infinity;
  const wall = -12 / d[2];
  const high = TALL + wall * up;
  if (ground <= wall) return { ray: ground, axis: -ground * d[2], grey: 150 };
  return high < 3 ? { ray: wall, axis: 12, grey: 90 } : { ray: Infinity, axis: Infinity, grey: 215 };
}
const pixels = <T>(of: (x: number, y: number) => T): T[] =>
  Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(i % WIDTH, Math.floor(i / WIDTH)));
const depths = Uint16Array.from(pixels((x, y) => Math.round(65535 * Math.min(1, seen(x, y).axis / WHITE))));
const file = (name: string, bytes: Uint8Array): string => {
  writeFileSync(join(folder, name), bytes);
  return join(folder, name);
};
const picture = file("quay.png", encode({ width: WIDTH, height: HEIGHT, channels: 3, depth: 8, data: Uint8Array.from(pixels((x, y) => [0, 1, 2].map(() => seen(x, y).grey)).flat()) })); // prettier-ignore
const depth = file("quay-depth.png", encode({ width: WIDTH, height: HEIGHT, channels: 1, depth: 16, data: depths }));

const kept = async (id: string): Promise<SceneDocument> => {
  await saved(page);
  return (await stored(app, id)).document as unknown as SceneDocument;
};
const field = (label: string) => page.getByRole("spinbutton", { name: label, exact: true });
const put = async (label: string, value: number): Promise<void> => {
  await field(label).fill(String(value));
  await field(label).press("Enter");
};
const part = (title: string) =>
  page.getByRole("navigation", { name: "Sheet" }).getByRole("button", { name: new RegExp(`^${title}`) }).first().click(); // prettier-ignore

/** Drags an end of a line in the picture to a place of the frame. */
async function dragTo(name: string, x: number, y: number): Promise<void> {
  const grip = (await page.getByRole("button", { name, exact: true }).locator("circle").last().boundingBox())!;
  const frame = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2);
  await page.mouse.down();
  await page.mouse.move(frame.x + x * frame.width, frame.y + y * frame.height, { steps: 4 });
  await page.mouse.up();
}

/** Begins a project with the picture from the shelf. @returns its id */
async function begun(files: string[] = [picture, depth]): Promise<string> {
  await page.goto(app.url);
  await page.getByText("A picture with its depth").waitFor();
  await page.getByLabel("Files of a plate").setInputFiles(files);
  await page.waitForURL(/\/bench\//);
  await firstPicture(page);
  await part("Set");
  return page.url().split("/").pop()!;
}

describe("a plate", () => {
  it("comes in from the shelf; its lens is set by the horizon, fog by two pins; what leaves is the picture in that fog", async () => {
    const id = await begun();
    await page.getByText(/No file says it, so it is guessed: the angle of the lens: 45°; what black and white/).waitFor();
    await put("White stands for", WHITE);
    await put("Plate field of view", 40);
    // the depth says how the lens was held
    await page.getByText(/lens 1\.5 m over it, down [34]\.?\d*°, leaning [23]\.?\d*°/).waitFor();
    await page.getByRole("button", { name: "Lens as the ground tells" }).click();
    const told = (await kept(id)).plate!;
    expect(told.position[1]).toBeCloseTo(TALL, 2);
    expect(told.tilt).toBeCloseTo(TILT, 1);
    expect(told.roll).toBeCloseTo(ROLL, 1);
    // by hand: level first, then both ends of the horizon where it is
    await put("Tilt", 0);
    await put("Lean", 0);
    const line = horizonOf(LENS, UP)!;
    const at = (x: number): number => line.left + x * (line.right - line.left);
    await dragTo("Horizon, left end, in the picture", 0.12, at(0.12));
    await dragTo("Horizon, right end, in the picture", 0.88, at(0.88));
    const held = (await kept(id)).plate!;
    expect(held.tilt).toBeCloseTo(TILT, 0);
    expect(held.roll).toBeCloseTo(ROLL, 0);
    // the lens went along, so the picture is still the plate's; two steps of undo
    expect(await page.getByText("Back to the plate's lens").count()).toBe(0);
    await page.getByRole("button", { name: "Undo" }).click();
    await page.getByRole("button", { name: "Undo" }).click();
    expect((await kept(id)).plate).toMatchObject({ tilt: 0, roll: 0 });
    await page.getByRole("button", { name: "Redo" }).click();
    await page.getByRole("button", { name: "Redo" }).click();
    await part("Finish");
    await put("Samples", 8);
    // without air: the picture's own greys
    await finished(page);
    const [bare] = await brightness(page, [0.02, 0.02, 0.1, 0.05]);
    expect(bare).toBeCloseTo(215, 0);
    await part("Air");
    await page.getByRole("button", { name: "Fill the scene with air" }).click();
    await page.getByRole("group", { name: "Presets" }).getByRole("button", { name: /^mist/ }).click(); // prettier-ignore
    await page.getByRole("group", { name: "mist" }).waitFor();
    await finished(page);
    await page.keyboard.press("d");
    const box = (await page.getByTestId("picture").boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.45);
    await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.95);
    await page.keyboard.press("Escape");
    expect(await page.locator("[data-pin]").count()).toBe(2);
    const far = page.getByRole("group", { name: "Pin 1" }).getByRole("spinbutton");
    await far.fill("40");
    await far.press("Enter");
    const near = page.getByRole("group", { name: "Pin 2" }).getByRole("spinbutton");
    await near.fill(String(Math.round(100 * 0.4 ** (seen(WIDTH / 2, 0.95 * HEIGHT).ray / seen(WIDTH / 2, 0.45 * HEIGHT).ray))));
    await near.press("Enter");
    await expect
      .poll(async () => (await kept(id)).air[0]!.density, { timeout: 30_000 })
      .toBeCloseTo(-Math.log(0.4) / seen(WIDTH / 2, 0.45 * HEIGHT).ray, 2);
    await finished(page);
    // out, and read back
    await part("Finish");
    await page.getByRole("radiogroup", { name: "OpenEXR bit depth" }).getByRole("radio", { name: "float" }).click();
    const [saving] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Picture as OpenEXR" }).click()]);
    const exr = readExr(readFileSync(await saving.path()), "out");
    const of = (name: string): Float32Array => exr.channels.find((c) => c.name === name)!.values;
    const { density } = (await kept(id)).air[0]!;
    const [T, S] = [of("transmittance.G"), of("surfaces.G")];
    const white = 2 ** (await kept(id)).plate!.light;
    let worst = 0;
    for (const [x, y] of [[0.5, 0.45], [0.3, 0.4], [0.5, 0.95], [0.8, 0.9]] as const) {
      const i = Math.floor(y * exr.height) * exr.width + Math.floor(x * exr.width);
      const { ray, grey } = seen(x * WIDTH, y * HEIGHT);
      worst = Math.max(worst, Math.abs(T[i]! / Math.exp(-density * ray) - 1));
      worst = Math.max(worst, Math.abs(S[i]! / (T[i]! * white * decodeSrgb(grey / 255)) - 1));
    } // prettier-ignore
    // depth of 16 bits over 200 m, and pixels that are not the picture's own
    expect(worst).toBeLessThan(0.02);
  });

  it("says where its depth is not what was said, keeps an upright line upright, and is seen from its lens alone", async () => {
    const id = await begun();
    await put("White stands for", WHITE);
    await put("Plate field of view", 40);
    await page.getByText(/lens 1\.5 m over it/).waitFor();
    await page.getByRole("radiogroup", { name: "Depth is along" }).getByText("ray").click();
    await page.getByText("The ground is bent as it was said, and flat where depth is along the axis of the lens.").waitFor();
    await page.getByRole("radiogroup", { name: "Depth is along" }).getByText("axis").click();
    await page.getByText(/The ground is bent/).waitFor({ state: "detached" });
    // a line that leans in the picture by what the lens leans
    await put("Lean", 0);
    await page.getByRole("button", { name: "Upright in the picture" }).click();
    const lean = Math.tan(5 * RAD) * 0.2 * HEIGHT;
    await dragTo("Upright, second end, in the picture", 0.5 + lean / WIDTH, 0.7);
    await dragTo("Upright, first end, in the picture", 0.5 - lean / WIDTH, 0.3);
    expect(Math.abs((await kept(id)).plate!.roll)).toBeCloseTo(5, 0);
    // by the keyboard
    const before = (await kept(id)).plate!.roll;
    await page.getByRole("button", { name: "Upright, first end, in the picture", exact: true }).focus();
    await page.keyboard.press("Shift+ArrowRight");
    expect((await kept(id)).plate!.roll).not.toBeCloseTo(before, 2);
    // another lens sees the surface in grey, and says so
    await put("Position x", 1);
    await page.getByText("The lens is not the plate's").waitFor();
    await page.getByRole("button", { name: "Back to the plate's lens" }).click();
    await page.getByText("The lens is not the plate's").waitFor({ state: "detached" });
    // it can be taken away and undone
    await page.getByRole("button", { name: "Take the plate away" }).click();
    await page.getByRole("button", { name: "Bring in a picture with depth …" }).waitFor();
    expect((await kept(id)).objects).toEqual([]);
    await page.getByRole("button", { name: "Undo" }).click();
    await page.getByRole("button", { name: "Take the plate away" }).waitFor();
  });

  it("comes into a project that is there, as a TIFF, too; wrong files change nothing and say why", async () => {
    const id = await putProject(app, { ...SMALL, objects: [], air: [] });
    await openBench(page, app, id);
    if ((await page.getByLabel("Files of a plate").count()) === 0) await part("Set");
    const tiff = await sharp(depths, { raw: { width: WIDTH, height: HEIGHT, channels: 1 } }).toColourspace("grey16").tiff({ compression: "deflate", predictor: "horizontal" }).toBuffer(); // prettier-ignore
    const small = await sharp({ create: { width: 32, height: 20, channels: 3, background: "#345" } }).png().toBuffer(); // prettier-ignore
    const bring = (...files: string[]) => page.getByLabel("Files of a plate").setInputFiles(files);
    for (const [files, says] of [
      [[picture], /quay\.png: none of its layers is called distance, depth or Z/],
      [[file("small.png", small), depth], /quay-depth\.png: 320 × 120 pixels, the picture 32 × 20; they must be of one size/],
      [[file("notes.png", new TextEncoder().encode("no picture"))], /notes\.png: is neither OpenEXR, Radiance HDR, PNG nor JPEG/],
      [[picture, depth, file("third.png", small)], /3 files: a plate is one picture/],
      [[picture, file("broken-depth.tif", tiff.subarray(0, 200))], /broken-depth\.tif: .*not readable as TIFF/],
    ] as const) {
      await bring(...files);
      await page.getByRole("alert").getByText(says).waitFor();
    }
    expect((await kept(id)).plate ?? null).toBe(null);
    await bring(file("quay-depth.tif", tiff), picture);
    await page.getByText("quay-depth.png").waitFor();
    const doc = await kept(id);
    expect(doc.plate).toMatchObject({ depth: "depth", along: "axis", range: [0, 100] });
    expect(doc.film.size).toEqual([WIDTH, HEIGHT]);
    await page.getByRole("button", { name: "Undo" }).click();
    expect((await kept(id)).plate).toBe(null);
  });
});
