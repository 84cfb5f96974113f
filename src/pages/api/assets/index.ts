import type { APIRoute } from "astro";
import { z } from "zod";
import { InputError } from "#core/errors";
import { MODEL_LIMITS } from "#core/formats/limits";
import { answer, bodyOf, respond } from "#server/http";
import { services } from "#server/services";

/** Bytes that a kind of file begins with; null where it has no such mark, or several. */
const KINDS = {
  picture: { limit: 16_000_000, begins: { bytes: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a], what: "a PNG picture" } },
  film: { limit: 512_000_000, begins: { bytes: [0x76, 0x2f, 0x31, 0x01], what: "an OpenEXR file" } },
  model: { limit: MODEL_LIMITS.bytes, begins: { bytes: [0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0], what: "a binary glTF 2.0 file" } },
  image: { limit: 256_000_000, begins: null },
  profile: { limit: 2_000_000, begins: null },
  volume: { limit: 1_000_000_000, begins: { bytes: [0x20, 0x42, 0x44, 0x56], what: "an OpenVDB file" } },
} as const;

/**
 * Uploads what a project is made of to the store; it is streamed to disk within its limit. What is in a file is checked
 * by whoever reads it: here only that it is what it says.
 */
export const POST: APIRoute = ({ request, url }) =>
  respond(async () => {
    const { projects, blobs } = await services();
    const kind = z.enum(["picture", "film", "model", "image", "profile", "volume"]).safeParse(url.searchParams.get("kind"));
    if (!kind.success) throw new InputError(`upload: kind must be one of ${Object.keys(KINDS).join(", ")}`);
    const { limit, begins } = KINDS[kind.data];
    const stored = await blobs.put(bodyOf(request), limit, begins ? { bytes: [...begins.bytes], what: begins.what } : undefined);
    await projects.recordAsset(stored.sha256, kind.data, stored.bytes);
    return answer(stored, 201);
  });
