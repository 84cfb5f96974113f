/** The composed picture on a canvas, put together by the graphics processor: each step of the plan is a pass over floats. */
import { composeRows, type Plan, type Step } from "#core/compose/compose";
import { LAID_KINDS, LAY_SOURCE } from "#core/compose/shader";
import { BLENDS } from "#core/compose/stack";
import type { Planes } from "#core/formats/layers";
import { exposedMatrix, type Development } from "#core/film/develop";
import { finisherOf } from "#core/film/finish";
import { addGlare, glares } from "#core/film/glare";
import { whiteAt } from "#core/optics/exposure";
import { FINISH_SIZE, FINISH_SOURCE } from "#core/veil/finish-source";
import { programOf, SOFTWARE } from "../../shared/gl-program";

const SHOW_SOURCE = `#version 300 es
precision highp float;
precision highp int;
uniform sampler2D picture, mask;
uniform mat3 exposed;
uniform bool maskShown;
${FINISH_SOURCE}
out vec4 colour;
void main() {
  ivec2 size = textureSize(picture, 0);
  // rows of pictures run down, those of a canvas up
  ivec2 p = ivec2(int(gl_FragCoord.x), size.y - 1 - int(gl_FragCoord.y));
  vec3 shown = finished(exposed * texelFetch(picture, p, 0).rgb);
  if (maskShown) shown = vec3(encode(vec3(texelFetch(mask, p, 0).r)));
  colour = vec4(shown, 1.0);
}
`;

/** Texture units of the programs. */
const UNITS = { below: 0, content: 1, mask: 2, left: 3, factors: 4, curveTable: 5, picture: 0, finishTable: 6, lutTable: 7 } as const;

interface Target {
  texture: WebGLTexture;
  frame: WebGLFramebuffer;
}

/** Paintings after which a picture that none asked for goes. */
const KEPT = 24;

export class Painter {
  /** Whether no graphics processor works behind it. */
  readonly software: boolean;
  private readonly gl: WebGL2RenderingContext;
  private readonly lay: WebGLProgram;
  private readonly show: WebGLProgram;
  private readonly places = new Map<WebGLProgram, Map<string, WebGLUniformLocation | null>>();
  /** Pictures that were handed to the graphics processor, by what they are of; those not asked for any more go. */
  private readonly kept = new Map<object, { texture: WebGLTexture; used: number }>();
  private readonly targets: Target[] = [];
  private readonly blank: WebGLTexture;
  private turn = 0;
  private size: [number, number] = [0, 0];

