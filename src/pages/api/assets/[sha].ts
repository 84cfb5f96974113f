import type { APIRoute } from "astro";
import { NotFound } from "#server/projects";
import { respond } from "#server/http";
import { services } from "#server/services";

const TYPES = {
  model: "model/gltf-binary",
  picture: "image/png",
  film: "image/x-exr",
  image: "application/octet-stream",
  profile: "text/plain",
  volume: "application/octet-stream",
} as const;

/** An asset by its hash; it can never change, so it may be cached for good. */
export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { projects, blobs } = await services();
    const kind = await projects.assetKind(params.sha!);
    const found = kind && (await blobs.open(params.sha!));
    if (!kind || !found) throw new NotFound("There is no such asset.");
    return new Response(found.stream, {
      headers: {
        "content-type": TYPES[kind],
        "content-length": String(found.bytes),
        "cache-control": "private, max-age=31536000, immutable",
      },
    });
  });
