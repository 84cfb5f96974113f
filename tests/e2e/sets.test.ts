/** Bringing sets in, correcting their size, changing what they are made of, looking through lenses. */
import { Document } from "@gltf-transform/core";
import { KHRDracoMeshCompression } from "@gltf-transform/extensions";
import draco3d from "draco3dgltf";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { modelIO } from "#core/formats/gltf";
import { movingModel, picturedModel } from "../support/moving-model";
import { type Application, eachOnItsPage, brightness, contrast, finished, openBench, putProject, saved, stored } from "./support";

let app: Application, page: Page;
const errors: string[] = [];
eachOnItsPage(errors, (a, _, p) => ([app, page] = [a, p]));

const folder = mkdtempSync(join(tmpdir(), "fumarium-sets-"));
const file = (name: string, text: string): string => {
  writeFileSync(join(folder, name), text);
  return join(folder, name);
};
// a wall of centimetres before a ground
const WALL = `mtllib wall.mtl
o wall
v -400 0 0
v 400 0 0
v 400 300 0
v -400 300 0
usemtl brick
f 1 2 3 4
o ground
v -1000 0 1000
v 1000 0 1000
v 1000 0 -1000
v -1000 0 -1000
f 5 6 7 8
l 1 2
`;
// of centimetres, z up
const YARD = `#usda 1.0
(
    metersPerUnit = 0.01
    upAxis = "Z"
)

def Xform "Yard"
{
    def Cube "Block"
    {
        double size = 200
    }

    def RectLight "Panel"
    {
        float inputs:intensity = 800
        float inputs:width = 100
        float inputs:height = 100
        double3 xformOp:translate = (0, 0, 400)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }
}
`;
const wall = [file("wall.obj", WALL), file("wall.mtl", "newmtl brick\nKd 0.6 0.3 0.2\n")];
const empty = {
  fumarium: 2,
  title: "Nothing yet",
  render: { samples: 4, surfaceBounces: 0, airSamples: 1 },
  film: { size: [640, 160], exposure: 13 },
};

/** Two triangles under Draco. */
async function packed(): Promise<Buffer> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const positions = doc
    .createAccessor()
    .setType("VEC3")
    .setArray(new Float32Array([0, 0, 0, 4, 0, 0, 4, 3, 0, 0, 3, 0]))
    .setBuffer(buffer);
  const indices = doc
    .createAccessor()
    .setType("SCALAR")
    .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
    .setBuffer(buffer);
  const mesh = doc.createMesh("sheet").addPrimitive(doc.createPrimitive().setAttribute("POSITION", positions).setIndices(indices));
  doc.createScene().addChild(doc.createNode("sheet").setMesh(mesh));
  doc.createExtension(KHRDracoMeshCompression).setRequired(true);
  const io = modelIO()
    .registerExtensions([KHRDracoMeshCompression])
    .registerDependencies({ "draco3d.encoder": await draco3d.createEncoderModule() });
  return Buffer.from(await io.writeBinary(doc));
}

const bring = (files: Parameters<Page["setInputFiles"]>[1]) => page.setInputFiles("input[aria-label='Files of a set']", files);
const choose = async (id: string) => {
  await openBench(page, app, id);
  await page.keyboard.press("1");
};
async function type(label: string, text: string): Promise<void> {
  await page.getByRole("spinbutton", { name: label, exact: true }).focus();
  await page.keyboard.press("Control+a");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
}
/** What the tests read of a stored document. */
interface Stored {
  objects: { kind: string; name: string; scale: number; size: number[]; parts: Record<string, Record<string, unknown>> }[];
  camera: { position: number[]; fieldOfView: number; motion: { times: number[] } | null };
  materials: Record<string, { emission: number[] }>;
  air: { density: number }[];
  film: { whiteBalance: number };
}
const document = async (id: string): Promise<Stored> => {
  await saved(page);
  return (await stored(app, id)).document as unknown as Stored;
};

