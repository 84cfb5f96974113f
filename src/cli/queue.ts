/** fumarium queue: lists and steers what a server renders in the background, and fetches its files. */
import { mkdir, stat } from "node:fs/promises";
import { basename, join } from "node:path";
import { API, call, type BodyOf, type Render, type Transport } from "#api/contract";
import { askedText, leftText, percentText, shareOf, STATE_WORDS } from "#api/render-words";
import { InputError } from "#core/errors";
import { writeWhole } from "#finals/output";

/** The server does not answer, or not as one of ours does. */
export class ServerError extends Error {}

type Change = BodyOf<typeof API.changeRender>;

/** What is done to one of the renders that are named, by its word; those that are moved keep their order. */
const CHANGES: Readonly<Record<string, (named: readonly Render[], i: number, all: readonly Render[]) => Change>> = {
  pause: () => ({ state: "paused" }),
  resume: () => ({ state: "waiting" }),
  end: () => ({ state: "ending" }),
  cancel: () => ({ state: "cancelled" }),
  remove: () => ({ deleted: true }),
  first: (named, i, all) => ({ place: Math.min(...all.map((r) => r.place)) - named.length + i }),
  last: (_, i, all) => ({ place: Math.max(...all.map((r) => r.place)) + 1 + i }),
  before: () => ({ priority: 1 }),
  turn: () => ({ priority: 0 }),
  after: () => ({ priority: -1 }),
};
export const QUEUE_ACTIONS = ["list", ...Object.keys(CHANGES), "files", "get"];

/** Where a server of this machine is where nothing is said. */
export const HOME_SERVER = "http://localhost:4680";

export interface QueueOptions {
  /** Address of the server. */
  server: string;
  action: string;
  /** Renders by the beginning of their number, or by the name of their files. */
  renders: readonly string[];
  /** Folder for files that are fetched. */
  output?: string;
  json: boolean;
}

/** Characters of a render's number that are told. */
const SHORT = 8;

/** @param print gets each line @throws InputError, ServerError */
export async function queueCommand(o: QueueOptions, print: (line: string) => void): Promise<void> {
  const { action } = o;
  if (!QUEUE_ACTIONS.includes(action)) throw new InputError(`queue ${action}: must be one of ${QUEUE_ACTIONS.join(", ")}`);
  if (action === "list" && o.renders.length > 0) throw new InputError("queue list: names no render");
  if (action !== "list" && o.renders.length === 0) throw new InputError(`queue ${action}: say which render, as the list numbers it`);
  if (action === "get" && o.output === undefined) throw new InputError("queue get: say where to with -o FOLDER");
  const server = serverOf(o.server);
  const transport = transportTo(server);
  const { renders, readOnly } = await call(transport, API.renders, {});
  if (action === "list") {
    for (const r of renders) print(o.json ? JSON.stringify(r) : lineOf(r));
    if (renders.length === 0 && !o.json) print("Nothing is rendered.");
    return;
  }
  // all are found before the first is touched
  const named = o.renders.map((name) => found(renders, name));
  const change = CHANGES[action];
  if (change && readOnly !== null) throw new ServerError(`${server.href}: ${readOnly}`);
  for (const [i, r] of named.entries()) {
    if (change) {
      await call(transport, API.changeRender, { render: r.id }, change(named, i, renders));
      print(`${r.id.slice(0, SHORT)}  ${r.order.name}: ${action}`);
      continue;
    }
    const { files } = await call(transport, API.renderFiles, { render: r.id });
    for (const f of files) {
      if (action === "get") await fetched(server, r, f.file, f.bytes, o.output ?? "");
      print(o.json ? JSON.stringify(f) : action === "get" ? join(o.output ?? "", f.file) : f.file);
    }
  }
}

/** @throws InputError */
export function serverOf(text: string): URL {
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || !/^https?:$/.test(url.protocol)) throw new InputError(`--server ${text}: must be an address such as ${HOME_SERVER}`);
  return url;
}

/** @throws InputError where a name fits none or several */
function found(renders: readonly Render[], name: string): Render {
  const fits = renders.filter((r) => r.order.name === name || (name.length >= 4 && r.id.startsWith(name.toLowerCase())));
  const [one, ...more] = fits;
  if (one && more.length === 0) return one;
  throw new InputError(
    fits.length === 0 ? `queue: there is no render ${name}` : `queue: ${name} fits ${fits.map((r) => r.id.slice(0, SHORT)).join(" and ")}`,
  );
}

/** A render in a line: number, state, how far, time left, name, what is asked. */
function lineOf(r: Render): string {
  const left = leftText(r);
  const far = r.state === "done" ? "" : percentText(shareOf(r));
  return [
    r.id.slice(0, SHORT),
    STATE_WORDS[r.state].padEnd(9),
    far.padStart(6),
    `${r.order.name}: ${askedText(r)}${left ? `, ${left}` : ""}${r.message ? ` (${r.message})` : ""}`,
  ].join("  ");
}

async function asked(server: URL, path: string, init: RequestInit): Promise<Response> {
  try {
    // one origin with the server: it takes changes from nowhere else
    return await fetch(new URL(path, server), { ...init, headers: { ...init.headers, origin: server.origin } });
  } catch {
    throw new ServerError(`${server.href}: no server answers there`);
  }
}

/** How a server is asked. */
export function transportTo(server: URL): Transport {
  return async (method, path, body) => {
    const response = await asked(server, path, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { "content-type": "application/json" } }),
    });
    const value = (await response.json().catch(() => null)) as { error?: string } | null;
    if (value === null) throw new ServerError(`${server.href}: does not answer as a server of renders does`);
    if (!response.ok) {
      const words = value.error ?? `answered ${response.status}`;
      if (response.status < 500) throw new InputError(words);
      throw new ServerError(`${server.href}: ${words}`);
    }
    return value;
  };
}

/** Fetches a file into a folder, unless it lies there. */
async function fetched(server: URL, { id }: Render, file: string, bytes: number, folder: string): Promise<void> {
  if (basename(file) !== file || file.startsWith(".")) throw new ServerError(`${server.href}: names a file that is none (${file})`);
  await mkdir(folder, { recursive: true }).catch(() => undefined);
  const target = join(folder, file);
  if ((await stat(target).catch(() => null))?.size === bytes) return;
  const response = await asked(server, `/api/renders/${encodeURIComponent(id)}/files/${encodeURIComponent(file)}`, {});
  if (!response.ok) throw new ServerError(`${server.href}: ${file}: answered ${response.status}`);
  const content = new Uint8Array(await response.arrayBuffer());
  if (content.length !== bytes) throw new ServerError(`${server.href}: ${file}: ${content.length} bytes came of ${bytes}`);
  await writeWhole(target, content);
}
