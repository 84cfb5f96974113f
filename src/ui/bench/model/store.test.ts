import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { createBenchStore, withoutMedium } from "./store";

const bench = () => createBenchStore(parseDocument({ fumarium: 2, air: [{ name: "haze" }, { name: "mist" }] }));
const titled = (title: string) => (doc: ReturnType<typeof parseDocument>) => ({ ...doc, title });

describe("the document under work", () => {
  it("takes every change back, and makes it again", () => {
    const store = bench();
    store.getState().set(titled("one"));
    store.getState().set(titled("two"));
    store.undo();
    expect(store.getState().document.title).toBe("one");
    store.undo();
    expect(store.getState().document.title).toBe("untitled");
    store.redo();
    store.redo();
    expect(store.getState().document.title).toBe("two");
  });

  it("counts all changes of a gesture as one, and says from what it began", () => {
    const store = bench();
    const first = store.getState().document;
    store.gesture(true);
    expect(store.held.getState().from).toBe(first);
    for (const title of ["a", "b", "c"]) store.getState().set(titled(title));
    store.gesture(false);
    expect(store.held.getState().from).toBeNull();
    expect(store.getState().document.title).toBe("c");
    store.undo();
    expect(store.getState().document).toBe(first);
    store.redo();
    expect(store.getState().document.title).toBe("c");
  });

  it("keeps no step for a gesture that changed nothing, nor ends one twice", () => {
    const store = bench();
    store.gesture(true);
    store.gesture(true);
    store.gesture(false);
    store.gesture(false);
    expect(store.temporal.getState().pastStates).toHaveLength(0);
    store.getState().set(titled("after"));
    expect(store.temporal.getState().pastStates).toHaveLength(1);
  });

  it("undo in the middle of a gesture ends it first", () => {
    const store = bench();
    const first = store.getState().document;
    store.gesture(true);
    store.getState().set(titled("dragged"));
    store.undo();
    expect(store.getState().document).toBe(first);
    store.getState().set(titled("later"));
    store.undo();
    expect(store.getState().document).toBe(first);
  });

  it("takes back what belongs to a step with it, in a gesture too", () => {
    const store = bench();
    store.getState().set(titled("asked"));
    store.amend((d) => ({ ...d, time: 3 }));
    store.undo();
    expect(store.getState().document).toMatchObject({ title: "untitled", time: 0 });
    store.redo();
    expect(store.getState().document).toMatchObject({ title: "asked", time: 3 });
    store.getState().set(titled("next"));
    expect(store.temporal.getState().pastStates).toHaveLength(2);
    store.gesture(true);
    store.getState().set(titled("dragged"));
    store.amend((d) => ({ ...d, time: 4 }));
    store.getState().set(titled("let go"));
    store.gesture(false);
    expect(store.temporal.getState().pastStates).toHaveLength(3);
    store.undo();
    expect(store.getState().document).toMatchObject({ title: "next", time: 3 });
  });

  it("without a medium lets lights name the others alone", () => {
    const doc = parseDocument({
      fumarium: 2,
      air: [{ name: "haze" }, { name: "mist" }],
      lights: [{ kind: "point", position: [0, 0, 0], media: ["haze", "mist"] }],
    });
    expect(withoutMedium(doc, 0).lights[0]!.media).toEqual(["mist"]);
  });
});
