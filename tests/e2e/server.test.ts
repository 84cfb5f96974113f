import { spawnSync } from "node:child_process";
import { chmodSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { request } from "node:http";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Application, openBrowser, putProject, SMALL, stored } from "./support";

let app: Application;
beforeAll(async () => {
  app = await Application.start();
});
afterAll(() => app.kill());

const send = async (
  method: string,
  path: string,
  body?: BodyInit,
  headers: Record<string, string> = {},
): Promise<{ status: number; value: { error?: string } & Record<string, unknown> }> => {
  const r = await fetch(app.url + path, { method, headers: { origin: app.url, ...headers }, ...(body === undefined ? {} : { body }) });
  return { status: r.status, value: (await r.json().catch(() => ({}))) as never };
};
const json = (method: string, path: string, value: unknown) =>
  send(method, path, JSON.stringify(value), { "content-type": "application/json" });

/** A user who owns nothing. */
const NOBODY = 65534;
/** Whether processes can be started as another user, who can read this program. */
const mayBecome = (user: number): boolean =>
  process.getuid?.() === 0 &&
  spawnSync(process.execPath, ["-e", "require('fs').readFileSync('scripts/start.mjs')"], { uid: user, gid: user }).status === 0;

/** A request with headers that fetch() does not let one set. */
function raw(path: string, host: string, method = "GET"): Promise<number> {
  return new Promise((resolve) =>
    request({ port: app.port, host: "127.0.0.1", path, method, headers: { host } }, (r) => (r.resume(), resolve(r.statusCode!))).end(),
  );
}

describe("every response", () => {
  it("is cross-origin isolated: pages, endpoints, scripts, fonts, the kernel, and errors", async () => {
    const page = await (await fetch(app.url)).text();
    const assets = [...page.matchAll(/(?:src|href|component-url|renderer-url)="(\/[^"]+)"/g)].map((m) => m[1]!);
    expect(assets.some((a) => a.endsWith(".js"))).toBe(true);
    for (const path of [
      "/",
      "/api/projects",
      "/kernel/kernel.shared.wasm",
      "/kernel/kernel.plain.wasm",
      "/icon.svg",
      "/nothing",
      ...assets,
    ]) {
      const h = (await fetch(app.url + path)).headers;
      expect([
        path,
        h.get("cross-origin-opener-policy"),
        h.get("cross-origin-embedder-policy"),
        h.get("cross-origin-resource-policy"),
      ]).toEqual([path, "same-origin", "require-corp", "same-origin"]);
    }
  });

  it("goes only to this machine's own names", async () => {
    expect(await raw("/api/projects", `127.0.0.1:${app.port}`)).toBe(200);
    expect(await raw("/api/projects", `localhost:${app.port}`)).toBe(200);
    expect(await raw("/api/projects", "evil.example")).toBe(421);
  });
});

describe("what browsers may do with it", () => {
  it("pages run their own scripts alone, and stand in no frame", async () => {
    for (const path of ["/", "/nothing", "/api/projects", "/icon.svg"]) {
      const h = (await fetch(app.url + path)).headers;
      expect(h.get("x-content-type-options")).toBe("nosniff");
      expect(h.get("referrer-policy")).toBe("no-referrer");
      expect(h.get("content-security-policy")).toContain("frame-ancestors 'none'");
    }
    const policy = (await fetch(app.url)).headers.get("content-security-policy")!;
    expect(policy).toMatch(/script-src [^;]*'sha256-/);
    expect(policy).toMatch(/default-src 'self'/);
    expect(policy).not.toMatch(/unsafe-inline|unsafe-eval'(?<!wasm-unsafe-eval')/);
  });

  it("answers no other methods, and remakes no pictures", async () => {
    expect(await raw("/", `127.0.0.1:${app.port}`, "TRACE")).toBe(405);
    expect((await fetch(`${app.url}/_image?href=/icon.svg`)).status).toBe(404);
  });

  it("works where the browser keeps nothing for sites", async () => {
    const browser = await openBrowser();
    try {
      const page = await browser.newPage();
      const errors: string[] = [];
      page.on("pageerror", (e) => errors.push(String(e)));
      await page.addInitScript(() =>
        Object.defineProperty(window, "localStorage", {
          get() {
            throw new DOMException("blocked", "SecurityError");
          },
        }),
      );
      const id = await putProject(app);
      await page.goto(`${app.url}/bench/${id}`);
      await page.getByTestId("picture").waitFor({ timeout: 60_000 });
      expect(errors).toEqual([]);
    } finally {
      await browser.close();
    }
  });
});

