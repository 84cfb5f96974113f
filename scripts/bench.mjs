// npm run bench [-- rays|native|equal-time|bounds|growth|sets|palm|engine|section|clean]: speed as ratios within one run.
import { spawnSync } from "node:child_process";
import { prepare } from "./prepare.mjs";

prepare();
process.exit(spawnSync(process.execPath, ["build/bench.mjs", ...process.argv.slice(2)], { stdio: "inherit" }).status ?? 1);
