/**
 * Sets of glTF that move, as they stand at one moment: animations evaluated, morph targets and skins written out as plain
 * meshes (glTF 2.0, 3.7.2.2, 3.7.3 and 3.11). Without a moment they stand as the file's nodes have them.
 */
import {
  Accessor,
  type Animation,
  type AnimationChannel,
  type AnimationSampler,
  type Document,
  type Mesh,
  type Node,
  type Primitive,
  type Skin,
} from "@gltf-transform/core";
import { InputError } from "../errors";
import { AXES } from "../math/vectors";
import { cofactors, composeAffine, determinant, inverseAffine, type Affine } from "../math/affine";
import { rootNodes } from "./gltf-shape";
import { MODEL_LIMITS } from "./limits";

/** Which animation of a file, by its place, and seconds into it. */
export interface Moment {
  animation: number;
  time: number;
}
export interface AnimationFacts {
  name: string;
  /** Time of its last key, s. */
  seconds: number;
}

export function animationsOf(doc: Document): AnimationFacts[] {
  return doc
    .getRoot()
    .listAnimations()
    .map((animation, i) => ({ name: animation.getName() || `animation ${i + 1}`, seconds: endOf(animation) }));
}

function endOf(animation: Animation): number {
  const ends = animation.listSamplers().map((s) => {
    const input = s.getInput();
    return input && input.getCount() > 0 ? input.getScalar(input.getCount() - 1) : 0;
  });
  return Math.max(0, ...ends.filter(Number.isFinite));
}

/** The first key behind a time; as many as there are where none is. */
function keyAfter(input: Accessor, time: number): number {
  let [low, high] = [0, input.getCount()];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (input.getScalar(middle) > time) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** Values of a sampler at a time, `size` of them; those at its ends beyond them. */
function valuesAt(sampler: AnimationSampler, time: number, size: number): number[] | null {
  const input = sampler.getInput(),
    output = sampler.getOutput();
  const keys = input?.getCount() ?? 0;
  if (!input || !output || keys === 0) return null;
  const cubic = sampler.getInterpolation() === "CUBICSPLINE";
  const across = output.getElementSize();
  if (output.getCount() * across < keys * size * (cubic ? 3 : 1)) return null;
  // part 0 is the tangent that comes in, 1 the value, 2 the tangent that goes out; values may go over several elements
  const at = (key: number, part = 1): number[] => {
    const from = (cubic ? 3 * key + part : key) * size;
    const element: number[] = [];
    return Array.from({ length: size }, (_, i) => output.getElement(Math.floor((from + i) / across), element)[(from + i) % across]!);
  };
  const t = (key: number): number => input.getScalar(key);
  const next = keyAfter(input, time);
  if (next === 0) return at(0);
  if (next === keys) return at(keys - 1);
  const [from, span] = [t(next - 1), t(next) - t(next - 1)];
  if (sampler.getInterpolation() === "STEP" || !(span > 0)) return at(next - 1);
  const s = (time - from) / span;
  const [a, b] = [at(next - 1), at(next)];
  if (cubic) {
    const [out, into] = [at(next - 1, 2), at(next, 0)];
    const [s2, s3] = [s * s, s * s * s];
    return a.map(
      (v, i) => (2 * s3 - 3 * s2 + 1) * v + span * (s3 - 2 * s2 + s) * out[i]! + (-2 * s3 + 3 * s2) * b[i]! + span * (s3 - s2) * into[i]!,
    );
  }
  return a.map((v, i) => v + s * (b[i]! - v));
}

function numbers(accessor: Accessor): number[] {
  const size = accessor.getElementSize();
  const out: number[] = [];
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let k = 0; k < size; k++) out.push(element[k]!);
  }
  return out;
}

/** Rotations between keys go the shorter way about (slerp); cubic ones are taken as they come and made unit. */
function rotationAt(sampler: AnimationSampler, time: number): number[] | null {
  const linear = sampler.getInterpolation() === "LINEAR";
  const q = linear ? slerped(sampler, time) : valuesAt(sampler, time, 4);
  if (!q) return null;
  const length = Math.hypot(...q);
  return length > 0 && Number.isFinite(length) ? q.map((v) => v / length) : null;
}