describe("requests that change something", () => {
  it("are refused from another origin, or from none", async () => {
    const before = (await (await fetch(`${app.url}/api/projects`)).json()) as unknown;
    for (const origin of ["http://evil.example", "null", `http://127.0.0.1:${app.port + 1}`, ""])
      for (const [method, path] of [
        ["POST", "/api/projects"],
        ["PATCH", "/api/projects/x"],
        ["PUT", "/api/projects/x/document"],
        ["POST", "/api/assets?kind=picture"],
      ] as const) {
        const r = await fetch(app.url + path, {
          method,
          body: "{}",
          headers: { "content-type": "application/json", ...(origin ? { origin } : {}) },
        });
        expect(r.status).toBe(403);
      }
    expect(await (await fetch(`${app.url}/api/projects`)).json()).toEqual(before);
  });

  it("with bad bodies say what and where, and leave the project as it was", async () => {
    const id = await putProject(app);
    const before = await stored(app, id);
    const at = `/api/projects/${id}/document`;
    const save = (document: unknown, revision = before.revision) => json("PUT", at, { revision, document });
    const doc = before.document;
    const cases: [Promise<{ status: number; value: { error?: string } }>, number, RegExp][] = [
      [send("PUT", at, "{"), 400, /not JSON/],
      [send("PUT", at), 400, /not JSON/],
      [json("PUT", at, { document: doc }), 400, /revision/],
      [json("PUT", at, { revision: before.revision, document: doc, more: 1 }), 400, /more: unknown field/],
      [save({ ...doc, air: [{ density: -1 }] }), 400, /air\[0\]\.density/],
      [save({ ...doc, fumarium: 9 }), 400, /newer/],
      [save({ ...doc, film: { size: [0, 0] } }), 400, /film\.size/],
      [save({ ...doc, assets: { a: { uri: "a.glb", sha256: "0".repeat(64) } } }), 400, /assets\.a .*not in the store/],
      [save({ ...doc, assets: { a: { uri: "a.glb" } } }), 400, /no sha256/],
      [save({ ...doc, assets: { a: { uri: "../../var/fumarium.db" } } }), 400, /plain relative path/],
      [save(doc, 999), 200, /^undefined$/],
      [save({ ...doc, title: "x" }, 999), 409, /another window/],
      [send("PUT", at, JSON.stringify({ revision: 1, document: { title: "x".repeat(9_000_000) } })), 400, /more than/],
      [json("PUT", "/api/projects/none/document", { revision: 1, document: doc }), 404, /no such project/],
      [json("POST", "/api/projects", { demo: "atlantis" }), 400, /no demo set/],
      [json("PATCH", `/api/projects/${id}`, { title: "" }), 400, /title/],
      [json("PUT", `/api/projects/${id}/picture`, { picture: "0".repeat(64) }), 400, /not uploaded/],
      [
        json("POST", `/api/projects/${id}/proofs`, {
          document: doc,
          note: "",
          seconds: 1,
          samples: 1,
          noise: null,
          picture: "0".repeat(64),
          film: "0".repeat(64),
        }),
        400,
        /not uploaded/,
      ],
      [json("PATCH", `/api/projects/${id}/proofs/none`, { note: "x" }), 404, /no such proof/],
      [json("PATCH", `/api/projects/${id}`, {}), 400, /not as expected/],
      [json("PATCH", `/api/projects/${id}/proofs/none`, {}), 400, /not as expected/],
      [send("PUT", `/api/projects/${id}/document`, `{"revision":1,"document":{"fumarium":2,"__proto__":{"title":"x"}}}`), 400, /./],
    ];
    for (const [answer, status, pattern] of cases) {
      const r = await answer;
      expect([r.status, String(r.value.error)]).toEqual([status, expect.stringMatching(pattern)]);
    }
    expect(await stored(app, id)).toEqual(before);
  });

  it("uploads are checked, limited, and stored by their hash", async () => {
    expect(await send("POST", "/api/assets?kind=model", "x")).toMatchObject({ status: 400 });
    expect((await send("POST", "/api/assets?kind=picture", "not a picture")).value.error).toMatch(/does not begin like a PNG/);
    expect((await send("POST", "/api/assets?kind=film", "v/1")).value.error).toMatch(/empty|does not begin/);
    expect((await send("POST", "/api/assets?kind=picture")).value.error).toMatch(/empty/);
    const huge = new Uint8Array(17_000_000);
    huge.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
    const refused = await send("POST", "/api/assets?kind=picture", huge).catch(() => ({
      status: 400,
      value: { error: "more than the limit (connection closed)" },
    }));
    expect(refused.value.error).toMatch(/more than the limit/);
    // the connection that was refused in the middle may still be given out once
    const small = (): ReturnType<typeof send> => send("POST", "/api/assets?kind=picture", huge.slice(0, 100));
    const good = await small().catch(small);
    expect(good.status).toBe(201);
    const back = new Uint8Array(await (await fetch(`${app.url}/api/assets/${String(good.value.sha256)}`)).arrayBuffer());
    expect(back).toEqual(huge.slice(0, 100));
    for (const path of ["..%2f..%2ffumarium.db", "0".repeat(64), "x"])
      expect((await fetch(`${app.url}/api/assets/${path}`)).status).toBeGreaterThanOrEqual(400);
  });
});

