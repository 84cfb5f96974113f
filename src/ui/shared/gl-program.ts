/** Programs of a graphics processor that fill a picture. */

/** A triangle over all of it. */
const CORNERS = "#version 300 es\nvoid main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0.0, 1.0); }";

/** Names of renderers that run on the processor. */
export const SOFTWARE = /swiftshader|llvmpipe|software|basic render/i;

/** Begins to compile a program by its fragment shader. */
export function programOf(gl: WebGL2RenderingContext, source: string): WebGLProgram {
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
