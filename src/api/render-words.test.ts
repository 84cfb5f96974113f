import { expect, it } from "vitest";
import { keptOrder, type Render, type RenderOrder } from "./contract";
import { askedText } from "./render-words";

const order = keptOrder(
  JSON.stringify({
    ...{ size: [640, 360], frames: null, fps: 24, samples: 64, noise: null, seconds: null, seedByFrame: true, clean: false },
    ...{ lightGroups: false, mattes: false, passes: ["beauty"], name: "fog" },
    file: { ending: ".exr", depth: "half", finished: false, alpha: "geometry" },
  }),
);
const asked = (more: Partial<RenderOrder>): string => askedText({ order: { ...order, ...more }, frames: 24 } as Render);

it("what is asked of a render is told in a line", () => {
  expect(asked({})).toBe("640 × 360, 64 samples, EXR half");
  expect(asked({ frames: { from: 1, to: 47, step: 2 }, noise: { threshold: 0.02, of: "cleaned" }, seconds: 90, clean: true })).toBe(
    "640 × 360, frames 1 to 47 by 2 (24), 2 % noise cleaned, at most 64 samples, at most 1 min 30 s a frame, cleaned, EXR half",
  );
  expect(asked({ level: "full", airBounces: 4, surfaceBounces: 0, airSize: "half", estimator: "stepping", whole: true })).toBe(
    "640 × 360, 64 samples, level full, 4 bounces in air, 0 off surfaces, air at half size, stepping, whole frame, EXR half",
  );
  expect(asked({ file: { ...order.file, layout: "parts" } })).toMatch(/, EXR half in parts$/);
  const masks = [{ of: "depth", near: 1, far: 9 }, { of: "air" }] as const;
  expect(asked({ file: { ...order.file, ending: ".tif", depth: "16", masks: [...masks] } })).toMatch(
    /, TIF 16 with a mask of depth and one of the air$/,
  );
});
