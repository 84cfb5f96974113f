import { Document, type Material } from "@gltf-transform/core";
import {
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsSpecular,
  KHRTextureTransform,
} from "@gltf-transform/extensions";
import { encode } from "fast-png";
import { describe, expect, it } from "vitest";
import { matteValues, passValues } from "#core/film/film";
import { modelIO, readModel } from "#core/formats/gltf";
import { PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { bandMean, pencil, pixelErrors, render, simpson, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";

type V3 = [number, number, number];
const dark = { sun: { on: false }, sky: { on: false } };
const furnace: PartialDocument = {
  sun: { on: false },
  sky: { luminance: 1, zenith: [1, 1, 1], horizon: [1, 1, 1] },
  camera: { position: [0, 0.3, 6], target: [0, 0, 0], fieldOfView: 40 },
  render: { level: "full", airBounces: 1000, surfaceBounces: 1000, airSamples: 1 },
  film: { size: [24, 24] },
};
const white = { baseColor: [1, 1, 1] as V3, transmission: 1 };

describe("glass in a white furnace", () => {
  for (const [name, glass, objects] of [
    ["a thin pane", { ...white, roughness: 0 }, [{ kind: "rectangle", size: [3, 3], rotation: [70, 20, 0] }]],
    [
      "three panes behind each other",
      { ...white, roughness: 0 },
      [1, 0, -1].map((z) => ({ kind: "rectangle", size: [3, 3], position: [0, 0, z], rotation: [80, 0, 0] })),
    ],
    [
      "half a pane, half matt",
      { ...white, transmission: 0.5, specular: 0, roughness: 0.1 },
      [{ kind: "rectangle", size: [3, 3], rotation: [70, 20, 0] }],
    ],
    ["a solid ball, smooth", { ...white, solid: true, roughness: 0 }, [{ kind: "sphere", radius: 1.4 }]],
    [
      "a veil of half opacity",
      { baseColor: [1, 1, 1], specular: 0, opacity: 0.5 },
      [{ kind: "rectangle", size: [3, 3], rotation: [70, 20, 0] }],
    ],
  ] as const)
    it(name, async () => {
      const scene = { ...furnace, materials: { glass } as never, objects: objects.map((o) => ({ ...o, material: "glass" })) as never };
      // what panes throw back is drawn seldom and weighs much: it takes samples until the errors are known
      const film = await render(scene, 768);
      for (const p of pixelErrors(film)) expect(Math.abs(p.mean - 1)).toBeLessThan(5 * p.error + 0.004);
      const m = bandMean(film, "beauty", 1);
      expect(m.error).toBeLessThan(0.01);
      expect(Math.abs(m.mean - 1)).toBeLessThan(3.5 * m.error + 1e-3);
    });

  it("a rough solid ball gives back what it gets", async () => {
    for (const roughness of [0.2, 0.4, 0.7, 1]) {
      const scene = {
        ...furnace,
        materials: { glass: { ...white, solid: true, roughness } },
        objects: [{ kind: "sphere" as const, material: "glass", radius: 1.4 }],
      };
      const m = bandMean(await render(scene, 192), "beauty", 1);
      expect(Math.abs(m.mean - 1), `roughness ${roughness}: ${m.mean} ± ${m.error}`).toBeLessThan(0.02 + 3.5 * m.error);
    }
  });

  it("a pane reflects what either polarisation does by itself", async () => {
    // glowing on one side alone: what is seen is what passes
    for (const cos of [1, 0.5, 0.2]) {
      const film = await render(
        {
          ...dark,
          materials: { wall: { baseColor: [0, 0, 0], specular: 0, emission: [100, 100, 100] }, pane: { ...white, roughness: 0 } },
          objects: [
            { kind: "rectangle", material: "wall", position: [0, -4, 0], size: [400, 400] },
            { kind: "rectangle", material: "pane", size: [400, 400] },
          ],
          camera: pencil([0, 5 * cos, 5 * Math.sqrt(1 - cos * cos)], [0, -cos, -Math.sqrt(1 - cos * cos)]),
          film: { size: [48, 48] },
        },
        64,
      );
      const t = Math.sqrt(1 - (1 - cos * cos) / 1.5 ** 2);
      // Stokes: 2r / (1 + r) of all passes between two faces
      const both = [(cos - 1.5 * t) / (cos + 1.5 * t), (t - 1.5 * cos) / (t + 1.5 * cos)].map((a) => (2 * a * a) / (1 + a * a));
      const m = bandMean(film, "surfaces", 1);
      expect(Math.abs(m.mean - 100 * (1 - (both[0]! + both[1]!) / 2))).toBeLessThan(4 * m.error + 0.02);
    }
  });
});

describe("glass and light", () => {
  const glowing = { baseColor: [0, 0, 0] as V3, specular: 0, emission: [100, 100, 100] as V3 };
  it("a tinted pane keeps its tint times what Fresnel's equations let through: for the lens, and for light on its way", async () => {
    const tint: V3 = [0.8, 0.4, 0.1];
    const f = (0.5 / 2.5) ** 2;
    const through = 1 - (2 * f) / (1 + f);
    const seen = await render(
      {
        ...dark,
        materials: { wall: glowing, pane: { baseColor: tint, transmission: 1, roughness: 0 } },
        objects: [
          { kind: "rectangle", material: "wall", position: [0, 0, -4], size: [10, 10], rotation: [90, 0, 0] },
          { kind: "rectangle", material: "pane", position: [0, 0, -2], size: [10, 10], rotation: [90, 0, 0] },
        ],
        camera: pencil([0, 0, 0], [0, 0, -1]),
        film: { size: [48, 48] },
      },
      64,
    );
    // what the pane throws back is dark; depth is that of the wall where the way went on
    for (const band of [0, 1, 2]) {
      const m = bandMean(seen, "surfaces", band);
      expect(Math.abs(m.mean - 100 * through * tint[band]!)).toBeLessThan(4 * m.error + 1e-3);
    }
    const lit = (pane: boolean): Promise<import("#core/film/film").Film> =>
      render(
        {
          sky: { on: false },
          sun: { azimuth: 0, elevation: 90, illuminance: 1000, angularDiameter: 0.01, temperature: 6500 },
          materials: { floor: { baseColor: [1, 1, 1], specular: 0 }, pane: { baseColor: tint, transmission: 1, roughness: 0 } },
          objects: [
            { kind: "rectangle", material: "floor", size: [9, 9] },
            ...(pane
              ? [{ kind: "rectangle" as const, material: "pane", position: [0, 2, 0] as V3, size: [9, 9] as [number, number] }]
              : []),
          ],
          // off the edge that the triangles share
          camera: { kind: "orthographic", position: [0.3, 1, 0.1], target: [0.3, 0, 0.1], height: 1e-6 },
          air: [{ density: 0.01, anisotropy: 0, region: { kind: "box", centre: [0, 0.5, 0], size: [9, 1, 9] } }],
          render: { surfaceBounces: 0 },
          film: { size: [16, 16] },
        },
        256,
      );
    const [a, b] = [await lit(true), await lit(false)];
    for (const pass of ["surfaces", "air"] as const)
      for (const band of [0, 1, 2])
        expect(bandMean(a, pass, band).mean / bandMean(b, pass, band).mean / (through * tint[band]!)).toBeCloseTo(
          1,
          pass === "air" ? 1 : 3,
        );
  });

  it("air behind a pane is seen through it, and the passes still add up", async () => {
    const scene = (pane: boolean): PartialDocument => ({
      ...dark,
      lights: [{ kind: "point", position: [0, 1, -3], intensity: 500, temperature: 6500 }],
      materials: { pane: { baseColor: [0.5, 0.5, 0.5], transmission: 1, roughness: 0, ior: 1 } },
      objects: pane ? [{ kind: "rectangle", material: "pane", position: [0, 0, -1], size: [10, 10], rotation: [90, 0, 0] }] : [],
      camera: pencil([0, 0, 0], [0, 0, -1]),
      air: [{ density: 0.1, anisotropy: 0.3, region: { kind: "box", centre: [0, 0, -4], size: [4, 4, 4] } }],
      film: { size: [32, 32] },
    });
    const [a, b] = [bandMean(await render(scene(true), 64), "air", 1), bandMean(await render(scene(false), 64), "air", 1)];
    expect(Math.abs(a.mean / b.mean - 0.5)).toBeLessThan((4 * Math.hypot(a.error, b.error)) / b.mean);
  });

  it("a solid slab absorbs by what lies inside it, and bends no ray that meets it straight", async () => {
    const film = await render(
      {
        ...dark,
        materials: {
          wall: glowing,
          slab: { ...white, solid: true, roughness: 0, attenuationColor: [0.5, 0.25, 1], attenuationDistance: 2 },
        },
        objects: [
          { kind: "rectangle", material: "wall", position: [0, 0, -6], size: [20, 20], rotation: [90, 0, 0] },
          { kind: "box", material: "slab", position: [0, 0, -3], size: [9, 9, 2] },
        ],
        camera: pencil([0, 0, 0], [0, 0, -1]),
        render: { surfaceBounces: 40 },
        film: { size: [48, 48] },
      },
      64,
    );
    const f = (0.5 / 2.5) ** 2;
    for (const band of [0, 1, 2]) {
      const inside = [0.5, 0.25, 1][band]!;
      // all the passes between two faces: T² a / (1 - R² a²)
      const want = (100 * (1 - f) ** 2 * inside) / (1 - f * f * inside * inside);
      const m = bandMean(film, "surfaces", band);
      expect(Math.abs(m.mean - want)).toBeLessThan(4 * m.error + 0.004 * want);
    }
  });
});

/** A square model, 2 × 2 m facing up, with a texture of four texels in every slot asked for. */
async function square(
  change: (doc: Document, m: ReturnType<Document["createMaterial"]>, t: (rgba: number[]) => ReturnType<Document["createTexture"]>) => void,
): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const accessor = (type: "VEC3" | "VEC2" | "SCALAR", array: Float32Array | Uint16Array) =>
    doc.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const texture = (rgba: number[]) =>
    doc
      .createTexture("t")
      .setMimeType("image/png")
      .setImage(encode({ width: 2, height: 2, channels: 4, depth: 8, data: new Uint8Array(rgba) }));
  const material = doc.createMaterial("m").setMetallicFactor(0).setRoughnessFactor(1);
  change(doc, material, texture);
  const primitive = doc
    .createPrimitive()
    .setAttribute("POSITION", accessor("VEC3", new Float32Array([-1, 0, -1, 1, 0, -1, 1, 0, 1, -1, 0, 1])))
    .setAttribute("NORMAL", accessor("VEC3", new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0])))
    .setAttribute("TEXCOORD_0", accessor("VEC2", new Float32Array([0, 0, 1, 0, 1, 1, 0, 1])))
    .setIndices(accessor("SCALAR", new Uint16Array([0, 2, 1, 0, 3, 2])))
    .setMaterial(material);
  doc.createScene().addChild(doc.createNode().setMesh(doc.createMesh().addPrimitive(primitive)));
  return modelIO().writeBinary(doc);
}
/** Looks straight down at the square, so that x runs right and z down the frame, as u and v do. */
const above: PartialDocument = {
  sun: { on: false },
  sky: { luminance: Math.PI / Math.PI, zenith: [1, 1, 1], horizon: [1, 1, 1] },
  assets: { square: { uri: "square.glb" } },
  objects: [{ kind: "model", asset: "square" }],
  camera: { kind: "orthographic", position: [0, 3, 0], target: [0, 0, 0], height: 2 },
  render: { surfaceBounces: 0 },
  film: { size: [8, 8] },
};
async function look(
  bytes: Uint8Array,
  more: PartialDocument = {},
  samples = 64,
): Promise<{ at(x: number, y: number): number[]; left: string[] }> {
  const { mesh, report } = await readModel(bytes);
  const film = await render({ ...above, ...more }, samples, PASS_SURFACES, 0, { models: new Map([["square", mesh]]) });
  const v = passValues(film, "surfaces");
  return { at: (x, y) => [...v.slice(3 * (y * 8 + x), 3 * (y * 8 + x) + 3)], left: report.left };
}
const FOUR = [255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 188, 188, 188, 255];

