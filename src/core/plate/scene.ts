/** A scene of a picture with depth: the surface through its depth as a model, and its lens over the ground. */
import { Document, type mat4 } from "@gltf-transform/core";
import { parseDocument } from "../document/parse";
import type { SceneDocument } from "../document/schema";
import { modelIO } from "../formats/gltf";
import { cross, dot, unit, type V3 } from "../math/vectors";
import { heldBy, type PlateLens } from "./lens";
import type { DepthMesh } from "./mesh";

/** How the world lies about a lens: y up, the lens looks along −z, over the ground that is at y = 0. */
export interface PlateStand {
  /** Up in lens space. */
  up: V3;
  /** Of the lens over the ground, m. */
  height: number;
}

/** Axes of the world in lens space: x, y and z. */
function worldAxes({ up }: PlateStand): [V3, V3, V3] {
  const y = unit(up);
  // what of the lens's axis is level; of a lens that looks straight up or down, its own up
  const axis: V3 = Math.abs(y[2]) < 0.9999 ? [0, 0, -1] : [0, 1, 0];
  const k = dot(axis, y);
  const level = unit([axis[0] - k * y[0], axis[1] - k * y[1], axis[2] - k * y[2]]);
  return [cross(level, y), y, [-level[0], -level[1], -level[2]]];
}

/** The surface and its lens as a binary glTF in the world's axes, m. */
export async function plateModel(mesh: DepthMesh, lens: PlateLens, stand: PlateStand): Promise<Uint8Array> {
  const axes = worldAxes(stand);
  const { positions } = mesh;
  const placed = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    const p: V3 = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
    axes.forEach((axis, k) => (placed[i + k] = dot(axis, p)));
    placed[i + 1]! += stand.height;
  }
  const doc = new Document();
  const buffer = doc.createBuffer();
  const primitive = doc
    .createPrimitive()
    .setAttribute("POSITION", doc.createAccessor().setType("VEC3").setArray(placed).setBuffer(buffer))
    .setIndices(doc.createAccessor().setType("SCALAR").setArray(Uint32Array.from(mesh.triangles)).setBuffer(buffer))
    .setMaterial(
      doc.createMaterial("plate").setBaseColorFactor([0.5, 0.5, 0.5, 1]).setRoughnessFactor(1).setMetallicFactor(0).setDoubleSided(true),
    );
  const camera = doc
    .createCamera("plate")
    .setType("perspective")
    .setYFov(lens.fieldOfView)
    .setAspectRatio(lens.width / lens.height)
    .setZNear(0.01);
  const [x, y, z] = axes;
  // columns: where right, up and backwards of the lens are in the world
  const place = [0, 1, 2].flatMap((k) => [x[k]!, y[k]!, z[k]!, 0]);
  const standing = doc
    .createNode("lens")
    .setCamera(camera)
    .setMatrix([...place, 0, stand.height, 0, 1] as mat4);
  doc
    .createScene("plate")
    .addChild(doc.createNode("plate").setMesh(doc.createMesh("plate").addPrimitive(primitive)))
    .addChild(standing);
  return modelIO().writeBinary(doc);
}

/** The scene document of a plate whose model lies beside it. @param size pixels of the picture @param exposure EV, where it is known */
export function plateScene(
  title: string,
  lens: Pick<PlateLens, "fieldOfView">,
  stand: PlateStand,
  size: readonly [number, number],
  model: { uri: string; sha256: string },
  exposure: number | null = null,
): SceneDocument {
  const { tilt, roll } = heldBy(stand.up);
  const degrees = (v: number): number => Number(((180 * v) / Math.PI).toFixed(6));
  return parseDocument({
    fumarium: 2,
    title,
    assets: { plate: model },
    objects: [{ kind: "model", name: "plate", asset: "plate" }],
    camera: {
      position: [0, stand.height, 0],
      target: [0, stand.height + 10 * Math.sin(tilt), -10 * Math.cos(tilt)],
      // a document counts it the other way about
      roll: degrees(-roll),
      fieldOfView: degrees(lens.fieldOfView),
    },
    film: { size: [...size], ...(exposure === null ? {} : { exposure }) },
  });
}
