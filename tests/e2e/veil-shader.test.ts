/** The veil's fragment shader in a real WebGL2 context against the kernel's veil, ray by ray. */
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { veilSource } from "#core/veil/shader";
import { veilOmissions, veilTables } from "#core/veil/tables";
import type { Finish } from "#core/document/finish";
import { passValues } from "#core/film/film";
import { lutTexture, type Lut } from "#core/data/lut";
import { readCube, writeCube } from "#core/formats/cube";
import { Finisher, NO_FINISH } from "#core/film/finish";
import { FINISH_SIZE, FINISH_SOURCE } from "#core/veil/finish-source";
import { LIGHT_WORDS, MEDIUM_WORDS, P_AIR_BOUNCES, PARAM_COUNT, PASS_AIR } from "#core/layout/layout";
import { compileScene } from "#core/scene/compile";
import { sectionFrame } from "#core/section/frame";
import { SectionProbe } from "#core/section/probe";
import type { SunMap } from "#core/section/sun-map";
import { load, render, wasm, type PartialDocument } from "../support/kernel";
import { openBrowser } from "./support";

type V3 = [number, number, number];

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await openBrowser(["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]);
  page = await browser.newPage();
});
afterAll(() => browser?.close());

const none: V3 = [0, 0, 0];

/** One pixel a ray: origin and distance in one texture, direction in another. */
const MAIN = `
uniform sampler2D origins, directions;
out vec4 colour;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 o = texelFetch(origins, at, 0);
  colour = vec4(veil(o.xyz, texelFetch(directions, at, 0).xyz, o.w, vec3(0.0)) + sunOnce, 1.0);
}`;

/** Draws one row of pixels in Chromium. @returns RGBA floats */
async function draw(
  rays: { o: V3; d: V3; far: number }[],
  tables: ReturnType<typeof veilTables>,
  map: SunMap | null = null,
): Promise<number[]> {
  return page.evaluate(
    ({ source, width, origins, directions, parameters, media, lights, counts, words, map }) => {
      // compiling takes software rendering seconds: once for all cases
      const kept = globalThis as unknown as { veil?: { gl: WebGL2RenderingContext; program: WebGLProgram } };
      const build = (): { gl: WebGL2RenderingContext; program: WebGLProgram } => {
        const canvas = document.createElement("canvas");
        const gl = canvas.getContext("webgl2");
        if (!gl || !gl.getExtension("EXT_color_buffer_float")) throw new Error("no WebGL2 with float targets");
        const shader = (type: number, text: string): WebGLShader => {
          const s = gl.createShader(type)!;
          gl.shaderSource(s, text);
          gl.compileShader(s);
          if (!gl.getShaderParameter(s, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(s)!);
          return s;
        };
        const program = gl.createProgram();
        const corners =
          "#version 300 es\nvoid main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0.0, 1.0); }";
        gl.attachShader(program, shader(gl.VERTEX_SHADER, corners));
        gl.attachShader(program, shader(gl.FRAGMENT_SHADER, source));
        gl.linkProgram(program);
        if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program)!);
        return { gl, program };
      };
      const { gl, program } = (kept.veil ??= build());
      gl.useProgram(program);
      const texture = (unit: number, name: string, w: number, h: number, data: number[] | null, channels: 1 | 4): WebGLTexture => {
        const t = gl.createTexture();
        gl.activeTexture(gl.TEXTURE0 + unit);
        gl.bindTexture(gl.TEXTURE_2D, t);
        const [internal, format] = channels === 1 ? [gl.R32F, gl.RED] : [gl.RGBA32F, gl.RGBA];
        gl.texImage2D(gl.TEXTURE_2D, 0, internal, w, h, 0, format, gl.FLOAT, data && new Float32Array(data));
        gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
        gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
        if (name) gl.uniform1i(gl.getUniformLocation(program, name), unit);
        return t;
      };
      texture(0, "parameterTable", words.parameters, 1, parameters, 1);
      texture(1, "mediaTable", words.media, media.length / words.media, media, 1);
      texture(2, "lightTable", words.lights, lights.length / words.lights, lights, 1);
      texture(3, "origins", width, 1, origins, 4);
      texture(4, "directions", width, 1, directions, 4);
      gl.uniform1i(gl.getUniformLocation(program, "mediaCount"), counts.media);
      gl.uniform1i(gl.getUniformLocation(program, "lightCount"), counts.lights);
      const at = (part: string): WebGLUniformLocation | null => gl.getUniformLocation(program, `sunMap${part}`);
      texture(6, "sunMapTable", map.side || 1, map.side || 1, map.side ? map.texels : null, 4);
      gl.uniform1i(at("Side"), map.side);
      gl.uniform3f(at("U"), ...map.across[0]);
      gl.uniform3f(at("V"), ...map.across[1]);
      gl.uniform2f(at("Low"), ...map.low);
      const target = texture(5, "", width, 1, null, 4);
      gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
      gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
      gl.viewport(0, 0, width, 1);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      const out = new Float32Array(4 * width);
      gl.readPixels(0, 0, width, 1, gl.RGBA, gl.FLOAT, out);
      return [...out];
    },
    {
      source: veilSource(true) + MAIN,
      width: rays.length,
      origins: rays.flatMap(({ o, far }) => [...o, Math.min(far, 1e30)]),
      directions: rays.flatMap(({ d }) => [...d, 0]),
      parameters: [...tables.parameters],
      media: [...tables.media],
      lights: [...tables.lights],
      counts: { media: tables.mediaCount, lights: tables.lightCount },
      words: { parameters: PARAM_COUNT, media: MEDIUM_WORDS, lights: LIGHT_WORDS },
      map: map
        ? { ...map, texels: [...map.texels] }
        : { side: 0, texels: [], across: [none, none] as [V3, V3], low: [0, 0] as [number, number] },
    },
  );
}

