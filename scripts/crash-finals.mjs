// Kills the renderer, the server, or both at random moments of one final (npm run crash:finals: 20 times; KILLS and SEED say otherwise) and
// looks whether the picture is the one of a render that nothing happened to, bit for bit.
import { execFileSync, spawnSync } from "node:child_process";
import { readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { data, kill, random, root, start, url } from "./own-server.mjs";

const KILLS = Number(process.env.KILLS ?? 20);
const environment = { FUMARIUM_CHECKPOINT_SECONDS: "0.5" };
const renderers = () =>
  spawnSync("pgrep", ["-f", "build/renderer.mjs"], { encoding: "utf8" })
    .stdout.split("\n")
    .filter((pid) => pid && readFileSync(`/proc/${pid}/environ`, "utf8").includes(data))
    .map(Number);
async function call(method, path, body) {
  const r = await fetch(url + path, {
    method,
    headers: { origin: url, "content-type": "application/json", connection: "close" },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  if (!r.ok) throw new Error(await r.text());
  return r.json();
}

const samples = 32 * KILLS;
const scene = {
  fumarium: 2,
  title: "crash",
  materials: { stone: { baseColor: [0.5, 0.48, 0.45] } },
  objects: [
    { kind: "rectangle", material: "stone", size: [40, 40] },
    { kind: "sphere", material: "stone", radius: 1, position: [0, 1, 0] },
  ],
  air: [{ density: 0.05, height: { level: 0, scale: 6 }, noise: { size: 2 } }],
  camera: { position: [0, 2, 12], target: [0, 1, 0], fieldOfView: 30 },
  sun: { azimuth: 30, elevation: 20 },
  film: { size: [160, 80] },
  render: { samples },
};
const order = {
  ...{ size: [160, 80], frames: null, fps: 24, samples, noise: null, seconds: null, seedByFrame: true, clean: false },
  ...{ lightGroups: false, mattes: false, passes: ["beauty"], name: "fog" },
  file: { ending: ".exr", depth: "float", finished: false, alpha: "geometry" },
};
await start(environment);
const { id } = await call("POST", "/api/projects", { document: scene });
const { id: render } = await call("POST", `/api/projects/${id}/renders`, { order, document: scene });
let kills = 0,
  last = 0;
for (;;) {
  const [{ state, message, now }] = (await call("GET", "/api/renders")).renders;
  if (state === "done") break;
  if (state === "failed") throw new Error(message);
  await wait(50 + 500 * random());
  // only what goes on can be hurt: it has come some way since the last time
  const share = now?.share ?? 0;
  if (kills >= KILLS || !(share > last)) continue;
  last = share;
  const which = Math.floor(3 * random());
  if (which !== 1) for (const pid of renderers()) process.kill(pid, "SIGKILL");
  if (which !== 0) {
    await kill();
    await start(environment);
  }
  kills++;
}
await kill();
writeFileSync(join(data, "crash.json"), JSON.stringify(scene));
execFileSync(process.execPath, [
  ...[join(root, "bin/fumarium.mjs"), "render", join(data, "crash.json"), "-o", join(data, "whole.exr")],
  ...["--passes", "beauty", "--depth", "float"],
]);
const [killed, whole] = [join(data, "renders", render, "fog.exr"), join(data, "whole.exr")].map((file) => readFileSync(file));
// heads tell different times; what follows is all of the picture
const HEAD = 16_384;
const length = Math.min(killed.length, whole.length) - HEAD;
if (length < 50_000 || !killed.subarray(-length).equals(whole.subarray(-length)))
  throw new Error(`after ${kills} kills the picture is another one`);
rmSync(data, { recursive: true });
console.log(`${kills} kills: the picture is the same, bit for bit`);