describe("bringing a set in", () => {
  it("reads, reports, corrects the unit, places and frames; undo takes all of it back", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring(wall);
    const panel = page.getByRole("region", { name: "Import" });
    await panel.getByText("Place in the scene").waitFor();
    expect(await panel.textContent()).toContain("4");
    expect(await panel.textContent()).toContain("2000 × 300 × 2000 m");
    await panel.getByLabel("Units").selectOption("0.01");
    expect(await panel.textContent()).toContain("20 × 3 × 20 m");
    await panel.getByText("1 thing left out").click();
    await panel.getByText("lines (1)").waitFor();
    await panel.getByText("Place in the scene").click();
    await panel.waitFor({ state: "detached" });
    await finished(page);
    let doc = await document(id);
    expect(doc.objects).toMatchObject([{ kind: "model", name: "wall", scale: 0.01 }]);
    // the first set is looked at, from outside of it
    expect(Math.hypot(...doc.camera.position)).toBeGreaterThan(10);
    expect(await page.getByText("Extent").locator("..").textContent()).toContain("20 × 3 × 20 m");
    await page.keyboard.press("Control+z");
    doc = await document(id);
    expect(doc.objects).toEqual([]);
    await page.keyboard.press("Control+Shift+z");
    await finished(page);
    expect((await document(id)).objects).toHaveLength(1);
  });

  it("stands a set that moves still at a moment of its animation, and keeps what was chosen for it", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring({ name: "figure.glb", mimeType: "model/gltf-binary", buffer: Buffer.from(await movingModel()) });
    const panel = page.getByRole("region", { name: "Import" });
    const size = (): Promise<string | null> => panel.getByText("Size").locator("..").textContent();
    await panel.getByLabel("Pose").waitFor();
    await panel.getByLabel("Units").selectOption("0.01");
    const before = await size();
    await panel.getByLabel("Pose").selectOption({ label: "turn" });
    await page.getByRole("spinbutton", { name: "Time", exact: true }).waitFor();
    await type("Time", "1");
    await page.waitForFunction(
      (was) => globalThis.document.querySelector("[aria-label=Import]")?.textContent?.includes(was!.slice(4)) === false,
      before,
    );
    expect(await size()).not.toBe(before);
    expect(await panel.getByLabel("Units").inputValue()).toBe("0.01");
    await panel.getByText("Place in the scene").click();
    await panel.waitFor({ state: "detached" });
    expect((await document(id)).objects).toMatchObject([{ name: "figure", scale: 0.01 }]);
  });

  it("lenses and lights of an animation move by time, until they are moved by hand", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring({ name: "figure.glb", mimeType: "model/gltf-binary", buffer: Buffer.from(await movingModel(true)) });
    const panel = page.getByRole("region", { name: "Import" });
    await panel.getByText("1 lens moves by time, as turn has it.").waitFor();
    await panel.getByText("Place in the scene").click();
    await panel.waitFor({ state: "detached" });
    const lens = async () => (await document(id)).camera;
    expect(await lens()).toMatchObject({ position: [0, 1, 8], motion: { times: [0, 1] } });
    await page.getByText("0 to 1 s, 2 keys").waitFor();
    await type("Time", "0.5");
    await expect.poll(async () => (await lens()).position, { timeout: 20_000 }).toEqual([0, 2, 8]);
    await type("Position y", "5");
    await expect.poll(async () => (await lens()).motion, { timeout: 20_000 }).toBeNull();
    expect(await page.getByText("Moves by time").count()).toBe(0);
    await page.keyboard.press("Control+z");
    await expect.poll(async () => (await lens()).position, { timeout: 20_000 }).toEqual([0, 2, 8]);
    await page.getByRole("button", { name: "Hold still" }).click();
    await expect.poll(async () => (await lens()).motion, { timeout: 20_000 }).toBeNull();
    expect((await lens()).position).toEqual([0, 2, 8]);
    // the lens that was kept moves on
    await page.getByRole("button", { name: "crane", exact: true }).click();
    await expect.poll(async () => (await lens()).motion?.times.length, { timeout: 20_000 }).toBe(2);
  });

  it.each(["webp", "ktx2"] as const)("reads pictures in %s, whose decoder comes with the application", async (kind) => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring({ name: "sail.glb", mimeType: "model/gltf-binary", buffer: Buffer.from(await picturedModel(kind)) });
    const panel = page.getByRole("region", { name: "Import" });
    await panel.getByText("Place in the scene").waitFor();
    expect(await panel.textContent()).toContain("1, 1 picture");
    expect(await panel.textContent()).not.toContain("left out");
    await panel.getByText("Place in the scene").click();
    // the empty scene's picture was finished before
    await panel.waitFor({ state: "detached" });
    await finished(page);
    expect((await document(id)).objects).toHaveLength(1);
  });

  it("takes a scene of OpenUSD with its unit, light and lens", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring(file("yard.usda", YARD));
    const panel = page.getByRole("region", { name: "Import" });
    await panel.getByText("Place in the scene").waitFor();
    expect(await panel.textContent()).toContain("2 × 2 × 2 m");
    expect(await panel.textContent()).toContain("Its lights (1)");
    await panel.getByText("Place in the scene").click();
    // the empty scene's picture was finished before
    await panel.waitFor({ state: "detached" });
    await finished(page);
    const doc = await document(id);
    expect(doc.objects).toMatchObject([{ kind: "model", name: "yard", scale: 1 }]);
    expect((await stored(app, id)).document).toMatchObject({ lights: [{ kind: "rectangle", name: "Panel", intensity: 800 }] });
  });

  it("takes a dropped archive, and cancels; wrong files leave the project as it was", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring(file("bad.obj", "v 0 0 0\nf 1 2 3\n"));
    const alert = page.getByRole("region", { name: "Import" }).getByRole("alert");
    await alert.waitFor();
    expect(await alert.textContent()).toContain("bad.obj: line 2: there is no corner 2 (of 1)");
    expect(await alert.textContent()).toContain("The project is as it was.");
    await alert.getByText("Dismiss").click();
    expect((await document(id)).objects).toEqual([]);
    // a drop as the browser sends one
    const model = readFileSync(fileURLToPath(new URL("../../build/demo/palm-house.glb", import.meta.url)));
    const transfer = await page.evaluateHandle((bytes) => {
      const data = new DataTransfer();
      const raw = Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0));
      data.items.add(new File([raw], "house.glb"));
      return data;
    }, model.toString("base64"));
    await page.dispatchEvent("body", "dragenter", { dataTransfer: transfer });
    await page.getByText("Drop to import the set").waitFor();
    await page.dispatchEvent("body", "drop", { dataTransfer: transfer });
    await page.getByText("Place in the scene").waitFor();
    expect(await page.getByRole("region", { name: "Import" }).textContent()).toContain("house.glb");
    await page.getByRole("button", { name: "Cancel", exact: true }).click();
    await page.getByRole("region", { name: "Import" }).waitFor({ state: "detached" });
    expect((await document(id)).objects).toEqual([]);
  });
});

