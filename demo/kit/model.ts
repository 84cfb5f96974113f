/** A model under construction: indexed triangles by material, written as binary glTF. */
import { Document, type Material as GltfMaterial } from "@gltf-transform/core";
import { KHRMaterialsDiffuseTransmission, KHRMaterialsEmissiveStrength, KHRMaterialsSpecular } from "@gltf-transform/extensions";
import { modelIO } from "#core/formats/gltf";
import type { Material } from "#core/data/material";

export type V3 = [number, number, number];
export const add = (a: V3, b: V3): V3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const mul = (a: V3, s: number): V3 => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const unit = (a: V3): V3 => {
  const l = Math.hypot(...a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Deterministic random numbers for modelling. */
export class Dice {
  constructor(private state: number) {}
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  between(a: number, b: number): number {
    return a + (b - a) * this.next();
  }
  pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.next() * list.length)]!;
  }
}

interface Part {
  positions: number[];
  normals: number[];
  indices: number[];
}

export class Model {
  private readonly parts = new Map<string, Part>();
  constructor(private readonly materials: Record<string, Partial<Material>>) {}

  part(material: string): Part {
    let part = this.parts.get(material);
    if (!part) {
      if (!this.materials[material]) throw new Error(`no material ${material}`);
      part = { positions: [], normals: [], indices: [] };
      this.parts.set(material, part);
    }
    return part;
  }

  get triangles(): number {
    let n = 0;
    for (const part of this.parts.values()) n += part.indices.length / 3;
    return n;
  }

  vertex(part: Part, p: V3, n: V3): number {
    part.positions.push(...p);
    part.normals.push(...n);
    return part.positions.length / 3 - 1;
  }

  /** Flat polygon (a fan), its normal by the right-hand rule. */
  polygon(material: string, ...corners: V3[]): void {
    const part = this.part(material);
    // over all of its triangles: two corners may be one
    let sum: V3 = [0, 0, 0];
    for (let i = 2; i < corners.length; i++) sum = add(sum, cross(sub(corners[i - 1]!, corners[0]!), sub(corners[i]!, corners[0]!)));
    if (Math.hypot(...sum) === 0) return;
    const n = unit(sum);
    const first = corners.map((c) => this.vertex(part, c, n))[0]!;
    for (let i = 2; i < corners.length; i++) part.indices.push(first, first + i - 1, first + i);
  }

  /** Box between two corners. */
  box(material: string, a: V3, b: V3): void {
    const [x0, y0, z0] = [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.min(a[2], b[2])];
    const [x1, y1, z1] = [Math.max(a[0], b[0]), Math.max(a[1], b[1]), Math.max(a[2], b[2])];
    this.polygon(material, [x0, y1, z0], [x0, y1, z1], [x1, y1, z1], [x1, y1, z0]);
    this.polygon(material, [x0, y0, z0], [x1, y0, z0], [x1, y0, z1], [x0, y0, z1]);
    this.polygon(material, [x0, y0, z1], [x1, y0, z1], [x1, y1, z1], [x0, y1, z1]);
    this.polygon(material, [x0, y0, z0], [x0, y1, z0], [x1, y1, z0], [x1, y0, z0]);
    this.polygon(material, [x1, y0, z0], [x1, y1, z0], [x1, y1, z1], [x1, y0, z1]);
    this.polygon(material, [x0, y0, z0], [x0, y0, z1], [x0, y1, z1], [x0, y1, z0]);
  }

  /** Bar of rectangular section swept along a path: `width` across, `depth` along `side` (default: outwards from the curve). */
  bar(material: string, path: V3[], width: number, depth: number, across: V3): void {
    for (let i = 0; i + 1 < path.length; i++) {
      const [p, q] = [path[i]!, path[i + 1]!];
      const d = unit(sub(q, p));
      const w = mul(unit(across), width / 2);
      const h = mul(unit(cross(d, across)), depth / 2);
      const c = (o: V3, a: number, b: number): V3 => add(o, add(mul(w, a), mul(h, b)));
      this.polygon(material, c(p, -1, -1), c(q, -1, -1), c(q, -1, 1), c(p, -1, 1));
      this.polygon(material, c(p, 1, -1), c(p, 1, 1), c(q, 1, 1), c(q, 1, -1));
      this.polygon(material, c(p, -1, 1), c(q, -1, 1), c(q, 1, 1), c(p, 1, 1));
      this.polygon(material, c(p, -1, -1), c(p, 1, -1), c(q, 1, -1), c(q, -1, -1));
    }
  }

