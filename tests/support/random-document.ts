/** Random valid documents, odd on purpose: tiny and huge, thick and empty, nested, degenerate. Seeded. */
import type { SceneDocumentInput } from "#core/document/schema";

export function randomDocument(seed: number): SceneDocumentInput {
  let state = (seed * 2654435761 + 12345) >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t ^= t + Math.imul(t ^ (t >>> 7), 61 | t);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  const probability = (p: number): boolean => next() < p;
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
  const between = (a: number, b: number): number => a + (b - a) * next();
  /** Over many magnitudes, now and then at an end. */
  const wide = (low: number, high: number): number =>
    probability(0.06) ? pick([low, high]) : Math.exp(between(Math.log(low), Math.log(high)));
  const scale = pick([1, 1, 1, 1e-3, 1e5]);
  const place = (r = 6): [number, number, number] =>
    probability(0.05) ? [0, 0, 0] : [between(-r, r) * scale, between(-r, r) * scale, between(-r, r) * scale];
  const share = (): number => (probability(0.3) ? pick([0, 1]) : next());
  const colour = (): [number, number, number] =>
    probability(0.2)
      ? pick([
          [0, 0, 0],
          [1, 1, 1],
          [1, 0, 0],
        ])
      : [share(), share(), share()];
  const turned = (): [number, number, number] =>
    probability(0.4) ? [0, 0, 0] : [between(-180, 180), between(-180, 180), between(-180, 180)];
  const size = (): number => Math.min(900, wide(0.01, 20) * scale);
  const direction = (): [number, number, number] =>
    probability(0.3)
      ? pick([
          [0, 1, 0],
          [0, -1, 0],
          [1, 0, 0],
        ])
      : [between(-1, 1), between(-1, 1), between(0.1, 1)];

  const materials = Object.fromEntries(
    ["a", "b", "c"].map((k) => [
      k,
      {
        baseColor: colour(),
        metallic: share(),
        roughness: share(),
        specular: share(),
        diffuseTransmission: probability(0.3) ? share() : 0,
        emission: probability(0.2)
          ? ([wide(1e-3, 1e9), wide(1e-3, 1e5), 0] as [number, number, number])
          : ([0, 0, 0] as [number, number, number]),
        opacity: probability(0.2) ? share() : 1,
        transmission: probability(0.3) ? share() : 0,
        solid: probability(0.5),
        ior: pick([1, 1.33, 1.5, 4]),
        attenuationColor: colour(),
        attenuationDistance: wide(1e-5, 1e6),
      },
    ]),
  );
  const objects = Array.from({ length: Math.floor(between(0, 5)) }, (_, i) => {
    const common = { material: pick(["a", "b", "c"]), position: place(), rotation: turned(), name: `o${i}`, hidden: probability(0.1) };
    return pick([
      { kind: "box" as const, ...common, size: [size(), size(), size()] as [number, number, number] },
      { kind: "sphere" as const, ...common, radius: size() },
      { kind: "rectangle" as const, ...common, size: [size(), size()] as [number, number] },
      { kind: "disk" as const, ...common, radius: size() },
      { kind: "cylinder" as const, ...common, radius: size(), height: size() },
    ]);
  });
  const closed = objects.filter((o) => o.kind === "box" || o.kind === "sphere" || o.kind === "cylinder");
  const region = (): object => {
    const at = { centre: place(), rotation: turned() };
    return pick<() => object>([
      () => ({ kind: "everywhere" }),
      () => ({ kind: "box", ...at, size: [size(), size(), size()] }),
      () => ({ kind: "sphere", centre: at.centre, radius: size() }),
      () => ({ kind: "cylinder", ...at, radius: size(), height: size() }),
      () => ({ kind: "cone", ...at, radius: size(), height: size() }),
      () => ({ kind: "layer", level: between(-3, 3) * scale, up: direction() }),
      () => (closed.length ? { kind: "mesh", object: pick(closed).name } : { kind: "everywhere" }),
    ])();
  };
  const air = Array.from({ length: Math.floor(between(0, 5)) }, (_, i) => {
    const r = region();
    return {
      name: `m${i}`,
      density: probability(0.1) ? pick([0, 1e9, 1e-12]) : wide(1e-5, 100) / scale,
      scattering: colour(),
      absorption: probability(0.5) ? colour() : ([0, 0, 0] as [number, number, number]),
      emission: probability(0.2) ? { colour: colour(), strength: wide(1e-3, 1e6) } : null,
      anisotropy: between(-0.99, 0.99),
      phase: pick([
        { model: "henyey-greenstein" as const },
        { model: "two-lobe" as const, forward: between(-0.99, 0.99), backward: between(-0.99, 0.99), mix: share() },
        { model: "rayleigh" as const },
        { model: "droplets" as const, diameter: between(5, 50) },
      ]),
      region: r as never,
      edge: (r as { kind: string }).kind !== "everywhere" && probability(0.3) ? size() : 0,
      height: probability(0.4)
        ? {
            shape: pick(["exponential", "linear", "quadratic", "inverse-quadratic"] as const),
            level: between(-3, 3) * scale,
            scale: size(),
            up: direction(),
          }
        : null,
      noise: probability(0.35)
        ? {
            character: pick(["soft", "billow", "ridge", "cells", "wisps", "layers"] as const),
            axis: direction(),
            bend: between(0, 4),
            size: wide(0.05, 20) * scale,
            stretch: [wide(0.1, 10), 1, wide(0.1, 10)] as [number, number, number],
            octaves: Math.floor(between(1, 5)),
            roughness: share(),
            low: between(0, 0.5),
            high: between(0.5001, 1),
            knee: share(),
            evenness: probability(0.7) ? 0 : share(),
            invert: probability(0.3),
            drift: place(1),
            change: probability(0.3) ? next() : 0,
            space: pick(["world", "region"] as const),
          }
        : null,
      proximity:
        objects.length && probability(0.04)
          ? {
              object: pick(objects).name,
              curve: [
                [0, share()],
                [size(), share()],
              ] as [number, number][],
            }
          : null,
      start: probability(0.2) ? { distance: size(), fade: pick([0, size()]), min: share() } : null,
      seen: probability(0.3)
        ? { camera: share(), sky: share(), reflection: share(), refraction: share(), indirect: share(), shadow: share() }
        : {},
    };
  });
  const lights = Array.from({ length: probability(0.1) ? 20 : Math.floor(between(0, 4)) }, () => {
    const position = place();
    const target = position.map((c, k) => c + [1, -1, 0.3][k]! * scale) as [number, number, number];
    const common = {
      position,
      intensity: probability(0.1) ? pick([0, 1e9]) : wide(1e-3, 1e6),
      unit: pick(["cd", "lm", "lux", "W"] as const),
      temperature: between(1000, 40000),
      tint: colour(),
      air: share(),
      surfaces: share(),
      fade: probability(0.2) ? { nearFrom: 0, nearTo: size(), farFrom: size(), farTo: size() } : null,
      airSamples: probability(0.15) ? Math.floor(between(1, 4)) : null,
      media: probability(0.2) && air.length ? [air[0]!.name] : null,
    };
    const gobo = probability(0.4)
      ? { pattern: pick(["leaves", "blinds", "bars", "ripples"] as const), distance: size(), size: size() }
      : null;
    return pick([
      { kind: "point" as const, ...common },
      { kind: "spot" as const, ...common, target, cone: between(0.1, 178), softness: share(), radius: pick([0, size()]), gobo },
      {
        kind: "rectangle" as const,
        ...common,
        target,
        size: [size(), size()] as [number, number],
        spread: between(0.02, 1),
        bothSides: probability(0.5),
        visible: probability(0.3),
        gobo,
      },
      { kind: "disk" as const, ...common, target, radius: size(), spread: between(0.02, 1) },
      { kind: "sphere" as const, ...common, radius: size(), visible: probability(0.3) },
      { kind: "tube" as const, ...common, direction: direction(), length: size(), radius: size(), visible: probability(0.3) },
    ]);
  });
  const position = place();
  const doc: SceneDocumentInput = {
    fumarium: 2,
    materials,
    objects,
    camera: {
      kind: probability(0.2) ? "orthographic" : "perspective",
      position,
      target: position.map((c, k) => c + direction()[k]! * scale + (k === 2 ? -0.2 * scale : 0)) as [number, number, number],
      fieldOfView: between(0.1, 170),
      height: size(),
      aperture: probability(0.3) ? between(0, 10) : 0,
      focus: size(),
    },
    sun: {
      airSamples: probability(0.1) ? 2 : null,
      on: probability(0.7),
      azimuth: between(-180, 180),
      elevation: between(-90, 90),
      illuminance: wide(1e-3, 1e7),
      angularDiameter: wide(0.01, 90),
    },
    moon: { on: probability(0.2), elevation: between(-90, 90) },
    sky: {
      on: probability(0.8),
      model: pick(["gradient", "clear", "overcast"] as const),
      luminance: wide(1e-3, 1e6),
      turbidity: between(1.7, 10),
      stars: probability(0.2) ? { count: Math.floor(between(0, 5000)) } : null,
    },
    lights,
    air,
    time: between(-100, 100),
    render: {
      level: pick(["veil", "shafts", "full"] as const),
      noiseThreshold: probability(0.2) ? wide(1e-3, 1) : null,
      thresholdOf: pick(["rendered", "cleaned"] as const),
      minSamples: 2,
      fireflyClamp: probability(0.2) ? wide(1e-3, 1e6) : null,
      airBounces: Math.floor(between(1, 12)),
      surfaceBounces: Math.floor(between(0, 5)),
      airSamples: Math.floor(between(1, 4)),
      indirectRoughness: pick([0, 0, share()]),
      estimator: probability(0.15) ? "stepping" : "tracking",
      seed,
    },
    film: {
      size: [5, 4],
      filter: pick(["box", "tent"] as const),
      exposure: between(-20, 30),
      tint: between(-0.05, 0.05),
      lightGroups: probability(0.3),
      mattes: probability(0.2),
      finish: {
        on: probability(0.8),
        contrast: between(0.25, 4),
        pivot: between(-8, 6),
        saturation: between(0, 3),
        rollOff: between(0, 1),
        black: between(0, 0.4),
        white: between(0.6, 1),
        curves: probability(0.5)
          ? {
              red: [
                [between(0, 0.3), between(0, 1)],
                [between(0.4, 1), between(0, 1)],
              ],
            }
          : {},
        glare: probability(0.5)
          ? {
              halo: between(0, 0.5),
              starburst: between(0, 0.5),
              width: wide(0.005, 0.5),
              blades: 3 + Math.floor(next() * 10),
              turn: between(-180, 180),
              threshold: probability(0.5) ? between(-10, 20) : null,
            }
          : {},
      },
      balance: probability(0.3)
        ? {
            sun: { air: { stops: between(-3, 3), colour: colour() }, surfaces: { stops: between(-3, 3) } },
            sky: { muted: probability(0.2), solo: probability(0.1) },
          }
        : {},
    },
  };
  // last, so that what was drawn before stays what it was
  if (probability(0.2)) {
    const at = place();
    doc.camera!.motion = {
      times: [-50, 0, 0, 50],
      positions: [position, at, position, at],
      targets: [position, at, position, at].map((p) => p.map((v, k) => v + (k === 1 ? scale : 0)) as [number, number, number]),
      rolls: [-180, 170, 0, 90],
    };
  }
  doc.render!.airSize = pick(["full", "full", "half", "quarter"]);
  if (probability(0.2)) doc.sun!.motion = { times: [-1, 3, 3, 60], directions: [[1, 1, 0], [0, 2, 0.1], [-1, 0.2, 0], [0, 1, 1]] }; // prettier-ignore
  if (probability(0.3))
    doc.budget = {
      limit: pick([null, { kind: "frame" as const, minutes: 12.5 }, { kind: "by" as const, frames: 40, time: "06:45" }]),
      threads: pick([null, 64]),
      speed: pick([1, 2.5]),
      size: pick([null, [3840, 2160]]),
      noise: pick([null, { threshold: 0.02, of: "cleaned" as const }]),
    };
  if (probability(0.15)) {
    doc.assets = { ...doc.assets, plate: { uri: "plate.exr" } };
    doc.plate = {
      ...{ picture: "plate", depth: "plate", depthLayer: pick(["", "Z"]), along: pick(["axis", "ray"]), inverted: probability(0.3) },
      range: pick([null, [0, 100]]),
      unit: wide(0.01, 100),
      sky: pick([null, 1000]),
      light: pick([0, 12, -3]),
      position: place(),
      ...{ heading: between(-360, 360), tilt: between(-89, 89), roll: between(-180, 180), fieldOfView: between(1, 150) },
      ...{ edges: probability(0.5), across: 64 },
    };
  }
  return doc;
}