const rays = Array.from({ length: 48 }, (_, i) => {
  const a = i * 2.399963,
    y = ((i % 12) - 5.5) / 6.1;
  const r = Math.sqrt(1 - y * y);
  return {
    o: [3 * Math.cos(i), 1 + (i % 5) * 1.5, 3 * Math.sin(i * 1.7)] as V3,
    d: [r * Math.cos(a), y, r * Math.sin(a)] as V3,
    far: i % 4 === 0 ? Infinity : 2 + ((i * 7) % 40),
  };
});

const ground: PartialDocument = {
  materials: { stone: {} },
  objects: [{ kind: "rectangle", material: "stone", size: [200, 200] }],
  sun: { azimuth: 60, elevation: 35, illuminance: 50_000 },
  moon: { on: true, azimuth: 200, elevation: 40, illuminance: 900 },
};
const lamps: PartialDocument["lights"] = [
  { kind: "point", position: [2, 3, -6], intensity: 4000 },
  { kind: "spot", position: [0, 6, 0], target: [3, 0, -4], intensity: 60_000, cone: 50, radius: 0.2 },
  { kind: "rectangle", position: [-5, 3, 2], target: [0, 1, 0], intensity: 3000, size: [1, 2], spread: 0.5, unit: "cd" },
  { kind: "disk", position: [4, 4, 4], target: [0, 0, 0], intensity: 3000, bothSides: true, fade: { nearTo: 2, farFrom: 5, farTo: 9 } },
  { kind: "sphere", position: [0, 2, 7], intensity: 2000, radius: 0.5 },
  { kind: "tube", position: [-3, 5, -3], direction: [1, 0.3, 0], intensity: 2000, length: 2 },
];
const level = (airBounces: number): PartialDocument["render"] => ({ level: "veil", airBounces });

