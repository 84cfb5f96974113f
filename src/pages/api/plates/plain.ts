import type { APIRoute } from "astro";
import { InputError } from "#core/errors";
import { isTiff, withoutTiff } from "#finals/tiff-read";
import { bodyWithin, respond } from "#server/http";

/** Most bytes of a TIFF that is unpacked. */
const MOST = 800_000_000;

/** The picture of a TIFF as PNG, or as OpenEXR where its numbers have a point: what pages can read. */
export const POST: APIRoute = ({ request }) =>
  respond(async () => {
    const tiff = await bodyWithin(request, MOST);
    if (!isTiff(tiff)) throw new InputError("the file does not begin like a TIFF");
    const { bytes, ending } = await withoutTiff(tiff, "the TIFF");
    return new Response(new Blob([bytes as Uint8Array<ArrayBuffer>]), {
      headers: { "content-type": ending === ".png" ? "image/png" : "image/x-exr" },
    });
  });
