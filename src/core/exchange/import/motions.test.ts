/** Lenses and lights that an animation moves: held against the closed forms of what it says. */
import { Document, type Node, type TypedArray } from "@gltf-transform/core";
import { KHRLightsPunctual } from "@gltf-transform/extensions";
import { describe, expect, it } from "vitest";
import { atMoment, movedTo, wayRound } from "../../document/motion";
import { parseDocument } from "../../document/parse";
import { placeSet } from "../../document/place";
import { modelIO } from "../../formats/gltf";
import { decoders } from "../../../cli/decoders";
import { importSet, type ImportedSet } from "./index";
import { motionThrough, type Stand } from "./motions";

const decode = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

class Scene {
  readonly doc = new Document();
  private readonly buffer = this.doc.createBuffer();
  readonly scene = this.doc.createScene();
  private readonly animations = new Map<string, ReturnType<Document["createAnimation"]>>();

  constructor() {
    const corners = this.accessor("VEC3", [0, 0, 0, 1, 0, 0, 0, 1, 0]);
    const mesh = this.doc.createMesh("sail").addPrimitive(this.doc.createPrimitive().setAttribute("POSITION", corners));
    this.scene.addChild(this.doc.createNode("sail").setMesh(mesh));
  }
  private accessor(type: "SCALAR" | "VEC3" | "VEC4", values: readonly number[]) {
    const array: TypedArray = new Float32Array(values);
    return this.doc
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(this.buffer);
  }
  node(name: string, parent?: Node): Node {
    const node = this.doc.createNode(name);
    if (parent) parent.addChild(node);
    else this.scene.addChild(node);
    return node;
  }
  camera(node: Node): void {
    node.setCamera(this.doc.createCamera("shot").setType("perspective").setYFov(0.8));
  }
  light(node: Node, type: "point" | "spot" | "directional"): void {
    const punctual = this.doc.createExtension(KHRLightsPunctual);
    node.setExtension("KHR_lights_punctual", punctual.createLight("lamp").setType(type).setIntensity(100));
  }
  animate(
    animation: string,
    node: Node,
    path: "translation" | "rotation",
    times: readonly number[],
    values: readonly number[],
    interpolation: "LINEAR" | "STEP" | "CUBICSPLINE" = "LINEAR",
  ): void {
    // prettier-ignore
    const of = this.animations.get(animation) ?? this.doc.createAnimation(animation);
    this.animations.set(animation, of);
    const sampler = this.doc
      .createAnimationSampler()
      .setInput(this.accessor("SCALAR", times))
      .setOutput(this.accessor(path === "rotation" ? "VEC4" : "VEC3", values))
      .setInterpolation(interpolation);
    of.addSampler(sampler).addChannel(this.doc.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  }
  async bring(moment: { animation: number; time: number } | null = null): Promise<ImportedSet> {
    const bytes = await modelIO().registerExtensions([KHRLightsPunctual]).writeBinary(this.doc);
    return importSet(new Map([["a.glb", bytes]]), { decoders, decode, moment });
  }
}
const PLACING = { sha256: "0".repeat(64), uri: "a.glb", replace: false, lights: true, lenses: true, scale: 1 };
const turn = (degrees: number): [number, number, number, number] => {
  const half = (degrees * Math.PI) / 360;
  return [0, Math.sin(half), 0, Math.cos(half)];
};
const close = (found: readonly number[], wanted: readonly number[], within: number): void =>
  found.forEach((v, k) => expect(Math.abs(v - wanted[k]!), `${found.join()} for ${wanted.join()}`).toBeLessThan(within));

describe("a set that moves", () => {
  it("a lens on an arm that turns goes round in a circle, and looks inwards", async () => {
    const s = new Scene();
    const arm = s.node("arm");
    const lens = s.node("lens", arm).setTranslation([0, 2, 10]);
    s.camera(lens);
    s.animate("circle", arm, "rotation", [0, 2], [...turn(0), ...turn(120)]);
    const set = await s.bring();
    expect(set.moving).toEqual({ lenses: 1, lights: 0, animation: "circle" });
    const { camera } = set.lenses[0]!;
    // as few of the samples in between as a circle needs to a ten-thousandth of the way
    expect(camera.motion!.times.length).toBeLessThan(80);
    for (let t = 0; t <= 2; t += 0.037) {
      const a = (t * 60 * Math.PI) / 180;
      const at = movedTo(camera, t);
      close(at.position, [10 * Math.sin(a), 2, 10 * Math.cos(a)], 2e-3);
      const looks = at.target.map((v, k) => v - at.position[k]!);
      close(looks.map((v) => v / Math.hypot(...looks)), [-Math.sin(a), 0, -Math.cos(a)], 2e-4); // prettier-ignore
    }
    expect(movedTo(camera, 5).position).toEqual(movedTo(camera, 2).position);
  });

  it("a lamp goes by its splines, and a spot jumps by its steps", async () => {
    const s = new Scene();
    const [lamp, spot] = [s.node("lamp"), s.node("spot")];
    s.light(lamp, "point");
    s.light(spot, "spot");
    // Hermite from 0 with slope 3 to 8 with slope 1, in two seconds
    s.animate("go", lamp, "translation", [0, 2], [0, 0, 0, 0, 0, 0, 0, 3, 0, 0, 1, 0, 0, 8, 0, 0, 0, 0], "CUBICSPLINE");
    s.animate("go", spot, "translation", [0, 1, 2], [0, 0, 0, 5, 0, 0, 5, 5, 0], "STEP");
    const set = await s.bring();
    expect(set.moving).toMatchObject({ lenses: 0, lights: 2 });
    const [a, b] = [set.lights.find((l) => l.kind === "point")!, set.lights.find((l) => l.kind === "spot")!];
    for (let t = 0; t <= 2; t += 0.05) {
      const u = t / 2;
      const y = 2 * (u ** 3 - 2 * u ** 2 + u) * 3 + (-2 * u ** 3 + 3 * u ** 2) * 8 + 2 * (u ** 3 - u ** 2) * 1;
      close(movedTo(a, t).position, [0, y, 0], 1e-3);
    }
    expect([0, 0.99, 1, 1.99, 2].map((t) => movedTo(b, t).position)).toEqual([[0, 0, 0], [0, 0, 0], [5, 0, 0], [5, 0, 0], [5, 5, 0]]); // prettier-ignore
    // what it is aimed at goes along
    expect(movedTo(b, 1.5)).toMatchObject({ target: [5, 0, -5] });
    expect(b.motion!.times.length).toBeLessThan(8);
  });

  it("begins at the moment that the set stands still at, by the animation that is chosen, and fits a document", async () => {
    const s = new Scene();
    const lens = s.node("lens");
    s.camera(lens);
    s.animate("first", lens, "translation", [0, 4], [0, 0, 0, 4, 0, 0]);
    s.animate("second", lens, "translation", [0, 4], [0, 0, 0, 0, 8, 0]);
    const set = await s.bring({ animation: 1, time: 1 });
    expect(set.moving).toMatchObject({ animation: "second" });
    const camera = set.lenses[0]!.camera;
    expect(camera.position).toEqual([0, 2, 0]);
    // straight ways need their ends alone
    expect(camera.motion).toMatchObject({ times: [-1, 3], positions: [[0, 0, 0], [0, 8, 0]], rolls: null }); // prettier-ignore
    expect(parseDocument({ fumarium: 2, time: 2, camera }).camera.position).toEqual([0, 6, 0]);
    expect((await s.bring()).lenses[0]!.camera.motion!.positions[1]).toEqual([4, 0, 0]);
  });

  it("has no motion where nothing that lights or looks is moved", async () => {
    const s = new Scene();
    const [lens, sun, door] = [s.node("lens"), s.node("sun"), s.node("door")];
    s.camera(lens);
    s.light(sun, "directional");
    s.animate("open", door, "rotation", [0, 1], [...turn(0), ...turn(90)]);
    // where a sun is makes no difference to how it shines
    s.animate("carried", sun, "translation", [0, 1], [0, 0, 0, 5, 0, 0]);
    expect((await s.bring({ animation: 0, time: 0 })).moving).toBeNull();
    const set = await s.bring({ animation: 1, time: 0 });
    expect(set.moving).toBeNull();
    expect([set.lenses[0]!.camera.motion, set.sun!.motion]).toEqual([null, null]);
  });

  it("a sun goes round as it is turned, and stands where the time of its document has it", async () => {
    const s = new Scene();
    const sun = s.node("sun");
    s.light(sun, "directional");
    s.animate("day", sun, "rotation", [0, 9], [...turn(0), ...turn(90)]);
    const set = await s.bring();
    expect(set.moving).toMatchObject({ lenses: 0, lights: 1, animation: "day" });
    const at = (time: number, up: "y" | "z" = "y") =>
      atMoment({
        ...placeSet(parseDocument({ fumarium: 2 }), { ...set, name: "a.glb", bounds: [0, 0, 0, 1, 1, 1] }, { ...PLACING, up }),
        time,
      }).sun;
    // a light shines along its -z; turned about y by some degrees it comes from so many towards x, which is round from -z through +x
    for (const t of [0, 1, 4.5, 7.3, 9, 20]) {
      const turned = 10 * Math.min(t, 9);
      const { azimuth, elevation } = at(t);
      expect(Math.abs(wayRound(azimuth, 180 - turned)), `${t} s`).toBeLessThan(0.01);
      expect(elevation).toBeCloseTo(0, 2);
      // of a set whose z is up, what was level rises
      expect(at(t, "z").elevation).toBeCloseTo(90 - turned, 2);
    }
  });
});

describe("motions through places", () => {
  it("keep what straight ways miss, and roll on past whole turns", () => {
    const stands: Stand[] = Array.from({ length: 101 }, (_, i) => ({
      time: i / 10,
      position: [i, i === 50 ? 3 : 0, 0],
      target: [i, i === 50 ? 3 : 0, -5],
      roll: ((i * 7 + 180) % 360) - 180,
    }));
    const motion = motionThrough(stands, 0)!;
    expect(motion.times).toEqual(expect.arrayContaining([0, 4.9, 5, 5.1, 10]));
    // a way of more than half a turn has a key on it
    expect(motion.times.length).toBeLessThan(12);
    const at = (t: number) => movedTo({ position: [0, 0, 0], target: [0, 0, 0], roll: 0, motion }, t);
    expect(at(4.95).position).toEqual([49.5, 1.5, 0]);
    stands.forEach(({ time, roll }) => expect(Math.abs(wayRound(at(time).roll, roll!))).toBeLessThan(0.01));
    // fewer are allowed: as good as they can be
    expect(motionThrough(stands, 0, 5)!.times.length).toBeLessThanOrEqual(5);
  });

  it("of what stays where it is are none", () => {
    expect(motionThrough([], 0)).toBeNull();
    expect(motionThrough([{ time: 0, position: [1, 2, 3] }, { time: 1, position: [1, 2, 3] }], 0)).toBeNull(); // prettier-ignore
  });
});