const cases: [string, PartialDocument][] = [
  ["even air, once", { ...ground, air: [{ density: 0.03, region: { kind: "sphere", centre: [0, 2, 0], radius: 30 } }], render: level(1) }],
  ["exponential layer, many", { ...ground, air: [{ density: 0.05, height: { level: 0.5, scale: 6 } }], render: level(8) }],
  ...(["linear", "quadratic", "inverse-quadratic"] as const).map((shape): [string, PartialDocument] => [
    `${shape} layer, many`,
    { ...ground, air: [{ density: 0.08, anisotropy: 0.6, height: { shape, level: 0, scale: 9 } }], render: level(8) },
  ]),
  [
    "coloured media that overlap in every kind of region",
    {
      ...ground,
      air: [
        { density: 0.04, scattering: [1, 0.6, 0.2], absorption: [0, 0.1, 0.3], height: { level: 1, scale: 5 } },
        {
          name: "box",
          density: 0.1,
          region: { kind: "box", centre: [2, 2, -4], size: [5, 4, 6], rotation: [10, 30, 5] },
          phase: { model: "rayleigh" },
        },
        {
          name: "drum",
          density: 0.2,
          region: { kind: "cylinder", centre: [-3, 2, 1], radius: 2, height: 5 },
          phase: { model: "droplets", diameter: 12 },
        },
        { name: "cone", density: 0.3, region: { kind: "cone", centre: [1, 3, 3], radius: 3, height: 6 }, phase: { model: "two-lobe" } },
        { name: "layer", density: 0.02, region: { kind: "layer", level: 4 }, emission: { colour: [1, 0.5, 0.2], strength: 30 } },
      ],
      render: level(6),
    },
  ],
  [
    "lamps of every kind",
    {
      ...ground,
      sun: { on: false },
      sky: { on: false },
      moon: { on: false },
      lights: lamps,
      air: [{ density: 0.06, anisotropy: 0.4, height: { level: 1, scale: 8 } }],
      render: level(1),
    },
  ],
  ["dense fog", { ...ground, air: [{ density: 3, height: { level: 2, scale: 3 } }], render: level(16) }],
  ["air as thin as can be", { ...ground, air: [{ density: 1e-6, height: { level: 2, scale: 3000 } }], render: level(16) }],
];

