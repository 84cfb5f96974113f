/** The carried picture in a WebGL2 canvas (core/veil/carry): programs, textures, a frame, and how long it takes. */
import { whiteAt } from "#core/optics/exposure";
import { CARRIED_SOURCE, VEIL_SOURCE, type CarriedFilm } from "#core/veil/carry";
import { FINISH_SIZE } from "#core/veil/finish-source";
import type { VeilTables } from "#core/veil/tables";
import { whiteBalanceMatrix } from "#core/optics/colour";
import * as L from "#core/layout/layout";
import type { SunMap } from "#core/section/sun-map";
import type { Development } from "#core/film/develop";
import { lutTexture, type Lut } from "#core/data/lut";
import { finisherOf, type Finisher } from "#core/film/finish";
import { programOf, SOFTWARE } from "../../shared/gl-program";

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
  sunBefore: 10,
  sunNow: 11,
  normalTable: 12,
  albedoTable: 13,
  mapBeforeTable: 14,
  mapNowTable: 15,
  // all that are sure to be there are taken; the first three are read by the veil's program alone
  finishTable: 0,
  glareTable: 1,
  lutTable: 2,
} as const;
type Unit = keyof typeof UNITS;
type Moment = "before" | "now";
/** Textures of each veil's targets, in their order. */
const TARGETS = {
  before: ["lightBefore", "leftBefore", "sunBefore"],
  now: ["lightNow", "leftNow", "sunNow"],
} as const satisfies Record<Moment, readonly Unit[]>;
const MAPS = { before: "mapBefore", now: "mapNow" } as const satisfies Record<Moment, string>;

/** What a veil is drawn of: the kernel's tables, and where sunlight comes (null: everywhere). */
export interface Seen {
  tables: VeilTables;
  map: SunMap | null;
}

export class VeilProgram {
  private readonly gl: WebGL2RenderingContext;
  private readonly veil: WebGLProgram;
  private readonly carried: WebGLProgram;
  private readonly textures = new Map<Unit, WebGLTexture>();
  private readonly frames: { before: WebGLFramebuffer; now: WebGLFramebuffer };
  private readonly parallel: { COMPLETION_STATUS_KHR: number } | null;
  private ready = false;
  /** Whether the picture has glare. */
  private glared = false;
  /** The look-up table that its texture holds, and places a side. */
  private lut: Lut | null = null;
  private lutPlaces = 0;
  /** Pixels of the picture, and of the veils. */
  private size: [number, number] = [0, 0];
  private low: [number, number] = [0, 0];
  /** Maps of sunlight that the textures hold, and the tables that the picture was rendered with. */
  private readonly maps: Record<Moment, SunMap | null> = { before: null, now: null };
  private before: VeilTables | null = null;

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
    this.veil = programOf(gl, VEIL_SOURCE);
    this.carried = programOf(gl, CARRIED_SOURCE);
    this.frames = { before: gl.createFramebuffer(), now: gl.createFramebuffer() };
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
    for (const moment of ["before", "now"] as const) this.texture(`${MAPS[moment]}Table`, 1, 1, 4, null);
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

  /** Tells the second program the table that the picture is finished with. */
  private setLut(look: Finisher["lookUp"]): void {
    const { gl, carried } = this;
    const at = (name: string): WebGLUniformLocation | null => gl.getUniformLocation(carried, name);
    if (!look) return gl.uniform1i(at("lutSize"), 0);
    const { lut, strength } = look;
    if (this.lut !== lut) {
      const { width, height, texels } = lutTexture(lut);
      this.texture("lutTable", width, height, 4, texels);
      this.lut = lut;
      this.lutPlaces = width;
    }
    this.bind("lutTable");
    gl.uniform1i(at("lutSize"), this.lutPlaces);
    gl.uniform1i(at("lutIsCube"), lut.dimensions === 3 ? 1 : 0);
    gl.uniform1f(at("lutStrength"), strength);
    gl.uniform3f(at("lutFrom"), ...lut.from);
    gl.uniform3f(at("lutTo"), ...lut.to);
  }