describe("a folder that cannot be used", () => {
  it.runIf(mayBecome(NOBODY))("that cannot be written is opened for looking, and every change is refused with its path", async () => {
    const own = await Application.start();
    try {
      const { projects } = (await (await fetch(`${own.url}/api/projects`)).json()) as { projects: { id: string; title: string }[] };
      await own.kill();
      for (const name of readdirSync(own.data)) chmodSync(join(own.data, name), name === "assets" ? 0o555 : 0o444);
      chmodSync(own.data, 0o555);
      expect(await own.run(NOBODY)).toMatch(/Projects can be looked at; nothing is kept/);
      const shelf = (await (await fetch(`${own.url}/api/projects`)).json()) as { projects: { title: string }[]; readOnly: string };
      expect(shelf.projects.map((p) => p.title)).toEqual(projects.map((p) => p.title));
      expect(shelf.readOnly).toContain(own.data);
      const change = { method: "PATCH", body: '{"title":"x"}', headers: { origin: own.url, "content-type": "application/json" } };
      const refused = await fetch(`${own.url}/api/projects/${projects[0]!.id}`, change);
      expect([refused.status, ((await refused.json()) as { error: string }).error]).toEqual([503, expect.stringContaining("read-only")]);
    } finally {
      await own.kill();
    }
  });

  it("is named at the start and in the answer", async () => {
    const broken = await Application.start({ FUMARIUM_EMPTY: "1" });
    await broken.kill();
    for (const end of ["-wal", "-shm"]) rmSync(join(broken.data, `fumarium.db${end}`), { force: true });
    writeFileSync(join(broken.data, "fumarium.db"), "no database".repeat(1000));
    const said = await broken.run();
    try {
      expect(said).toMatch(/fumarium\.db: the database is broken/);
      const r = await fetch(`${broken.url}/api/projects`);
      expect([r.status, await r.text()]).toEqual([503, expect.stringMatching(/fumarium\.db: the database is broken/)]);
    } finally {
      await broken.kill();
    }
  });
});

describe("what is kept", () => {
  it("every save is a revision, and survives a killed server", async () => {
    const id = await putProject(app);
    for (const [i, density] of [0.1, 0.2, 0.3].entries())
      expect(
        (await json("PUT", `/api/projects/${id}/document`, { revision: i + 1, document: { ...SMALL, air: [{ density }] } })).value.revision,
      ).toBe(i + 2);
    await app.kill();
    await app.run();
    expect((await stored(app, id)).revision).toBe(4);
    expect((await (await fetch(`${app.url}/api/projects/${id}/document`)).json()) as unknown[]).toHaveLength(4);
  });

  it("duplicates, renames, deletes and brings back", async () => {
    const id = await putProject(app);
    const copy = String((await send("POST", `/api/projects/${id}/duplicate`)).value.id);
    expect((await stored(app, copy)).document.title).toBe("Pillar in haze (copy)");
    await json("PATCH", `/api/projects/${copy}`, { title: "Other" });
    expect((await stored(app, copy)).document.title).toBe("Other");
    // a new name and the removal at once; control characters are no part of a name
    await json("PATCH", `/api/projects/${copy}`, { title: "Other\u0000\u0007 one", deleted: true });
    expect((await fetch(`${app.url}/api/projects/${copy}`)).status).toBe(404);
    expect((await json("PUT", `/api/projects/${copy}/document`, { revision: 2, document: SMALL })).status).toBe(404);
    await json("PATCH", `/api/projects/${copy}`, { deleted: false });
    expect((await stored(app, copy)).document.title).toBe("Other one");
    expect((await json("PATCH", `/api/projects/none`, { deleted: true })).status).toBe(404);
  });
});
