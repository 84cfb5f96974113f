/** The carried picture in a WebGL2 canvas (core/veil/carry): programs, textures, a frame, and how long it takes. */
import { whiteAt } from "#core/optics/exposure";
import { CARRIED_SOURCE, VEIL_SOURCE, type CarriedFilm } from "#core/veil/carry";
import type { VeilTables } from "#core/veil/tables";
import { whiteBalanceMatrix } from "#core/optics/colour";
import { LIGHT_WORDS, MEDIUM_WORDS, PARAM_COUNT } from "#core/layout/layout";
import type { Development } from "#core/film/develop";

/** Texture units by the name they have in the programs. */
const UNITS = {
  parameterTable: 0,
  mediaTable: 1,
  lightTable: 2,
  clearTable: 3,
  airTable: 4,
  surfaceTable: 5,
  lightBefore: 6,
  leftBefore: 7,
  lightNow: 8,
  leftNow: 9,
} as const;
type Unit = keyof typeof UNITS;

const CORNERS = "#version 300 es\nvoid main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0.0, 1.0); }";

/** Names of renderers that run on the processor: what the picture needs of it they would take away. */
const SOFTWARE = /swiftshader|llvmpipe|software|basic render/i;

export class VeilProgram {
  private readonly gl: WebGL2RenderingContext;
  private readonly veil: WebGLProgram;
  private readonly carried: WebGLProgram;
  private readonly textures = new Map<Unit, WebGLTexture>();
  private readonly frames: { before: WebGLFramebuffer; now: WebGLFramebuffer };
  private readonly parallel: { COMPLETION_STATUS_KHR: number } | null;
  private ready = false;
  /** Pixels of the picture, and of the veils. */
  private size: [number, number] = [0, 0];
  private low: [number, number] = [0, 0];

  /**
   * Compiling goes on in the background. @param anyway draws even where there is no graphics processor
   * @throws Error where there is no WebGL2 that draws into floats, or none on a graphics processor
   */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    anyway: boolean,
  ) {
    const gl = canvas.getContext("webgl2", { antialias: false, depth: false, alpha: false });
    if (!gl?.getExtension("EXT_color_buffer_float")) throw new Error("this browser draws no floats");
    const info = gl.getExtension("WEBGL_debug_renderer_info");
    if (!anyway && info && SOFTWARE.test(String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL))))
      throw new Error("there is no graphics processor");
    this.gl = gl;
    this.parallel = gl.getExtension("KHR_parallel_shader_compile");
    this.veil = this.program(VEIL_SOURCE);
    this.carried = this.program(CARRIED_SOURCE);
    this.frames = { before: gl.createFramebuffer(), now: gl.createFramebuffer() };
  }

  private program(source: string): WebGLProgram {
    const { gl } = this;
    const program = gl.createProgram();
    for (const [type, text] of [
      [gl.VERTEX_SHADER, CORNERS],
      [gl.FRAGMENT_SHADER, source],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    return program;
  }

  /** Whether it can draw by now. @throws Error where its programs do not compile, or the context was lost */
  isReady(): boolean {
    const { gl, parallel } = this;
    if (gl.isContextLost()) throw new Error("the graphics context was lost");
    if (this.ready) return true;
    const both = [this.veil, this.carried];
    // without the extension, asking waits; with it, asking too early would
    if (parallel && !both.every((p) => gl.getProgramParameter(p, parallel.COMPLETION_STATUS_KHR))) return false;
    for (const p of both)
      if (!gl.getProgramParameter(p, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(p) ?? "a program does not link");
    for (const p of both) {
      gl.useProgram(p);
      for (const [name, unit] of Object.entries(UNITS)) gl.uniform1i(gl.getUniformLocation(p, name), unit);
    }
    this.ready = true;
    return true;
  }

  private texture(unit: Unit, width: number, height: number, channels: 1 | 4, data: Float32Array | null): void {
    const { gl } = this;
    let t = this.textures.get(unit);
    gl.activeTexture(gl.TEXTURE0 + UNITS[unit]);
    if (!t) {
      this.textures.set(unit, (t = gl.createTexture()));
      gl.bindTexture(gl.TEXTURE_2D, t);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    }
    gl.bindTexture(gl.TEXTURE_2D, t);
    const [internal, format] = channels === 1 ? [gl.R32F, gl.RED] : [gl.RGBA32F, gl.RGBA];
    gl.texImage2D(gl.TEXTURE_2D, 0, internal, width, height, 0, format, gl.FLOAT, data);
  }

  /** Takes the rendered picture that is carried along. */
  setFilm(film: CarriedFilm): void {
    this.size = [film.width, film.height];
    [this.canvas.width, this.canvas.height] = this.size;
    for (const [unit, data] of [
      ["clearTable", film.clear],
      ["airTable", film.air],
      ["surfaceTable", film.surfaces],
    ] as const)
      this.texture(unit, film.width, film.height, 4, data);
  }

  /** Prepares veils of so many pixels; the picture was rendered with these tables. */
  begin(width: number, height: number, tables: VeilTables): void {
    const { gl } = this;
    this.low = [width, height];
    for (const [frame, targets] of [
      ["before", ["lightBefore", "leftBefore"]],
      ["now", ["lightNow", "leftNow"]],
    ] as const) {
      gl.bindFramebuffer(gl.FRAMEBUFFER, this.frames[frame]);
      targets.forEach((unit, i) => {
        this.texture(unit, width, height, 4, null);
        gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + i, gl.TEXTURE_2D, this.textures.get(unit)!, 0);
      });
      gl.drawBuffers([gl.COLOR_ATTACHMENT0, gl.COLOR_ATTACHMENT1]);
    }
    this.gather("before", tables);
  }

  /** Draws the veil of these tables into its targets. */
  private gather(frame: "before" | "now", tables: VeilTables): void {
    const { gl, veil } = this;
    gl.useProgram(veil);
    this.texture("parameterTable", PARAM_COUNT, 1, 1, tables.parameters);
    this.texture("mediaTable", MEDIUM_WORDS, tables.media.length / MEDIUM_WORDS, 1, tables.media);
    this.texture("lightTable", LIGHT_WORDS, tables.lights.length / LIGHT_WORDS, 1, tables.lights);
    gl.uniform1i(gl.getUniformLocation(veil, "mediaCount"), tables.mediaCount);
    gl.uniform1i(gl.getUniformLocation(veil, "lightCount"), tables.lightCount);
    gl.uniform2f(gl.getUniformLocation(veil, "size"), ...this.low);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frames[frame]);
    gl.viewport(0, 0, ...this.low);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Draws the picture with the air of these tables. @returns milliseconds until it was there */
  draw(tables: VeilTables, { exposure, whiteBalance }: Development): number {
    const { gl, carried } = this;
    const started = performance.now();
    this.gather("now", tables);
    const white = whiteAt(exposure);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.useProgram(carried);
    gl.viewport(0, 0, ...this.size);
    const m = whiteBalanceMatrix(whiteBalance).map((v) => v / white);
    gl.uniformMatrix3fv(gl.getUniformLocation(carried, "development"), true, m);
    gl.uniform1f(gl.getUniformLocation(carried, "white"), white);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    // reading a pixel waits for the drawing
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    return performance.now() - started;
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}