it("unpacks compressed geometry in the browser", async () => {
  const id = await putProject(app, empty);
  await choose(id);
  await bring({ name: "packed.glb", mimeType: "model/gltf-binary", buffer: await packed() });
  await page.getByText("Place in the scene").waitFor();
  expect(await page.getByRole("region", { name: "Import" }).textContent()).toContain("Triangles2");
  await page.getByText("Place in the scene").click();
  await page.getByRole("region", { name: "Import" }).waitFor({ state: "detached" });
  await finished(page);
  expect((await document(id)).objects).toMatchObject([{ kind: "model", name: "packed" }]);
});

it("says its limits before, and gives up on a set that takes longer than they allow", async () => {
  const id = await putProject(app, empty);
  // a reader that never answers
  await page.route("**/import-worker*.js", async (route) =>
    route.fulfill({ response: await route.fetch(), body: "onmessage = () => {};" }),
  );
  await page.clock.install();
  await choose(id);
  expect(await page.getByRole("button", { name: "Import files …" }).getAttribute("title")).toContain(
    "Up to 1024 MB in 10,000 files, 8 million triangles (what stands in several places counts once), 100,000 parts and places, 10 minutes to read.",
  );
  await bring(wall);
  const panel = page.getByRole("region", { name: "Import" });
  await panel.waitFor();
  await page.clock.fastForward("09:50");
  expect(await panel.getByRole("alert").count()).toBe(0);
  await page.clock.fastForward("00:20");
  await panel.getByRole("alert").waitFor();
  expect(await panel.getByRole("alert").textContent()).toContain("2 files: not read within 10 minutes, which is the limit.");
  expect((await document(id)).objects).toEqual([]);
});

