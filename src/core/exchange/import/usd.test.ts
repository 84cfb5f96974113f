import { encode } from "fast-png";
import { zipSync } from "fflate";
import { BoxGeometry, Group, Mesh, MeshStandardMaterial } from "three";
import { USDZExporter } from "three/examples/jsm/exporters/USDZExporter.js";
import { describe, expect, it } from "vitest";
import { decoders } from "../../../cli/decoders";
import { readModel } from "../../formats/gltf";
import { importSet, type ImportedSet } from "./index";

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const bring = (files: Record<string, Uint8Array | string>): Promise<ImportedSet> =>
  importSet(new Map(Object.entries(files).map(([k, v]) => [k, typeof v === "string" ? text(v) : v])), {
    decoders,
    decode: (b) => new TextDecoder().decode(b),
  });

/** A hall in centimetres, z up: a slab with a material and a picture, twice by reference, shapes, lights, a lens, things not to be seen. */
const hall = `#usda 1.0
(
    defaultPrim = "Hall"
    metersPerUnit = 0.01
    upAxis = "Z"
)

def Xform "Hall"
{
    def Mesh "Slab" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {
        uniform token subdivisionScheme = "none"
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        point3f[] points = [(0, 0, 0), (400, 0, 0), (400, 300, 0), (0, 300, 0)]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (
            interpolation = "vertex"
        )
        rel material:binding = </Hall/Stone>
        double3 xformOp:translate = (0, 0, 50)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }

    def Sphere "Hidden"
    {
        token visibility = "invisible"
        double radius = 900
    }

    def Sphere "Frame"
    {
        uniform token purpose = "guide"
        double radius = 900
    }

    def BasisCurves "Grass"
    {
    }

    def Cube "Block"
    {
        double size = 100
        double3 xformOp:translate = (200, 100, 150)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }

    def Xform "Again" (
        references = </Hall/Block>
    )
    {
        double3 xformOp:translate = (0, 0, 400)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }

    def Camera "Gate"
    {
        float focalLength = 20
        float verticalAperture = 20
        float horizontalAperture = 30
        double3 xformOp:translate = (0, -500, 160)
        double3 xformOp:rotateXYZ = (90, 0, 0)
        uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateXYZ"]
    }

    def RectLight "Panel"
    {
        float inputs:intensity = 500
        float inputs:exposure = 1
        float inputs:width = 120
        float inputs:height = 60
        color3f inputs:color = (1, 0.5, 0.25)
        double3 xformOp:translate = (100, 100, 300)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }

    def SphereLight "Bulb"
    {
        float inputs:intensity = 2000
        float inputs:radius = 10
        double3 xformOp:translate = (0, 0, 250)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }

    def DistantLight "Sun"
    {
        float inputs:intensity = 40000
        bool inputs:normalize = true
        double3 xformOp:rotateXYZ = (60, 0, 0)
        uniform token[] xformOpOrder = ["xformOp:rotateXYZ"]
    }

    def DomeLight "Sky"
    {
    }

    def Material "Stone"
    {
        token outputs:surface.connect = </Hall/Stone/Surface.outputs:surface>

        def Shader "Surface"
        {
            uniform token info:id = "UsdPreviewSurface"
            color3f inputs:diffuseColor.connect = </Hall/Stone/Picture.outputs:rgb>
            float inputs:roughness = 0.4
            float inputs:metallic = 0.25
            color3f inputs:emissiveColor = (3, 2, 1)
            token outputs:surface
        }

        def Shader "Picture"
        {
            uniform token info:id = "UsdUVTexture"
            asset inputs:file = @stone.png@
            token inputs:wrapS = "clamp"
            float3 outputs:rgb
        }
    }
}
`;
const png = new Uint8Array(encode({ width: 2, height: 1, channels: 3, data: Uint8Array.of(200, 0, 0, 0, 200, 0) }));

