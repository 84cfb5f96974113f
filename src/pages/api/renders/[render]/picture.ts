import { createReadStream, existsSync } from "node:fs";
import { join } from "node:path";
import { Readable } from "node:stream";
import type { APIRoute } from "astro";
import { part, respond } from "#server/http";
import { PICTURE_FILE } from "#server/renders";
import { services } from "#server/services";
import { NotFound } from "#server/store";

/** The frame in hand as it grows, small; the address names when it is of. */
export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const path = join((await services()).renders.folderOf(part(params, "render")), PICTURE_FILE);
    if (!existsSync(path)) throw new NotFound("There is no picture yet.");
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { "content-type": "image/png", "cache-control": "no-store" },
    });
  });
