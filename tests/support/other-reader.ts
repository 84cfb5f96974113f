/** What another reader, three.js, says of the size of a set. Pictures and extensions of materials are kept from it: it only measures. */
import { readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { AnimationMixer, Box3, LoopOnce, Mesh, SkinnedMesh, Vector3, type Object3D } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { OBJLoader } from "three/examples/jsm/loaders/OBJLoader.js";

interface Json {
  buffers: { uri?: string }[];
  materials?: unknown[];
  [field: string]: unknown;
}

/** Bounds as that reader has them: least x, y, z, then most. @param moment of the file's first animation, s; null for none */
export async function boundsByOther(file: string, moment: number | null = null): Promise<number[]> {
  const bytes = readFileSync(file);
  if (/\.obj$/i.test(file)) return boundsOf(new OBJLoader().parse(bytes.toString()));
  // what a page has and that loader asks for
  Object.assign(globalThis, { self: globalThis, ProgressEvent: class extends Event {} });
  const data = (b: Uint8Array): string => `data:application/octet-stream;base64,${Buffer.from(b).toString("base64")}`;
  const binary = /\.glb$/i.test(file);
  const length = binary ? bytes.readUInt32LE(12) : 0;
  const json = JSON.parse((binary ? bytes.subarray(20, 20 + length) : bytes).toString()) as Json;
  for (const buffer of json.buffers)
    if (buffer.uri === undefined) buffer.uri = data(bytes.subarray(28 + length));
    else if (!buffer.uri.startsWith("data:")) buffer.uri = data(readFileSync(join(dirname(file), decodeURIComponent(buffer.uri))));
  if (json.materials) json.materials = json.materials.map(() => ({}));
  delete json.images;
  delete json.textures;
  const { scene, animations } = await new GLTFLoader().parseAsync(JSON.stringify(json), "");
  if (moment !== null) {
    const mixer = new AnimationMixer(scene);
    const action = mixer.clipAction(animations[0]!).setLoop(LoopOnce, 1);
    action.clampWhenFinished = true;
    action.play();
    mixer.setTime(moment);
  }
  return boundsOf(scene);
}

function boundsOf(root: Object3D): number[] {
  root.updateMatrixWorld(true);
  const box = new Box3();
  const corner = new Vector3();
  root.traverse((o) => {
    if (!(o instanceof Mesh)) return;
    if (o instanceof SkinnedMesh) o.skeleton.update();
    const { index, attributes } = o.geometry as { index: { array: ArrayLike<number> } | null; attributes: { position: { count: number } } };
    const corners = index ? new Set(Array.from(index.array)) : Array.from({ length: attributes.position.count }, (_, i) => i);
    for (const i of corners) box.expandByPoint(o.getVertexPosition(i, corner).applyMatrix4(o.matrixWorld));
  });
  return [...box.min.toArray(), ...box.max.toArray()];
}
