import type { APIRoute } from "astro";
import { z } from "zod";
import { parseDocument } from "#core/document/parse";
import { LIMITS } from "#core/document/schema";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

const body = z.strictObject({ revision: z.int().min(0), document: z.unknown() });

/** Saves a document made from a known revision. */
export const PUT: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { revision, document } = await readJson(request, body, LIMITS.text);
    return answer({ revision: await projects.save(params.id!, revision, parseDocument(document)) });
  });

/** The saved states. */
export const GET: APIRoute = ({ params }) => respond(async () => answer(await (await services()).projects.history(params.id!)));