function slerped(sampler: AnimationSampler, time: number): number[] | null {
  const input = sampler.getInput(),
    output = sampler.getOutput();
  const keys = input?.getCount() ?? 0;
  if (!input || !output || keys === 0 || output.getCount() < keys) return null;
  const q = (key: number): number[] => output.getElement(key, []);
  const next = keyAfter(input, time);
  if (next === 0) return q(0);
  if (next === keys) return q(keys - 1);
  const from = input.getScalar(next - 1);
  const s = (time - from) / (input.getScalar(next) - from);
  const a = q(next - 1);
  let b = q(next);
  let cos = a.reduce((sum, v, i) => sum + v * b[i]!, 0);
  if (cos < 0) {
    b = b.map((v) => -v);
    cos = -cos;
  }
  if (cos > 0.9999999) return a.map((v, i) => v + s * (b[i]! - v));
  const angle = Math.acos(Math.min(1, cos));
  return a.map((v, i) => (Math.sin((1 - s) * angle) * v + Math.sin(s * angle) * b[i]!) / Math.sin(angle));
}

/** Puts nodes where an animation has them. @throws InputError for one that the file does not have */
function animate(doc: Document, { animation: index, time }: Moment, what: string): void {
  const animation = doc.getRoot().listAnimations()[index];
  if (!animation) throw new InputError(`${what}: has no animation ${index + 1}`);
  for (const channel of animation.listChannels()) placeChannel(channel, time);
}

/** Puts a node, or its weights, where a channel has them at a time. */
export function placeChannel(channel: AnimationChannel, time: number): void {
  const node = channel.getTargetNode(),
    sampler = channel.getSampler();
  if (!node || !sampler) return;
  const path = channel.getTargetPath();
  if (path === "rotation") {
    const q = rotationAt(sampler, time);
    if (q) node.setRotation(q as [number, number, number, number]);
  } else if (path === "translation" || path === "scale") {
    const v = valuesAt(sampler, time, 3);
    if (v?.every(Number.isFinite)) node[path === "scale" ? "setScale" : "setTranslation"](v as [number, number, number]);
  } else if (path === "weights") {
    const size = targetsOf(node.getMesh());
    const w = size > 0 ? valuesAt(sampler, time, size) : null;
    if (w?.every(Number.isFinite)) node.setWeights(w);
  }
}

const targetsOf = (mesh: Mesh | null): number => Math.max(0, ...(mesh?.listPrimitives().map((p) => p.listTargets().length) ?? []));
/** What morph targets may change of what is read here. */
const MORPHED = ["POSITION", "NORMAL", "COLOR_0", "TEXCOORD_0", "TEXCOORD_1"];

/**
 * Writes out what moves as it stands at a moment, in place: nodes placed, morph targets and skins become meshes of their own.
 * @throws InputError for broken references, and for more than the limits allow
 */
export function pose(doc: Document, moment: Moment | null, what: string): void {
  if (moment) animate(doc, moment, what);
  let corners = 0;
  const posed: { node: Node; mesh: Mesh }[] = [];
  const visit = (node: Node): void => {
    const mesh = node.getMesh();
    const skin = node.getSkin();
    if (mesh) {
      const own = node.getWeights();
      const weights = own.length ? own : mesh.getWeights();
      const morphs = targetsOf(mesh) > 0 && weights.some((w) => w !== 0);
      const bends = skin !== null && mesh.listPrimitives().some((p) => p.getAttribute("JOINTS_0"));
      if (morphs || bends) {
        corners += mesh.listPrimitives().reduce((n, p) => n + (p.getAttribute("POSITION")?.getCount() ?? 0), 0);
        if (corners > 3 * MODEL_LIMITS.triangles)
          throw new InputError(`${what}: more than ${3 * MODEL_LIMITS.triangles} corners that move`);
        const copy = doc.createMesh(mesh.getName());
        const where = `${what}: mesh "${mesh.getName() || "unnamed"}"`;
        for (const primitive of mesh.listPrimitives()) {
          const clone = primitive.clone();
          for (const target of clone.listTargets()) clone.removeTarget(target);
          if (morphs) morph(doc, primitive, clone, weights);
          if (bends) bend(doc, clone, skin, node, where);
          copy.addPrimitive(clone);
        }
        posed.push({ node, mesh: copy });
      }
    }
    for (const child of node.listChildren()) visit(child);
  };
  for (const node of rootNodes(doc)) visit(node);
  for (const { node, mesh } of posed) node.setMesh(mesh).setSkin(null);
}