describe("the veil as a fragment shader", () => {
  it.each(cases)("is the kernel's veil: %s", async (_, document) => {
    const { doc, kernel, memory } = await load(document);
    expect(veilOmissions(doc)).toEqual([]);
    const drawn = await draw(rays, veilTables(memory.buffer));
    const wanted = rays.map(({ o, d, far }) => [0, 1, 2].map((band) => kernel.veilAt(...o, ...d, far, band)));
    const brightest = Math.max(...wanted.flat());
    expect(brightest).toBeGreaterThan(0);
    for (const [i, bands] of wanted.entries())
      for (let k = 0; k < 3; k++) {
        const [a, b] = [drawn[4 * i + k]!, bands[k]!];
        expect(Math.abs(a - b), `ray ${i}, band ${k}: ${a} against ${b}`).toBeLessThanOrEqual(2e-3 * b + 1e-5 * brightest);
      }
  });

  /** Sunlight through slots of a roof into haze; a pane of coloured glass in one of them. */
  const barn: PartialDocument = {
    film: { size: [48, 27] },
    camera: { position: [0, 1.6, 9], target: [0, 2.2, 0] },
    materials: { boards: {}, glass: { baseColor: [0.3, 0.6, 0.9], transmission: 1, roughness: 0 } },
    objects: [
      { kind: "rectangle", material: "boards", size: [40, 40] },
      ...Array.from({ length: 7 }, (_, i) => ({
        kind: "box" as const,
        material: "boards",
        position: [-6 + 2 * i, 5, 0] as V3,
        size: [1.3, 0.1, 14] as V3,
      })),
      { kind: "rectangle", material: "glass", position: [1, 5, 0], size: [0.6, 14] },
    ],
    sun: { azimuth: 120, elevation: 50, illuminance: 60_000 },
    sky: { on: false },
    render: { level: "shafts" },
  };
  it.each([
    ["even haze up to a level", [{ density: 0.05, anisotropy: 0.5, region: { kind: "layer", level: 8 } }]],
    ["haze that thins out upwards", [{ density: 0.1, height: { level: 0, scale: 3 } }]],
    ["haze in a box with ground fog under it", [{ density: 0.08, region: { kind: "box", centre: [0, 2.5, 0], size: [12, 5, 12] } }, { name: "fog", density: 0.2, height: { level: 0, scale: 0.6 } }]], // prettier-ignore
  ] as [string, NonNullable<PartialDocument["air"]>][])(
    "throws the kernel's shafts, where a map tells where sunlight comes: %s",
    async (_, air) => {
      const document = { ...barn, air };
      const { doc, memory } = await load(document);
      const [width, height] = doc.film.size;
      const film = await render(document, 128, PASS_AIR);
      const wanted = passValues(film, "air");
      const probe = await SectionProbe.create(wasm());
      probe.setGeometry(compileScene(doc, { models: new Map() }));
      const map = probe.sunMap(doc)!;
      // four rays a pixel, each as far as what stands there
      const shifts = [0.25, 0.75].flatMap((y) => [0.25, 0.75].map((x) => [x, y] as const));
      const some: { o: V3; d: V3; far: number }[] = [];
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          for (const [dx, dy] of shifts) {
            const share: [number, number] = [(x + dx) / width, (y + dy) / height];
            const { origin, direction } = sectionFrame(doc, ...share);
            some.push({ o: [...origin], d: [...direction], far: probe.distanceAt(doc, ...share) ?? Infinity });
          }
      const drawn: number[] = [];
      const tables = veilTables(memory.buffer);
      tables.parameters[P_AIR_BOUNCES] = 1;
      for (let i = 0; i < some.length; i += 4096) drawn.push(...(await draw(some.slice(i, i + 4096), tables, map)));
      let off = 0,
        all = 0,
        sum = 0;
      for (let i = 0; i < width * height; i++)
        for (let k = 0; k < 3; k++) {
          const mean = [0, 1, 2, 3].reduce((a, j) => a + drawn[4 * (4 * i + j) + k]!, 0) / 4;
          off += (mean - wanted[3 * i + k]!) ** 2;
          all += wanted[3 * i + k]!;
          sum += mean;
        }
      const n = 3 * width * height;
      expect(Math.abs(sum / all - 1)).toBeLessThan(0.01);
      expect(Math.sqrt(off / n)).toBeLessThan((0.06 * all) / n);
    },
  );

  it("says what it leaves out", async () => {
    const { doc } = await load({
      materials: { stone: {} },
      objects: [{ kind: "sphere", material: "stone", name: "cloud", radius: 2 }],
      lights: [
        { kind: "spot", name: "beam", position: [0, 4, 0], target: [0, 0, 0], gobo: { pattern: "leaves" } },
        { kind: "point", position: [0, 1, 0] },
      ],
      air: [{ name: "mist", density: 0.1, region: { kind: "mesh", object: "cloud" } }],
    });
    expect(veilOmissions(doc)).toEqual(["mist is taken as the box about its mesh", "beam shines without its gobo"]);
  });
});