  /** Round tube along a path, radius given at each point; smooth normals. */
  tube(material: string, path: V3[], radius: number[], sides = 8): void {
    const part = this.part(material);
    let side: V3 = [1, 0, 0];
    let before: number[] = [];
    path.forEach((p, i) => {
      const d = unit(sub(path[Math.min(i + 1, path.length - 1)]!, path[Math.max(i - 1, 0)]!));
      if (Math.abs(dot(side, d)) > 0.9) side = Math.abs(d[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0];
      side = unit(sub(side, mul(d, dot(side, d))));
      const other = cross(d, side);
      const ring: number[] = [];
      for (let k = 0; k < sides; k++) {
        const a = (2 * Math.PI * k) / sides;
        const n = add(mul(side, Math.cos(a)), mul(other, Math.sin(a)));
        ring.push(this.vertex(part, add(p, mul(n, radius[i]!)), n));
      }
      if (before.length)
        for (let k = 0; k < sides; k++) {
          const l = (k + 1) % sides;
          part.indices.push(before[k]!, before[l]!, ring[l]!, before[k]!, ring[l]!, ring[k]!);
        }
      before = ring;
    });
  }

  /** Surface of revolution around a vertical axis through `at`; profile of [radius, height] pairs. */
  lathe(material: string, at: V3, profile: [number, number][], sides = 48): void {
    const part = this.part(material);
    let before: number[] = [];
    profile.forEach(([r, h], i) => {
      const [a, b] = [profile[Math.max(0, i - 1)]!, profile[Math.min(profile.length - 1, i + 1)]!];
      const [dr, dh] = [b[0] - a[0], b[1] - a[1]];
      const l = Math.hypot(dr, dh) || 1;
      const ring: number[] = [];
      for (let k = 0; k < sides; k++) {
        const t = (2 * Math.PI * k) / sides;
        ring.push(
          this.vertex(
            part,
            [at[0] + r * Math.cos(t), at[1] + h, at[2] + r * Math.sin(t)],
            [(dh / l) * Math.cos(t), -dr / l, (dh / l) * Math.sin(t)],
          ),
        );
      }
      if (before.length)
        for (let k = 0; k < sides; k++) {
          const m = (k + 1) % sides;
          part.indices.push(before[k]!, ring[m]!, before[m]!, before[k]!, ring[k]!, ring[m]!);
        }
      before = ring;
    });
  }

  /** Strip of quads between two edges of equal length; normals across each. */
  ribbon(material: string, left: V3[], right: V3[]): void {
    const part = this.part(material);
    let before: [number, number] | null = null;
    for (let i = 0; i < left.length; i++) {
      const along = sub(left[Math.min(i + 1, left.length - 1)]!, left[Math.max(i - 1, 0)]!);
      // at a tip both edges meet: the width beside it says how the strip lies
      const widths = [i, i + 1, i - 1].flatMap((k) => (left[k] && right[k] ? [sub(right[k], left[k])] : []));
      const n = unit(cross(along, widths.find((w) => Math.hypot(...w) > 1e-9) ?? [0, 1, 0]));
      const now: [number, number] = [this.vertex(part, left[i]!, n), this.vertex(part, right[i]!, n)];
      if (before) part.indices.push(before[0], now[0], before[1], before[1], now[0], now[1]);
      before = now;
    }
  }

  /** Stone: a ball of uneven radius, flattened. */
  stone(material: string, dice: Dice, at: V3, size: V3, rough = 0.25, rings = 5, sides = 8): void {
    const part = this.part(material);
    const turn = dice.between(0, 6.28);
    const ids: number[][] = [];
    for (let j = 0; j <= rings; j++) {
      const v = (Math.PI * j) / rings;
      const row: number[] = [];
      for (let i = 0; i < sides; i++) {
        const u = turn + (2 * Math.PI * i) / sides;
        const r = j === 0 || j === rings ? 1 : 1 + rough * dice.between(-1, 1);
        const n: V3 = [Math.sin(v) * Math.cos(u), Math.cos(v), Math.sin(v) * Math.sin(u)];
        row.push(
          this.vertex(
            part,
            [at[0] + size[0] * r * n[0], at[1] + size[1] * r * n[1], at[2] + size[2] * r * n[2]],
            unit([n[0] / size[0], n[1] / size[1], n[2] / size[2]]),
          ),
        );
      }
      ids.push(row);
    }
    for (let j = 0; j < rings; j++)
      for (let i = 0; i < sides; i++) {
        const k = (i + 1) % sides;
        part.indices.push(ids[j]![i]!, ids[j]![k]!, ids[j + 1]![i]!, ids[j]![k]!, ids[j + 1]![k]!, ids[j + 1]![i]!);
      }
  }

  /** Height field over a grid of the given cells. */
  field(
    material: string,
    x0: number,
    x1: number,
    z0: number,
    z1: number,
    nx: number,
    nz: number,
    height: (x: number, z: number) => number,
  ): void {
    const part = this.part(material);
    const e = 0.01;
    const ids: number[] = [];
    for (let j = 0; j <= nz; j++)
      for (let i = 0; i <= nx; i++) {
        const x = x0 + ((x1 - x0) * i) / nx,
          z = z0 + ((z1 - z0) * j) / nz;
        const n = unit([height(x - e, z) - height(x + e, z), 2 * e, height(x, z - e) - height(x, z + e)]);
        ids.push(this.vertex(part, [x, height(x, z), z], n));
      }
    for (let j = 0; j < nz; j++)
      for (let i = 0; i < nx; i++) {
        const a = ids[j * (nx + 1) + i]!,
          b = ids[j * (nx + 1) + i + 1]!,
          c = ids[(j + 1) * (nx + 1) + i]!,
          d = ids[(j + 1) * (nx + 1) + i + 1]!;
        part.indices.push(a, c, b, b, c, d);
      }
  }

  /** The model as binary glTF. */
  async glb(name: string): Promise<Uint8Array> {
    const doc = new Document();
    doc.getRoot().getAsset().generator = "fumarium demo";
    const buffer = doc.createBuffer();
    const scene = doc.createScene(name);
    const transmission = doc.createExtension(KHRMaterialsDiffuseTransmission);
    const specular = doc.createExtension(KHRMaterialsSpecular);
    const emissive = doc.createExtension(KHRMaterialsEmissiveStrength);
    for (const [key, part] of this.parts) {
      const m = this.materials[key]!;
      const material: GltfMaterial = doc
        .createMaterial(key)
        .setBaseColorFactor([...(m.baseColor ?? [0.5, 0.5, 0.5]), 1])
        .setMetallicFactor(m.metallic ?? 0)
        .setRoughnessFactor(m.roughness ?? 1)
        .setDoubleSided(true);
      if (m.diffuseTransmission)
        material.setExtension(
          "KHR_materials_diffuse_transmission",
          transmission
            .createDiffuseTransmission()
            .setDiffuseTransmissionFactor(m.diffuseTransmission)
            .setDiffuseTransmissionColorFactor(m.baseColor ?? [0.5, 0.5, 0.5]),
        );
      const most = Math.max(...(m.emission ?? [0]));
      if (most > 0)
        material
          .setEmissiveFactor(m.emission!.map((c) => c / most) as V3)
          .setExtension("KHR_materials_emissive_strength", emissive.createEmissiveStrength().setEmissiveStrength(most));
      if (m.specular !== undefined)
        material.setExtension("KHR_materials_specular", specular.createSpecular().setSpecularFactor(m.specular));
      const primitive = doc
        .createPrimitive()
        .setMaterial(material)
        .setAttribute("POSITION", doc.createAccessor().setType("VEC3").setArray(new Float32Array(part.positions)).setBuffer(buffer))
        .setAttribute("NORMAL", doc.createAccessor().setType("VEC3").setArray(new Float32Array(part.normals)).setBuffer(buffer))
        .setIndices(doc.createAccessor().setType("SCALAR").setArray(new Uint32Array(part.indices)).setBuffer(buffer));
      scene.addChild(doc.createNode(key).setMesh(doc.createMesh(key).addPrimitive(primitive)));
    }
    return modelIO().writeBinary(doc);
  }
}
