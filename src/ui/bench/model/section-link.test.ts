import type { Remote } from "comlink";
import { expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { CompiledGeometry } from "#core/scene/compiled";
import { SectionLink, type SectionHost } from "./section-link";
import type { SectionWorker } from "./section-worker";

const doc = parseDocument({ fumarium: 2 });
const request = {} as Parameters<SectionLink["ask"]>[1];

it("starts another worker where the kernel could not be fetched, and goes on by itself", async () => {
  let down = true;
  const ended: number[] = [];
  let spawned = 0;
  const spawn = (): SectionHost => {
    const number = ++spawned;
    const worker = {
      start: () => (down ? Promise.reject(new Error("The kernel of the section could not be loaded (502).")) : Promise.resolve()),
      setGeometry: () => Promise.resolve(),
      section: () => Promise.resolve({ milliseconds: 1, number }),
    };
    return { worker: worker as unknown as Remote<SectionWorker>, broken: new Promise(() => undefined), end: () => ended.push(number) };
  };
  const link = new SectionLink(spawn, 5);
  link.setGeometry({} as CompiledGeometry);
  link.ask(doc, request);
  await vi.waitFor(() => expect(link.state.getState().problem).toContain("502"));
  await expect(link.asked()).rejects.toThrow("502");
  down = false;
  await vi.waitFor(() => expect(link.state.getState().section).not.toBeNull());
  expect(link.state.getState().problem).toBeNull();
  // every worker that failed was ended
  expect(ended).toEqual(Array.from({ length: spawned - 1 }, (_, i) => i + 1));
  link.dispose();
  expect(ended).toHaveLength(spawned);
});

it("is told when the worker itself breaks, and starts another", async () => {
  let spawned = 0;
  const spawn = (): SectionHost => {
    const first = ++spawned === 1;
    const worker = {
      start: () => (first ? new Promise<void>(() => undefined) : Promise.resolve()),
      setGeometry: () => Promise.resolve(),
      section: () => Promise.resolve({ milliseconds: 1 }),
    };
    const broken = first ? Promise.reject(new Error("no script")) : new Promise<never>(() => undefined);
    broken.catch(() => undefined);
    return { worker: worker as unknown as Remote<SectionWorker>, broken, end: () => undefined };
  };
  const link = new SectionLink(spawn, 5);
  link.setGeometry({} as CompiledGeometry);
  link.ask(doc, request);
  await vi.waitFor(() => expect(link.state.getState().section).not.toBeNull());
  expect(spawned).toBe(2);
  link.dispose();
});
