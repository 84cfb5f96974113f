import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond, part } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params }) =>
  respond(async () => answerTo(API.duplicateProject, { id: await (await services()).projects.duplicate(part(params, "id")) }, 201));
