/** Compose: from a render to a composed picture; what the view shows is what is exported; paint, marks, order, packages, wrong files. */
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { decode } from "fast-png";
import type { Page } from "playwright-core";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import type { Layer, Stack } from "#core/compose/stack";
import { newLayer } from "#core/compose/start";
import { writeExr, type ExrChannel } from "#core/formats/exr";
import { readExrLayers } from "#core/formats/exr-read";
import { eachOnItsPage, putProject, saved, SMALL, type Application } from "./support";

const poll = (of: () => Promise<unknown>) => expect.poll(of, { timeout: 90_000, interval: 200 });
const folder = mkdtempSync(join(tmpdir(), "compose-"));

const [WIDTH, HEIGHT, EV] = [160, 90, 3];
/** Light of files of other programs counts in shares of white. */
const WHITE = 1;

/** A made-up frame: a near post before a far ground that brightens upwards, in haze. */
function pictureExr(width = WIDTH, height = HEIGHT): Uint8Array {
  const channels: ExrChannel[] = [];
  const plane = (name: string, of: (x: number, y: number) => number): void => {
    channels.push({
      name,
      type: "float",
      values: Float32Array.from({ length: width * height }, (_, i) => of((i % width) / width, Math.floor(i / width) / height)),
    });
  };
  const post = (x: number): boolean => x > 0.4 && x < 0.5;
  const distance = (x: number, y: number): number => (post(x) ? 4 : y < 0.2 ? Infinity : 10 + 90 * (1 - y));
  const left = (x: number, y: number, k: number): number => Math.exp(-0.02 * (1 + 0.3 * k) * Math.min(200, distance(x, y)));
  [..."RGB"].forEach((band, k) => {
    const surface = (x: number, y: number): number => WHITE * (0.1 + 0.6 * x + 0.2 * k * y) * left(x, y, k);
    const air = (x: number, y: number): number => WHITE * (0.9 + 0.4 * y) * (1 - left(x, y, k));
    plane(band, (x, y) => surface(x, y) + air(x, y));
    plane(`surfaces.${band}`, surface);
    plane(`air.${band}`, air);
    plane(`transmittance.${band}`, (x, y) => left(x, y, k));
  });
  plane("A", (x, y) => (y < 0.2 && !post(x) ? 0 : 1));
  plane("distance.Z", distance);
  plane("height.V", (_, y) => 5 * (1 - y));
  plane("object.post.V", (x) => Number(post(x)));
  return writeExr({ width, height, channels });
}
/** Even light of the passes that a stack begins with. */
const plainExr = (width: number, height: number): Uint8Array =>
  writeExr({
    width,
    height,
    channels: ["surfaces", "air"].flatMap((layer) =>
      [..."RGB"].map((band): ExrChannel => ({
        name: `${layer}.${band}`,
        type: "half",
        values: new Float32Array(width * height).fill(0.3 * WHITE),
      })),
    ),
  });
const file = (name: string, bytes: Uint8Array | string): string => {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
};

