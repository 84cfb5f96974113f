import { createReadStream } from "node:fs";
import { stat } from "node:fs/promises";
import { Readable } from "node:stream";
import type { APIRoute } from "astro";
import { API, ASSET_KINDS } from "#api/contract";
import { InputError } from "#core/errors";
import { answerTo, part, respond } from "#server/http";
import { services } from "#server/services";
import { zipStream } from "#server/zip-stream";

/** The name under which all files are sent as one. */
const ALL = "all.zip";
const saved = (name: string): string => `attachment; filename*=UTF-8''${encodeURIComponent(name)}`;

/** A finished frame's file, or all of them. */
export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { renders } = await services();
    const [id, name] = [part(params, "render"), part(params, "file")];
    if (name === ALL) {
      const files = await renders.files(id);
      const paths = await Promise.all(files.map(async ({ file }) => ({ name: file, path: await renders.file(id, file) })));
      return new Response(zipStream(paths), { headers: { "content-type": "application/zip", "content-disposition": saved(ALL) } });
    }
    const path = await renders.file(id, name);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: {
        "content-type": name.endsWith(".png") ? "image/png" : "image/x-exr",
        "content-length": String((await stat(path)).size),
        "content-disposition": saved(name),
      },
    });
  });

/** Takes a finished OpenEXR file into the store: it stays there when its render is removed. */
export const POST: APIRoute = ({ params }) =>
  respond(async () => {
    const { renders, assets, blobs } = await services();
    const name = part(params, "file");
    if (!name.endsWith(".exr")) throw new InputError(`${name}: only OpenEXR files have layers that can be composed`);
    const path = await renders.file(part(params, "render"), name);
    const { limit, begins } = ASSET_KINDS.film;
    const stored = await blobs.put(createReadStream(path), limit, { bytes: [...begins.bytes], what: begins.what });
    await assets.record(stored.sha256, "film", stored.bytes);
    return answerTo(API.keepRendered, stored, 201);
  });
