import { afterEach, describe, expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import { CleanCancelled } from "#engine/clean-pool";
import { F_COUNT } from "#core/layout/layout";
import { type FakeRun, fakeSession } from "../../../../tests/support/bench-hosts";
import { Session } from "./session";

const doc = parseDocument({ fumarium: 2, air: [{ name: "haze" }, { name: "mist" }], lights: [{ kind: "point", position: [0, 1, 0] }] });
const settle = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

async function live() {
  const fake = fakeSession();
  const session = new Session(doc, fake.host);
  await session.start();
  session.resize(64, 36);
  await settle();
  return { ...fake, session };
}

afterEach(() => vi.useRealTimers());

describe("the live picture", () => {
  it("builds once and renders at the size it was given", async () => {
    const { session, runs, built } = await live();
    expect(built).toEqual(["whole", "geometry"]);
    expect(runs).toHaveLength(1);
    expect(runs[0]!.request).toMatchObject({ width: 64, height: 36 });
    expect(session.state.getState()).toMatchObject({ phase: "rendering", triangles: 12 });
    runs[0]!.end("done");
    await settle();
    expect(session.state.getState().phase).toBe("done");
  });

  it("makes one run of several changes at once, without building what they do not touch", async () => {
    const { session, runs, built } = await live();
    for (const density of [0.1, 0.2, 0.3]) session.update({ ...doc, air: doc.air.map((m) => ({ ...m, density })) });
    await settle();
    expect(runs).toHaveLength(2);
    expect(runs[1]!.request.document.air[0]!.density).toBe(0.3);
    expect(built).toEqual(["whole", "geometry"]);
  });

  it("only develops again where only exposure or white balance changed", async () => {
    const { session, runs } = await live();
    const before = session.state.getState().exposure;
    session.update({ ...doc, film: { ...doc.film, exposure: 9, whiteBalance: 4000 } });
    await settle();
    expect(runs).toHaveLength(1);
    expect(session.state.getState().exposure).toBe(before + 1);
  });

  it("starts its workers again where they could not be fetched, by itself or when asked", async () => {
    const fake = fakeSession();
    let tries = 0;
    const startEngine = async () =>
      ++tries < 3 ? Promise.reject(new Error("The render kernel could not be loaded (502).")) : fake.host.startEngine();
    const session = new Session(doc, { ...fake.host, startEngine });
    vi.useFakeTimers();
    await session.start();
    expect(session.state.getState()).toMatchObject({ phase: "failed", message: expect.stringContaining("502") as string });
    await vi.advanceTimersByTimeAsync(5000);
    vi.useRealTimers();
    expect(tries).toBe(2);
    // an impatient hand starts no second engine
    session.again();
    session.again();
    session.resize(64, 36);
    await settle();
    expect(tries).toBe(3);
    expect(session.state.getState().phase).toBe("rendering");
    session.dispose();
  });

  it("goes on where a lens is kept or a pin is set", async () => {
    const { session, runs } = await live();
    session.update({ ...doc, lenses: [{ name: "gate", camera: doc.camera }], pins: [{ point: [0, 0, 1], share: 0.5 }] });
    await settle();
    expect(runs).toHaveLength(1);
  });

  it("goes on where the lens gets or loses a motion, and stands where it stood", async () => {
    const { session, runs } = await live();
    const { position, target } = doc.camera;
    const motion = { times: [0], positions: [position], targets: [target], rolls: null };
    for (const next of [motion, null]) {
      session.update({ ...doc, camera: { ...doc.camera, motion: next } });
      await settle();
    }
    expect(runs).toHaveLength(1);
    session.update({ ...doc, camera: { ...doc.camera, position: [position[0] + 1, position[1], position[2]] } });
    await settle();
    expect(runs).toHaveLength(2);
  });

  it("goes on at its size where its place shrinks and grows back, and begins anew where it would be coarse", async () => {
    const { session, runs } = await live();
    const sweep = (run: number): void =>
      [1, 2, 3, 4].forEach((stage) =>
        runs[run]!.request.onStage!({
          share: 0.1,
          seconds: 1,
          secondsLeft: 9,
          stage,
          stages: 20,
          work: { seconds: 0, rays: 0, lookups: 0 },
        }),
      );
    // before the first sweep there is nothing to keep
    session.resize(60, 34);
    await settle();
    expect(runs).toHaveLength(2);
    sweep(1);
    session.resize(48, 27);
    session.resize(60, 34);
    session.resize(32, 18);
    await settle();
    expect(runs).toHaveLength(2);
    expect(session.state.getState().size).toEqual([60, 34]);
    // an edit has the size of the place
    session.update({ ...doc, time: 1 });
    await settle();
    expect(runs[2]!.request).toMatchObject({ width: 32, height: 18 });
    sweep(2);
    // larger, of another shape, or far smaller
    session.resize(40, 22);
    await settle();
    expect(runs).toHaveLength(4);
    sweep(3);
    session.resize(22, 22);
    await settle();
    expect(runs).toHaveLength(5);
    sweep(4);
    session.resize(10, 10);
    await settle();
    expect(runs[5]!.request).toMatchObject({ width: 10, height: 10 });
    session.dispose();
  });

  it("shows every stage of the first sweep, later ones no sooner than a share of the time that the run has taken", async () => {
    vi.useFakeTimers();
    const fake = fakeSession();
    const session = new Session(doc, fake.host);
    // cleaned pictures are drawn when they come
    session.setClean(false);
    await session.start();
    session.resize(64, 36);
    await vi.advanceTimersByTimeAsync(1);
    const stage = (n: number): void =>
      fake.runs[0]!.request.onStage!({
        share: n / 20,
        seconds: 1,
        secondsLeft: 0,
        stage: n,
        stages: 20,
        work: { seconds: 0, rays: 0, lookups: 0 },
      });
    const { exposure } = session.state.getState();
    for (const n of [1, 2, 3, 4]) stage(n);
    expect(session.state.getState()).toMatchObject({ exposure: exposure + 4, coveredAt: exposure + 4 });
    // progress is told at once, its picture follows
    stage(5);
    stage(6);
    expect(session.state.getState()).toMatchObject({ exposure: exposure + 4, progress: { stage: 6 } });
    await vi.advanceTimersByTimeAsync(300);
    expect(session.state.getState().exposure).toBe(exposure + 5);
    await vi.advanceTimersByTimeAsync(16_000);
    stage(7);
    const later = session.state.getState().exposure;
    await vi.advanceTimersByTimeAsync(1000);
    stage(8);
    expect(session.state.getState().exposure).toBe(later);
    await vi.advanceTimersByTimeAsync(2000);
    expect(session.state.getState().exposure).toBe(later + 1);
    session.dispose();
  });

  it("tells the end of a run together with its figures, and when its picture is on screen", async () => {
    const { session, runs } = await live();
    runs[0]!.request.onStage!({ share: 1, seconds: 1, secondsLeft: 0, stage: 4, stages: 4, work: { seconds: 0, rays: 0, lookups: 0 } });
    expect(session.shows(doc)).toBe(false);
    session.drew(session.state.getState().exposure);
    expect(session.shows(doc)).toBe(true);
    const seen: unknown[] = [];
    session.state.subscribe(({ phase, statistics }) => void (phase === "done" && seen.push(statistics)));
    runs[0]!.end("done");
    await settle();
    expect(seen.length).toBeGreaterThan(0);
    expect(seen.every((v) => v !== null)).toBe(true);
  });

  it("covers the document as it is, where another that asks for the same picture came while it was rendered", async () => {
    const { session, runs } = await live();
    session.update({ ...doc, title: "another" });
    await settle();
    expect(runs).toHaveLength(1);
    runs[0]!.request.onStage!({ share: 1, seconds: 1, secondsLeft: 0, stage: 9, stages: 9, work: { seconds: 0, rays: 0, lookups: 0 } });
    expect(session.state.getState().covered).toBe(session.seen());
    // one that asks for another picture is not covered by this
    session.hold(true);
    session.update({ ...doc, sun: { ...doc.sun, azimuth: 7 } });
    await settle();
    runs[0]!.request.onStage!({ share: 1, seconds: 1, secondsLeft: 0, stage: 9, stages: 9, work: { seconds: 0, rays: 0, lookups: 0 } });
    expect(session.state.getState().covered).not.toBe(session.seen());
  });

  it("renders what is soloed alone, and leaves the document as it is", async () => {
    const { session, runs } = await live();
    session.setFilter({ solo: [0], soloMedia: [1], balance: true });
    await settle();
    const seen = runs[1]!.request.document;
    expect([seen.sun.on, seen.sky.on, seen.lights[0]!.on]).toEqual([false, false, true]);
    expect(seen.air.map((m) => m.on)).toEqual([false, true]);
    expect(seen.film.lightGroups).toBe(true);
    session.setFilter({ solo: [0], soloMedia: [1], balance: true });
    await settle();
    expect(runs).toHaveLength(2);
  });

  it("holds changes while something else shows them, and renders the last when let go", async () => {
    const { session, runs, built } = await live();
    session.hold(true);
    session.update({ ...doc, time: 1 });
    session.update({ ...doc, time: 2 });
    await settle();
    expect(runs).toHaveLength(1);
    expect(built).toContain("pause");
    session.hold(false);
    await settle();
    expect(runs).toHaveLength(2);
    expect(runs[1]!.request.document.time).toBe(2);
  });

  it("stays paused until that is lifted: edits wait, exposure is developed, and what comes back to the same waits no more", async () => {
    const { session, runs } = await live();
    const state = () => session.state.getState();
    session.pause();
    const { exposure } = state();
    session.update({ ...doc, film: { ...doc.film, exposure: 9 } });
    await settle();
    expect(state()).toMatchObject({ phase: "paused", message: "Paused", exposure: exposure + 1 });
    session.update({ ...doc, time: 3 });
    await settle();
    expect(runs).toHaveLength(1);
    expect(state()).toMatchObject({ phase: "paused", message: "Paused: changes wait" });
    session.update(doc);
    await settle();
    expect(state().message).toBe("Paused");
    session.update({ ...doc, time: 4 });
    await settle();
    session.resume();
    await settle();
    expect(runs).toHaveLength(2);
    expect(runs[1]!.request.document.time).toBe(4);
    expect(state().phase).toBe("rendering");
    // nothing that waited: the same run goes on
    session.pause();
    session.resume();
    await settle();
    expect(runs).toHaveLength(2);
  });

  describe("a picture to keep or write", () => {
    /** A run's film with one sample in every pixel, told stage by stage. */
    const sweep = (run: FakeRun, upTo = 4): void => {
      const film = run.film();
      for (let p = 0; p < film.data.length; p += film.stride) film.data[p + F_COUNT] = 1;
      for (let stage = 1; stage <= upTo; stage++)
        run.request.onStage!({ share: 0.1, seconds: 1, secondsLeft: 9, stage, stages: 20, work: { seconds: 0, rays: 0, lookups: 0 } });
    };
    const denser = { ...doc, air: doc.air.map((m) => ({ ...m, density: 0.7 })) };

    it("waits until every pixel has a sample of the settings as they are then", async () => {
      const { session, runs } = await live();
      const kept = vi.fn();
      void session.cleanedSnapshot().then(kept);
      sweep(runs[0]!, 3);
      await settle();
      expect(kept).not.toHaveBeenCalled();
      session.update(denser);
      // what still comes of the settings before is not it
      sweep(runs[0]!);
      await settle();
      expect(kept).not.toHaveBeenCalled();
      sweep(runs[1]!);
      await settle();
      expect(kept).toHaveBeenCalledWith(expect.objectContaining({ document: denser }));
    });

    it("is overwritten, as is told, from when another run begins", async () => {
      const { session, runs } = await live();
      sweep(runs[0]!);
      const film = session.shown()!;
      expect(session.overwritten(film)).toBe(false);
      session.update(denser);
      await settle();
      expect(session.overwritten(film)).toBe(true);
      sweep(runs[1]!);
      expect(session.overwritten(session.shown()!)).toBe(false);
      expect(session.overwritten({ ...film, data: film.data.slice() })).toBe(false);
    });

    it("is the one after an edit that came while it was copied", async () => {
      const { session, runs } = await live();
      sweep(runs[0]!);
      const kept = session.cleanedSnapshot();
      session.update(denser);
      await settle();
      sweep(runs[1]!);
      expect((await kept).document).toBe(denser);
    });

    it("looked at in clear air, has its air too", async () => {
      const { session, runs } = await live();
      session.prefer("clear");
      await settle();
      const kept = vi.fn();
      void session.cleanedSnapshot().then(kept);
      const run = runs.at(-1)!;
      for (let stage = 1; stage <= 5; stage++)
        run.request.onStage!({ share: 0.1, seconds: 1, secondsLeft: 9, stage, stages: 20, work: { seconds: 0, rays: 0, lookups: 0 } });
      await settle();
      expect(kept).not.toHaveBeenCalled();
      sweep(run, 6);
      await settle();
      expect(kept).toHaveBeenCalledOnce();
    });

    it("says what it would wait for in vain", async () => {
      const { session, runs } = await live();
      session.pause();
      await expect(session.cleanedSnapshot()).rejects.toThrow(/paused before every pixel/);
      session.resume();
      sweep(runs[0]!);
      session.pause();
      expect((await session.cleanedSnapshot()).document).toBe(doc);
      // the picture is of the settings before the pause: it must not be kept as that of others
      session.update(denser);
      await settle();
      await expect(session.cleanedSnapshot()).rejects.toThrow(/not yet of the present settings/);
    });

    it("is given up by its signal, and holds the renderer only while it is worked on alone", async () => {
      const { session, runs, built } = await live();
      const ending = new AbortController();
      const waiting = session.withCleanedSnapshot({ signal: ending.signal }, async () => Promise.resolve());
      ending.abort();
      await expect(waiting).rejects.toBeInstanceOf(CleanCancelled);
      expect(built).not.toContain("pause");
      sweep(runs[0]!);
      await session.cleanedSnapshot();
      expect(built).not.toContain("pause");
      await session.withCleanedSnapshot({}, async () => {
        expect(built.at(-1)).toBe("pause");
        return Promise.resolve();
      });
      expect(built.slice(-2)).toEqual(["pause", "resume"]);
      await expect(session.withCleanedSnapshot({}, async () => Promise.reject(new Error("full")))).rejects.toThrow("full");
      expect(built.at(-1)).toBe("resume");
    });
  });

  it("lets trials have the engine for themselves, and begins anew after them", async () => {
    const { session, runs } = await live();
    const said = await session.withExclusiveEngine(async (engine, given) => {
      const own = engine.start({ document: given, width: 8, height: 8, stages: [] });
      runs.at(-1)!.end("done");
      return (await own).outcome;
    });
    expect(said).toBe("done");
    await settle();
    expect(runs.map((r) => r.request.width)).toEqual([64, 8, 64]);
  });

  it("says why it failed, and lets go of everything at the end", async () => {
    const fake = fakeSession();
    const session = new Session(doc, { ...fake.host, startEngine: () => Promise.reject(new Error("no kernel")) });
    await session.start();
    expect(session.state.getState()).toMatchObject({ phase: "failed", message: "no kernel" });
    const other = await live();
    other.session.dispose();
    expect(other.disposed()).toBe(3);
  });

  it("does not keep an engine that is ready after the bench has gone", async () => {
    const fake = fakeSession();
    const session = new Session(doc, fake.host);
    const started = session.start();
    session.dispose();
    await started;
    expect(fake.disposed()).toBe(3);
    vi.restoreAllMocks();
  });
});
