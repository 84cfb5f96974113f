/** Plants of the palm house: feather palms, ferns, and broad-leaved plants. */
import { add, cross, mul, unit, type Dice, type Model, type V3 } from "./model";

/** A curve that starts along `direction` and bends down under its own weight. */
function drooping(from: V3, direction: V3, length: number, droop: number, steps: number): V3[] {
  const points: V3[] = [from];
  let d = unit(direction);
  let p = from;
  for (let i = 1; i <= steps; i++) {
    d = unit(add(d, [0, -droop * (i / steps) * (1.4 / steps) * 3, 0]));
    p = add(p, mul(d, length / steps));
    points.push(p);
  }
  return points;
}

/** One leaflet: a tapering strip of `segments` quads that hangs a little. */
function leaflet(
  model: Model,
  material: string,
  from: V3,
  direction: V3,
  along: V3,
  length: number,
  width: number,
  droop: number,
  segments: number,
): void {
  const spine = drooping(from, direction, length, droop, segments);
  const left: V3[] = [],
    right: V3[] = [];
  spine.forEach((p, i) => {
    const t = i / segments;
    const w = (width / 2) * (i === segments ? 0.08 : Math.sin(Math.PI * Math.min(0.95, 0.25 + 0.7 * t)));
    left.push(add(p, mul(along, -w)));
    right.push(add(p, mul(along, w)));
  });
  model.ribbon(material, left, right);
}

/** A feathered frond: a midrib with leaflets on both sides. */
export function frond(
  model: Model,
  dice: Dice,
  leaf: string,
  stem: string,
  from: V3,
  direction: V3,
  options: {
    length: number;
    droop: number;
    pairs: number;
    leaflet: number;
    width: number;
    segments: number;
    bare: number;
    ribSteps: number;
  },
): void {
  const { length, droop, pairs, segments } = options;
  const steps = options.ribSteps;
  const rib = drooping(from, direction, length, droop, steps);
  model.tube(
    stem,
    rib,
    rib.map((_, i) => 0.004 * length * (1.05 - i / steps) + 0.002),
    steps > 8 ? 4 : 3,
  );
  for (let k = 0; k < pairs; k++) {
    const t = options.bare + ((1 - options.bare) * (k + 0.5)) / pairs;
    const s = t * steps;
    const i = Math.min(steps - 1, Math.floor(s));
    const p = add(mul(rib[i]!, 1 - (s - i)), mul(rib[i + 1]!, s - i));
    const forward = unit([rib[i + 1]![0] - rib[i]![0], rib[i + 1]![1] - rib[i]![1], rib[i + 1]![2] - rib[i]![2]]);
    const side = unit(cross(forward, [0, 1, 0.001]));
    const up = cross(side, forward);
    const size = options.leaflet * Math.pow(Math.sin(Math.PI * (0.12 + 0.82 * t)), 0.7) * dice.between(0.88, 1.08);
    for (const hand of [-1, 1]) {
      const d = unit(add(add(mul(side, hand), mul(forward, 0.45 + 0.5 * t)), mul(up, dice.between(0.05, 0.3))));
      leaflet(model, leaf, p, d, forward, size, options.width, dice.between(0.35, 0.7), segments);
    }
  }
}

/** A feather palm of the given trunk height, rooted at `at`. */
export function palm(model: Model, dice: Dice, at: V3, height: number, leaves: readonly string[], lean: number): void {
  const turn = dice.between(0, 2 * Math.PI);
  const path: V3[] = [],
    radius: number[] = [];
  const rings = Math.round(height * 9);
  for (let i = 0; i <= rings; i++) {
    const t = i / rings;
    const sway = lean * t * t * height;
    path.push([at[0] + sway * Math.cos(turn), at[1] + t * height, at[2] + sway * Math.sin(turn)]);
    // old leaf scars ring the trunk
    radius.push((0.21 - 0.09 * t + 0.14 * Math.exp(-t * 14)) * (i % 2 ? 1 : 0.93));
  }
  model.tube("trunk", path, radius, 14);
  const crown = path[path.length - 1]!;
  const count = Math.round(dice.between(17, 23));
  for (let i = 0; i < count; i++) {
    const a = i * 2.39996 + dice.between(-0.2, 0.2);
    const rank = i / count; // inner leaves stand, outer ones hang
    const rise = 1.5 - 1.75 * rank;
    const d: V3 = [Math.cos(a), rise, Math.sin(a)];
    const length = dice.between(2.5, 3.4) * (0.75 + 0.25 * Math.min(1, rank * 2));
    frond(model, dice, dice.pick(leaves), "stem", add(crown, mul(unit(d), 0.08)), d, {
      length,
      droop: 0.55 + 0.35 * rank,
      pairs: 38,
      leaflet: 0.62,
      width: 0.05,
      segments: 2,
      bare: 0.1,
      ribSteps: 10,
    });
  }
}

/** A fern: a rosette of small fronds. */
export function fern(model: Model, dice: Dice, at: V3, size: number, leaves: readonly string[]): void {
  const count = Math.round(dice.between(12, 17));
  for (let i = 0; i < count; i++) {
    const a = i * 2.39996 + dice.between(-0.3, 0.3);
    const d: V3 = [Math.cos(a), dice.between(0.9, 1.9), Math.sin(a)];
    frond(model, dice, dice.pick(leaves), "stem", at, d, {
      length: size * dice.between(0.8, 1.15),
      droop: dice.between(0.8, 1.2),
      pairs: 16,
      leaflet: size * 0.2,
      width: size * 0.042,
      segments: 1,
      bare: 0.12,
      ribSteps: 5,
    });
  }
}

/** A broad-leaved plant: long blades with a keel, split here and there towards the edge. */
export function broadleaf(model: Model, dice: Dice, at: V3, height: number, leaves: readonly string[]): void {
  const count = Math.round(dice.between(7, 10));
  for (let i = 0; i < count; i++) {
    const a = i * 2.39996 + dice.between(-0.3, 0.3);
    const d: V3 = [Math.cos(a) * 0.55, dice.between(1.3, 2.2), Math.sin(a) * 0.55];
    const stalk = height * dice.between(0.35, 0.5);
    const top = drooping(at, d, stalk, 0.08, 5);
    model.tube(
      "stem",
      top,
      top.map((_, k) => 0.03 - 0.003 * k),
      6,
    );
    const spine = drooping(
      top[5]!,
      [top[5]![0] - top[4]![0], top[5]![1] - top[4]![1], top[5]![2] - top[4]![2]],
      height * dice.between(0.6, 0.8),
      0.75,
      22,
    );
    const width = height * dice.between(0.13, 0.17);
    const material = dice.pick(leaves);
    const side = unit(cross(d, [0, 1, 0.001]));
    for (const hand of [-1, 1]) {
      let left: V3[] = [],
        right: V3[] = [];
      spine.forEach((p, k) => {
        const t = k / 22;
        const w = width * Math.pow(Math.sin(Math.PI * Math.min(0.985, 0.06 + 0.94 * t)), 0.55);
        left.push(p);
        right.push(add(p, add(mul(side, hand * w), [0, 0.35 * w - 0.5 * w * t, 0])));
        if (left.length > 2 && dice.next() < 0.22) {
          model.ribbon(material, left, right);
          left = [p];
          right = [add(p, add(mul(side, hand * w * 0.97), [0, 0.3 * w - 0.55 * w * t, 0]))];
        }
      });
      if (left.length > 1) model.ribbon(material, left, right);
    }
  }
}
