import type { APIRoute } from "astro";
import { z } from "zod";
import { API, ASSET_KIND_NAMES, ASSET_KINDS } from "#api/contract";
import { InputError } from "#core/errors";
import { answerTo, bodyOf, respond } from "#server/http";
import { services } from "#server/services";

/**
 * Uploads what a project is made of to the store; it is streamed to disk within its limit. What is in a file is checked
 * by whoever reads it: here only that it is what it says.
 */
export const POST: APIRoute = ({ request, url }) =>
  respond(async () => {
    const { assets, blobs } = await services();
    const kind = z.enum(ASSET_KIND_NAMES).safeParse(url.searchParams.get("kind"));
    if (!kind.success) throw new InputError(`upload: kind must be one of ${ASSET_KIND_NAMES.join(", ")}`);
    const { limit, begins } = ASSET_KINDS[kind.data];
    const stored = await blobs.put(bodyOf(request), limit, begins ? { bytes: [...begins.bytes], what: begins.what } : undefined);
    await assets.record(stored.sha256, kind.data, stored.bytes);
    return answerTo(API.uploadAsset, stored, 201);
  });
