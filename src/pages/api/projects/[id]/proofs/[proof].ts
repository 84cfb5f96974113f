import type { APIRoute } from "astro";
import { z } from "zod";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

const change = z.strictObject({ note: z.string().max(2000).optional(), deleted: z.boolean().optional() });

/** Changes a proof's note, removes it, or brings it back. */
export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    await (await services()).projects.changeProof(params.id!, params.proof!, await readJson(request, change));
    return answer({ done: true });
  });