describe("OpenUSD", () => {
  it("text: units, up axis, references within, materials, pictures; what is not seen or read", async () => {
    const set = await bring({ "hall.usda": hall, "stone.png": png });
    // 4 × 3 m of slab half a metre up, blocks of 1 m at 1.5 m and, by the reference, at 4 m; y is up, -z what was y
    set.bounds.forEach((v, k) => expect(v).toBeCloseTo([-0.5, 0.5, -3, 4, 4.5, 0.5][k]!, 5));
    expect(set.report.triangles).toBe(2 + 12 + 12);
    expect([...set.report.left].sort()).toEqual(["curves", "dome lights: choose their image as the sky"]);
    const { mesh } = await readModel(set.model);
    const stone = mesh.materials.find((m) => m.textures?.base)!;
    expect(stone.roughness).toBeCloseTo(0.4, 5);
    expect(stone.metallic).toBeCloseTo(0.25, 5);
    stone.emission.forEach((v, k) => expect(v).toBeCloseTo([3, 2, 1][k]!, 4));
    expect(mesh.textures![stone.textures!.base!.texture]).toMatchObject({ width: 2, wrap: [2, 0] });
    expect(mesh.parts!.map((p) => p.path.split("/").at(-1))).toContain("Slab");
  });

  it("lights with their size and strength, a sun, a lens", async () => {
    const { lights, sun, lenses } = await bring({ "hall.usda": hall });
    const [panel, bulb] = lights;
    // one stop above 500 cd/m², 1.2 × 0.6 m, shining down
    expect(panel).toMatchObject({
      kind: "rectangle",
      name: "Panel",
      unit: "cd/m2",
      intensity: 1000,
      tint: [1, 0.5, 0.25],
      size: [1.2, 0.6],
    });
    panel!.position.forEach((v, k) => expect(v).toBeCloseTo([1, 3, -1][k]!, 5));
    (panel as { target: number[] }).target.forEach((v, k) => expect(v).toBeCloseTo([1, -2, -1][k]!, 5));
    expect(bulb).toMatchObject({ kind: "sphere", radius: 0.1, unit: "cd/m2", intensity: 2000 });
    // its axis turned up by 60 degrees from straight down: the sun stands at 30 degrees
    expect(sun!.elevation).toBeCloseTo(30, 4);
    expect(sun!.illuminance).toBe(40_000);
    expect(lenses[0]).toMatchObject({ name: "Gate" });
    lenses[0]!.camera.position.forEach((v, k) => expect(v).toBeCloseTo([0, 1.6, 5][k]!, 5));
    expect(lenses[0]!.camera.fieldOfView).toBeCloseTo((2 * Math.atan(0.5) * 180) / Math.PI, 3);
    const { position: p, target: t } = lenses[0]!.camera;
    expect([t[0] - p[0], t[1] - p[1]].every((v) => Math.abs(v) < 1e-4) && t[2] < p[2]).toBe(true);
  });

  it("a package of another program's making", async () => {
    const scene = new Group();
    const box = new Mesh(new BoxGeometry(1, 2, 3), new MeshStandardMaterial({ color: 0x804020, roughness: 0.3, metalness: 0.6 }));
    box.position.set(5, 1, 0);
    const twin = box.clone();
    twin.position.set(-5, 1, 0);
    scene.add(box, twin);
    scene.updateMatrixWorld(true);
    const bytes = new Uint8Array(await new USDZExporter().parseAsync(scene));
    const set = await bring({ "boxes.usdz": bytes });
    set.bounds.forEach((v, k) => expect(v).toBeCloseTo([-5.5, 0, -1.5, 5.5, 2, 1.5][k]!, 4));
    expect(set.report).toMatchObject({ triangles: 24, left: [] });
    const { materials } = (await readModel(set.model)).mesh;
    expect(materials[0]!.roughness).toBeCloseTo(0.3, 4);
    expect(materials[0]!.metallic).toBeCloseTo(0.6, 4);
  });

  it("layers in folders refer to each other; what is missing or broken is named", async () => {
    const part = `#usda 1.0\n(\n    defaultPrim = "Part"\n)\ndef Xform "Part"\n{\n    def Cube "Cube"\n    {\n        double size = 2\n    }\n}\n`;
    const root = `#usda 1.0\ndef Xform "Root"\n{\n    def "A" (\n        append references = @parts/part.usda@</Part>\n    )\n    {\n        double3 xformOp:translate = (3, 0, 0)\n        uniform token[] xformOpOrder = ["xformOp:translate"]\n    }\n}\n`;
    const set = await bring({ "pack.zip": zipSync({ "root.usda": text(root), "parts/part.usda": text(part) }) });
    set.bounds.forEach((v, k) => expect(v).toBeCloseTo([2, -1, -1, 4, 1, 1][k]!, 5));
    await expect(bring({ "a.usdc": "PXR-USDC, cut short" })).rejects.toThrow(/a\.usdc: not readable as OpenUSD/);
    await expect(bring({ "a.usda": "#usda 1.0\n" })).rejects.toThrow(/holds no triangles/);
    await expect(bring({ "a.usda": `#usda 1.0\ndef Mesh "M" { int[] faceVertexCounts = [3] int[] faceVertexIndices = [0, 7, 9]\n point3f[] points = [(0,0,0)] }` })).rejects.toThrow(/a\.usda/); // prettier-ignore
  });
});