/** A ball of 512 triangles in 50 places, by nodes of one mesh. */
async function avenue(): Promise<Buffer> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const p: number[] = [];
  const at = (i: number, j: number): number[] => {
    const [t, f] = [(Math.PI * i) / 16, (Math.PI * j) / 8];
    return [Math.sin(t) * Math.cos(f), 1 + Math.cos(t), Math.sin(t) * Math.sin(f)];
  };
  for (let i = 0; i < 16; i++)
    for (let j = 0; j < 16; j++)
      for (const c of [at(i, j), at(i, j + 1), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)]) p.push(...c);
  const positions = doc.createAccessor().setType("VEC3").setArray(new Float32Array(p)).setBuffer(buffer);
  const mesh = doc.createMesh("ball").addPrimitive(doc.createPrimitive().setAttribute("POSITION", positions));
  const row = doc.createNode("row");
  for (let i = 0; i < 50; i++)
    row.addChild(
      doc
        .createNode(`ball ${i}`)
        .setMesh(mesh)
        .setTranslation([(i % 10) * 3 - 13.5, 0, -3 * Math.floor(i / 10)]),
    );
  doc.createScene().addChild(row);
  return Buffer.from(await modelIO().writeBinary(doc));
}

it("keeps what stands in many places once: in the report, the picture, the tree and the drawing of space", async () => {
  const id = await putProject(app, empty);
  await choose(id);
  await bring({ name: "avenue.glb", mimeType: "model/gltf-binary", buffer: await avenue() });
  await page.getByText("Place in the scene").waitFor();
  const panel = page.getByRole("region", { name: "Import" });
  expect(await panel.textContent()).toContain("Triangles25,600, 512 storedInstances49");
  await page.getByText("Place in the scene").click();
  // the empty scene's picture was finished before: the set's is, once the set is there
  await page.getByText("25,600 triangles, 512 kept").waitFor();
  await finished(page);
  // as rendered: what glints on small facets at four samples is taken for chance by the clean-up
  await page.keyboard.press("n");
  await page.waitForSelector("canvas[aria-label=Picture][data-cleaned=no]");
  // balls, lit on one side, before an even sky that may be as bright as they are on the whole
  expect(await contrast(page, [0.42, 0.42, 0.2, 0.16])).toBeGreaterThan(20);
  expect(await contrast(page, [0, 0, 1, 0.05])).toBeLessThan(5);
  await page.getByRole("button", { name: "Space" }).click();
  const drawn = (count: number) =>
    page.waitForFunction((n) => window.document.querySelector<HTMLElement>("[data-testid=space] canvas")?.dataset.set === String(n), count);
  await drawn(25_600);
  // one of them is a part like any other
  await page.getByRole("button", { name: "Open avenue" }).click();
  await page.getByRole("button", { name: "Open row" }).click();
  await page.getByRole("button", { name: "Hide ball 7" }).click();
  await drawn(25_088);
  await page.getByText("25,088 triangles, 512 kept").waitFor();
  await page.keyboard.press("Control+z");
  await drawn(25_600);
});

it("shows stops, clipping and a histogram of the live picture", async () => {
  const id = await putProject(app, { ...empty, sky: { luminance: 1e6, horizon: [1, 1, 1], zenith: [1, 1, 1] } });
  await choose(id);
  await finished(page);
  await page.keyboard.press("4");
  await page.getByText("100.0 % white, 0.0 % black").waitFor();
  await page.getByRole("radio", { name: "stops" }).click();
  await page.getByRole("list", { name: "Colours of stops" }).waitFor();
  await expect.poll(async () => (await brightness(page)).map(Math.round)).toEqual([238, 232, 226]);
  await page.getByRole("radio", { name: "clipping" }).click();
  // half of it in stripes
  await expect.poll(async () => (await brightness(page))[2]).toBeLessThan(180);
  await page.getByRole("radio", { name: "picture" }).click();
  await expect.poll(async () => (await brightness(page))[2]).toBeGreaterThan(250);
});

