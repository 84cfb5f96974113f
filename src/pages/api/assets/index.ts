import type { APIRoute } from "astro";
import { z } from "zod";
import { InputError } from "#core/document/parse";
import { answer, bodyOf, respond } from "#server/http";
import { services } from "#server/services";

const KINDS = {
  picture: { limit: 16_000_000, begins: { bytes: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a], what: "a PNG picture" } },
  film: { limit: 512_000_000, begins: { bytes: [0x76, 0x2f, 0x31, 0x01], what: "an OpenEXR file" } },
} as const;

/** Uploads a picture or a film (an OpenEXR file) to the store; it is streamed to disk within its limit. */
export const POST: APIRoute = ({ request, url }) =>
  respond(async () => {
    const { projects, blobs } = await services();
    const kind = z.enum(["picture", "film"]).safeParse(url.searchParams.get("kind"));
    if (!kind.success) throw new InputError("upload: kind must be picture or film");
    const { limit, begins } = KINDS[kind.data];
    const stored = await blobs.put(bodyOf(request), limit, { bytes: [...begins.bytes], what: begins.what });
    await projects.recordAsset(stored.sha256, kind.data, stored.bytes);
    return answer(stored, 201);
  });
