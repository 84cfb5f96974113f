/**
 * Rays per second of the kernel against native Embree, one thread, same triangles and rays, in one run. Opt-in: it compiles a
 * small program and needs Debian's g++ and libembree-dev.
 */
import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { kernelOver, rays, thicket } from "./rays";

/** Best of as many tries on both sides, in turn, since the machine is shared. */
const ROUNDS = 10;
const TRIES = 3;

export async function benchNative(): Promise<void> {
  const header = ["/usr/include/embree3/rtcore.h"].find(existsSync);
  if (!header) {
    console.log("native: needs Debian's g++ and libembree-dev (apt-get install g++ libembree-dev)");
    return;
  }
  const folder = mkdtempSync(join(tmpdir(), "fumarium-native-"));
  try {
    const program = join(folder, "native");
    const compiled = spawnSync("g++", ["-O3", "-march=native", "tests/bench/native.cpp", "-lembree3", "-o", program], { encoding: "utf8" });
    if (compiled.status !== 0) throw new Error(compiled.stderr);
    const positions = thicket();
    const count = 200_000;
    const { kernel, memory, from, to } = await kernelOver(positions, count);
    writeFileSync(join(folder, "triangles"), new Uint8Array(positions.buffer));
    for (const coherent of [true, false]) {
      const set = rays(count, coherent);
      writeFileSync(join(folder, "rays"), new Uint8Array(set.buffer));
      new Float32Array(memory.buffer, from, set.length).set(set);
      const ours = [Infinity, Infinity],
        theirs = [Infinity, Infinity];
      const hits: Float32Array[] = [];
      // in turn, so that what else the machine does falls on both
      for (let round = 0; round < ROUNDS; round++) {
        for (const any of [0, 1])
          for (let k = 0; k < TRIES; k++) {
            const t = performance.now();
            kernel.traceRays(from, to, count, any);
            ours[any] = Math.min(ours[any]!, (performance.now() - t) / 1000);
            hits[any] = new Float32Array(memory.buffer, to, 2 * count).slice();
          }
        const run = spawnSync(program, ["triangles", "rays", "closest", "any", String(TRIES)], { cwd: folder, encoding: "utf8" });
        if (run.status !== 0) throw new Error(run.stderr);
        run.stdout
          .trim()
          .split("\n")
          .forEach((s, any) => (theirs[any] = Math.min(theirs[any]!, Number(s))));
      }
      for (const any of [0, 1]) {
        const bytes = readFileSync(join(folder, any ? "any" : "closest"));
        const other = new Float32Array(bytes.buffer, bytes.byteOffset, count);
        let different = 0;
        for (let i = 0; i < count; i++) {
          const [a, b] = [hits[any]![2 * i]!, other[i]!];
          const [x, y] = [Math.min(a, 1e30), Math.min(b, 1e30)];
          if (Math.abs(x - y) > 1e-3 * Math.max(1, Math.min(x, y))) different++;
        }
        console.log(
          `${coherent ? "camera    " : "incoherent"} ${any ? "any hit    " : "closest hit"}  kernel ${(count / ours[any]! / 1e6).toFixed(2)} M rays/s  ` +
            `native ${(count / theirs[any]! / 1e6).toFixed(2)} M rays/s  ratio ${(theirs[any]! / ours[any]!).toFixed(2)}  different hits ${different} of ${count}`,
        );
      }
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
