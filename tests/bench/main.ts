/** Benchmarks; each prints ratios or latencies measured within this one run. */
import { benchEngine } from "./engine";
import { benchPalm, palmScene } from "./palm";
import { benchRays } from "./rays";

const which = process.argv[2] ?? "all";
if (which === "all" || which === "rays") await benchRays();
if (which !== "rays") {
  const geometry = await palmScene();
  if (which === "all" || which === "palm") await benchPalm(geometry);
  if (which === "all" || which === "engine") await benchEngine(geometry);
}
