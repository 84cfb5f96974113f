// npm run bench [-- rays|native|equal-time|bounds|growth|sets|palm|engine|section|clean|finish|files|finals|machines|simulate|profile|quiet|page]: speed as ratios within one run.
import { execFileSync, spawnSync } from "node:child_process";
import { prepare } from "./prepare.mjs";

prepare();
if (process.argv[2] === "profile") execFileSync(process.execPath, ["scripts/build-kernel.mjs", "--named"], { stdio: "inherit" });
process.exit(spawnSync(process.execPath, ["build/bench.mjs", ...process.argv.slice(2)], { stdio: "inherit" }).status ?? 1);
