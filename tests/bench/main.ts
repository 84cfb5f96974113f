import { benchPalm, palmScene } from "./palm";
import { benchRays } from "./rays";
const which = process.argv[2] ?? "all";
if (which === "all" || which === "rays") await benchRays();
if (which === "all" || which === "palm") await benchPalm(await palmScene());
