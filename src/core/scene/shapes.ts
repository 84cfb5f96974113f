/** Primitive shapes as triangles, centred on the origin, y up. */
import type { SceneObject } from "../document/schema";
import type { Mesh, SurfaceMaterial } from "../data/geometry";

type Vertex = [number, number, number];

class Builder {
  private readonly p: number[] = [];
  private readonly n: number[] = [];
  triangle(a: Vertex, b: Vertex, c: Vertex, na: Vertex, nb: Vertex = na, nc: Vertex = na): void {
    this.p.push(...a, ...b, ...c);
    this.n.push(...na, ...nb, ...nc);
  }
  quad(a: Vertex, b: Vertex, c: Vertex, d: Vertex, n: Vertex): void {
    this.triangle(a, b, c, n);
    this.triangle(a, c, d, n);
  }
  mesh(material: SurfaceMaterial): Mesh {
    return {
      positions: new Float32Array(this.p),
      normals: new Float32Array(this.n),
      material: new Int32Array(this.p.length / 9),
      materials: [material],
    };
  }
}

/** Corners of a circle: its area is within 0.01 %. */
const ROUND = 288;

function disk(b: Builder, radius: number, y: number, up: 1 | -1): void {
  for (let i = 0; i < ROUND; i++) {
    const [s, t] = [(2 * Math.PI * i) / ROUND, (2 * Math.PI * (i + 1)) / ROUND];
    // corners turn about the side that faces out
    const [p, q] = up > 0 ? [t, s] : [s, t];
    b.triangle([0, y, 0], [radius * Math.cos(p), y, radius * Math.sin(p)], [radius * Math.cos(q), y, radius * Math.sin(q)], [0, up, 0]);
  }
}

function box(b: Builder, [w, h, d]: readonly [number, number, number]): void {
  const [x, y, z] = [w / 2, h / 2, d / 2];
  b.quad([-x, y, -z], [-x, y, z], [x, y, z], [x, y, -z], [0, 1, 0]);
  b.quad([-x, -y, -z], [x, -y, -z], [x, -y, z], [-x, -y, z], [0, -1, 0]);
  b.quad([-x, -y, z], [x, -y, z], [x, y, z], [-x, y, z], [0, 0, 1]);
  b.quad([-x, -y, -z], [-x, y, -z], [x, y, -z], [x, -y, -z], [0, 0, -1]);
  b.quad([x, -y, -z], [x, y, -z], [x, y, z], [x, -y, z], [1, 0, 0]);
  b.quad([-x, -y, -z], [-x, -y, z], [-x, y, z], [-x, y, -z], [-1, 0, 0]);
}

function sphere(b: Builder, r: number): void {
  const rows = 48,
    columns = 96;
  const at = (i: number, j: number): Vertex => {
    const theta = (Math.PI * i) / rows,
      phi = (2 * Math.PI * j) / columns;
    return [Math.sin(theta) * Math.cos(phi), Math.cos(theta), Math.sin(theta) * Math.sin(phi)];
  };
  const big = (v: Vertex): Vertex => [r * v[0], r * v[1], r * v[2]];
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < columns; j++) {
      const [p, q, s, t] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      if (i < rows - 1) b.triangle(big(p), big(s), big(q), p, s, q);
      if (i > 0) b.triangle(big(p), big(t), big(s), p, t, s);
    }
}

/** Triangles of a primitive shape object, before its placement. */
export function shapeMesh(object: Exclude<SceneObject, { kind: "model" | "plate" }>, material: SurfaceMaterial): Mesh {
  const b = new Builder();
  switch (object.kind) {
    case "rectangle": {
      const [x, z] = [object.size[0] / 2, object.size[1] / 2];
      b.quad([-x, 0, -z], [-x, 0, z], [x, 0, z], [x, 0, -z], [0, 1, 0]);
      break;
    }
    case "disk":
      disk(b, object.radius, 0, 1);
      break;
    case "box":
      box(b, object.size);
      break;
    case "sphere":
      sphere(b, object.radius);
      break;
    case "cylinder": {
      const h = object.height / 2,
        r = object.radius;
      disk(b, r, h, 1);
      disk(b, r, -h, -1);
      for (let i = 0; i < ROUND; i++) {
        const [s, t] = [(2 * Math.PI * i) / ROUND, (2 * Math.PI * (i + 1)) / ROUND];
        const [n, m]: [Vertex, Vertex] = [
          [Math.cos(s), 0, Math.sin(s)],
          [Math.cos(t), 0, Math.sin(t)],
        ];
        const [a, c]: [Vertex, Vertex] = [
          [r * n[0], -h, r * n[2]],
          [r * m[0], -h, r * m[2]],
        ];
        const [d, e]: [Vertex, Vertex] = [
          [r * m[0], h, r * m[2]],
          [r * n[0], h, r * n[2]],
        ];
        b.triangle(a, d, c, n, m, m);
        b.triangle(a, e, d, n, n, m);
      }
      break;
    }
  }
  return b.mesh(material);
}