describe("textures of models", () => {
  it("base colour: sRGB decoded, in place, filtered between texels or not, repeated, transformed", async () => {
    const nearest = await look(
      await square((_, m, t) => {
        m.setBaseColorTexture(t(FOUR));
        m.getBaseColorTextureInfo()!.setMagFilter(9728);
      }),
    );
    // dielectrics reflect some of the even sky besides
    expect(nearest.at(1, 1)[0]! - nearest.at(1, 1)[1]!).toBeGreaterThan(0.8);
    expect(nearest.at(6, 1)[1]! - nearest.at(6, 1)[0]!).toBeGreaterThan(0.8);
    expect(nearest.at(1, 6)[2]! - nearest.at(1, 6)[0]!).toBeGreaterThan(0.8);
    const grey = nearest.at(6, 6)[0]!;
    expect(grey).toBeGreaterThan(0.48);
    expect(grey).toBeLessThan(0.58);
    expect(nearest.at(3, 3)[0]! - nearest.at(3, 3)[1]!).toBeGreaterThan(0.8);
    const smooth = await look(await square((_, m, t) => m.setBaseColorTexture(t(FOUR))));
    expect(smooth.at(3, 1)[0]!).toBeGreaterThan(smooth.at(4, 1)[0]!);
    expect(smooth.at(3, 1)[1]!).toBeGreaterThan(0.2);
    const moved = await look(
      await square((doc, m, t) => {
        m.setBaseColorTexture(t(FOUR));
        const info = m.getBaseColorTextureInfo()!.setMagFilter(9728);
        info.setExtension(
          "KHR_texture_transform",
          doc.createExtension(KHRTextureTransform).createTransform().setOffset([0.5, 0]).setScale([1, 1]),
        );
      }),
    );
    expect(moved.at(1, 1)[1]! - moved.at(1, 1)[0]!).toBeGreaterThan(0.8);
    expect(moved.at(6, 1)[0]! - moved.at(6, 1)[1]!).toBeGreaterThan(0.8);
  });

  it("colours of corners run over a triangle in linear light, times the base colour; their opacity lets what is behind through", async () => {
    const cornered = async (mode: "OPAQUE" | "BLEND"): Promise<Uint8Array> => {
      const doc = await modelIO().readBinary(await square((d, m) => {
        m.setBaseColorFactor([0.5, 1, 1, 1]).setAlphaMode(mode);
        m.setExtension("KHR_materials_specular", d.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0));
      })); // prettier-ignore
      const [primitive] = doc.getRoot().listMeshes()[0]!.listPrimitives();
      // red and opaque at the left, green and half clear at the right
      const colours = new Float32Array([1, 0, 0, 1, 0, 1, 0, 0.5, 0, 1, 0, 0.5, 1, 0, 0, 1]);
      primitive!.setAttribute("COLOR_0", doc.createAccessor().setType("VEC4").setArray(colours).setBuffer(doc.getRoot().listBuffers()[0]!));
      return modelIO().writeBinary(doc);
    };
    const opaque = await look(await cornered("OPAQUE"));
    for (const x of [0, 2, 5, 7]) {
      const share = (x + 0.5) / 8;
      const [r, g, b] = opaque.at(x, 3);
      expect(r).toBeCloseTo(0.5 * (1 - share), 2);
      expect(g).toBeCloseTo(share, 2);
      expect(b).toBe(0);
    }
    const clear = await look(await cornered("BLEND"), {}, 1024);
    // behind it the sky below the horizon, of luminance 1
    for (const x of [1, 6]) {
      const share = (x + 0.5) / 8;
      expect(clear.at(x, 4)[2]!).toBeCloseTo(0.5 * share, 1);
    }
  });

  it("a picture may lie by the second set of coordinates, with its own transform", async () => {
    const doc = await modelIO().readBinary(
      await square((d, m, t) => {
        m.setBaseColorTexture(t(FOUR));
        m.getBaseColorTextureInfo()!.setMagFilter(9728).setTexCoord(1);
        m.setExtension("KHR_materials_specular", d.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0));
      }),
    );
    // u and v exchanged
    const second = doc.createAccessor().setType("VEC2").setArray(new Float32Array([0, 0, 0, 1, 1, 1, 1, 0])).setBuffer(doc.getRoot().listBuffers()[0]!); // prettier-ignore
    doc.getRoot().listMeshes()[0]!.listPrimitives()[0]!.setAttribute("TEXCOORD_1", second);
    const seen = await look(await modelIO().writeBinary(doc));
    seen.at(6, 1).forEach((v, k) => expect(v).toBeCloseTo([0, 0, 1][k]!, 2));
    seen.at(1, 6).forEach((v, k) => expect(v).toBeCloseTo([0, 1, 0][k]!, 2));
  });

  it("light that passes diffusely has its own colour, and a reflection its tint", async () => {
    const sheet = (tint: [number, number, number], specular: [number, number, number] | null): Promise<Uint8Array> =>
      square((doc, m) => {
        m.setBaseColorFactor([0.8, 0.1, 0.1, 1]);
        const s = doc.createExtension(KHRMaterialsSpecular).createSpecular();
        m.setExtension("KHR_materials_specular", specular ? s.setSpecularColorFactor(specular) : s.setSpecularFactor(0));
        const passes = doc.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission();
        m.setExtension("KHR_materials_diffuse_transmission", passes.setDiffuseTransmissionFactor(specular ? 0 : 0.5).setDiffuseTransmissionColorFactor(tint)); // prettier-ignore
      });
    // an even sky all about: half the base colour from this side, half the other colour from the far one
    const leaf = await look(await sheet([0.2, 0.6, 1], null), {}, 4096);
    // to four errors of as many samples of either side
    leaf.at(3, 3).forEach((v, k) => expect(Math.abs(v - [0.5, 0.35, 0.55][k]!)).toBeLessThan((4 * [0.3, 0.25, 0.45][k]!) / 64));
    // tints past 1 ÷ 0.04 make a mirror of a band: it reflects all, and what is below gets nothing
    const smooth = await look(await square((doc, m) => {
      m.setBaseColorFactor([0.5, 0.5, 0.5, 1]).setRoughnessFactor(0.1);
      m.setExtension("KHR_materials_specular", doc.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularColorFactor([25, 25, 0])); // prettier-ignore
    }), {}, 4096); // prettier-ignore
    expect(Math.abs(smooth.at(3, 3)[0]! - 1)).toBeLessThan(0.02);
    expect(smooth.at(3, 3)[2]!).toBeLessThan(0.02);
  });

  it("a crowd of blended veils, their tree's blocks shared, lets through what they leave one after the other", async () => {
    // at such places that a ray enters every leaf of the tree, two of which share a block of triangles
    const objects = [0, -0.05, -10.05, -40.05, -40.1, -130.1].map((z) => ({
      kind: "rectangle" as const,
      material: "veil",
      position: [0, 0, z] as [number, number, number],
      rotation: [90, 0, 0] as [number, number, number],
      size: [2, 2] as [number, number],
    }));
    const film = await render(
      {
        sun: { on: false },
        sky: { luminance: 1, zenith: [1, 1, 1], horizon: [1, 1, 1] },
        materials: { veil: { baseColor: [0, 0, 0], specular: 0, opacity: 0.3 } },
        objects,
        camera: { position: [0, 0, 9], target: [0, 0, 0], fieldOfView: 0.4 },
        film: { size: [16, 9] },
      },
      512,
    );
    const m = bandMean(film, "beauty", 1);
    expect(Math.abs(m.mean - 0.7 ** 6)).toBeLessThan(3.5 * m.error);
    expect(m.error).toBeLessThan(0.002);
  });

  it("cut-outs let rays pass below their threshold, for the lens and for light; blended ones in part", async () => {
    const holes = [255, 255, 255, 0, 255, 255, 255, 255, 255, 255, 255, 100, 255, 255, 255, 200];
    for (const [mode, shares] of [
      ["MASK", [0, 1, 0, 1]],
      ["BLEND", [0, 1, 100 / 255, 200 / 255]],
    ] as const) {
      const bytes = await square((_, m, t) => {
        m.setBaseColorTexture(t(holes)).setAlphaMode(mode).setEmissiveFactor([1, 1, 1]).setBaseColorFactor([1, 1, 1, 1]);
        m.getBaseColorTextureInfo()!.setMagFilter(9728);
      });
      const seen = await look(bytes, { sky: { on: false } }, 4096);
      [seen.at(1, 1), seen.at(6, 1), seen.at(1, 6), seen.at(6, 6)].forEach((c, i) => expect(c[0]).toBeCloseTo(shares[i]!, 1));
      // the shadow it throws on a floor a metre below
      const { mesh } = await readModel(bytes);
      const shadow = await render(
        {
          ...above,
          sky: { on: false },
          sun: { azimuth: 0, elevation: 90, illuminance: Math.PI * 100, angularDiameter: 0.01, temperature: 6500 },
          materials: { floor: { baseColor: [1, 1, 1], specular: 0 } },
          objects: [
            { kind: "model", asset: "square", position: [0, 1, 0] },
            { kind: "rectangle", material: "floor", size: [4, 4] },
          ],
          camera: { kind: "orthographic", position: [0, 0.5, 0], target: [0, 0, 0], height: 2 },
          film: { size: [8, 8] },
        },
        512,
        PASS_SURFACES,
        0,
        { models: new Map([["square", mesh]]) },
      );
      const v = passValues(shadow, "surfaces");
      const at = (x: number, y: number): number => v[3 * (y * 8 + x) + 1]! / 100;
      [at(1, 1), at(6, 1), at(1, 6), at(6, 6)].forEach((c, i) => expect(Math.abs(c - (1 - shares[i]!))).toBeLessThan(0.02));
    }
  });

  it("normal maps turn the light, roughness and metalness maps the reflection, emission maps the glow", async () => {
    const sun: PartialDocument = { sky: { on: false }, sun: { azimuth: 90, elevation: 45, illuminance: Math.PI * 100, temperature: 6500 } };
    // half of the square leans towards +x (u), half away
    const lean = [218, 128, 218, 255, 38, 128, 218, 255, 218, 128, 218, 255, 38, 128, 218, 255];
    const bumpy = await look(
      await square((_, m, t) => {
        m.setNormalTexture(t(lean));
        m.getNormalTextureInfo()!.setMagFilter(9728);
      }),
      sun,
    );
    expect(bumpy.at(1, 1)[1]!).toBeGreaterThan(80);
    expect(bumpy.at(6, 1)[1]!).toBeLessThan(15);
    const emissive = await look(
      await square((_, m, t) => {
        m.setEmissiveFactor([1, 1, 1]).setEmissiveTexture(t(FOUR)).setBaseColorFactor([0, 0, 0, 1]);
        m.getEmissiveTextureInfo()!.setMagFilter(9728);
      }),
      { sky: { on: false } },
    );
    expect(emissive.at(1, 1)).toEqual([1, 0, 0]);
    const metal = await look(
      await square((_, m, t) => {
        m.setMetallicFactor(1).setRoughnessFactor(1).setBaseColorFactor([1, 0, 0, 1]);
        m.setMetallicRoughnessTexture(t([0, 255, 0, 255, 0, 255, 255, 255, 0, 255, 0, 255, 0, 255, 255, 255]));
        m.getMetallicRoughnessTextureInfo()!.setMagFilter(9728);
      }),
    );
    // without metal there is a colourless reflection of the even sky in green too
    expect(metal.at(1, 1)[1]!).toBeGreaterThan(0.01);
    expect(metal.at(6, 1)[1]!).toBeLessThan(metal.at(1, 1)[1]!);
  });

  it("emission by a picture, and of what is cut out or blended, lights as it looks: floor and air", async () => {
    const quarter = [255, 255, 255, 255, 0, 0, 0, 255, 0, 0, 0, 255, 0, 0, 0, 255];
    const holes = [255, 255, 255, 255, 255, 255, 255, 0, 255, 255, 255, 0, 255, 255, 255, 0];
    const L = 100;
    const nearest = 9728;
    const plain = (doc: Document, m: Material): Material =>
      m
        .setEmissiveFactor([1, 1, 1])
        .setExtension(
          "KHR_materials_emissive_strength",
          doc.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(L),
        )
        .setExtension("KHR_materials_specular", doc.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0));
    const squares: [string, Uint8Array, number][] = [
      ["a picture", await square((doc, m, t) => {
        plain(doc, m).setBaseColorFactor([0, 0, 0, 1]).setEmissiveTexture(t(quarter));
        m.getEmissiveTextureInfo()!.setMagFilter(nearest);
      }), 1],
      ["a cut-out", await square((doc, m, t) => {
        plain(doc, m).setBaseColorFactor([0, 0, 0, 1]).setBaseColorTexture(t(holes)).setAlphaMode("MASK");
        m.getBaseColorTextureInfo()!.setMagFilter(nearest);
      }), 1],
      ["a blended one", await square((doc, m, t) => {
        plain(doc, m).setBaseColorFactor([0, 0, 0, 0.6]).setBaseColorTexture(t(holes)).setAlphaMode("BLEND");
        m.getBaseColorTextureInfo()!.setMagFilter(nearest);
      }), 0.6],
    ]; // prettier-ignore
    // what a quarter of the square, x and z below 0, a metre above gives the floor, from it alone
    const given = (x: number, z: number): number =>
      simpson((a) => simpson((b) => L / ((a - x) ** 2 + 1 + (b - z) ** 2) ** 2, -1, 0, 40), -1, 0, 40) / Math.PI;
    for (const [name, bytes, share] of squares)
      for (const surfaceBounces of [0, 2]) {
        const { mesh } = await readModel(bytes);
        const film = await render(
          {
            ...dark,
            assets: { square: { uri: "square.glb" } },
            materials: { floor: { baseColor: [1, 1, 1], specular: 0 } },
            objects: [
              { kind: "model", asset: "square", position: [0, 1, 0] },
              { kind: "rectangle", material: "floor", size: [20, 20] },
            ],
            // shines as well, so that there is a choice
            lights: [{ kind: "point", name: "far", position: [0, -3, 0], intensity: 1e-3 }],
            camera: { kind: "orthographic", position: [0, 0.5, 0], target: [0, 0, 0], height: 2 },
            render: { surfaceBounces },
            film: { size: [4, 4] },
          },
          4096,
          PASS_SURFACES,
          0,
          { models: new Map([["square", mesh]]) },
        );
        const expected = simpson((x) => simpson((z) => given(x, z), -1, 1, 8), -1, 1, 8) / 4;
        const mean = pixelErrors(film).reduce((sum, p) => sum + p.mean / 16, 0);
        const error = Math.hypot(...pixelErrors(film).map((p) => p.error / 16));
        expect(error).toBeLessThan(0.01 * expected);
        holds({
          case: `light of ${name}, ${surfaceBounces} bounces`,
          quantity: "mean luminance of a floor, cd/m²",
          expected: expected * share,
          source: "quadrature over the part that shines",
          measured: mean,
          error,
        });
      }
    // in air it lights as a square of that size alone would
    const hazy = async (objects: object[], more: object): Promise<{ mean: number; error: number }> =>
      bandMean(
        await render(
          {
            ...dark,
            materials: { glow: { baseColor: [0, 0, 0], specular: 0, emission: [L, L, L] } },
            objects: objects as never,
            air: [{ density: 0.05, region: { kind: "box", centre: [0, 0, 0], size: [6, 6, 6] } }],
            camera: pencil([0, -0.6, 8], [0, 0, -1]),
            render: { level: "shafts", surfaceBounces: 0 },
            film: { size: [16, 16] },
            ...more,
          },
          512,
          PASS_AIR | PASS_SURFACES,
          0,
          { models: new Map([["square", (await readModel(squares[0]![1])).mesh]]) },
        ),
        "air",
        1,
      );
    const textured = await hazy([{ kind: "model", asset: "square" }], { assets: { square: { uri: "square.glb" } } });
    const serializeWrites = await hazy([{ kind: "rectangle", material: "glow", size: [1, 1], position: [-0.5, 0, -0.5] }], {});
    holds({
      case: "light of a picture in air",
      quantity: "mean luminance of the air, cd/m²",
      expected: serializeWrites.mean,
      source: "a square of the part that shines",
      measured: textured.mean,
      error: Math.hypot(serializeWrites.error, textured.error),
    });
    expect(textured.error).toBeLessThan(0.01 * textured.mean);
  });

  it("emissive surfaces light a floor from above and aslant alike, however far the ground reaches", async () => {
    const L = 100;
    for (const ground of [6, 60, 6000])
      for (const x of [-0.5, 0.75, 2.5]) {
        const film = await render(
          {
            ...dark,
            materials: { floor: { baseColor: [1, 1, 1], specular: 0 }, glow: { baseColor: [0, 0, 0], specular: 0, emission: [L, L, L] } },
            objects: [
              { kind: "rectangle", material: "glow", size: [1, 1], position: [-0.5, 1, -0.5] },
              { kind: "rectangle", material: "floor", size: [ground, ground] },
            ],
            camera: pencil([x, 0.5, -0.5], [0, -1, 0]),
            render: { surfaceBounces: 0 },
            film: { size: [16, 16] },
          },
          256,
          PASS_SURFACES,
        );
        const { mean, error } = bandMean(film, "surfaces", 1);
        holds({
          case: `emissive square above a ground of ${ground} m`,
          quantity: `luminance ${Math.abs(x + 0.5)} m aside, cd/m²`,
          expected: simpson((a) => simpson((b) => L / ((a - x) ** 2 + 1 + b ** 2) ** 2, -0.5, 0.5, 40), -1, 0, 40) / Math.PI,
          source: "quadrature over the square",
          measured: mean,
          error,
        });
        expect(error).toBeLessThan(0.01 * mean);
      }
  });

  it("says what it leaves out, and refuses broken images", async () => {
    const odd = await square((doc, m) =>
      m.setBaseColorTexture(
        doc
          .createTexture("odd")
          .setMimeType("image/webp")
          .setImage(new Uint8Array([1, 2, 3])),
      ),
    );
    expect((await look(odd)).left.join()).toMatch(/texture "odd": image\/webp is not read/);
    const broken = await square((doc, m) =>
      m.setBaseColorTexture(
        doc
          .createTexture("torn")
          .setMimeType("image/png")
          .setImage(new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0, 0])),
      ),
    );
    await expect(readModel(broken, "x.glb")).rejects.toThrow(/x\.glb: texture "torn": not readable/);
  });
});

