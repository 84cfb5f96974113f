/** Draws space one picture after another, each with as many triangles as the machine draws in time. */
import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type * as THREE from "three";
import { Latest } from "../../../shared/latest";
import { Pace, REST_AFTER } from "./pace";
import { showTriangles, sizeOfPiece, type SetPiece } from "./pieces";

/** How often the graphics processor is asked whether it is finished, and how long at most, ms. */
const ASK_EVERY = 4;
const ASK_FOR = 30_000;

/** Waits until everything asked of the graphics processor is drawn, without holding up the page. */
async function drawnBy(gl: THREE.WebGLRenderer): Promise<void> {
  const context = gl.getContext() as WebGL2RenderingContext;
  const fence = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0);
  context.flush();
  const until = performance.now() + ASK_FOR;
  while (fence && context.clientWaitSync(fence, 0, 0) === context.TIMEOUT_EXPIRED && performance.now() < until)
    await new Promise((resolve) => setTimeout(resolve, ASK_EVERY));
  context.deleteSync(fence);
}

/** @param shown is told how many triangles the drawing shows at rest */
export function usePaced(pieces: readonly SetPiece[], shown: (triangles: number) => void): void {
  const { gl, scene, camera } = useThree();
  const asked = useRef<Latest<"moving" | "resting">>(null);
  useEffect(() => {
    const pace = new Pace();
    const all = pieces.reduce((n, p) => n + sizeOfPiece(p), 0);
    const data = gl.domElement.dataset;
    let rest: ReturnType<typeof setTimeout> | undefined;
    let over = false;
    const drawing = new Latest<"moving" | "resting">(async (how) => {
      clearTimeout(rest);
      if (over) return;
      const budget = pace.budget(how === "resting");
      const triangles = showTriangles(pieces, budget);
      const from = performance.now();
      gl.render(scene, camera);
      await drawnBy(gl);
      pace.took(budget, triangles, performance.now() - from);
      // read by tests and by whoever measures
      data.calls = String(gl.info.render.calls);
      data.triangles = String(gl.info.render.triangles);
      data.drawings = String(Number(data.drawings ?? 0) + 1);
      if (pace.more(all)) rest = setTimeout(() => drawing.ask("resting"), REST_AFTER);
      else shown(triangles);
    });
    asked.current = drawing;
    drawing.ask("moving");
    return () => {
      over = true;
      clearTimeout(rest);
      drawing.clear();
      asked.current = null;
    };
  }, [gl, scene, camera, pieces, shown]);
  // of a priority above nought: draws in place of the loop
  useFrame(() => {
    // what rests is drawn anew only where something has changed
    asked.current?.ask("moving");
  }, 1);
}