describe("a stack", () => {
  const errors: string[] = [];
  let app: Application, page: Page;
  eachOnItsPage(errors, (a, _, p) => {
    app = a;
    page = p;
  });
  const upload = async (bytes: Uint8Array): Promise<string> => {
    const answer = await fetch(`${app.url}/api/assets?kind=film`, {
      method: "POST",
      headers: { origin: app.url },
      body: bytes as Uint8Array<ArrayBuffer>,
    });
    return ((await answer.json()) as { sha256: string }).sha256;
  };
  const send = (method: string, path: string, body: unknown): Promise<Response> =>
    fetch(app.url + path, { method, headers: { origin: app.url, "content-type": "application/json" }, body: JSON.stringify(body) });
  const make = async (layers: Layer[], more: Partial<Stack> = {}): Promise<string> => {
    const stack = {
      ...{ fumariumStack: 1, title: "post in haze", white: EV, layers },
      sources: { a: { name: "post.exr", sha256: await upload(pictureExr()), file: null } },
      film: { exposure: EV },
      ...more,
    };
    const answer = await send("POST", "/api/stacks", { stack });
    if (!answer.ok) throw new Error(await answer.text());
    return ((await answer.json()) as { id: string }).id;
  };
  const painted = () =>
    page.waitForFunction(() => Number(document.querySelector<HTMLElement>("[data-testid=composed]")?.dataset.painted) > 0);
  const open = async (id: string): Promise<void> => {
    await page.goto(`${app.url}/compose/${id}`);
    await painted();
  };
  const stored = async (): Promise<Stack> => {
    await saved(page);
    return ((await (await fetch(`${app.url}/api/stacks/${page.url().split("/").at(-1)!}`)).json()) as { stack: Stack }).stack;
  };
  const pass = (layer: string, role: "air" | "surfaces" | null, more: Partial<Layer> = {}): Layer =>
    newLayer(layer || "main", layer || "main", { kind: "pass", source: "a", layer, role, alpha: false }, more);
  /** Bytes of the picture on the page, red, green and blue. */
  const shown = (): Promise<number[]> =>
    page.evaluate(() => {
      const from = document.querySelector<HTMLCanvasElement>("[data-testid=composed]")!;
      const to = new OffscreenCanvas(from.width, from.height);
      to.getContext("2d")!.drawImage(from, 0, 0);
      const { data } = to.getContext("2d")!.getImageData(0, 0, from.width, from.height);
      return [...data].filter((_, i) => i % 4 < 3);
    });
  const download = async (button: string): Promise<Uint8Array> => {
    const fold = page.getByRole("button", { name: /^Export/ });
    if ((await fold.getAttribute("aria-expanded")) === "false") await fold.click();
    const [got] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: button, exact: true }).click()]);
    return readFileSync(await got.path());
  };

  it("begins with a render: its surfaces and air add up to the beauty, and it stands on the shelf", async () => {
    const project = await putProject(app, SMALL);
    const order = {
      ...{
        size: [160, 40],
        frames: null,
        fps: 24,
        samples: 4,
        noise: null,
        seconds: null,
        seedByFrame: false,
        clean: false,
        lightGroups: false,
      },
      ...{ mattes: false, passes: ["beauty", "air", "surfaces", "transmittance", "distance"], name: "pillar" },
      file: { ending: ".exr", depth: "float", finished: false, alpha: "geometry" },
    };
    await send("POST", `/api/projects/${project}/renders`, { order, document: SMALL });
    await page.goto(`${app.url}/renders`);
    await page.locator("li[data-render][data-state=done]").waitFor();
    await page.getByRole("button", { name: "Files" }).click();
    await page.getByRole("button", { name: "Compose", exact: true }).click();
    await page.waitForURL(/\/compose\/[0-9a-f-]{36}$/);
    await painted();
    expect(await page.locator("[data-layer]").evaluateAll((rows) => rows.map((r) => r.getAttribute("data-layer")))).toEqual([
      "air",
      "surfaces",
    ]);
    const image = readExrLayers(await download("OpenEXR with layers"), "composed");
    const plane = (name: string) => image.channels.find((c) => c.name === name)!.values;
    const [sum, air, surfaces] = [plane("G"), plane("air.G"), plane("surfaces.G")];
    // three numbers that were each rounded to half
    sum.forEach((v, i) => expect(Math.abs(v - air[i]! - surfaces[i]!)).toBeLessThanOrEqual(v * 2 ** -9));
    expect(Math.max(...air)).toBeGreaterThan(0);
    await page.goto(app.url);
    await page.getByRole("list", { name: "Stacks" }).getByRole("link", { name: "pillar" }).waitFor();
    expect(errors).toEqual([]);
  });

  it("is shown as it is exported: blends, groups, masks, curves, ramps, thicker air, finish and glare", async () => {
    const mask = (parts: object[], more: object = {}) => ({ parts, invert: false, feather: 0, guided: true, ...more }) as Layer["mask"];
    const common = { join: "and", invert: false };
    const colour = (id: string, c: [number, number, number], more: Partial<Layer>): Layer =>
      newLayer(id, id, { kind: "colour", colour: c }, more);
    const stroke = { points: [[0.1, 0.8, 1], [0.9, 0.3, 0.6]], size: 0.2, hardness: 0.3, flow: 0.4, erase: false }; // prettier-ignore
    const id = await make(
      [
        pass("surfaces", "surfaces"),
        pass("air", "air", { blend: "add", gain: 0.4, tint: [1, 0.9, 0.7], mask: mask([{ kind: "distance", from: 3, to: 60, curve: [[0, 0.3], [1, 1]], ...common }], { feather: 0.05 }) }), // prettier-ignore
        newLayer("group", "group", { kind: "group" }, {
          ...{ blend: "screen", opacity: 0.6 },
          layers: [
            newLayer("ramp", "ramp", { kind: "ramp", from: [0, 0, 0.2], to: [1.4, 0.6, 0.1], a: [0.1, 0.1], b: [0.9, 0.8] }),
            colour("maximum", [0.3, 0.3, 0.3], { blend: "maximum" }),
          ],
        }), // prettier-ignore
        colour("multiply", [0.9, 0.95, 1], { blend: "multiply", mask: mask([{ kind: "matte", source: "a", layer: "object.post", ...common, invert: true }]) }),
        colour("difference", [0.1, 0.05, 0], { blend: "difference", mask: mask([{ kind: "paint", strokes: [stroke], ...common }]) }),
        pass("", null, { opacity: 0.3, curve: [[0, 0], [0.5, 0.6], [1, 0.95]], mask: mask([{ kind: "luminance", from: -4, to: 0, curve: null, ...common }]) }), // prettier-ignore
      ],
      {
        air: { density: 1.7, by: [[5, 1], [50, 1.4]] },
        film: { exposure: EV + 0.3, whiteBalance: 5200, tint: 0.004, finish: { contrast: 1.2, saturation: 0.9, curves: { red: [[0, 0.02], [1, 0.97]] } } },
      } as unknown as Partial<Stack>,
    ); // prettier-ignore
    await open(id);
    expect(await page.getByTestId("composed").getAttribute("data-direct")).toBe("true");
    const same = async (): Promise<void> => {
      const png = decode(await download("PNG, 16 bit"));
      const bytes = await shown();
      expect([png.width, png.height, bytes.length]).toEqual([WIDTH, HEIGHT, 3 * WIDTH * HEIGHT]);
      // half a grey level, and the half that eight bits round away
      let worst = 0;
      bytes.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - png.data[i]! / 257))));
      expect(worst).toBeLessThanOrEqual(1);
    };
    await same();
    // it is a picture, and each thing in it counts
    const before = await shown();
    expect(Math.max(...before) - Math.min(...before)).toBeGreaterThan(60);
    await page.getByRole("button", { name: /^Glare/ }).click();
    const count = Number(await page.getByTestId("composed").getAttribute("data-painted"));
    await page.getByLabel("Halo", { exact: true }).fill("25");
    await page.keyboard.press("Enter");
    await poll(async () => Number(await page.getByTestId("composed").getAttribute("data-painted"))).toBeGreaterThan(count);
    expect(await shown()).not.toEqual(before);
    await same();
    const tiff = await sharp(Buffer.from(await download("TIFF, 16 bit"))).metadata();
    expect([tiff.width, tiff.height, tiff.depth]).toEqual([WIDTH, HEIGHT, "ushort"]);
    expect(errors).toEqual([]);
  });

  it("is painted by strokes, each one step, kept as strokes; Shift draws a straight line on", async () => {
    await open(await make([pass("surfaces", null), pass("air", null, { blend: "add" })]));
    await page.getByRole("button", { name: "air", exact: true }).click();
    await page.getByLabel("Add to the mask").selectOption("paint");
    const box = (await page.getByTestId("composed").boundingBox())!;
    const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + y * box.height];
    const clear = await shown();
    await page.mouse.move(...at(0.2, 0.5));
    await page.mouse.down();
    await page.mouse.move(...at(0.4, 0.5), { steps: 5 });
    await page.mouse.up();
    await page.keyboard.down("Shift");
    await page.mouse.click(...at(0.8, 0.5));
    await page.keyboard.up("Shift");
    const strokes = async () => {
      const part = (await stored()).layers[1]!.mask!.parts[0]!;
      return part.kind === "paint" ? part.strokes : [];
    };
    expect((await strokes()).length).toBe(2);
    const [first, line] = await strokes();
    expect(first!.points.length).toBeGreaterThan(3);
    expect(line!.points.length).toBe(2);
    expect(line!.points[0]!.slice(0, 2)).toEqual(first!.points.at(-1)!.slice(0, 2));
    expect(await shown()).not.toEqual(clear);
    await page.locator("body").press("Control+z");
    await poll(async () => (await strokes()).length).toBe(1);
    await page.locator("body").press("Control+z");
    await poll(shown).toEqual(clear);
    await page.locator("body").press("Control+Shift+z");
    await poll(async () => (await strokes()).length).toBe(1);
    const one = await shown();
    await page.reload();
    await painted();
    await poll(shown).toEqual(one);
    expect(errors).toEqual([]);
  });

  it("has marks by distance: typed, moved on the scale, picked in the picture", async () => {
    await open(await make([pass("surfaces", null), pass("air", null, { blend: "add" })]));
    await page.getByRole("button", { name: "air", exact: true }).click();
    await page.getByLabel("Add to the mask").selectOption("distance");
    const scale = page.getByRole("figure", { name: "Scale of distance" });
    const part = async () => (await stored()).layers[1]!.mask!.parts[0]! as { from: number; to: number };
    const before = await part();
    expect(before.to).toBeGreaterThan(before.from);
    await scale.getByRole("slider", { name: "Full at" }).press("ArrowLeft");
    await poll(async () => (await part()).to).toBeLessThan(before.to);
    await page.getByRole("button", { name: "Pick none at" }).click();
    // the post is 4 m from the lens
    const box = (await page.getByTestId("composed").boundingBox())!;
    await page.mouse.click(box.x + 0.45 * box.width, box.y + 0.5 * box.height);
    await poll(async () => (await part()).from).toBe(4);
    await page.getByLabel("Show the mask").check();
    await poll(async () => {
      const bytes = await shown();
      // black at the post, lighter behind it
      return [bytes[3 * (45 * WIDTH + 72)], bytes[3 * (45 * WIDTH + 20)]! > 100];
    }).toEqual([0, true]);
    expect(errors).toEqual([]);
  });

  it("is shown pixel by pixel where it is larger than the screen, and painted there in the same place", async () => {
    const id = await make([pass("surfaces", null), pass("air", null, { blend: "add" })], {
      sources: { a: { name: "large.exr", sha256: await upload(plainExr(1600, 900)), file: null } },
    });
    await open(id);
    const size = () => page.getByTestId("composed").evaluate((c: HTMLCanvasElement) => [c.width, c.height]);
    expect((await size())[0]).toBeLessThan(1100);
    await page.locator("body").press("9");
    await poll(size).toEqual([1600, 900]);
    await page.getByRole("button", { name: "air", exact: true }).click();
    await page.getByLabel("Add to the mask").selectOption("paint");
    const box = (await page.getByTestId("composed").boundingBox())!;
    expect(box.width).toBe(1600);
    await page.mouse.click(box.x + 0.5 * box.width, box.y + 0.5 * box.height);
    await poll(async () => {
      const part = (await stored()).layers[1]!.mask!.parts[0]!;
      return part.kind === "paint" ? part.strokes[0]?.points.map((p) => p.map((v) => Number(v.toFixed(2)))) : [];
    }).toEqual([[0.5, 0.5, 1]]);
    await page.locator("body").press("0");
    await poll(async () => (await size())[0]! < 1100).toBe(true);
    expect(errors).toEqual([]);
  });

  it("is put in order by the keyboard and by dragging; what is muted or beside a solo is left out", async () => {
    await open(
      await make([
        pass("surfaces", null),
        pass("air", null, { blend: "add" }),
        newLayer("g", "group", { kind: "group" }, { blend: "add" }),
      ]),
    );
    const rows = () => page.locator("[data-layer]").evaluateAll((all) => all.map((r) => r.getAttribute("data-layer")));
    expect(await rows()).toEqual(["g", "air", "surfaces"]);
    await page.getByRole("button", { name: "surfaces", exact: true }).press("Alt+ArrowUp");
    expect(await rows()).toEqual(["g", "surfaces", "air"]);
    // into the group, by its middle
    await page.locator("[data-layer=air] > div").dragTo(page.locator("[data-layer=g] > div").first());
    await poll(async () => (await stored()).layers.map((l) => [l.id, l.layers.map((i) => i.id)])).toEqual([["surfaces", []], ["g", ["air"]]]); // prettier-ignore
    await page.getByLabel("surfaces, on").uncheck();
    const air = await shown();
    await page.getByLabel("surfaces, on").check();
    await page.getByRole("button", { name: "group, solo" }).click();
    await poll(shown).toEqual(air);
    expect(errors).toEqual([]);
  });

  it("goes out as one file with its pictures, and comes back by the shelf; pictures of another size are refused", async () => {
    await open(await make([pass("surfaces", null), pass("air", null, { blend: "add", gain: 0.5 })]));
    const picture = await shown();
    const zip = file("post.stack.zip", await download("Stack as one file"));
    await page.getByRole("button", { name: /^Sources/ }).click();
    await page.getByLabel("Pictures to add").setInputFiles(file("small.exr", pictureExr(32, 18)));
    await page.getByText("small.exr: 32 × 18 pixels, where the stack has 160 × 90.").waitFor();
    await page.getByLabel("Pictures to add").setInputFiles(file("more.exr", pictureExr()));
    await page.getByRole("list", { name: "Sources" }).getByText("more.exr").waitFor();
    await page.goto(app.url);
    const section = page.getByRole("region", { name: "Stacks" });
    for (const [name, bytes, says] of [
      ["fog.txt", "fog", /fog\.txt: a stack begins with OpenEXR files, or HDR, PNG and JPEG/],
      ["broken.zip", "PK\u0003\u0004 no", /broken\.zip: not readable as a zip archive/],
      ["fog.exr", "fog", /not an OpenEXR file|is not|OpenEXR/],
    ] as const) {
      await page.getByLabel("Pictures to compose").setInputFiles(file(name, bytes));
      await section.getByRole("alert").filter({ hasText: says }).waitFor();
    }
    await page.getByLabel("Pictures to compose").setInputFiles(zip);
    await page.waitForURL(/\/compose\//);
    await painted();
    await poll(shown).toEqual(picture);
    expect(errors).toEqual([]);
  });

  it("says what is wrong where it cannot be opened or saved, and keeps apart what two windows change", async () => {
    await page.goto(`${app.url}/compose/new`);
    await page.getByText("The address names no picture").waitFor();
    await page.goto(`${app.url}/compose/gone`);
    await page.getByText("There is no such stack.").waitFor();
    expect((await send("POST", "/api/stacks", { stack: { fumariumStack: 1 } })).status).toBe(400);
    const foreign = await fetch(`${app.url}/api/stacks`, {
      method: "POST",
      headers: { origin: "http://elsewhere.example", "content-type": "application/json" },
      body: "{}",
    });
    expect(foreign.status).toBe(403);
    const unknown = { fumariumStack: 1, white: 0, film: { exposure: 0 }, sources: { a: { name: "a", sha256: "0".repeat(64) } } };
    expect(await (await send("POST", "/api/stacks", { stack: unknown })).text()).toMatch(/is not here/);
    const id = await make([pass("surfaces", null)]);
    await open(id);
    const { revision, stack } = (await (await fetch(`${app.url}/api/stacks/${id}`)).json()) as { revision: number; stack: Stack };
    await send("PUT", `/api/stacks/${id}`, { revision, stack: { ...stack, title: "of the other window" } });
    await page.getByLabel("Title of the stack").fill("of this window");
    await page.keyboard.press("Enter");
    await page.getByText("Changed in another window. Your changes are kept here but not saved.").waitFor();
    await page.getByRole("button", { name: "Overwrite" }).click();
    await poll(async () => (await stored()).title).toBe("of this window");
    expect(errors).toEqual([]);
  });
});
