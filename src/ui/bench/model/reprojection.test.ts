import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { createStore } from "zustand/vanilla";
import { parseDocument } from "#core/document/parse";
import { emptyFilm } from "#core/film/film";
import type { SceneDocument } from "#core/document/schema";
import type { SunMap } from "#core/section/sun-map";
import { ReprojectedPreview } from "./reprojection";
import type { Session } from "./session";
import { createBenchStore } from "./store";
import { createView } from "./view";

vi.mock("./reprojection-program", () => ({
  VeilProgram: class {
    isReady = () => true;
    setFilm = () => undefined;
    begin = () => undefined;
    draw = () => 20;
    dispose = () => undefined;
  },
}));
vi.mock("#core/veil/tables", async (given) => ({ ...(await given<object>()), tableMaker: () => () => ({}) }));
vi.mock("#core/veil/carry", async (given) => ({ ...(await given<object>()), carriedFilm: () => emptyFilm(4, 4) }));

const settle = (): Promise<void> => new Promise((done) => setTimeout(done, 2));
const doc = parseDocument({ fumarium: 2, air: [{ name: "haze" }], sun: { elevation: 30 }, render: { level: "shafts" } });
const sunAt = (elevation: number): SceneDocument => ({ ...doc, sun: { ...doc.sun, elevation } });

beforeEach(() => {
  vi.stubGlobal("requestAnimationFrame", (draw: () => void) => setTimeout(draw));
  vi.stubGlobal("cancelAnimationFrame", clearTimeout);
});
afterEach(() => vi.unstubAllGlobals());

it("says that no map is traced once the one of what is seen is there, in whatever order they came", async () => {
  const store = createBenchStore(doc);
  const traced: { elevation: number; answer(): void }[] = [];
  const sunMap = (of: SceneDocument): Promise<SunMap> =>
    new Promise((done) => traced.push({ elevation: of.sun.elevation, answer: () => done({ side: 1 } as unknown as SunMap) }));
  const session = {
    state: createStore(() => ({ covered: doc, size: [4, 4], geometry: {} })),
    section: { asked: () => Promise.resolve({ sunMap }) },
    holding: true,
    hold: () => undefined,
    seen: () => store.getState().document,
    seenOf: (of: SceneDocument) => of,
    shown: () => emptyFilm(4, 4),
    shows: () => true,
    luts: { of: () => null },
  };
  const storage = { getItem: () => "yes", setItem: () => undefined, removeItem: () => undefined };
  const preview = new ReprojectedPreview(session as unknown as Session, store, createView(storage), storage);
  preview.attach({} as HTMLCanvasElement);
  preview.warm();
  await settle();
  traced.at(-1)!.answer();
  await settle();

  store.gesture(true);
  const drag = async (elevation: number): Promise<void> => {
    store.getState().set(() => sunAt(elevation));
    await settle();
  };
  const tracing = (): boolean => preview.state.getState().tracing;
  await drag(40);
  expect(tracing()).toBe(true);
  await drag(41);
  traced.at(-1)!.answer();
  await settle();
  expect(traced.at(-1)!.elevation).toBe(41);
  // back to where the map is known, while that of the other place is traced
  await drag(40);
  expect(tracing()).toBe(false);
  traced.at(-1)!.answer();
  await settle();
  expect(tracing()).toBe(false);
  preview.dispose();
});
