// Serves the built application on 127.0.0.1. Every response, static files included, is cross-origin isolated.
import { createServer } from "node:http";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
process.env.ASTRO_NODE_AUTOSTART = "disabled";
process.env.FUMARIUM_ROOT ??= root;
process.env.NODE_ENV ??= "production";
const { handler } = await import(join(root, "dist/server/entry.mjs"));

const port = Number(process.env.PORT ?? 4680);
const isolated = process.env.FUMARIUM_ISOLATION !== "off";
const METHODS = new Set(["GET", "HEAD", "POST", "PUT", "PATCH", "OPTIONS"]);
const server = createServer((request, response) => {
  if (isolated) {
    response.setHeader("Cross-Origin-Opener-Policy", "same-origin");
    response.setHeader("Cross-Origin-Embedder-Policy", "require-corp");
  }
  response.setHeader("Cross-Origin-Resource-Policy", "same-origin");
  response.setHeader("X-Content-Type-Options", "nosniff");
  response.setHeader("Referrer-Policy", "no-referrer");
  response.setHeader("X-Frame-Options", "DENY");
  // besides what a page says of its own scripts: both hold
  response.setHeader("Content-Security-Policy", "frame-ancestors 'none'; object-src 'none'; base-uri 'none'");
  // a name that merely resolves to this machine must not reach it (DNS rebinding)
  const host = (request.headers.host ?? "").replace(/:\d+$/, "");
  if (host !== "127.0.0.1" && host !== "localhost" && host !== "[::1]") {
    response.writeHead(421, { "content-type": "text/plain" });
    response.end("Open Fumarium by its own address, http://127.0.0.1.\n");
    return;
  }
  if (!METHODS.has(request.method ?? "")) {
    response.writeHead(405, { allow: [...METHODS].join(", "), "content-type": "text/plain" });
    response.end("This method is not known here.\n");
    return;
  }
  // pictures are never remade by the server
  if ((request.url ?? "").startsWith("/_image")) {
    response.writeHead(404, { "content-type": "text/plain" });
    response.end("There is no such page.\n");
    return;
  }
  handler(request, response);
});
server.on("error", (error) => {
  console.error(error.code === "EADDRINUSE" ? `Port ${port} is taken; choose another with PORT=… npm run demo` : String(error));
  process.exit(1);
});
server.listen(port, "127.0.0.1", async () => {
  // opens the database and seeds the demo before the address is printed
  const answer = await fetch(`http://127.0.0.1:${server.address().port}/api/projects`).catch(() => null);
  if (!answer?.ok) console.error((await answer?.json().catch(() => null))?.error ?? "The server does not answer itself.");
  console.log(`Fumarium is ready at http://127.0.0.1:${server.address().port}`);
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => process.exit(0));