  /** @throws Error where there is no WebGL2 that draws into floats */
  constructor(private readonly canvas: HTMLCanvasElement) {
    const gl = canvas.getContext("webgl2", { antialias: false, depth: false, alpha: false, preserveDrawingBuffer: true });
    if (!gl?.getExtension("EXT_color_buffer_float")) throw new Error("this browser draws no floats");
    this.gl = gl;
    const info = gl.getExtension("WEBGL_debug_renderer_info");
    this.software = info !== null && SOFTWARE.test(String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)));
    this.lay = this.program(LAY_SOURCE);
    this.show = this.program(SHOW_SOURCE);
    this.blank = this.fresh(1, 1, gl.R32F, gl.RED, new Float32Array(1));
  }

  /** Puts a plan together and shows it. @param mask in place of the picture, as grey */
  paint(plan: Plan, white: number, development: Development, mask: Float32Array | null): void {
    const { gl } = this;
    const { width, height } = plan;
    if (gl.isContextLost()) throw new Error("The graphics processor was taken away. All is saved: reload the page.");
    this.turn++;
    this.resize(width, height);
    const composed = this.compose(plan);
    const { finish } = development;
    const glare = finish?.on && glares(finish.glare) ? finish.glare : null;
    let picture = composed;
    if (glare) {
      const light = this.read(composed, width, height, whiteAt(white));
      addGlare(light, width, height, glare, height, development.exposure);
      const rgba = new Float32Array(4 * width * height);
      for (let i = 0, p = 0; i < light.length; i += 3, p += 4) for (let k = 0; k < 3; k++) rgba[p + k] = light[i + k]! / whiteAt(white);
      picture = this.fresh(width, height, gl.RGBA32F, gl.RGBA, rgba);
    }
    this.present(picture, width, height, white, development, mask);
    if (picture !== composed) gl.deleteTexture(picture);
    for (const [key, k] of this.kept)
      if (k.used < this.turn - KEPT) {
        gl.deleteTexture(k.texture);
        this.kept.delete(key);
      }
  }

  private compose({ steps, thicker, width, height }: Plan): WebGLTexture {
    const { gl, lay } = this;
    gl.useProgram(lay);
    gl.viewport(0, 0, width, height);
    this.uniform("size", (at) => gl.uniform2f(at, width, height));
    this.uniform("aspect", (at) => gl.uniform1f(at, width / height));
    for (const name of ["below", "content", "mask", "left", "factors", "curveTable"] as const)
      this.uniform(name, (at) => gl.uniform1i(at, UNITS[name]));
    this.bind("left", thicker ? this.planes(thicker.left, thicker.left, null) : this.blank);
    this.bind("factors", thicker ? this.single(thicker.factors) : this.blank);
    // two targets a level: what is there, and what comes of it
    const levels: number[] = [this.cleared(0)];
    for (const step of steps) {
      if (step.step === "begin") {
        levels.push(this.cleared(2 * levels.length));
        continue;
      }
      const content =
        step.step === "end"
          ? this.targets[levels.pop()!]!.texture
          : step.step === "planes"
            ? this.planes(step.planes, step.planes.bands, step.planes.alpha)
            : this.blank;
      const from = levels.at(-1)!;
      const to = from ^ 1;
      this.target(to);
      this.bind("below", this.targets[from]!.texture);
      this.bind("content", content);
      this.bind("mask", step.mask ? this.single(step.mask) : this.blank);
      this.bind("curveTable", step.curve ? this.row(step.curve) : this.blank);
      this.say(step);
      gl.bindFramebuffer(gl.FRAMEBUFFER, this.targets[to]!.frame);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      levels[levels.length - 1] = to;
    }
    return this.targets[levels[0]!]!.texture;
  }

  private say(step: Exclude<Step, { step: "begin" }>): void {
    const { gl } = this;
    const number = (name: string, v: number): void => this.uniform(name, (at) => gl.uniform1i(at, v));
    number("kind", LAID_KINDS[step.step]);
    number("blend", BLENDS.indexOf(step.blend));
    number("masked", step.mask ? 1 : 0);
    number("curved", step.curve ? 1 : 0);
    number(
      "role",
      step.step === "planes" && step.role !== null && this.bound("factors") !== this.blank ? (step.role === "air" ? 1 : 2) : 0,
    );
    number("covers", step.step === "planes" && step.alpha && step.blend === "over" ? 1 : 0);
    this.uniform("opacity", (at) => gl.uniform1f(at, step.opacity));
    this.uniform("unit", (at) => gl.uniform1f(at, step.step === "planes" ? step.unit : 1));
    this.uniform("factor", (at) => gl.uniform3f(at, ...step.factor));
    if (step.step === "colour") this.uniform("first", (at) => gl.uniform3f(at, ...step.colour));
    if (step.step === "ramp") {
      this.uniform("first", (at) => gl.uniform3f(at, ...step.from));
      this.uniform("second", (at) => gl.uniform3f(at, ...step.to));
      this.uniform("a", (at) => gl.uniform2f(at, ...step.a));
      this.uniform("b", (at) => gl.uniform2f(at, ...step.b));
    }
  }

  private present(
    picture: WebGLTexture,
    width: number,
    height: number,
    white: number,
    development: Development,
    mask: Float32Array | null,
  ): void {
    const { gl, show, canvas } = this;
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width;
      canvas.height = height;
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, width, height);
    gl.useProgram(show);
    const finisher = finisherOf(development.finish, null);
    this.bind("picture", picture);
    this.bind("mask", mask ? this.single(mask) : this.blank);
    this.bind("finishTable", this.finishTable(finisher));
    this.bind("lutTable", this.blank);
    const of = (name: string, set: (at: WebGLUniformLocation) => void): void => this.uniform(name, set, show);
    for (const name of ["picture", "mask", "finishTable", "lutTable"] as const) of(name, (at) => gl.uniform1i(at, UNITS[name]));
    of("saturation", (at) => gl.uniform1f(at, finisher.saturation));
    of("lutSize", (at) => gl.uniform1i(at, 0));
    of("maskShown", (at) => gl.uniform1i(at, mask ? 1 : 0));
    // shares of the stack's white to those of the exposure's
    const m = exposedMatrix(development).map((v) => v * whiteAt(white));
    of("exposed", (at) => gl.uniformMatrix3fv(at, true, m));
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Composed light, cd/m². */
  private read(texture: WebGLTexture, width: number, height: number, white: number): Float32Array {
    const { gl } = this;
    const target = this.targets.find((t) => t.texture === texture)!;
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.frame);
    const rgba = new Float32Array(4 * width * height);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.FLOAT, rgba);
    const out = new Float32Array(3 * width * height);
    for (let i = 0, p = 0; i < out.length; i += 3, p += 4) for (let k = 0; k < 3; k++) out[i + k] = rgba[p + k]! * white;
    return out;
  }

  private resize(width: number, height: number): void {
    if (this.size[0] === width && this.size[1] === height) return;
    for (const { texture, frame } of this.targets.splice(0)) {
      this.gl.deleteTexture(texture);
      this.gl.deleteFramebuffer(frame);
    }
    this.size = [width, height];
  }

  private target(i: number): Target {
    const { gl } = this;
    while (this.targets.length <= i) {
      const texture = this.fresh(...this.size, gl.RGBA32F, gl.RGBA, null);
      const frame = gl.createFramebuffer();
      gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
      gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
      this.targets.push({ texture, frame });
    }
    return this.targets[i]!;
  }

  private cleared(i: number): number {
    const { gl } = this;
    const { frame } = this.target(i);
    gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
    gl.clearColor(0, 0, 0, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
    return i;
  }

  private readonly on = new Map<number, WebGLTexture>();
  private bind(name: keyof typeof UNITS, texture: WebGLTexture): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + UNITS[name]);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    this.on.set(UNITS[name], texture);
  }
  private bound(name: keyof typeof UNITS): WebGLTexture | undefined {
    return this.on.get(UNITS[name]);
  }

  private fresh(width: number, height: number, internal: number, format: number, data: Float32Array | null): WebGLTexture {
    const { gl } = this;
    const texture = gl.createTexture();
    // a unit that no program reads while it is filled
    gl.activeTexture(gl.TEXTURE0 + 15);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    for (const which of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D, which, gl.NEAREST);
    for (const which of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, which, gl.CLAMP_TO_EDGE);
    gl.texImage2D(gl.TEXTURE_2D, 0, internal, width, height, 0, format, gl.FLOAT, data);
    return texture;
  }

  private keep(key: object, make: () => WebGLTexture): WebGLTexture {
    const found = this.kept.get(key);
    if (found) {
      found.used = this.turn;
      return found.texture;
    }
    const texture = make();
    this.kept.set(key, { texture, used: this.turn });
    return texture;
  }

  private planes(key: Planes | readonly Float32Array[], bands: readonly Float32Array[], alpha: Float32Array | null): WebGLTexture {
    const { gl } = this;
    const [width, height] = this.size;
    return this.keep(key, () => {
      const rgba = new Float32Array(4 * width * height);
      for (let k = 0; k < 3; k++) {
        const plane = bands[Math.min(k, bands.length - 1)]!;
        for (let i = 0, to = k; i < plane.length; i++, to += 4) rgba[to] = plane[i]!;
      }
      if (alpha) for (let i = 0, to = 3; i < alpha.length; i++, to += 4) rgba[to] = alpha[i]!;
      return this.fresh(width, height, gl.RGBA32F, gl.RGBA, rgba);
    });
  }
  private single(plane: Float32Array): WebGLTexture {
    return this.keep(plane, () => this.fresh(...this.size, this.gl.R32F, this.gl.RED, plane));
  }
  private row(table: Float32Array): WebGLTexture {
    return this.keep(table, () => this.fresh(table.length, 1, this.gl.R32F, this.gl.RED, table));
  }
  private finishTable(finisher: ReturnType<typeof finisherOf>): WebGLTexture {
    return this.keep(finisher, () => this.fresh(FINISH_SIZE, 2, this.gl.RGBA32F, this.gl.RGBA, finisher.shaderTable(FINISH_SIZE)));
  }

  private uniform(name: string, set: (at: WebGLUniformLocation) => void, program = this.lay): void {
    const of = this.places.get(program) ?? new Map<string, WebGLUniformLocation | null>();
    this.places.set(program, of);
    let at = of.get(name);
    if (at === undefined) of.set(name, (at = this.gl.getUniformLocation(program, name)));
    if (at) set(at);
  }

  private program(source: string): WebGLProgram {
    const { gl } = this;
    const program = programOf(gl, source);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? "a program does not link");
    return program;
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}

/** The same picture without a graphics processor: slower. */
export function paintHere(canvas: HTMLCanvasElement, plan: Plan, white: number, development: Development, mask: Float32Array | null): void {
  const { width, height } = plan;
  const light = composeRows(plan, 0, height);
  const scale = whiteAt(white);
  for (let i = 0; i < light.length; i++) light[i]! *= scale;
  const { finish } = development;
  if (finish?.on && glares(finish.glare)) addGlare(light, width, height, finish.glare, height, development.exposure);
  const pixels = new Uint8ClampedArray(4 * width * height);
  finisherOf(finish, null).putRow(light, exposedMatrix(development), new Float32Array(width * height), pixels, 0);
  if (mask) mask.forEach((v, i) => pixels.fill(255 * v, 4 * i, 4 * i + 3));
  canvas.width = width;
  canvas.height = height;
  canvas.getContext("2d")!.putImageData(new ImageData(pixels, width, height), 0, 0);
}
