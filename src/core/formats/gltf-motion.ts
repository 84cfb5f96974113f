/** Where nodes of a glTF set go by time, as one of its animations has it (glTF 2.0, 3.11). */
import type { AnimationChannel, Document, Node } from "@gltf-transform/core";
import { placeChannel } from "./gltf-pose";
import { rootNodes } from "./gltf-shape";

/** A node's matrix to the set's axes, by columns, at a time (s). */
export interface Placement {
  time: number;
  matrix: number[];
}

/** Samples a second between keys, at least and at most between two of them, and in all of one node and of all. */
const RATE = 60,
  LEAST = 4,
  MOST = 600,
  MOST_TIMES = 40_000,
  MOST_PLACEMENTS = 120_000;

/** Channels that place a node or what it hangs on. */
function channelsOf(doc: Document, animation: number, nodes: readonly Node[]): AnimationChannel[] {
  const found = doc.getRoot().listAnimations()[animation];
  if (!found) return [];
  const parents = new Map<Node, Node>();
  const visit = (node: Node): void => {
    for (const child of node.listChildren()) {
      parents.set(child, node);
      visit(child);
    }
  };
  for (const node of rootNodes(doc)) visit(node);
  const moved = new Set<Node>();
  for (const node of nodes) for (let n: Node | undefined = node; n && !moved.has(n); n = parents.get(n)) moved.add(n);
  return found.listChannels().filter((c) => {
    const node = c.getTargetNode();
    return node !== null && moved.has(node) && c.getSampler() !== null && c.getTargetPath() !== "weights";
  });
}

/** The first animation that moves one of some nodes; null where none does. */
export function movingAnimation(doc: Document, nodes: readonly Node[]): number | null {
  const found = doc
    .getRoot()
    .listAnimations()
    .findIndex((_, i) => channelsOf(doc, i, nodes).length > 0);
  return found < 0 ? null : found;
}

/** Moments at which nodes are looked at: all keys, between them often enough that straight ways do, and twice where they jump. */
function timesOf(channels: readonly AnimationChannel[], most: number): { label: number; time: number }[] {
  const keys = new Set<number>(),
    jumps = new Set<number>();
  for (const channel of channels) {
    const sampler = channel.getSampler()!;
    const input = sampler.getInput();
    for (let k = 0; input && k < Math.min(input.getCount(), MOST_TIMES); k++) {
      const t = input.getScalar(k);
      if (!Number.isFinite(t) || Math.abs(t) > 1e6) continue;
      keys.add(t);
      if (k > 0 && sampler.getInterpolation() === "STEP") jumps.add(t);
    }
  }
  const sorted = [...keys].sort((a, b) => a - b).slice(0, most);
  const spans = sorted.slice(1).map((t, i) => Math.max(LEAST, Math.min(MOST, Math.ceil((t - sorted[i]!) * RATE))));
  const share = Math.min(1, most / Math.max(1, spans.reduce((a, b) => a + b, 0))); // prettier-ignore
  return sorted.flatMap((t, i) => {
    const before = sorted[i - 1];
    const between =
      before === undefined
        ? []
        : Array.from({ length: Math.max(0, Math.floor(spans[i - 1]! * share) - 1) }, (_, k, n = Math.floor(spans[i - 1]! * share)) => {
            const time = before + ((k + 1) / n) * (t - before);
            return { label: time, time };
          });
    const jump = jumps.has(t) ? [{ label: t, time: t - Math.max(1e-6, 1e-6 * Math.abs(t)) }] : [];
    return [...between, ...jump, { label: t, time: t }];
  });
}

/** Where each of some nodes is by time; none of those that nothing moves. The nodes are left as they were. */
export function placementsOf(doc: Document, animation: number, nodes: readonly Node[]): Map<Node, Placement[]> {
  const out = new Map<Node, Placement[]>();
  const channels = channelsOf(doc, animation, nodes);
  const touched = [...new Set(channels.map((c) => c.getTargetNode()!))];
  const was = touched.map((n) => [n.getTranslation(), n.getRotation(), n.getScale()] as const);
  for (const { label, time } of timesOf(channels, Math.min(MOST_TIMES, Math.ceil(MOST_PLACEMENTS / Math.max(1, nodes.length))))) {
    for (const channel of channels) placeChannel(channel, time);
    for (const node of nodes) {
      const list = out.get(node) ?? [];
      list.push({ time: label, matrix: [...node.getWorldMatrix()] });
      out.set(node, list);
    }
  }
  touched.forEach((n, i) => {
    const [t, r, s] = was[i]!;
    n.setTranslation(t).setRotation(r).setScale(s);
  });
  for (const [node, list] of out) if (list.every((p) => p.matrix.every((v, k) => v === list[0]!.matrix[k]))) out.delete(node);
  return out;
}
