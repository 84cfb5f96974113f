/** Benchmarks; each prints ratios or latencies measured within this one run. */
import { benchClean } from "./clean";
import { benchCompose } from "./compose";
import { benchEngine } from "./engine";
import { benchBounds, benchEqualTime } from "./equal-time";
import { benchFiles } from "./files";
import { benchFinals } from "./finals";
import { benchFinish } from "./finish";
import { benchForecast } from "./forecast";
import { benchGrowth } from "./growth";
import { benchMachines } from "./machines";
import { benchNative } from "./native";
import { benchPage } from "./page";
import { benchPalm, palmScene } from "./palm";
import { benchProfile } from "./profile";
import { benchQuiet } from "./quiet";
import { benchRays } from "./rays";
import { benchSection } from "./section";
import { benchSets } from "./sets";
import { benchShared } from "./shared";
import { simulateMachines } from "./simulate-machines";
import { benchSplit } from "./split";

const which = process.argv[2] ?? "all";
const wanted = (name: string): boolean => which === "all" || which === name;
if (wanted("rays")) await benchRays();
if (which === "native") await benchNative();
// profile [SET …] [N]: the sets named, and the N functions that take most
if (which === "profile")
  await benchProfile(
    process.argv.slice(3).filter((a) => !/^\d+$/.test(a)),
    Number(process.argv.find((a, i) => i > 2 && /^\d+$/.test(a)) ?? 0),
  );
// quiet [SET …] [N]: the sets named, and the samples of their references
if (which === "quiet")
  await benchQuiet(
    process.argv.slice(3).filter((a) => !/^\d+$/.test(a)),
    Number(process.argv.find((a, i) => i > 2 && /^\d+$/.test(a)) ?? 2048),
  );
// split [SET …] [N]: likewise
if (which === "split")
  await benchSplit(
    process.argv.slice(3).filter((a) => !/^\d+$/.test(a)),
    Number(process.argv.find((a, i) => i > 2 && /^\d+$/.test(a)) ?? 128),
  );
// forecast [SET …]
if (which === "forecast") await benchForecast(process.argv.slice(3));
if (which === "compose") benchCompose();
// a browser and the built application beside it
if (which === "page") await benchPage();
if (which === "finals") await benchFinals();
// redis-server beside it
// machines [taking]: the server's thread alone
if (which === "machines") await benchMachines(process.argv[3] === "taking");
// simulate [FILE.svg]: by what "machines" printed last (docs/performance.md)
if (which === "simulate")
  simulateMachines(
    { pace: 77_600, spread: 0.31, pixel: 192, perUnit: 0.0013, perByte: 6.1e-9, latency: 0.0015, scene: 3, begin: 0.5, clean: 1.5e-5 },
    process.argv[3] ?? null,
  );
if (wanted("files")) await benchFiles();
if (wanted("equal-time")) await benchEqualTime();
if (wanted("bounds")) await benchBounds();
if (wanted("shared")) await benchShared();
if (wanted("sets")) await benchSets();
if (wanted("finish")) benchFinish();
if (wanted("growth")) await benchGrowth();
if (wanted("palm") || wanted("engine") || wanted("section") || wanted("clean")) {
  const geometry = await palmScene();
  if (wanted("palm")) await benchPalm(geometry);
  if (wanted("engine")) await benchEngine(geometry);
  if (wanted("section")) await benchSection(geometry);
  if (wanted("clean")) await benchClean(geometry);
}
