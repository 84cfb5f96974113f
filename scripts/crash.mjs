// Kills the built server at random moments in saves, uploads and proofs (npm run crash: 200 times; KILLS and SEED say otherwise), starts
// it anew, and looks whether everything that it acknowledged is there, whole, and nothing half is.
import { createHash } from "node:crypto";
import { readdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { createClient } from "@libsql/client";
import { data, kill, random, start, url } from "./own-server.mjs";

const KILLS = Number(process.env.KILLS ?? 200);
const headers = { origin: url, "content-type": "application/json" };
const sha = (bytes) => createHash("sha256").update(bytes).digest("hex");

async function call(method, path, body, type) {
  const raw = body instanceof Uint8Array;
  const r = await fetch(url + path, {
    method,
    headers: raw ? { origin: url, "content-type": type ?? "application/octet-stream" } : headers,
    ...(body === undefined ? {} : { body: raw ? body : JSON.stringify(body) }),
  });
  return { status: r.status, value: await r.json() };
}

// what the server acknowledged
const revisions = []; // { revision, density }
const uploads = new Map(); // hash to bytes
const proofs = new Map(); // id to note
let project = "";
let failures = 0;
const wrong = (kill, what) => {
  failures++;
  console.error(`kill ${kill}: ${what}`);
};
const png = (n) =>
  Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, ...Array.from({ length: 2000 + (n % 50_000) }, (_, i) => (i * n) & 255)]);
const exr = (n) => Uint8Array.from([0x76, 0x2f, 0x31, 1, ...Array.from({ length: 5000 + (n % 300_000) }, (_, i) => (i * 7 + n) & 255)]);
const document = (density) => ({ fumarium: 2, title: "crash", air: [{ density }] });

/** Works until the server is gone; what was answered is kept in the lists above. */
async function work(n) {
  for (let step = 0; ; step++) {
    const density = Number((0.001 * (n * 1000 + step + 1)).toFixed(3));
    const known = revisions.at(-1);
    const saved = await call("PUT", `/api/projects/${project}/document`, { revision: known.revision, document: document(density) });
    if (saved.status === 200) revisions.push({ revision: saved.value.revision, density });
    // a save whose answer was lost may be there: go on from it
    else if (saved.status === 409)
      revisions.push({ revision: (await call("GET", `/api/projects/${project}`)).value.revision, density: null });
    const [picture, film] = [png(n * 31 + step), exr(n * 17 + step)];
    const stored = [];
    for (const [kind, bytes] of [
      ["picture", picture],
      ["film", film],
    ]) {
      const r = await call("POST", `/api/assets?kind=${kind}`, bytes);
      if (r.status === 201) uploads.set(r.value.sha256, bytes.length);
      stored.push(r.value.sha256);
    }
    const note = `${n}.${step}`;
    const kept = await call("POST", `/api/projects/${project}/proofs`, {
      note,
      seconds: 1,
      samples: 1,
      noise: null,
      picture: stored[0],
      film: stored[1],
      document: document(density),
    });
    if (kept.status === 200 || kept.status === 201) proofs.set(kept.value.id, note);
  }
}

async function check(n) {
  const opened = await call("GET", `/api/projects/${project}`);
  if (opened.status !== 200) return wrong(n, `the project does not open: ${JSON.stringify(opened.value)}`);
  const last = revisions.at(-1);
  if (opened.value.revision < last.revision) wrong(n, `revision ${last.revision} was acknowledged, ${opened.value.revision} is there`);
  if (opened.value.revision === last.revision && last.density !== null && opened.value.document.air[0].density !== last.density)
    wrong(n, `revision ${last.revision} holds density ${opened.value.document.air[0].density}, not ${last.density}`);
  revisions.push({ revision: opened.value.revision, density: opened.value.document.air[0].density });
  const there = new Map(opened.value.proofs.map((p) => [p.id, p.note]));
  for (const [id, note] of proofs) if (there.get(id) !== note) wrong(n, `proof ${note} was acknowledged and is gone`);
  for (const [id] of there) proofs.set(id, there.get(id));
  const names = readdirSync(join(data, "assets"));
  for (const hash of uploads.keys()) if (!names.includes(hash)) wrong(n, `an upload that was acknowledged is gone: ${hash}`);
  for (const name of names)
    if (!name.startsWith("part-") && sha(readFileSync(join(data, "assets", name))) !== name) wrong(n, `${name} is not what its name says`);
  const client = createClient({ url: `file:${join(data, "fumarium.db")}` });
  const integrity = (await client.execute("PRAGMA integrity_check")).rows[0]?.integrity_check;
  if (integrity !== "ok") wrong(n, `the database says ${integrity}`);
  client.close();
}

await start();
project = (await call("POST", "/api/projects", { document: document(0.5) })).value.id;
revisions.push({ revision: 1, density: 0.5 });
for (let n = 1; n <= KILLS; n++) {
  const working = work(n).catch(() => undefined);
  await wait(5 + 300 * random());
  await kill();
  await working;
  await start();
  await check(n);
  if (n % 20 === 0)
    console.log(`${n} kills, ${revisions.at(-1).revision} revisions, ${uploads.size} uploads, ${proofs.size} proofs, ${failures} failures`);
}
await kill();
rmSync(data, { recursive: true, force: true });
console.log(failures === 0 ? `${KILLS} kills: nothing acknowledged was lost` : `${KILLS} kills: ${failures} failures`);
process.exit(failures === 0 ? 0 : 1);
