/** What lies under the pointer in a drawing of space: exact, by drawing one pixel in numbers instead of colours. */
import * as THREE from "three";
import { CORNER, meshOfPiece, showTriangles, type SetPiece } from "./pieces";

export interface Hit {
  object: number;
  point: [number, number, number];
}

/** One pixel: number of the object, and distance along the view axis. */
export class Picker {
  private readonly target = new THREE.WebGLRenderTarget(1, 1, {
    type: THREE.FloatType,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
  });
  private readonly scene = new THREE.Scene();
  private readonly materials: THREE.ShaderMaterial[] = [];

  constructor(private readonly pieces: readonly SetPiece[]) {
    for (const piece of pieces) {
      const material = new THREE.ShaderMaterial({
        side: THREE.DoubleSide,
        uniforms: { id: { value: piece.object + 1 } },
        vertexShader: `
          varying float depth;
          void main() {
            ${CORNER}
            depth = -corner.z;
            gl_Position = projectionMatrix * corner;
          }`,
        fragmentShader: "uniform float id;\nvarying float depth;\nvoid main() { gl_FragColor = vec4(id, depth, 0.0, 1.0); }",
      });
      this.materials.push(material);
      this.scene.add(meshOfPiece(piece, material));
    }
  }

  dispose(): void {
    this.target.dispose();
    for (const m of this.materials) m.dispose();
  }

  /** @param x,y place in the drawing, pixels from its upper left corner */
  at(gl: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera | THREE.OrthographicCamera, x: number, y: number): Hit | null {
    const size = gl.getSize(new THREE.Vector2());
    camera.setViewOffset(size.x, size.y, Math.floor(x), Math.floor(y), 1, 1);
    const before = gl.getRenderTarget();
    const tone = gl.getClearColor(new THREE.Color()),
      alpha = gl.getClearAlpha();
    gl.setRenderTarget(this.target);
    gl.setClearColor(0x000000, 0);
    gl.clear();
    showTriangles(this.pieces, Infinity);
    gl.render(this.scene, camera);
    const out = new Float32Array(4);
    gl.readRenderTargetPixels(this.target, 0, 0, 1, 1, out);
    gl.setRenderTarget(before);
    gl.setClearColor(tone, alpha);
    camera.clearViewOffset();
    if (!(out[0]! > 0.5)) return null;
    // the ray through the pixel, to that depth along the axis
    const ndc = new THREE.Vector3((2 * (x + 0.5)) / size.x - 1, 1 - (2 * (y + 0.5)) / size.y, 0.5);
    const forward = camera.getWorldDirection(new THREE.Vector3());
    const through = ndc.clone().unproject(camera);
    let point: THREE.Vector3;
    if (camera instanceof THREE.PerspectiveCamera) {
      const direction = through.sub(camera.position).normalize();
      point = camera.position.clone().addScaledVector(direction, out[1]! / direction.dot(forward));
    } else {
      const along = through.clone().sub(camera.position).dot(forward);
      point = through.addScaledVector(forward, out[1]! - along);
    }
    return { object: Math.round(out[0]!) - 1, point: point.toArray() };
  }
}
