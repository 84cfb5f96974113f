import type { APIRoute } from "astro";
import { z } from "zod";
import { InputError } from "#core/errors";
import { tiffOf } from "#finals/tiff";
import { bodyWithin, respond } from "#server/http";

const asked = z.object({
  width: z.coerce.number().int().min(1).max(65_536),
  height: z.coerce.number().int().min(1).max(65_536),
  depth: z.enum(["8", "16"]),
  title: z.string().max(200),
});
/** Most bytes of a picture that is packed. */
const MOST = 1_600_000_000;

/** Packs red, green and blue of whole numbers (16 bits with the low byte first) as TIFF. */
export const POST: APIRoute = ({ request, url }) =>
  respond(async () => {
    const found = asked.safeParse(Object.fromEntries(url.searchParams));
    if (!found.success) throw new InputError("tiff: say width, height, depth (8 or 16) and title");
    const { width, height, depth, title } = found.data;
    const wanted = width * height * 3 * (depth === "16" ? 2 : 1);
    if (wanted > MOST) throw new InputError(`tiff: ${width} × ${height} pixels are too many`);
    const bytes = await bodyWithin(request, wanted);
    if (bytes.length !== wanted) throw new InputError(`tiff: ${bytes.length} bytes, where ${width} × ${height} pixels have ${wanted}`);
    const values = depth === "16" ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) : bytes;
    const tiff = await tiffOf(
      { width, height, bands: 3, depth: depth === "16" ? 16 : 8, values },
      { Title: title, Software: "Fumarium" },
      null,
    );
    return new Response(new Blob([tiff as Uint8Array<ArrayBuffer>]), { headers: { "content-type": "image/tiff" } });
  });
