import type { APIRoute } from "astro";
import { ASSET_KINDS } from "#api/contract";
import { respond, part } from "#server/http";
import { services } from "#server/services";
import { NotFound } from "#server/store";

/** An asset by its hash; it can never change, so it may be cached for good. */
export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { assets, blobs } = await services();
    const kind = await assets.kind(part(params, "sha"));
    const found = kind && (await blobs.open(part(params, "sha")));
    if (!kind || !found) throw new NotFound("There is no such asset.");
    return new Response(found.stream, {
      headers: {
        "content-type": ASSET_KINDS[kind].type,
        "content-length": String(found.bytes),
        "cache-control": "private, max-age=31536000, immutable",
      },
    });
  });
