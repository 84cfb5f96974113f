// Kills the renderer, the server, or both at random moments of one final (npm run crash:finals: 20 times; KILLS and SEED say otherwise) and
// looks whether the picture is the one of a render that nothing happened to, bit for bit.
import { execFileSync, spawn, spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const KILLS = Number(process.env.KILLS ?? 20);
let seed = Number(process.env.SEED ?? 1);
const random = () => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;

const data = mkdtempSync(join(tmpdir(), "fumarium-crash-"));
const port = await new Promise((resolve) => {
  const s = createServer().listen(0, "127.0.0.1", () => {
    const { port: free } = s.address();
    s.close(() => resolve(free));
  });
});
const url = `http://127.0.0.1:${port}`;
let server = null;
async function start() {
  server = spawn(process.execPath, [join(root, "scripts/start.mjs")], {
    env: { ...process.env, PORT: String(port), FUMARIUM_DATA: data, FUMARIUM_EMPTY: "1", FUMARIUM_CHECKPOINT_SECONDS: "0.5" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  await new Promise((ready, fail) => {
    server.stdout.on("data", (d) => String(d).includes("is ready at") && ready());
    server.once("exit", () => fail(new Error("the server ended")));
  });
}
async function kill() {
  const ended = new Promise((done) => {
    server.removeAllListeners("exit");
    server.once("exit", done);
  });
  server.kill("SIGKILL");
  await ended;
}
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
await start();
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
    await start();
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