/** Attributes of a primitive as its targets change them, by their weights. */
function morph(doc: Document, from: Primitive, to: Primitive, weights: readonly number[]): void {
  for (const name of MORPHED) {
    const base = from.getAttribute(name);
    const changes = from.listTargets().flatMap((target, i) => {
      const accessor = target.getAttribute(name);
      const weight = weights[i] ?? 0;
      return base && accessor && weight !== 0 && accessor.getCount() === base.getCount()
        ? [{ values: numbers(accessor), weight, size: accessor.getElementSize() }]
        : [];
    });
    if (!base || changes.length === 0) continue;
    const values = Float32Array.from(numbers(base));
    const size = base.getElementSize();
    for (const change of changes)
      for (let i = 0; i < base.getCount(); i++)
        for (let k = 0; k < Math.min(size, change.size); k++) values[i * size + k]! += change.weight * change.values[i * change.size + k]!;
    to.setAttribute(name, plainAccessor(doc, base.getType(), values));
  }
}

const plainAccessor = (doc: Document, type: ReturnType<Accessor["getType"]>, values: Float32Array<ArrayBuffer>): Accessor =>
  doc.createAccessor().setType(type).setArray(values);

/** Rows of a matrix that is kept by columns. */
const affineOf = (m: readonly number[]): Affine => AXES.flatMap((r) => [m[r]!, m[4 + r]!, m[8 + r]!, m[12 + r]!]) as Affine;

/** Corners where their joints carry them, in the frame of the node that has the mesh. */
function bend(doc: Document, primitive: Primitive, skin: Skin, node: Node, where: string): void {
  const position = primitive.getAttribute("POSITION");
  if (!position) return;
  const normal = primitive.getAttribute("NORMAL");
  const inverse = skin.getInverseBindMatrices();
  // a skin is placed by its joints alone: the node's own place is taken off again
  const world = affineOf(node.getWorldMatrix());
  const home = Math.abs(determinant(world)) > 1e-30 ? inverseAffine(world) : null;
  if (!home) throw new InputError(`${where}: its node is scaled to nothing`);
  const joints = skin.listJoints().map((joint, i) => {
    const bind = inverse && i < inverse.getCount() ? affineOf(inverse.getElement(i, [])) : IDENTITY;
    return composeAffine(home, composeAffine(affineOf(joint.getWorldMatrix()), bind));
  });
  const sets = [0, 1, 2, 3].flatMap((i) => {
    const [j, w] = [primitive.getAttribute(`JOINTS_${i}`), primitive.getAttribute(`WEIGHTS_${i}`)];
    return j && w ? [{ joints: numbers(j), weights: numbers(w) }] : [];
  });
  const count = position.getCount();
  const [p, n] = [numbers(position), normal && normal.getCount() === count ? numbers(normal) : null];
  const positions = new Float32Array(3 * count),
    normals = n && new Float32Array(3 * count);
  const m = new Array<number>(12) as Affine;
  for (let v = 0; v < count; v++) {
    m.fill(0);
    let sum = 0;
    for (const set of sets)
      for (let k = 4 * v; k < 4 * v + 4; k++) {
        const weight = set.weights[k];
        if (!weight) continue;
        const joint = joints[set.joints[k]!];
        if (!joint) throw new InputError(`${where}, corner ${v}: hangs on joint ${set.joints[k]} of ${joints.length}`);
        for (let i = 0; i < 12; i++) m[i]! += weight * joint[i]!;
        sum += weight;
      }
    if (!(sum > 0)) throw new InputError(`${where}, corner ${v}: hangs on no joint`);
    for (let i = 0; i < 12; i++) m[i]! /= sum;
    const [x, y, z] = [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
    for (const r of AXES) positions[3 * v + r] = m[4 * r]! * x + m[4 * r + 1]! * y + m[4 * r + 2]! * z + m[4 * r + 3]!;
    if (!n || !normals) continue;
    const c = cofactors(m);
    const turned = AXES.map((r) => c[3 * r]! * n[3 * v]! + c[3 * r + 1]! * n[3 * v + 1]! + c[3 * r + 2]! * n[3 * v + 2]!);
    const length = Math.hypot(...turned) * (determinant(m) < 0 ? -1 : 1);
    if (length !== 0) for (const r of AXES) normals[3 * v + r] = turned[r]! / length;
  }
  primitive.setAttribute("POSITION", plainAccessor(doc, "VEC3", positions));
  if (normals) primitive.setAttribute("NORMAL", plainAccessor(doc, "VEC3", normals));
  for (let i = 0; i < 4; i++) primitive.setAttribute(`JOINTS_${i}`, null).setAttribute(`WEIGHTS_${i}`, null);
}

const IDENTITY: Affine = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