describe("a holdout", () => {
  const doc = (holdout: boolean): PartialDocument => ({
    sun: { azimuth: 0, elevation: 60, illuminance: 1000 },
    sky: { luminance: 100 },
    materials: { white: { baseColor: [0.8, 0.8, 0.8] } },
    objects: [
      { kind: "rectangle", material: "white", size: [40, 40] },
      { kind: "box", material: "white", position: [0, 1, 0], size: [2, 2, 2], holdout },
    ],
    camera: { position: [0, 1, 12], target: [0, 1, 0], fieldOfView: 40 },
    render: { level: "shafts", surfaceBounces: 2 },
    film: { size: [48, 32], mattes: true },
  });

  it("is black to the lens, and dims and lights the ground as ever", async () => {
    const [held, open] = [await render(doc(true), 64), await render(doc(false), 64)];
    const [a, b] = [passValues(held, "beauty"), passValues(open, "beauty")];
    const matte = matteValues(held, "object").get("box 2")!;
    let whole = 0,
      off = 0,
      pixels = 0,
      sum = 0;
    for (let i = 0; i < matte.length; i++) {
      if (matte[i] === 1) {
        whole++;
        expect(Math.max(a[3 * i]!, a[3 * i + 1]!, a[3 * i + 2]!)).toBe(0);
      }
      if (matte[i] === 0) {
        pixels++;
        off += a[3 * i + 1]! - b[3 * i + 1]!;
        sum += b[3 * i + 1]!;
      }
    }
    expect(whole).toBeGreaterThan(40);
    expect(pixels).toBeGreaterThan(500);
    // the same paths reach the ground: not a bit of difference
    expect(Math.abs(off)).toBeLessThan(1e-6 * sum);
  });
});