describe("the set", () => {
  it("parts are hidden, moved, made to shine; shapes are added; all by undo back", async () => {
    const id = await putProject(app, empty);
    await choose(id);
    await bring(wall);
    await page.getByLabel("Units").selectOption("0.01");
    await page.getByText("Place in the scene").click();
    await page.getByRole("region", { name: "Import" }).waitFor({ state: "detached" });
    await finished(page);
    await page.getByRole("button", { name: "Open wall" }).click();
    const parts = page.getByRole("list", { name: "Parts of wall" });
    await parts.getByRole("button", { name: "wall", exact: true }).click();
    await type("Offset y", "50");
    await page.getByLabel("Material of wall").selectOption("glow");
    await finished(page);
    const doc = await document(id);
    expect(doc.objects[0]!.parts.wall).toMatchObject({ position: [0, 50, 0], material: "wall glow" });
    expect(doc.materials["wall glow"]!.emission[0]).toBeGreaterThan(0);
    const shining = await brightness(page);
    await parts.getByRole("button", { name: "Hide wall" }).click();
    await finished(page);
    expect((await brightness(page))[0]).toBeLessThan(shining[0]);
    await page.getByText("Reset to the model").click();
    await finished(page);
    expect((await document(id)).objects[0]!.parts).toEqual({});
    await page.getByLabel("Add a shape").selectOption("sphere");
    await finished(page);
    expect((await document(id)).objects[1]).toMatchObject({ kind: "sphere", name: "sphere", material: "blocking" });
  });

  it("a measured distance says how long it really is, and everything follows", async () => {
    const id = await putProject(app, {
      ...empty,
      materials: { m: {} },
      objects: [{ kind: "box", material: "m", size: [10, 4, 1] }],
      camera: { position: [0, 0, 20], target: [0, 0, 0], fieldOfView: 20 },
      air: [{ density: 0.1 }],
    });
    await choose(id);
    await finished(page);
    await page.keyboard.press("m");
    const box = (await page.getByTestId("picture").boundingBox())!;
    // the box's face is 19.5 m away
    for (const x of [0.42, 0.58]) await page.mouse.click(box.x + box.width * x, box.y + box.height / 2);
    const field = page.getByRole("spinbutton", { name: "Actual length" });
    await field.waitFor();
    const seen = Number(await field.getAttribute("aria-valuenow"));
    expect(seen).toBeCloseTo(0.16 * 2 * 19.5 * Math.tan((10 * Math.PI) / 180) * 4, 1);
    await type("Actual length", String(seen * 2));
    await finished(page);
    const doc = await document(id);
    expect(doc.objects[0]!.size[0]).toBeCloseTo(20, 2);
    expect(doc.air[0]!.density).toBeCloseTo(0.05, 4);
    expect(doc.camera.position[2]).toBeCloseTo(40, 2);
    await page.keyboard.press("Control+z");
    expect((await document(id)).camera.position[2]).toBe(20);
    // the distance under the pointer
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + 3);
    await page.getByText("19.5 m away", { exact: true }).waitFor();
  });

  it("keeps lenses and looks through them; exposes for a point; balances white", async () => {
    const id = await putProject(app, {
      ...empty,
      materials: { m: {} },
      objects: [{ kind: "box", material: "m", size: [10, 4, 1] }],
      sun: { azimuth: 180, elevation: 30, temperature: 3000 },
      sky: { on: false },
      camera: { position: [0, 0, 20], target: [0, 0, 0], fieldOfView: 20 },
    });
    await choose(id);
    await finished(page);
    await page.getByText("Keep this lens").click();
    await type("Field of view", "40");
    await page.getByText("Keep this lens").click();
    await page.getByRole("list", { name: "Kept lenses" }).getByRole("button", { name: "lens 1" }).first().click();
    await finished(page);
    expect(await document(id)).toMatchObject({
      camera: { fieldOfView: 20 },
      lenses: [{ name: "lens 1" }, { name: "lens 2", camera: { fieldOfView: 40 } }],
    });
    const box = (await page.getByTestId("picture").boundingBox())!;
    await page.keyboard.press("e");
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    const middle = await brightness(page, [0.48, 0.45, 0.04, 0.1]);
    const green = middle[1];
    expect(green).toBeGreaterThan(85);
    expect(green).toBeLessThan(150);
    await page.keyboard.press("4");
    await page.getByText("White balance from a point").click();
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    const [r, , b] = await brightness(page, [0.48, 0.45, 0.04, 0.1]);
    expect(Math.abs(r - b)).toBeLessThan(3);
    expect((await document(id)).film.whiteBalance).toBeLessThan(3300);
  });
});