  private bind(unit: Unit): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + UNITS[unit]);
    gl.bindTexture(gl.TEXTURE_2D, this.textures.get(unit)!);
  }

  /** Takes the rendered picture that is carried along. */
  setFilm(film: CarriedFilm): void {
    this.size = [film.width, film.height];
    [this.canvas.width, this.canvas.height] = this.size;
    for (const [unit, data] of [
      ["clearTable", film.clear],
      ["airTable", film.air],
      ["surfaceTable", film.surfaces],
      ["normalTable", film.normal],
      ["albedoTable", film.albedo],
    ] as const)
      this.texture(unit, film.width, film.height, 4, data);
    this.glared = film.glare !== null;
    if (film.glare) this.texture("glareTable", film.width, film.height, 4, film.glare);
  }

  /** Prepares veils of so many pixels; the picture was rendered with this. */
  begin(width: number, height: number, seen: Seen): void {
    const { gl } = this;
    this.low = [width, height];
    for (const moment of ["before", "now"] as const) {
      gl.bindFramebuffer(gl.FRAMEBUFFER, this.frames[moment]);
      TARGETS[moment].forEach((unit, i) => {
        this.texture(unit, width, height, 4, null);
        gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + i, gl.TEXTURE_2D, this.textures.get(unit)!, 0);
      });
      gl.drawBuffers(TARGETS[moment].map((_, i) => gl.COLOR_ATTACHMENT0 + i));
    }
    this.before = seen.tables;
    this.gather("before", seen);
  }

  /** Draws a veil into its targets. */
  private gather(moment: Moment, { tables, map }: Seen): void {
    const { gl, veil } = this;
    gl.useProgram(veil);
    this.texture("parameterTable", L.PARAM_COUNT, 1, 1, tables.parameters);
    this.texture("mediaTable", L.MEDIUM_WORDS, tables.media.length / L.MEDIUM_WORDS, 1, tables.media);
    this.texture("lightTable", L.LIGHT_WORDS, tables.lights.length / L.LIGHT_WORDS, 1, tables.lights);
    if (map && map !== this.maps[moment]) this.texture(`${MAPS[moment]}Table`, map.side, map.side, 4, map.texels);
    this.maps[moment] = map;
    gl.uniform1i(gl.getUniformLocation(veil, "mediaCount"), tables.mediaCount);
    gl.uniform1i(gl.getUniformLocation(veil, "lightCount"), tables.lightCount);
    gl.uniform2f(gl.getUniformLocation(veil, "size"), ...this.low);
    gl.uniform1i(gl.getUniformLocation(veil, "sunMapTable"), UNITS[`${MAPS[moment]}Table`]);
    this.mapUniforms(veil, "sunMap", map);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frames[moment]);
    gl.viewport(0, 0, ...this.low);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  private mapUniforms(program: WebGLProgram, name: string, map: SunMap | null): void {
    const { gl } = this;
    const at = (part: string): WebGLUniformLocation | null => gl.getUniformLocation(program, name + part);
    gl.uniform1i(at("Side"), map?.side ?? 0);
    if (!map) return;
    gl.uniform3f(at("U"), ...map.across[0]);
    gl.uniform3f(at("V"), ...map.across[1]);
    gl.uniform2f(at("Low"), ...map.low);
  }

  /** Draws the picture with the air and sun of this. @returns milliseconds until it was there */
  draw(seen: Seen, { exposure, whiteBalance, tint, finish, lut }: Development): number {
    const { gl, carried } = this;
    const started = performance.now();
    this.gather("now", seen);
    const white = whiteAt(exposure);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.useProgram(carried);
    gl.viewport(0, 0, ...this.size);
    const m = whiteBalanceMatrix(whiteBalance, tint).map((v) => v / white);
    gl.uniformMatrix3fv(gl.getUniformLocation(carried, "development"), true, m);
    gl.uniform1f(gl.getUniformLocation(carried, "white"), white);
    const finisher = finisherOf(finish, lut);
    this.setLut(finisher.lookUp);
    this.texture("finishTable", FINISH_SIZE, 2, 4, finisher.shaderTable(FINISH_SIZE));
    gl.uniform1f(gl.getUniformLocation(carried, "saturation"), finisher.saturation);
    gl.uniform1i(gl.getUniformLocation(carried, "glared"), this.glared ? 1 : 0);
    // the veil's table of media had its unit
    if (this.glared) this.bind("glareTable");
    this.sunUniforms(seen.tables.parameters);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    // reading a pixel waits for the drawing
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    return performance.now() - started;
  }

  /** Tells the second program how the sun changed, where it did, and the rays of the lens. */
  private sunUniforms(p: Float32Array): void {
    const { gl, carried } = this;
    const before = this.before!.parameters;
    const at = (name: string): WebGLUniformLocation | null => gl.getUniformLocation(carried, name);
    const three = (q: Float32Array, first: number, k = 1): [number, number, number] => [
      k * q[first]!,
      k * q[first + 1]!,
      k * q[first + 2]!,
    ];
    const sun = (q: Float32Array) => [three(q, L.P_SUN_DIR), three(q, L.P_SUN_E, q[L.P_SUN_SURFACES])] as const;
    const [now, was] = [sun(p), sun(before)];
    const changed = this.maps.now !== null && this.maps.before !== null && now.flat().some((v, i) => v !== was.flat()[i]);
    gl.uniform1i(at("sunChanged"), changed ? 1 : 0);
    if (!changed) return;
    gl.uniform3f(at("sunWay"), ...now[0]);
    gl.uniform3f(at("sunLight"), ...now[1]);
    gl.uniform3f(at("sunWayBefore"), ...was[0]);
    gl.uniform3f(at("sunLightBefore"), ...was[1]);
    gl.uniform1f(at("sunSpread"), Math.tan(Math.acos(Math.min(1, p[L.P_SUN_COS]!))));
    gl.uniform3f(at("from"), ...three(p, L.P_CAM_ORIGIN));
    gl.uniform3f(at("forward"), ...three(p, L.P_CAM_FORWARD));
    gl.uniform3f(at("right"), ...three(p, L.P_CAM_RIGHT, p[L.P_CAM_HALF_X]));
    gl.uniform3f(at("up"), ...three(p, L.P_CAM_UP, p[L.P_CAM_HALF_Y]));
    gl.uniform1i(at("parallel"), p[L.P_CAM_KIND] === L.CAMERA_PERSPECTIVE ? 0 : 1);
    for (const moment of ["before", "now"] as const) this.mapUniforms(carried, MAPS[moment], this.maps[moment]);
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}
