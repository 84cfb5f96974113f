import { describe, expect, it } from "vitest";
import { createView } from "./view";

const none = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined };
const film = [1920, 1080] as const;
function placed() {
  const view = createView(none);
  view.placing = { fit: [640, 360], place: [700, 400] };
  return view;
}

describe("how the picture is looked at", () => {
  it("1:1 is rendered at what is seen, until all of it is seen again by whichever way", () => {
    for (const back of ["fit", "key", "wheel"] as const) {
      const view = placed();
      view.zoomToPixels(film);
      expect(view.getState().zoom!.scale).toBe(3);
      expect(view.getState().seenOnly).toBe(true);
      if (back === "fit") view.zoomOut();
      else if (back === "key") view.zoomToPixels(film);
      else view.zoomBy(0.1, { x: 0.5, y: 0.5 });
      expect(view.getState()).toMatchObject({ zoom: null, seenOnly: false });
      // zooming in after that renders nothing
      view.zoomBy(2, { x: 0.5, y: 0.5 });
      expect(view.getState().seenOnly).toBe(false);
    }
    // a frame that is smaller than its place has nothing finer to show
    const view = placed();
    view.zoomToPixels([320, 180]);
    expect(view.getState()).toMatchObject({ zoom: null, seenOnly: false });
  });

  it("stands beside what was in front before, as long as that is there", () => {
    const view = placed();
    view.standBeside();
    expect(view.getState().beside).toBe(1);
    for (const id of ["a", "b", "c", "d"]) view.show(id);
    expect(view.getState()).toMatchObject({ front: "d", back: "c", others: ["b", "a"] });
    view.show("b");
    expect(view.getState()).toMatchObject({ front: "b", back: "d", others: ["c", "a"] });
    view.flip();
    expect(view.getState()).toMatchObject({ front: "d", back: "b", others: ["c", "a"] });
    view.standBeside();
    view.standBeside();
    expect(view.getState().beside).toBe(4);
    view.forget("b");
    expect(view.getState()).toMatchObject({ front: "d", back: "c", others: ["a"] });
    view.forget("d");
    expect(view.getState()).toMatchObject({ front: "live", back: "c", others: ["a"] });
    view.forget("c");
    view.forget("a");
    expect(view.getState()).toMatchObject({ front: "live", back: null, others: [], beside: 1 });
  });
});