describe("the finish as a fragment shader", () => {
  it("is the picture's own, for colours dark and bright", async () => {
    const bend = (r: number, g: number, b: number): [number, number, number] => [g * g, 0.5 * r + 0.5 * b, 1 - r * b];
    const cube = readCube(writeCube("bend", [], bend, 9), "bend", "cube");
    const curve = readCube(`LUT_1D_SIZE 4\nDOMAIN_MAX 0.8 1 1\n0 1 0\n0.5 0.6 0\n0.7 0.2 0.9\n1 0 1\n`, "curve", "curve");
    const finishes: (Partial<Finish> & { table?: Lut })[] = [
      {},
      { table: cube, lut: { asset: "bend", strength: 1 } },
      { table: curve, lut: { asset: "curve", strength: 0.7 } },
      { contrast: 1.6, pivot: -1, saturation: 0.4, rollOff: 0.9, black: 0.05, white: 0.9 },
      { saturation: 1.8, rollOff: 0.1, curves: { ...NO_FINISH.curves, all: [[0, 0], [0.4, 0.55], [1, 1]], blue: [[0, 0.1], [1, 0.9]] } }, // prettier-ignore
    ];
    const colours = Array.from({ length: 256 }, (_, i) => {
      const scale = 10 ** ((i % 16) / 3 - 3);
      return [scale * (0.2 + 0.8 * ((i * 0.37) % 1)), scale * ((i * 0.61) % 1), scale * (((i * 0.83) % 1) - 0.05)] as V3;
    });
    for (const { table: lut, ...change } of finishes) {
      const finisher = new Finisher({ ...NO_FINISH, ...change }, lut);
      const texture = lut ? lutTexture(lut) : null;
      const shown = await page.evaluate(
        ({ source, colours, table, size, saturation, lut }) => {
          const gl = document.createElement("canvas").getContext("webgl2")!;
          gl.getExtension("EXT_color_buffer_float");
          const program = gl.createProgram();
          for (const [type, text] of [
            [
              gl.VERTEX_SHADER,
              "#version 300 es\nvoid main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0.0, 1.0); }",
            ],
            [gl.FRAGMENT_SHADER, source],
          ] as const) {
            const shader = gl.createShader(type)!;
            gl.shaderSource(shader, text);
            gl.compileShader(shader);
            if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader)!);
            gl.attachShader(program, shader);
          }
          gl.linkProgram(program);
          gl.useProgram(program);
          const texture = (unit: number, w: number, h: number, data: number[] | null): WebGLTexture => {
            const t = gl.createTexture();
            gl.activeTexture(gl.TEXTURE0 + unit);
            gl.bindTexture(gl.TEXTURE_2D, t);
            gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, w, h, 0, gl.RGBA, gl.FLOAT, data && new Float32Array(data));
            gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
            gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
            return t;
          };
          const n = colours.length / 4;
          texture(0, size, 2, table);
          texture(1, n, 1, colours);
          gl.uniform1i(gl.getUniformLocation(program, "finishTable"), 0);
          gl.uniform1i(gl.getUniformLocation(program, "colours"), 1);
          gl.uniform1f(gl.getUniformLocation(program, "saturation"), saturation);
          texture(3, lut?.width ?? 1, lut?.height ?? 1, lut?.texels ?? [0, 0, 0, 0]);
          gl.uniform1i(gl.getUniformLocation(program, "lutTable"), 3);
          gl.uniform1i(gl.getUniformLocation(program, "lutSize"), lut?.width ?? 0);
          gl.uniform1i(gl.getUniformLocation(program, "lutIsCube"), lut?.cube ? 1 : 0);
          gl.uniform1f(gl.getUniformLocation(program, "lutStrength"), lut?.strength ?? 0);
          gl.uniform3fv(gl.getUniformLocation(program, "lutFrom"), lut?.from ?? [0, 0, 0]);
          gl.uniform3fv(gl.getUniformLocation(program, "lutTo"), lut?.to ?? [1, 1, 1]);
          const target = texture(2, n, 1, null);
          gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
          gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
          gl.viewport(0, 0, n, 1);
          gl.drawArrays(gl.TRIANGLES, 0, 3);
          const out = new Float32Array(4 * n);
          gl.readPixels(0, 0, n, 1, gl.RGBA, gl.FLOAT, out);
          gl.getExtension("WEBGL_lose_context")?.loseContext();
          return [...out];
        },
        {
          source: `#version 300 es
precision highp float;
precision highp sampler2D;
uniform sampler2D colours;
out vec4 colour;
${FINISH_SOURCE}
void main() { colour = vec4(finished(texelFetch(colours, ivec2(gl_FragCoord.xy), 0).rgb), 1.0); }`,
          colours: colours.flatMap((c) => [...c, 1]),
          table: [...finisher.shaderTable(FINISH_SIZE)],
          size: FINISH_SIZE,
          saturation: finisher.saturation,
          lut:
            lut && texture
              ? {
                  ...texture,
                  texels: [...texture.texels],
                  cube: lut.dimensions === 3,
                  strength: change.lut!.strength,
                  from: [...lut.from],
                  to: [...lut.to],
                }
              : null,
        },
      );
      colours.forEach((c, i) => {
        finisher.applyExactly(...c);
        for (let k = 0; k < 3; k++)
          expect(Math.abs(255 * shown[4 * i + k]! - finisher.out[k]!), `${JSON.stringify(change)} of ${c}, band ${k}`).toBeLessThan(1);
      });
    }
  });
});
