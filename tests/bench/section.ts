/** The Section on the palm house: what a drag asks for, what rest adds, against one sample of the picture. */
import { readFileSync } from "node:fs";
import { planMemory, writeGeometry } from "#core/scene/memory";
import type { CompiledGeometry } from "#core/scene/compiled";
import { SectionProbe, type SectionRequest } from "#core/section/probe";
import { instantiateKernel, kernelMemory } from "#core/kernel/kernel";
import { writeParameters } from "#core/scene/parameters";
import { CONTROL, PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { palmHouseDocument } from "../../demo/palm-house";

const median = (v: number[]): number => v.sort((a, b) => a - b)[v.length >> 1]!;

export async function benchSection(geometry: CompiledGeometry): Promise<void> {
  const module = new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm"));
  const probe = await SectionProbe.create(module);
  probe.setGeometry(geometry);
  const doc = palmHouseDocument();
  const at = (i: number): Omit<SectionRequest, "lit"> => ({
    x: 0.3 + 0.04 * i,
    y: 0.45 + 0.03 * i,
    plane: { kind: "upright" },
    scale: "even",
    window: null,
    columns: 256,
    rows: 64,
  });
  const measure = (lit: boolean): number =>
    median(
      Array.from({ length: 9 }, (_, i) => {
        // a drag changes the document at every step
        const changed = { ...doc, air: doc.air.map((m) => ({ ...m, density: m.density * (1 + 0.01 * i) })) };
        const t = performance.now();
        probe.section(changed, { ...at(i), lit });
        return performance.now() - t;
      }),
    );
  const [moving, resting] = [measure(false), measure(true)];

  const [width, height] = [640, 360];
  const plan = planMemory(geometry, width * height, doc);
  const memory = kernelMemory(plan.end, false);
  writeGeometry(memory.buffer, geometry, plan);
  writeParameters(memory.buffer, doc, geometry, plan, width, height);
  new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
  const kernel = await instantiateKernel(module, memory);
  kernel.begin(1);
  const t = performance.now();
  kernel.renderTile(0, 0, width, height, 0, 0, 1, 0, 0, 1, PASS_AIR | PASS_SURFACES);
  const sample = performance.now() - t;
  console.log(
    `section of the palm house: ${moving.toFixed(0)} ms while dragging, ×${(resting / moving).toFixed(1)} at rest with its lights; ` +
      `a drag takes ×${(moving / sample).toFixed(3)} of one sample of a ${width} × ${height} picture on one thread`,
  );
}
